import { z } from 'zod'
import { WisteriaError, type Problem } from '../base/errors.js'
import { localeTags, type SiteSettings } from '../locales/settings.js'
import {
  fieldNamed,
  fieldsAt,
  isList,
  kindOf,
  shapeOf,
  typeNamed,
  type ContentType,
  type Field,
  type Model,
} from '../model/model.js'
import { didYouMean } from '../text/nearest.js'

/** The place that the id of an entry is read from. */
export const idPlace = 'entry.id'

/** Where a column of a table goes. */
export interface ImportColumn {
  /** The head of the column. */
  readonly from: string
  /** The field: `price`, `title:nl`, `contact.phone`, or `entry.id`. */
  readonly to: string
  /** Between several values in a cell; a line break, when left out. */
  readonly separator?: string | undefined
  /** Of a reference: the field by which entries are found; their ids, when left out. */
  readonly by?: string | undefined
  /** Of a reference with `by`: whether entries that are not found are created. */
  readonly create?: boolean | undefined
}

/** How the rows of a table become entries. */
export interface ImportMapping {
  readonly type: string
  readonly columns: readonly ImportColumn[]
  /** The place by which an entry is found again: that of a column. */
  readonly key?: string | undefined
  /** Whether rows create entries, update those that the key finds, or both. */
  readonly mode: 'both' | 'create' | 'update'
  /** The order of `4-5-2031`. */
  readonly dates: 'dmy' | 'mdy' | 'ymd'
  /** The decimal sign of numbers. */
  readonly decimal: ',' | '.'
  /** Whether an empty cell clears the value of an entry that is updated. */
  readonly emptyClears: boolean
}

const text = (max: number) => z.string().min(1, 'must not be empty').max(max)

const column = z.strictObject({
  from: text(500).describe('The head of the column.'),
  to: text(300).describe('The field: `price`, `title:nl`, `contact.phone`, or `entry.id`.'),
  separator: text(5).optional().describe('Between several values in a cell; a line break, when left out.'),
  by: text(64).optional().describe('Of a reference: the field by which entries are found; their ids, when left out.'),
  create: z.boolean().optional().describe('Of a reference with `by`: whether entries that are not found are created.'),
})

/** The form of a mapping. */
export const importMapping = z.strictObject({
  type: text(64),
  columns: z.array(column).max(500),
  key: text(300).optional().describe('The place by which an entry is found again: that of a column.'),
  mode: z
    .enum(['both', 'create', 'update'])
    .default('both')
    .describe('Whether rows create entries, update those that the key finds, or both.'),
  dates: z.enum(['dmy', 'mdy', 'ymd']).default('dmy').describe('The order of `4-5-2031`; 2031-05-04 is always read.'),
  decimal: z.enum([',', '.']).default('.').describe('The decimal sign of numbers.'),
  emptyClears: z
    .boolean()
    .default(false)
    .describe('Whether an empty cell clears the value of an entry that is updated.'),
}) satisfies z.ZodType<ImportMapping>

/** A column whose place is in the model. */
export interface ReadyColumn extends ImportColumn {
  /** Its number in the table, from 0. */
  readonly index: number
  /** From the type down to the field; empty for the id. */
  readonly fields: readonly Field[]
  /** A member of the value, as in `meta.title`. */
  readonly member?: string | undefined
  /** Where the value belongs to one. */
  readonly locale?: string | undefined
  /** Of a reference: the types that it may lead to, and their fields that find entries. */
  readonly targets?: readonly { readonly type: ContentType; readonly by: Field | undefined }[] | undefined
}

/** A mapping that fits the model and the table. */
export interface ReadyMapping extends Omit<ImportMapping, 'columns' | 'key'> {
  readonly contentType: ContentType
  readonly columns: readonly ReadyColumn[]
  readonly key?: ReadyColumn | undefined
  /** That dates without a time zone are in. */
  readonly timeZone: string
  readonly defaultLocale: string
}

/** The last field of a place. */
export const fieldOf = (column: ReadyColumn): Field | undefined => column.fields.at(-1)

/**
 * Finds the places of a mapping in the model.
 * @param heads of the table.
 * @throws WisteriaError `invalid` with every problem, each with a pointer into the mapping.
 */
export function readMapping(
  mapping: ImportMapping,
  heads: readonly string[],
  model: Model,
  settings: SiteSettings,
): ReadyMapping {
  const problems: Problem[] = []
  const tell = (pointer: string, message: string): void => void problems.push({ code: 'badMapping', pointer, message })
  const type = typeNamed(model, mapping.type)
  if (!type) {
    const names = model.types.map(({ name }) => name)
    throw invalid([
      {
        code: 'unknownType',
        pointer: '/type',
        message: `\`${mapping.type}\` is not a type of ${settings.label}.${didYouMean(mapping.type, names)}`,
      },
    ])
  }
  if (type.cardinality === 'one')
    tell('/type', `${type.label} has exactly one entry: change that, and import into another type.`)
  const columns = mapping.columns.flatMap((column, index) => {
    const ready = readColumn(column, heads, type, model, settings)
    if (typeof ready !== 'string') return [ready]
    tell(`/columns/${index}/${heads.includes(column.from) ? 'to' : 'from'}`, ready)
    return []
  })
  for (const [index, { to }] of mapping.columns.entries())
    if (mapping.columns.findIndex((other) => other.to === to) < index)
      tell(`/columns/${index}/to`, `Two columns go to \`${to}\`.`)
  if (problems.length === 0 && columns.length === 0) tell('/columns', 'No column goes into a field.')
  const key = mapping.key === undefined ? undefined : columns.find(({ to }) => to === mapping.key)
  const fault = mapping.key === undefined || problems.length > 0 ? undefined : keyFault(mapping.key, key)
  if (fault) tell('/key', fault)
  if (mapping.key === undefined && mapping.mode === 'update')
    tell('/key', 'Without a key no entry is found that could be updated. Name one.')
  if (problems.length > 0) throw invalid(problems)
  const { timeZone, defaultLocale } = settings
  return { ...mapping, contentType: type, columns, key, timeZone, defaultLocale }
}

