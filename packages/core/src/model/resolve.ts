import type { Problem } from '../errors.js'
import { kindNamed } from '../fields/kinds.js'
import { readPattern } from '../paths/pattern.js'
import { didYouMean } from '../text/nearest.js'
import { kindOptions, modelError, type Located, type ModelSource } from './files.js'
import type { BlockType, ContentType, Field, Fielded, Model } from './model.js'
import type { FieldSource, TypeSource } from './schema.js'

/** Names that every entry or block answers to, so no field may have them. */
const reservedFieldNames = new Set([
  'id', 'entryId', 'path', 'paths', 'locale', 'type', 'block', 'handle', 'publishedAt', 'updatedAt', 'state', 'values',
  'and', 'or', 'not', 'any', 'in', 'true', 'false', 'null',
]) // prettier-ignore

const reservedTypeNames = new Set([
  'entry', 'query', 'mutation', 'subscription', 'pageInfo', 'date', 'dateTime', 'edition', 'localePath', 'string', 'int',
  'float', 'boolean', 'iD', 'at', 'text', 'number', 'choice', 'reference', 'schema', 'paths', 'changes', 'graphql',
]) // prettier-ignore

/**
 * Makes a model of its source: gives every type, block type and field its internal id, the one it had in `before`
 * when its name (or `was:`) was there, and checks everything that needs more than one place to be seen.
 * @throws WisteriaError `badModel` with every mistake, each at its file, line and column.
 */
export function resolveModel(source: ModelSource, before: Model, locales: readonly string[]): Model {
  const problems: Problem[] = []
  let nextId = before.nextId
  const mint = (prefix: string) => `${prefix}${nextId++}`

  const claimed = new Set<string>()
  /** What a thing was before this proposal: by `was:`, else by its name. */
  const predecessor = <T extends { id: string; name: string }>(
    olds: readonly T[],
    name: string,
    was?: string,
  ): T | undefined => {
    const found =
      olds.find((old) => old.name === name) ?? (was === undefined ? undefined : olds.find((old) => old.name === was))
    if (!found || claimed.has(found.id)) return undefined
    claimed.add(found.id)
    return found
  }

  const makeFields = (owner: Located<{ fields: Record<string, FieldSource> }>, old: Fielded | undefined): Field[] =>
    Object.entries(owner.source.fields).map(([name, field]) => {
      if (reservedFieldNames.has(name))
        problems.push(
          owner.problem(
            ['fields', name],
            'reservedName',
            `\`${name}\` is a word of Wisteria's own. Choose another name.`,
            true,
          ),
        )
      const kind = kindNamed(field.kind)
      const same = predecessor(old?.fields ?? [], name, field.was)
      if (field.count?.min !== undefined && field.count.max !== undefined && field.count.min > field.count.max)
        problems.push(owner.problem(['fields', name, 'count'], 'badOption', '`count`: min is more than max.'))
      if (field.count && !(field.many || kind.alwaysMany))
        problems.push(
          owner.problem(['fields', name, 'count'], 'badOption', '`count` belongs to a field with `many: true`.'),
        )
      if (field.many === false && kind.alwaysMany)
        problems.push(
          owner.problem(['fields', name, 'many'], 'badOption', `A field of kind ${kind.name} always holds many.`),
        )
      if (field.many && kind.name === 'slug')
        problems.push(
          owner.problem(['fields', name, 'many'], 'badOption', 'An entry has one slug: `many` does not go with it.'),
        )
      return {
        id: same?.id ?? mint('f'),
        name,
        kind: field.kind,
        label: field.label ?? labelFrom(name),
        ...(field.help ? { help: field.help } : {}),
        required: field.required ?? false,
        localized: field.localized ?? false,
        many: (field.many ?? false) || (kind.alwaysMany ?? false),
        ...(field.count ? { count: field.count } : {}),
        index: field.index ?? kind.indexed,
        options: kindOptions(field),
      }
    })

  for (const [what, owners] of [
    ['type', source.types],
    ['block type', source.blocks],
  ] as const) {
    const seen = new Set<string>()
    for (const owner of owners) {
      const name = nameOf(owner.source)
      if (seen.has(name)) problems.push(owner.problem([], 'twice', `There is another ${what} named \`${name}\`.`))
      seen.add(name)
    }
  }

  const blockTypes: BlockType[] = source.blocks.map((owner) => {
    const { block: name, label, help, was } = owner.source
    const old = predecessor(before.blockTypes, name, was)
    return {
      id: old?.id ?? mint('b'),
      name,
      label: label ?? labelFrom(name),
      ...(help ? { help } : {}),
      graphql: old?.graphql ?? { type: pascal(name) + 'Block' },
      fields: makeFields(owner, old),
    }
  })

  const types: ContentType[] = source.types.map((owner) => {
    const { type: name, label, help, plural, was, path, parent, namedBy } = owner.source
    if (reservedTypeNames.has(name))
      problems.push(
        owner.problem(['type'], 'reservedName', `\`${name}\` is a word of Wisteria's own. Choose another name.`),
      )
    const old = predecessor(before.types, name, was)
    const fields = makeFields(owner, old)
    const naming = namedBy ?? fields.find((field) => field.kind === 'text' && !field.many)?.name
    if (naming === undefined)
      problems.push(
        owner.problem(
          ['fields'],
          'noName',
          'A type needs a field of kind text to name its entries by: `namedBy: title`.',
        ),
      )
    return {
      id: old?.id ?? mint('t'),
      name,
      label: label ?? labelFrom(name),
      ...(help ? { help } : {}),
      cardinality: 'many',
      namedBy: naming ?? '',
      ...(path ? { path } : {}),
      ...(parent ? { parent } : {}),
      graphql: old?.graphql ?? { type: pascal(name), one: name, many: plural ?? pluralOf(name) },
      fields,
    }
  })

  const model: Model = { version: before.version + 1, nextId, types, blockTypes }
  source.types.forEach((owner, index) => checkType(owner, types[index]!, locales, problems))
  for (const [index, owner] of source.types.entries()) checkFields(owner, types[index]!, model, problems)
  for (const [index, owner] of source.blocks.entries()) checkFields(owner, blockTypes[index]!, model, problems)
  checkGraphqlNames(source, model, problems)
  if (problems.length > 0) throw modelError(problems)
  return model
}

