import type { Problem } from '../base/errors.js'
import { kindNamed } from '../fields/kinds.js'
import { graphqlNames } from './checks/graphqlNames.js'
import { naming } from './checks/naming.js'
import { nesting } from './checks/nesting.js'
import { options } from './checks/options.js'
import { places } from './checks/places.js'
import { rules } from './checks/rules.js'
import type { ModelCheck, ModelSite } from './checks/check.js'
import { kindOptions, modelError, type Located, type ModelSource } from './files.js'
import { conversionBetween } from './reshaping.js'
import type { BlockType, ContentType, Conversion, Field, FieldOwner, Model, Section } from '../model/model.js'
import type { BlockSource, FieldSource, SectionSource, TypeSource } from './schema.js'

/** Names that every entry or block answers to, so no field may have them. */
const reservedFieldNames = new Set([
  'id', 'entryId', 'path', 'paths', 'locale', 'contentLocale', 'type', 'block', 'handle', 'publishedAt', 'updatedAt', 'state', 'values',
  'and', 'or', 'not', 'any', 'in', 'true', 'false', 'null',
]) // prettier-ignore

const reservedTypeNames = new Set([
  'entry', 'query', 'mutation', 'subscription', 'pageInfo', 'date', 'dateTime', 'edition', 'localePath', 'string', 'int',
  'float', 'boolean', 'iD', 'at', 'text', 'number', 'choice', 'reference', 'schema', 'paths', 'changes', 'graphql',
  'asset', 'richText', 'location', 'metadata', 'zonedTime', 'json', 'moment', 'presence', 'span',
]) // prettier-ignore

/** Every rule of a whole model. */
const checks: readonly ModelCheck[] = [naming, places, options, rules, nesting, graphqlNames]

/** Something of an older model that may go on under another name. */
interface Known {
  readonly id: string
  readonly name: string
  readonly aliases?: readonly string[]
}

/**
 * Makes a model of its source: gives every type, block type and field its internal id, the one it had in `before`
 * when its name (or `was:`) was there, and checks everything that needs more than one place to be seen.
 * @param past every model that has been in force, oldest first, where a file says that its names are of one of them.
 * @throws WisteriaError `badModel` with every mistake, each at its file, line and column.
 */
