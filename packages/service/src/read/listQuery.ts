import { createHash } from 'node:crypto'
import {
  asksFor,
  didYouMean,
  fieldsAt,
  fieldsIn,
  eachField,
  ownersOf,
  kindOf,
  localeTags,
  readCondition,
  checkCondition,
  searchExpression,
  typeNamed,
  WisteriaError,
  type Caller,
  type CheckedCondition,
  type CheckContext,
  type ContentType,
  type Expression,
  type Fact,
  type Field,
  type Moment,
} from '@wisteria/core'
import {
  countEntries,
  listEntries,
  type Edition,
  type ListQuery,
  type Page,
  type Position,
  type Site,
  type SortKey,
} from '@wisteria/store'
import { z } from 'zod'
import type { Kernel } from '../kernel.js'

export const maxLimit = 100
export const defaultLimit = 20

/** The parameters that every list takes. */
export const listParameters = {
  where: z.string().optional(),
  sort: z.string().optional(),
  limit: z.coerce.number('must be a number').int('must be a whole number').min(1).max(maxLimit).optional(),
  after: z.string().optional(),
  locale: z.string().optional(),
  count: z.enum(['true', 'false']).optional(),
}

/** A list as somebody asked for it, in any of the APIs. */
export interface AskedList {
  readonly where?: string | Expression | undefined
  /** `starts,-title`: a minus sorts downwards. */
  readonly sort?: string | undefined
  readonly limit?: number | undefined
  readonly after?: string | undefined
  readonly locale?: string | undefined
  /** Words that working copies must hold. */
  readonly search?: string | undefined
}

/** A list that has been checked against the model, ready to run. */
export interface PlannedList<E extends Edition = Edition> {
  readonly query: ListQuery & { readonly edition: E }
  readonly dependencies: CheckedCondition['dependencies']
  /** Writes the cursor of a position in this list. */
  readonly cursor: (position: Position) => string
}

/** @throws WisteriaError `notFound` with a suggestion. */
export function requireType(site: Site, name: string): ContentType {
  const type = typeNamed(site.model, name)
  if (type) return type
  const known = site.model.types.map((one) => one.name)
  throw new WisteriaError(
    'notFound',
    `\`${name.slice(0, 80)}\` is not a type of ${site.settings.label}.${didYouMean(name, known)}`,
  )
}

/** @throws WisteriaError `badRequest` that lists the locales. */
export function requireLocale(site: Site, asked: string | undefined): string {
  const locale = asked ?? site.settings.defaultLocale
  const known = localeTags(site.settings)
  if (known.includes(locale)) return locale
  throw new WisteriaError(
    'badRequest',
    `\`${locale.slice(0, 40)}\` is not a locale of this site (${known.join(', ')}).${didYouMean(locale, known)}`,
  )
}

/** @param type undefined for entries of all types. */
export function planList<E extends Edition>(
  kernel: Pick<Kernel, 'now'>,
  site: Site,
  type: ContentType | undefined,
  edition: E,
  asked: AskedList,
): PlannedList<E> {
  const locale = requireLocale(site, asked.locale)
  const context: CheckContext = {
    model: site.model,
    owners: type ? [type] : site.model.types,
    systemFacts: edition === 'draft' ? ['type', 'updated', 'published', 'state'] : ['type', 'updated', 'published'],
    timeZone: site.settings.timeZone,
  }
  const { where } = asked
  const checked =
    where === undefined
      ? undefined
      : typeof where === 'string'
        ? readCondition(where, context)
        : checkCondition(where, context)
  const sort = readSort(type, asked.sort)
  // Where there are no words to look for, as in "…", everything is found.
  const words = asked.search === undefined ? undefined : searchExpression(asked.search, [locale])
  const moment: Moment = { now: kernel.now, timeZone: site.settings.timeZone }
  const fingerprint = createHash('sha256')
    .update(JSON.stringify([site.id, type?.id, edition, locale, checked?.condition ?? null, words, sort]))
    .digest('base64url')
    .slice(0, 12)
  const after =
    asked.after === undefined ? undefined : readCursor(asked.after, fingerprint, site.model.version, sort.length)
  return {
    query: {
      edition,
      shelf: site.shelf,
      type: type?.id,
      locale,
      condition: checked?.condition,
      words,
      // What was set aside is in nobody's way, unless somebody asks for states.
      withoutArchived: edition === 'draft' && !(checked && asksFor(checked.condition, 'state')),
      moment,
      sort,
      limit: asked.limit ?? defaultLimit,
      after,
    },
    dependencies: checked?.dependencies ?? { types: [], time: false },
    cursor: ({ values, entry }) =>
      Buffer.from(JSON.stringify([fingerprint, site.model.version, entry, ...values])).toString('base64url'),
  }
}