function checkType(
  owner: Located<TypeSource>,
  type: ContentType,
  locales: readonly string[],
  problems: Problem[],
): void {
  const naming = type.fields.find((field) => field.name === type.namedBy)
  if (type.namedBy !== '' && (naming?.kind !== 'text' || naming.many)) {
    const texts = type.fields.filter((field) => field.kind === 'text' && !field.many).map((field) => field.name)
    problems.push(
      owner.problem(
        ['namedBy'],
        'badOption',
        `\`namedBy\` must name a field of kind text that holds one value.${didYouMean(type.namedBy, texts)}`,
      ),
    )
  }
  if (type.parent !== undefined) {
    const parent = type.fields.find((field) => field.name === type.parent)
    const accepts = parent?.options['accepts'] as string[] | undefined
    if (
      parent?.kind !== 'entry' ||
      parent.many ||
      parent.localized ||
      accepts?.length !== 1 ||
      accepts[0] !== type.name
    )
      problems.push(
        owner.problem(
          ['parent'],
          'badOption',
          `\`parent\` must name a field of kind entry that holds one \`${type.name}\` for all locales.`,
        ),
      )
  }
  for (const [locale, pattern] of Object.entries(type.path ?? {})) {
    if (!locales.includes(locale))
      problems.push(
        owner.problem(
          ['path', locale],
          'unknownLocale',
          `\`${locale}\` is not a locale of this site (${locales.join(', ')}).${didYouMean(locale, locales)}`,
          true,
        ),
      )
    const pieces = readPattern(pattern)
    if (typeof pieces === 'string') {
      problems.push(owner.problem(['path', locale], 'badPattern', `The path pattern ${pieces}.`))
      continue
    }
    if (!pieces.some((piece) => piece.is === 'field'))
      problems.push(
        owner.problem(
          ['path', locale],
          'badPattern',
          'The path pattern needs a placeholder such as `{slug}`, or every entry would have the same path.',
        ),
      )
    for (const piece of pieces) {
      if (piece.is === 'parent' && type.parent === undefined)
        problems.push(
          owner.problem(
            ['path', locale],
            'badPattern',
            '`{parent}` needs `parent:` to name the field that holds the parent.',
          ),
        )
      if (piece.is !== 'field') continue
      const slugs = type.fields.filter((field) => field.kind === 'slug').map((field) => field.name)
      if (!slugs.includes(piece.name))
        problems.push(
          owner.problem(
            ['path', locale],
            'badPattern',
            `\`{${piece.name}}\` is not a field of kind slug of this type.${didYouMean(piece.name, slugs)}`,
          ),
        )
    }
  }
}