export function resolveModel(
  source: ModelSource,
  before: Model,
  site: ModelSite & { readonly defaultLocale: string },
  past: readonly Model[] = [],
): Model {
  const problems: Problem[] = []
  const conversions: Conversion[] = [...(before.conversions ?? [])]
  let nextId = before.nextId
  const mint = (prefix: string) => `${prefix}${nextId++}`
  const version = before.version + 1

  const claimed = new Set<string>()
  /** What a thing was before this proposal: by its name, else by `was:`. */
  const predecessor = <T extends Known>(
    olds: readonly T[],
    name: string,
    was: readonly string[],
    tell: (message: string) => void,
    then?: { readonly olds: readonly T[]; readonly last: (id: string) => T | undefined },
  ): T | undefined => {
    // What had the name in the model that the file speaks of: as it is now, or as it last was.
    const meant = then?.olds.find((old) => old.name === name)
    if (meant && !claimed.has(meant.id) && !olds.some((old) => was.includes(old.name) && old.id !== meant.id)) {
      claimed.add(meant.id)
      return olds.find((old) => old.id === meant.id) ?? then!.last(meant.id) ?? meant
    }
    const own = olds.find((old) => old.name === name)
    const renamed = olds.find((old) => was.includes(old.name))
    if (own && renamed && own !== renamed)
      tell(`\`${name}\` says that it was \`${renamed.name}\`, and \`${name}\` is there already: it cannot be both.`)
    const found = own ?? renamed ?? olds.find((old) => was.some((one) => old.aliases?.includes(one)))
    if (!found || claimed.has(found.id)) return undefined
    claimed.add(found.id)
    return found
  }

  const makeFields = (
    located: Located<unknown>,
    sources: Readonly<Record<string, FieldSource>>,
    old: FieldOwner | undefined,
    around: readonly string[],
    then: FieldOwner | undefined,
  ): Field[] => {
    const taken = new Map<string, string>()
    for (const [name, { was }] of Object.entries(sources)) for (const one of listOf(was)) taken.set(one, name)
    return Object.entries(sources).map(([name, field]) => {
      const at = [...around, 'fields', name]
      if (reservedFieldNames.has(name))
        problems.push(
          located.problem(at, 'reservedName', `\`${name}\` is a word of Wisteria's own. Choose another name.`, true),
        )
      const holder = taken.get(name)
      if (holder !== undefined && holder !== name)
        problems.push(
          located.problem(
            at,
            'nameTaken',
            `\`${name}\` is what \`${holder}\` was called, and it still answers to that. Take \`was: ${name}\` away from it first, or choose another name.`,
            true,
          ),
        )
      const was = listOf(field.was).filter((one) => one !== name)
      const same = predecessor(
        old?.fields ?? [],
        name,
        was,
        (message) => problems.push(located.problem([...at, 'was'], 'badRename', message)),
        then && { olds: then.fields, last: (id) => lastField(past, id) },
      )
      const meant = then?.fields.find((one) => one.name === name)
      const kind = kindNamed(field.kind)
      const many = field.many ?? false
      const made: Field = {
        id: same?.id ?? mint('f'),
        name,
        ...(was.length > 0 ? { aliases: was } : {}),
        kind: field.kind,
        label: field.label ?? labelFrom(name),
        ...present({
          help: field.help,
          example: field.example,
          section: field.section,
          showIf: field.showIf,
          requireIf: field.requireIf,
          lockIf: field.lockIf,
        }),
        required: field.required ?? false,
        localized: field.localized ?? false,
        many,
        ...(field.count ? { count: field.count } : {}),
        ...(field.unique ? { unique: true } : {}),
        index: field.unique === true || (field.index ?? kind.indexed),
        ...(field.default === undefined ? {} : { default: defaultOf(field.default) }),
        ...(field.kind === 'group'
          ? {
              fields: makeFields(
                located,
                field['fields'] as Record<string, FieldSource>,
                same?.fields ? (same as Field & FieldOwner) : undefined,
                at,
                meant?.fields ? (meant as Field & FieldOwner) : undefined,
              ),
            }
          : {}),
        options: kindOptions(field),
      }
      const conversion = same && conversionBetween(same, made)
      if (conversion)
        conversions.push({
          version,
          field: made.id,
          ...conversion,
          locale: site.defaultLocale,
          timeZone: site.timeZone,
        })
      return made
    })
  }

  refuseTwice(source, problems)

  /** The model whose names a file speaks, when it says so. */
  const modelThen = (located: Located<TypeSource | BlockSource>): Model | undefined => {
    const { namesOf } = located.source
    if (namesOf === undefined || past.length === 0) return undefined
    const found = past.find((one) => one.version === namesOf)
    if (!found)
      problems.push(
        located.problem(
          ['namesOf'],
          'unknownVersion',
          `There is no version ${namesOf} of the model; the newest is ${before.version}.`,
        ),
      )
    return found
  }

  const blockTypes: BlockType[] = source.blocks.map((located) => {
    const { block: name, was, fields, sections, ...rest } = located.source
    const aliases = listOf(was)
    const then = modelThen(located)
    const old = predecessor(
      before.blockTypes,
      name,
      aliases,
      (message) => problems.push(located.problem(['was'], 'badRename', message)),
      then && { olds: then.blockTypes, last: (id) => lastOf(past, (one) => one.blockTypes, id) },
    )
    return {
      id: old?.id ?? mint('b'),
      name,
      ...(aliases.length > 0 ? { aliases } : {}),
      label: rest.label ?? labelFrom(name),
      ...present({ help: rest.help, icon: rest.icon }),
      ...(sections ? { sections: makeSections(sections) } : {}),
      graphql: old?.graphql ?? { type: pascal(name) + 'Block' },
      fields: makeFields(
        located,
        fields,
        old,
        [],
        then?.blockTypes.find((one) => one.name === name),
      ),
    }
  })

  const types: ContentType[] = source.types.map((located) => {
    const {
      type: name,
      was,
      fields: written,
      sections,
      plural,
      path,
      parent,
      order,
      menu,
      root,
      drafts,
      namedBy,
      cardinality,
      ...rest
    } = located.source
    if (reservedTypeNames.has(name))
      problems.push(
        located.problem(['type'], 'reservedName', `\`${name}\` is a word of Wisteria's own. Choose another name.`),
      )
    const aliases = listOf(was)
    const then = modelThen(located)
    const old = predecessor(
      before.types,
      name,
      aliases,
      (message) => problems.push(located.problem(['was'], 'badRename', message)),
      then && { olds: then.types, last: (id) => lastOf(past, (one) => one.types, id) },
    )
    const thenType = then?.types.find((one) => one.name === name)
    const fields = makeFields(located, written, old, [], thenType)
    return {
      id: old?.id ?? mint('t'),
      name,
      ...(aliases.length > 0 ? { aliases } : {}),
      label: rest.label ?? labelFrom(name),
      ...present({ help: rest.help, icon: rest.icon, path, parent, order, menu }),
      ...(root === false ? { root } : {}),
      ...(drafts === false ? { drafts } : {}),
      cardinality: cardinality ?? 'many',
      namedBy: namedBy ?? fields.find((field) => field.kind === 'text' && !field.many)?.name ?? '',
      ...(sections ? { sections: makeSections(sections) } : {}),
      graphql: old?.graphql ?? { type: pascal(name), one: name, many: plural ?? pluralOf(name) },
      fields,
    }
  })

  const model: Model = { version, nextId, types, blockTypes, ...(conversions.length > 0 ? { conversions } : {}) }
  for (const check of checks) check({ source, model, site }, (problem) => problems.push(problem))
  if (problems.length > 0) throw modelError(problems)
  return model
}

