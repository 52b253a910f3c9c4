import type { Problem } from '../../base/errors.js'
import type { Located, ModelSource } from '../files.js'
import type { BlockType, ContentType, Field, FieldOwner, Model } from '../../model/model.js'
import type { BlockSource, FieldSource, SectionSource, TypeSource } from '../schema.js'

/** A proposed model with the source that it was made of. */
export interface Proposed {
  readonly source: ModelSource
  readonly model: Model
  /** The locales of the site, its default first among equals, and its time zone. */
  readonly site: ModelSite
}

/** The context of a model's checks. */
export interface ModelSite {
  readonly locales: readonly string[]
  readonly timeZone: string
}

/** A rule that a whole model must keep; it reports each place where it does not. */
export type ModelCheck = (proposed: Proposed, tell: (problem: Problem) => void) => void

type Step = string | number

/** A type, a block type or a group, with its place in the source. */
export interface Owner {
  readonly made: FieldOwner
  readonly located: Located<unknown>
  /** Keys of the file down to the owner of the fields: empty, or those of a group. */
  readonly at: readonly Step[]
  readonly fields: Readonly<Record<string, FieldSource>>
  readonly sections: Readonly<Record<string, SectionSource>>
}

/** Every owner of fields in the model, groups included. */
export function eachOwner({ source, model }: Proposed, visit: (owner: Owner) => void): void {
  const into = (owner: Owner): void => {
    visit(owner)
    for (const field of owner.made.fields) {
      const fields = owner.fields[field.name]?.['fields'] as Record<string, FieldSource> | undefined
      if (field.kind === 'group' && fields)
        into({
          made: field as Field & FieldOwner,
          located: owner.located,
          at: [...owner.at, 'fields', field.name],
          fields,
          sections: {},
        })
    }
  }
  const all = <S extends TypeSource | BlockSource>(
    located: readonly Located<S>[],
    owners: readonly (ContentType | BlockType)[],
  ) =>
    located.forEach((source, index) =>
      into({
        made: owners[index]!,
        located: source,
        at: [],
        fields: source.source.fields,
        sections: source.source.sections ?? {},
      }),
    )
  all(source.types, model.types)
  all(source.blocks, model.blockTypes)
}

/** Every field of every owner, with its place. */
export function eachSourceField(
  proposed: Proposed,
  visit: (field: Field, owner: Owner, at: readonly Step[]) => void,
): void {
  eachOwner(proposed, (owner) => {
    for (const field of owner.made.fields) visit(field, owner, [...owner.at, 'fields', field.name])
  })
}
