import { localeTags } from '@wisteria/core'
import type { Freshness, TranslationProgress, WorkCount } from '@wisteria/core'
import type { Reader } from '../connection/reader.js'
import type { Site } from '../sites/sites.js'
import type { DraftRow, TranslationCountRow, TranslationTaskRow } from '../tables/tables.js'

/** The work of translators in a type and a locale. */
export interface StoredWork {
  /** The internal id. */
  readonly type: string
  readonly locale: string
  readonly entries: number
  readonly entriesToDo: number
  readonly units: WorkCount
  readonly words: WorkCount
  readonly oldest: string | null
}

type CountColumns = Pick<
  TranslationCountRow,
  'units_missing' | 'units_outdated' | 'units_done' | 'words_missing' | 'words_outdated' | 'words_done'
>

const unitsIn = (row: CountColumns): WorkCount => ({
  missing: row.units_missing,
  outdated: row.units_outdated,
  done: row.units_done,
})
const wordsIn = (row: CountColumns): WorkCount => ({
  missing: row.words_missing,
  outdated: row.words_outdated,
  done: row.words_done,
})

type SummedRow = TranslationCountRow & { readonly oldest: string | null }

const workFrom = (row: SummedRow): StoredWork => ({
  type: row.type,
  locale: row.locale,
  entries: row.entries,
  entriesToDo: row.entries_to_do,
  units: unitsIn(row),
  words: wordsIn(row),
  oldest: row.oldest,
})

/** The work on a site by type and locale. The sums are stored: this reads as many rows as there are types times locales. */
export async function translationWork(reader: Reader, site: Site): Promise<StoredWork[]> {
  const rows = await reader.all<SummedRow>(
    `select c.*, (select work_since from drafts d indexed by drafts_by_work
       where d.projection = c.projection and d.type = c.type and d.locale = c.locale and d.work_since is not null
       order by d.work_since limit 1) as oldest
     from translation_counts c where c.projection = ? and c.entries > 0`,
    [site.projection],
  )
  return rows.map(workFrom)
}

/** How far the translations of an entry are, in units and by locale. */
export async function workOfEntry(reader: Reader, site: Site, entry: string): Promise<Record<string, WorkCount>> {
  const rows = await reader.all<CountColumns & { locale: string }>(
    `select locale, units_missing, units_outdated, units_done from drafts where projection = ? and entry = ? and freshness <> ''`,
    [site.projection, entry],
  )
  const byLocale = new Map(rows.map((row) => [row.locale, unitsIn(row)]))
  return Object.fromEntries(
    localeTags(site.settings).flatMap((tag) => (byLocale.has(tag) ? [[tag, byLocale.get(tag)!]] : [])),
  )
}

/** The work in some entries, by type and locale. */
export async function translationWorkIn(reader: Reader, site: Site, entries: readonly string[]): Promise<StoredWork[]> {
  const rows = await reader.all<SummedRow>(
    `select d.type, d.locale, count(*) as entries, count(d.work_since) as entries_to_do, min(d.work_since) as oldest,
       sum(units_missing) as units_missing, sum(units_outdated) as units_outdated, sum(units_done) as units_done,
       sum(words_missing) as words_missing, sum(words_outdated) as words_outdated, sum(words_done) as words_done
     from json_each(?) w cross join drafts d on d.projection = ? and d.entry = w.value
     where d.freshness <> '' and d.state <> 'archived' group by d.type, d.locale`,
    [JSON.stringify(entries), site.projection],
  )
  return rows.map(workFrom)
}

/** How far the translation of an entry into a locale is, with its task. */
export interface StoredProgress {
  readonly entry: string
  /** The internal id. */
  readonly type: string
  readonly locale: string
  readonly title: string
  readonly progress: TranslationProgress
  readonly since: string | null
  readonly assignee: string | null
  readonly due: string | null
  readonly readyBy: string | null
  readonly readyAt: string | null
}

/** The entries that are asked for. */
export interface WorkQuery {
  readonly locale?: string | undefined
  /** The internal id of a type. */
  readonly type?: string | undefined
  /** The id of an account. */
  readonly assignee?: string | undefined
  /** Only those that are ready for review. */
  readonly isReady?: boolean | undefined
  /** Only these entries. */
  readonly among?: readonly string[] | undefined
}