function refuseTwice(source: ModelSource, problems: Problem[]): void {
  for (const [what, owners] of [
    ['type', source.types],
    ['block type', source.blocks],
  ] as const) {
    const names = new Set<string>()
    for (const owner of owners) {
      const name = 'type' in owner.source ? owner.source.type : owner.source.block
      if (names.has(name)) problems.push(owner.problem([], 'twice', `There is another ${what} named \`${name}\`.`))
      names.add(name)
    }
    for (const owner of owners)
      for (const was of listOf(owner.source.was))
        if (names.has(was))
          problems.push(
            owner.problem(
              ['was'],
              'nameTaken',
              `There is a ${what} named \`${was}\`, so this one cannot answer to that name too.`,
            ),
          )
  }
}

const makeSections = (sections: Readonly<Record<string, SectionSource>>): Section[] =>
  Object.entries(sections).map(([name, { label, help, collapsed, showIf, requireIf, lockIf }]) => ({
    name,
    label: label ?? labelFrom(name),
    collapsed: collapsed ?? false,
    ...present({ help, showIf, requireIf, lockIf }),
  }))

const defaultOf = (written: unknown): NonNullable<Field['default']> => {
  const keys = typeof written === 'object' && written !== null ? Object.keys(written) : []
  return keys.length === 1 && keys[0] === 'expression'
    ? { expression: String((written as { expression: unknown }).expression) }
    : { value: written }
}

/** An owner as it last was, whether it still is or not. */
const lastOf = <T extends Known>(past: readonly Model[], ownersOf: (model: Model) => readonly T[], id: string) =>
  past
    .toReversed()
    .map((model) => ownersOf(model).find((one) => one.id === id))
    .find((one) => one !== undefined)

/** A field as it last was, wherever it stood. */
function lastField(past: readonly Model[], id: string): Field | undefined {
  const within = (fields: readonly Field[]): Field | undefined => {
    for (const field of fields) {
      const found = field.id === id ? field : within(field.fields ?? [])
      if (found) return found
    }
    return undefined
  }
  for (const model of past.toReversed())
    for (const owner of [...model.types, ...model.blockTypes]) {
      const found = within(owner.fields)
      if (found) return found
    }
  return undefined
}

/** The members that are there: a model says nothing of what was left out. */
const present = <T extends object>(members: T): { [K in keyof T]?: NonNullable<T[K]> } =>
  Object.fromEntries(Object.entries(members).filter(([, value]) => value !== undefined)) as never

export const listOf = (was: string | readonly string[] | undefined): string[] =>
  was === undefined ? [] : typeof was === 'string' ? [was] : [...was]

const pascal = (name: string): string => name.charAt(0).toUpperCase() + name.slice(1)

/** `openingHours` to "Opening hours". */
export function labelFrom(name: string): string {
  const words = name.replace(/([a-z0-9])([A-Z])/g, '$1 $2').toLowerCase()
  return pascal(words)
}

/** The regular English plural; a type whose name has another says so with `plural:`. */
export function pluralOf(name: string): string {
  if (/[^aeiou]y$/.test(name)) return name.slice(0, -1) + 'ies'
  if (/(s|x|z|ch|sh)$/.test(name)) return name + 'es'
  return name + 's'
}