/** Why a place is no key. */
function keyFault(name: string, key: ReadyColumn | undefined): string | undefined {
  if (!key) return `\`${name}\` is the key, and no column goes there.`
  return canBeKey(key)
    ? undefined
    : `${fieldOf(key)!.label} cannot be the key: it needs one text, number, date or choice.`
}

/** Whether entries can be found again by a place: the id, or one comparable value. */
export const canBeKey = ({ fields, member }: Pick<ReadyColumn, 'fields' | 'member'>): boolean => {
  const field = fields.at(-1)
  return field === undefined || (findsEntries(field) && !fields.some(isList) && member === undefined)
}

/** Whether entries can be found by a field: it has one value that can be compared. */
export function findsEntries(field: Field): boolean {
  const { comparison } = kindOf(field)
  return !isList(field) && comparison !== undefined && comparison !== 'presence' && comparison !== 'reference'
}

/** Whether a cell can hold several values of a field, parted by a sign. */
export const holdsParts = (field: Field): boolean => isList(field) && !['blocks', 'group'].includes(shapeOf(field).is)

/** The types whose entries can be imported. */
export const importableTypes = ({ types }: Model): readonly ContentType[] =>
  types.filter(({ cardinality }) => cardinality !== 'one')

/** @returns the column, or why it has no place. */
export function readColumn(
  column: ImportColumn,
  heads: readonly string[],
  type: ContentType,
  model: Model,
  settings: SiteSettings,
): ReadyColumn | string {
  const index = heads.indexOf(column.from)
  if (index < 0) return `The table has no column \`${column.from.slice(0, 80)}\`.${didYouMean(column.from, heads)}`
  if (column.to === idPlace) return { ...column, index, fields: [] }
  const [path = '', locale, ...more] = column.to.split(':')
  const wrong = (reason: string): string => `\`${column.to}\` ${reason}`
  if (more.length > 0) return wrong('has more than one locale.')
  const place = fieldsOrMember(type, path)
  if (!place) {
    const names = [...type.fields.map(({ name }) => name), idPlace]
    return wrong(`is not a field of ${type.label}.${didYouMean(path.split('.')[0]!, names)}`)
  }
  const { fields, member } = place
  const field = fields.at(-1)!
  const inList = fields.slice(0, -1).find((each) => each.many)
  if (inList)
    return wrong(`is inside ${inList.label}, which is a list: map that as a whole, with its elements as JSON.`)
  if (kindOf(field).name === 'listing') return wrong('fills itself.')
  const isLocalized = fields.some((each) => each.localized)
  if (locale !== undefined && !isLocalized) return wrong(`has a locale, and ${field.label} is the same in all.`)
  const tags = localeTags(settings)
  if (locale !== undefined && !tags.includes(locale))
    return wrong(`is in the locale \`${locale}\`, which the site does not have. It has ${tags.join(', ')}.`)
  const shape = shapeOf(field)
  if (column.by !== undefined && shape.is !== 'reference')
    return wrong('is no reference, so it cannot be found `by` a field.')
  const targets =
    shape.is === 'reference'
      ? shape.to.flatMap((name) => {
          const target = typeNamed(model, name)
          return target
            ? [{ type: target, by: column.by === undefined ? undefined : fieldNamed(target, column.by) }]
            : []
        })
      : undefined
  if (column.by !== undefined && !targets?.some(({ by }) => by && findsEntries(by)))
    return wrong(
      `cannot be found by \`${column.by}\`: ${targets?.map(({ type: { label } }) => label).join(', ') ?? ''} ${targets?.length === 1 ? 'has' : 'have'} no such field with one comparable value.`,
    )
  return {
    ...column,
    index,
    fields,
    member,
    // Without one, a column is in the default locale; a value from JSON may bring its own.
    locale: isLocalized ? locale : undefined,
    targets,
  }
}

/** The fields of a path; its last step may be a member of the value, as in `meta.title`. */
function fieldsOrMember(
  type: ContentType,
  path: string,
): { readonly fields: readonly Field[]; readonly member?: string } | undefined {
  const fields = fieldsAt(type, path)
  if (fields) return { fields }
  const dot = path.lastIndexOf('.')
  const above = dot < 0 ? undefined : fieldsAt(type, path.slice(0, dot))
  const field = above?.at(-1)
  if (!above || !field || isList(field)) return undefined
  const shape = shapeOf(field)
  const member = path.slice(dot + 1)
  return shape.is === 'object' && Object.hasOwn(shape.members, member) ? { fields: above, member } : undefined
}

const invalid = (problems: readonly Problem[]): WisteriaError =>
  new WisteriaError(
    'invalid',
    problems.length === 1 ? problems[0]!.message : `The mapping has ${problems.length} problems.`,
    { problems },
  )