/** Whether only entries with a task are asked for: their order is that of the due dates. */
const hasTask = ({ assignee, isReady }: WorkQuery): boolean => assignee !== undefined || isReady === true

/** A place in the order of work: the time since when, and the entry with its locale. */
export type WorkPosition = readonly [since: string, entry: string, locale: string]

type ProgressRow = DraftRow &
  Partial<Pick<TranslationTaskRow, 'assignee' | 'due' | 'ready_by' | 'ready_at'>> & {
    readonly source_title: string | null
  }

const progressFrom = (row: ProgressRow): StoredProgress => ({
  entry: row.entry,
  type: row.type,
  locale: row.locale,
  title: row.source_title || row.title,
  progress: { freshness: row.freshness as Freshness, units: unitsIn(row), words: wordsIn(row) },
  since: row.work_since,
  assignee: row.assignee ?? null,
  due: row.due ?? null,
  readyBy: row.ready_by ?? null,
  readyAt: row.ready_at ?? null,
})

const columns = `d.entry, d.type, d.locale, d.title, d.freshness, d.work_since, d.units_missing, d.units_outdated, d.units_done,
  d.words_missing, d.words_outdated, d.words_done, t.assignee, t.due, t.ready_by, t.ready_at,
  (select s.title from drafts s where s.projection = d.projection and s.entry = d.entry and s.locale = ?) as source_title`

/**
 * A page of entries with work, or that are ready for review: oldest first; those that somebody has to do, by their due date first.
 */
export async function workEntries(
  reader: Reader,
  site: Site,
  query: WorkQuery,
  limit: number,
  after?: WorkPosition,
): Promise<StoredProgress[]> {
  const isTask = hasTask(query)
  const order = isTask ? `coalesce(t.due, '9999') || coalesce(t.ready_at, d.work_since, '')` : 'd.work_since'
  const work = query.type === undefined ? 'drafts_by_locale_work' : 'drafts_by_work'
  const from = isTask
    ? 'translation_tasks t cross join drafts d on d.entry = t.entry and d.locale = t.locale'
    : `drafts d indexed by ${work} left join translation_tasks t on t.entry = d.entry and t.locale = d.locale`
  const terms: (readonly [term: string, ...values: string[]] | false)[] = [
    ['d.projection = ?', site.projection],
    [`d.freshness <> '' and d.state <> 'archived'`],
    [query.isReady ? 't.ready_at is not null' : 'd.work_since is not null'],
    isTask && ['t.site = ?', site.id],
    query.assignee !== undefined && ['t.assignee = ?', query.assignee],
    query.locale !== undefined && ['d.locale = ?', query.locale],
    query.type !== undefined && ['d.type = ?', query.type],
    query.among !== undefined && ['d.entry in (select value from json_each(?))', JSON.stringify(query.among)],
    after !== undefined && [`(${order}, d.entry, d.locale) > (?, ?, ?)`, ...after],
  ]
  const asked = terms.filter((term) => term !== false)
  const rows = await reader.all<ProgressRow>(
    `select ${columns} from ${from} where ${asked.map(([term]) => term).join(' and ')} order by ${order}, d.entry, d.locale limit ${limit}`,
    [site.settings.defaultLocale, ...asked.flatMap(([, ...values]) => values)],
  )
  return rows.map(progressFrom)
}

/** The place of an entry in the order of `workEntries`. */
export const workPosition = (query: WorkQuery, row: StoredProgress): WorkPosition => [
  hasTask(query) ? (row.due ?? '9999') + (row.readyAt ?? row.since ?? '') : (row.since ?? ''),
  row.entry,
  row.locale,
]

/** How far the translations of some entries into a locale are. */
export async function progressOf(
  reader: Reader,
  site: Site,
  entries: readonly string[],
  locale: string,
): Promise<Map<string, StoredProgress>> {
  const rows = await reader.all<ProgressRow>(
    `select ${columns} from json_each(?) w cross join drafts d on d.projection = ? and d.entry = w.value and d.locale = ?
     left join translation_tasks t on t.entry = d.entry and t.locale = d.locale`,
    [site.settings.defaultLocale, JSON.stringify(entries), site.projection, locale],
  )
  return new Map(rows.map((row) => [row.entry, progressFrom(row)]))
}
