import { LRUCache } from 'lru-cache'
import { createHash } from 'node:crypto'
import {
  draftFacts,
  factPath,
  publicFacts,
  sortableFacts,
  asksFor,
  didYouMean,
  fieldsAt,
  fieldsIn,
  eachField,
  ownersOf,
  kindOf,
  localeTags,
  mainRegion,
  regionNames,
  readCondition,
  checkCondition,
  searchExpression,
  shapeOf,
  typeNamed,
  WisteriaError,
  type Caller,
  type CheckedCondition,
  type CheckContext,
  type ContentType,
  type WrittenCondition,
  type Field,
  type Model,
  type Moment,
  type SystemFact,
} from '@wisteria/core'
import {
  nextChangeAt,
  countEntries,
  indexedFields,
  listEntries,
  type Edition,
  type ListQuery,
  type Page,
  type Position,
  type Site,
  type SortKey,
} from '@wisteria/store'
import { z } from 'zod'
import { readCursor, writeCursor } from '../kernel/cursor.js'
import type { Kernel } from '../kernel/kernel.js'
import { fieldReadsOf } from './fieldReads.js'
import { usesOf, type ListUses } from './listDependences.js'

export const maxFirst = 100
export const defaultFirst = 20

/** The most rows that a reader's list reads without an index. */
export const readBudget = 20_000

/** `12`, and not `1e1` or nothing at all. */
export const wholeNumber = (min: number, max: number) =>
  z
    .string()
    .regex(/^-?\d{1,12}$/, 'must be a whole number')
    .transform(Number)
    .pipe(z.number().min(min).max(max))

/** The parameters of every list. */
export const listParameters = {
  where: z.string().optional(),
  sort: z.string().optional(),
  first: wholeNumber(1, maxFirst).optional(),
  after: z.string().optional(),
  locale: z.string().optional(),
  region: z.string().optional(),
  count: z.enum(['true', 'false']).optional(),
}

/** A list as any of the APIs describes it. */
export interface AskedList {
  readonly where?: string | WrittenCondition | undefined
  /** `starts,-title`: a minus sorts in descending order. */
  readonly sort?: string | undefined
  readonly first?: number | undefined
  readonly after?: string | undefined
  readonly locale?: string | undefined
  /** Whether entries are left out whose words are in another locale. */
  readonly exactLocale?: boolean | undefined
  /** The region to list of types that are regional: readers get one region; all of them when left out. */
  readonly region?: string | undefined
  /** Words that entries must contain. */
  readonly search?: string | undefined
  /** The type of the entry that a list stands in, when the list is only checked. */
  readonly here?: ContentType | undefined
  /** The most rows to read without an index; no limit when left out. */
  readonly budget?: number | undefined
  /** The facts that conditions may use; those of the edition when left out. */
  readonly facts?: readonly SystemFact[] | undefined
}

/** A list that has been checked against the model, ready to run. */
export interface PlannedList<E extends Edition = Edition> {
  readonly query: ListQuery & { readonly edition: E }
  /** Whether its answer changes with the time. */
  readonly usesTime: boolean
  /** What decides on its entries and their order. */
  readonly uses: ListUses
  /** Writes the cursor of a position in this list. */
  readonly cursor: (position: Position) => string
}

/** @throws WisteriaError `notFound` with a suggestion. */
export function requireType(site: Site, name: string): ContentType {
  const type = typeNamed(site.model, name)
  if (type) return type
  const names = site.model.types.map((type) => type.name)
  throw new WisteriaError(
    'notFound',
    `\`${name.slice(0, 80)}\` is not a type of ${site.settings.label}.${didYouMean(name, names)}`,
  )
}

/** @throws WisteriaError `badRequest` that lists the locales. */
export function requireLocale(site: Site, asked: string | undefined): string {
  const locale = asked ?? site.settings.defaultLocale
  const tags = localeTags(site.settings)
  if (tags.includes(locale)) return locale
  throw new WisteriaError(
    'badRequest',
    `\`${locale.slice(0, 40)}\` is not a locale of this site (${tags.join(', ')}).${didYouMean(locale, tags)}`,
  )
}

/**
 * The region that readers get: the one that they ask for, else the main one. Undefined where the site has no other.
 * @throws WisteriaError `badRequest` that lists the regions.
 */
export function regionFor(site: Site, asked: string | undefined): string | undefined {
  if (asked !== undefined) return requireKnownRegion(site, asked)
  return (site.settings.regions ?? []).length > 0 ? mainRegion : undefined
}