function readSort(type: ContentType | undefined, text: string | undefined): SortKey[] {
  if (text === undefined || text === '') return []
  const parts = text.split(',')
  if (parts.length > 4) throw new WisteriaError('badRequest', 'A list is sorted by at most 4 fields.')
  return parts.map((part) => {
    const descending = part.startsWith('-')
    const name = (descending ? part.slice(1) : part).trim()
    if (name === '$updated' || name === '$published')
      return { by: { system: name.slice(1) as 'updated' | 'published' }, descending }
    const sortable: { name: string; id: string }[] = []
    const note = (one: Field, on: readonly Field[]): void => {
      const isSingle = !one.many && on.every((group) => !group.many)
      const isOrdered = !['reference', 'presence', undefined].includes(kindOf(one).comparison)
      if (isSingle && isOrdered) sortable.push({ name: [...on, one].map((step) => step.name).join('.'), id: one.id })
    }
    if (type) eachField(type, note)
    const field = type && fieldsAt(type, name)?.at(-1)
    if (field && sortable.some((one) => one.id === field.id)) return { by: { field: field.id }, descending }
    const known = [...sortable.map((one) => one.name), '$updated', '$published']
    const why = field
      ? `cannot be sorted by: it is ${field.many ? 'a list' : `of kind ${field.kind}`}`
      : type
        ? `is not a field of ${type.name}`
        : 'is not a field of every type: name a type to sort by its fields'
    throw new WisteriaError(
      'badRequest',
      `\`sort\`: \`${name.slice(0, 80)}\` ${why}.${didYouMean(name, known)} Sort by ${known.join(', ')}.`,
    )
  })
}

const cursorForm = z.tuple([z.string(), z.number(), z.string()]).rest(z.union([z.string(), z.number(), z.null()]))

function readCursor(text: string, fingerprint: string, modelVersion: number, keys: number): Position {
  let content: unknown
  try {
    content = JSON.parse(Buffer.from(text, 'base64url').toString('utf8'))
  } catch {
    content = undefined
  }
  const read = cursorForm.safeParse(content)
  if (!read.success) throw new WisteriaError('badRequest', '`after` is not a cursor. Take `next` from the page before.')
  const [of, model, entry, ...values] = read.data
  if (of !== fingerprint || values.length !== keys)
    throw new WisteriaError(
      'badRequest',
      '`after` belongs to another list: the cursor goes with the same type, `where`, `sort`, `locale` and `edition`.',
    )
  if (model !== modelVersion)
    throw new WisteriaError(
      'badRequest',
      'The model has changed since this cursor was made. Begin again without `after`.',
    )
  return { entry, values: values as (Fact | null)[] }
}

/** Notes which fields a list is found and sorted by, under the names they were asked by. */
export function noteList(kernel: Kernel, site: Site, caller: Caller, plan: PlannedList, asked: string): void {
  if (caller.is !== 'key') return
  const { condition, sort } = plan.query
  const ids = new Set([
    ...(condition ? fieldsIn(condition) : []),
    ...sort.flatMap(({ by }) => ('field' in by ? by.field : [])),
  ])
  if (ids.size === 0) return
  for (const owner of ownersOf(site.model))
    eachField(owner, ({ id, name, aliases }) => {
      if (ids.has(id))
        kernel.fieldReads.note(site, caller, owner.id, id, aliases?.find((alias) => asked.includes(alias)) ?? name)
    })
}

/** Runs a planned list on what is committed. */
export const runList = <E extends Edition>(kernel: Kernel, plan: PlannedList<E>): Promise<Page<E>> =>
  listEntries(kernel.database, plan.query)

export const runCount = (kernel: Kernel, plan: PlannedList): Promise<number> =>
  countEntries(kernel.database, plan.query)