function checkFields(
  owner: Located<{ fields: Record<string, FieldSource> }>,
  type: Fielded,
  model: Model,
  problems: Problem[],
): void {
  for (const field of type.fields) {
    const shape = kindNamed(field.kind).shape(field.options)
    const at = ['fields', field.name]
    if (shape.is === 'reference' || shape.is === 'blocks') {
      const [known, noun, wanted] =
        shape.is === 'reference' ? [model.types, 'type', shape.to] : [model.blockTypes, 'block type', shape.of]
      const names: string[] = known.map((one) => one.name)
      wanted.forEach((name, index) => {
        if (!names.includes(name))
          problems.push(
            owner.problem(
              [...at, 'accepts', index],
              'unknownType',
              `\`${name}\` is not a ${noun} of this model.${didYouMean(name, names)}`,
            ),
          )
      })
      if (shape.is === 'blocks' && field.required === false && field.count?.min)
        problems.push(owner.problem([...at, 'count'], 'badOption', '`count.min` goes with `required: true`.'))
    }
    const from = field.kind === 'slug' ? (field.options['from'] as string | undefined) : undefined
    const texts = type.fields.filter((one) => one.kind === 'text' && !one.many).map((one) => one.name)
    if (from !== undefined && !texts.includes(from))
      problems.push(
        owner.problem(
          [...at, 'from'],
          'badOption',
          `\`from\` must name a field of kind text.${didYouMean(from, texts)}`,
        ),
      )
  }
}

function checkGraphqlNames(source: ModelSource, model: Model, problems: Problem[]): void {
  const taken = new Map<string, string>()
  const take = (name: string, by: string, owner: Located<unknown>) => {
    const other = taken.get(name)
    if (other !== undefined)
      problems.push(
        owner.problem(
          [],
          'nameClash',
          `\`${by}\` and \`${other}\` would both be \`${name}\` in GraphQL. Rename one, or give it another \`plural\`.`,
        ),
      )
    else taken.set(name, by)
  }
  model.types.forEach((type, index) => {
    const owner = source.types[index]!
    for (const name of [
      type.graphql.type,
      type.graphql.type + 'Connection',
      type.graphql.type + 'Filter',
      type.graphql.one,
      type.graphql.many,
    ])
      take(name, type.name, owner)
  })
  model.blockTypes.forEach((block, index) => take(block.graphql.type, block.name, source.blocks[index]!))
}

const nameOf = (source: { type: string } | { block: string }): string => ('type' in source ? source.type : source.block)
const pascal = (name: string): string => name.charAt(0).toUpperCase() + name.slice(1)

/** `openingHours` to "Opening hours". */
function labelFrom(name: string): string {
  const words = name.replace(/([a-z0-9])([A-Z])/g, '$1 $2').toLowerCase()
  return pascal(words)
}

/** The regular English plural; a type whose name has another says so with `plural:`. */
function pluralOf(name: string): string {
  if (/[^aeiou]y$/.test(name)) return name.slice(0, -1) + 'ies'
  if (/(s|x|z|ch|sh)$/.test(name)) return name + 'es'
  return name + 's'
}