/** @throws WisteriaError `badRequest` that lists the regions. @returns its name. */
export function requireKnownRegion(site: Site, name: string): string {
  const names = regionNames(site.settings)
  if (names.includes(name)) return name
  throw new WisteriaError(
    'badRequest',
    `\`${name.slice(0, 60)}\` is not a region of this site (${names.join(', ')}).${didYouMean(name, names)}`,
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
  const { checked, sort, words, uses, fingerprint } = checkList(site, type, edition, locale, asked)
  const moment: Moment = { now: kernel.now, timeZone: site.settings.timeZone }
  const after =
    asked.after === undefined ? undefined : positionIn(asked.after, fingerprint, site.model.version, sort.length)
  return {
    query: {
      edition,
      projection: site.projection,
      type: type?.id,
      locale,
      exactLocale: asked.exactLocale,
      // A condition about regions says itself which ones.
      region: (type && !type.regional) || (checked && asksFor(checked.condition, 'region')) ? undefined : asked.region,
      condition: checked?.condition,
      words,
      // Archived entries are left out, unless a condition is about states.
      withoutArchived: edition === 'draft' && !(checked && asksFor(checked.condition, 'state')),
      moment,
      sort,
      limit: asked.first ?? defaultFirst,
      after,
      indexed: indexedIn(site.model),
      budget: asked.budget,
    },
    usesTime: checked?.dependencies.time ?? false,
    uses,
    cursor: ({ values, entry }) => writeCursor([fingerprint, site.model.version, entry, ...values]),
  }
}

/** The part of a plan that depends on the model and the request, and on no moment. */
interface CheckedList {
  readonly checked: CheckedCondition | undefined
  readonly sort: readonly SortKey[]
  readonly words: string | undefined
  readonly uses: ListUses
  /** Of everything that a cursor must fit. */
  readonly fingerprint: string
}

const checkedLists = new WeakMap<Model, LRUCache<string, CheckedList>>()
const maxCheckedLists = 500
/** Longer requests are checked each time, so that the cache stays small. */
const maxKeptLength = 2_000

/** Checks a request against the model; repeated ones are checked once. */
function checkList(
  site: Site,
  type: ContentType | undefined,
  edition: Edition,
  locale: string,
  {
    where,
    sort: sorted,
    search,
    here,
    exactLocale,
    region,
    facts = edition === 'draft' ? draftFacts : publicFacts,
  }: AskedList,
): CheckedList {
  const cached = checkedLists.get(site.model) ?? new LRUCache<string, CheckedList>({ max: maxCheckedLists })
  checkedLists.set(site.model, cached)
  const key = JSON.stringify([
    site.id,
    site.settings.timeZone,
    type?.id,
    edition,
    locale,
    where,
    sorted,
    search,
    here?.id,
    exactLocale,
    region,
    facts.join(' '),
  ])
  const kept = cached.get(key)
  if (kept) return kept
  const context: CheckContext = {
    model: site.model,
    owners: type ? [type] : site.model.types,
    systemFacts: facts,
    timeZone: site.settings.timeZone,
    ...(here ? { here } : {}),
  }
  const checked =
    where === undefined
      ? undefined
      : typeof where === 'string'
        ? readCondition(where, context)
        : checkCondition(where, context)
  const sort = readSort(site.model, type, sorted)
  // Without any word to search for, as in "…", everything matches.
  const words = search === undefined ? undefined : searchExpression(search, [locale])
  const fingerprint = createHash('sha256')
    .update(
      JSON.stringify([
        site.id,
        type?.id,
        edition,
        locale,
        checked?.condition ?? null,
        words,
        sort.map(({ by, descending }) => [by, descending]),
        ...(exactLocale ? ['exact'] : []),
        ...(region === undefined ? [] : [`region ${region}`]),
      ]),
    )
    .digest('base64url')
    .slice(0, 12)
  const uses = usesOf(site.model, type, checked, sort, words !== undefined)
  const planned = { checked, sort, words, uses, fingerprint }
  if (key.length > maxKeptLength) return planned
  cached.set(key, planned)
  return planned
}

const indexes = new WeakMap<Model, ReadonlySet<string>>()

/** The ids of the fields that have an index. */
function indexedIn(model: Model): ReadonlySet<string> {
  const cached = indexes.get(model) ?? new Set(model.types.flatMap((type) => indexedFields(type).map(({ id }) => id)))
  indexes.set(model, cached)
  return cached
}

function readSort(model: Model, type: ContentType | undefined, text: string | undefined): SortKey[] {
  if (text === undefined || text === '') return []
  const parts = text.split(',')
  if (parts.length > 4) throw new WisteriaError('badRequest', 'A list is sorted by at most 4 fields.')
  return parts.map((part) => {
    const descending = part.trim().startsWith('-')
    const name = part.trim().slice(descending ? 1 : 0)
    return { by: sortBy(model, type, name), descending, name }
  })
}

/** The fields of a type that it can be sorted by, those of single groups too. */
function sortableIn(type: ContentType): { name: string; id: string }[] {
  const sortable: { name: string; id: string }[] = []
  eachField(type, (candidate, on) => {
    const isSingle = !candidate.many && on.every((group) => !group.many)
    const isOrdered = !['reference', 'presence', undefined].includes(kindOf(candidate).comparison)
    if (isSingle && isOrdered)
      sortable.push({ name: [...on, candidate].map((step) => step.name).join('.'), id: candidate.id })
  })
  return sortable
}

/** References to follow for sorting. */
const maxSortSteps = 3

function sortBy(model: Model, type: ContentType | undefined, name: string): SortKey['by'] {
  const fact = sortableFacts.find((candidate) => factPath(candidate) === name)
  if (fact) return { system: fact }
  const refuse = (why: string, candidates: readonly string[]): never => {
    throw new WisteriaError(
      'badRequest',
      `\`sort\`: \`${name.slice(0, 80)}\` ${why}.${didYouMean(name, candidates)} Sort by ${candidates.join(', ')}.`,
    )
  }
  if (!type)
    return refuse('is not a field of every type: name a type to sort by its fields', sortableFacts.map(factPath))
  const through: string[] = []
  let here = type
  let rest = name
  for (;;) {
    const sortable = sortableIn(here)
    const field = fieldsAt(here, rest)?.at(-1)
    if (field && sortable.some((other) => other.id === field.id))
      return through.length === 0 ? { field: field.id } : { field: field.id, through }
    const before = rest.lastIndexOf('.') < 0 ? undefined : referenceIn(here, rest)
    const names = [...sortable.map((field) => field.name), ...(here === type ? sortableFacts.map(factPath) : [])]
    if (!before || through.length >= maxSortSteps) {
      const why = field
        ? `cannot be sorted by: it is ${field.many ? 'a list' : `of kind ${field.kind}`}`
        : `is not a field of ${here.name}`
      return refuse(why, here === type ? names : names.map((other) => name.slice(0, name.length - rest.length) + other))
    }
    const shape = shapeOf(before.field)
    const targets = (shape.is === 'reference' ? shape.to : []).flatMap((target) => typeNamed(model, target) ?? [])
    const fitting = targets.filter((target) => fieldsAt(target, before.rest.split('.')[0]!))
    if (fitting.length > 1)
      return refuse(`can lead to ${fitting.map((owner) => owner.name).join(' or ')}, so there is no one order`, names)
    through.push(before.field.id)
    rest = before.rest
    here = fitting[0] ?? targets[0] ?? here
  }
}

/** The single reference at the start of a dotted path, and the rest of the path. */
function referenceIn(type: ContentType, path: string): { field: Field; rest: string } | undefined {
  const names = path.split('.')
  for (let count = 1; count < names.length; count++) {
    const fields = fieldsAt(type, names.slice(0, count).join('.'))
    const last = fields?.at(-1)
    if (last?.kind === 'entry' && fields!.every((field) => !field.many))
      return { field: last, rest: names.slice(count).join('.') }
  }
  return undefined
}

const cursorForm = z.tuple([z.string(), z.number(), z.string()]).rest(z.union([z.string(), z.number(), z.null()]))

function positionIn(text: string, fingerprint: string, modelVersion: number, keys: number): Position {
  const [of, model, entry, ...values] = readCursor(text, cursorForm)
  if (of !== fingerprint || values.length !== keys)
    throw new WisteriaError(
      'badRequest',
      '`after` belongs to another list: a cursor needs the same type, `where`, `sort`, `locale`, `exactLocale`, `region` and `edition`.',
    )
  if (model !== modelVersion)
    throw new WisteriaError(
      'badRequest',
      'The model has changed since this cursor was made. Begin again without `after`.',
    )
  return { entry, values: values }
}

/** Notes the fields that a list filters and sorts by, under the names in the request. */
export function noteList(kernel: Kernel, site: Site, caller: Caller, plan: PlannedList, asked: string): void {
  if (caller.is !== 'key') return
  const { condition, sort } = plan.query
  const ids = new Set([
    ...(condition ? fieldsIn(condition) : []),
    ...sort.flatMap(({ by }) => ('field' in by ? [by.field, ...(by.through ?? [])] : [])),
  ])
  if (ids.size === 0) return
  for (const owner of ownersOf(site.model))
    eachField(owner, ({ id, name, aliases }) => {
      if (ids.has(id))
        fieldReadsOf(kernel).note(site, caller, owner.id, id, aliases?.find((alias) => asked.includes(alias)) ?? name)
    })
}

/** When the answer to a list may change with the time: see `changesAt`. */
export const heldUntil = (kernel: Pick<Kernel, 'database'>, plan: PlannedList): Promise<number> =>
  plan.usesTime ? nextChangeAt(kernel.database, plan.query) : Promise.resolve(Infinity)

/** Runs a planned list on committed data. */
export const runList = <E extends Edition>(kernel: Pick<Kernel, 'database'>, plan: PlannedList<E>): Promise<Page<E>> =>
  listEntries(kernel.database, plan.query)

export const runCount = (kernel: Kernel, plan: PlannedList): Promise<number> =>
  countEntries(kernel.database, plan.query)
