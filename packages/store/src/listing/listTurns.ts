import type { Reader, Transaction } from '../connection/reader.js'
import { insertMany } from '../connection/inserting.js'
import type { Site } from '../sites/sites.js'
import type { EditionTableRow } from '../tables/tables.js'

/*
 * Lists that fill themselves turn with the time. Of every public entry with such a list it is kept when that can happen next, and what
 * the lists show until then.
 */

/** When lists of an entry can turn next, in a locale. */
export interface ListTurn {
  readonly entry: string
  readonly locale: string
  /** ISO instant. */
  readonly at: string
  /** A digest of the entries that its lists show. */
  readonly shows: string
}

/** When the lists of a site were looked at last, and the public generation then. */
export interface ListScan {
  readonly generation: string
  readonly at: string
}

/**
 * Sites with lists that are due, or in which something public has changed.
 * @param before a site that was looked at later than this is left alone, unless a list is due.
 */
export async function sitesToScan(
  reader: Reader,
  at: string,
  before: string,
  most: number,
  skipped: readonly string[],
): Promise<string[]> {
  const rows = await reader.all<{ id: string }>(
    `select s.id from sites s left join list_scans c on c.site = s.id
     where s.id not in (select value from json_each(?4)) and (c.site is null
       or (c.generation <> s.epoch || '.' || s.generation and c.at <= ?2)
       or exists (select 1 from list_turns t where t.site = s.id and t.at <= ?1)) limit ?3`,
    [at, before, most, JSON.stringify(skipped)],
  )
  return rows.map(({ id }) => id)
}

/** When the next list is due; undefined where none waits. */
export async function nextListTurn(reader: Reader): Promise<string | undefined> {
  const [row] = await reader.all<{ at: string | null }>('select min(at) as at from list_turns')
  return row?.at ?? undefined
}

export async function listScanOf(reader: Reader, site: string): Promise<ListScan | undefined> {
  const [row] = await reader.all<ListScan>('select generation, at from list_scans where site = ?', [site])
  return row
}

export const listTurnsOf = (reader: Reader, site: string): Promise<ListTurn[]> =>
  reader.all<ListTurn>('select entry, locale, at, shows from list_turns where site = ?', [site])

/** Public rows of some types, in the order of entries and locales. @param after the last row before them. */
export const publicRowsOf = (
  reader: Reader,
  site: Site,
  types: readonly string[],
  after: Pick<ListTurn, 'entry' | 'locale'> | undefined,
  most: number,
): Promise<Pick<EditionTableRow, 'entry' | 'type' | 'locale' | 'doc' | 'path'>[]> =>
  reader.all(
    `select entry, type, locale, doc, path from published
     where projection = ? and type in (select value from json_each(?)) and (entry, locale) > (?, ?) order by entry, locale limit ?`,
    [site.projection, JSON.stringify(types), after?.entry ?? '', after?.locale ?? '', most],
  )

/** Keeps what was seen of the lists of a site: all turns of it, in place of those before. */
export async function keepListTurns(
  transaction: Transaction,
  site: string,
  { generation, at }: ListScan,
  turns: readonly ListTurn[],
): Promise<void> {
  await transaction.run(
    `insert into list_scans (site, generation, at) values (?1, ?2, ?3)
     on conflict (site) do update set generation = excluded.generation, at = excluded.at`,
    [site, generation, at],
  )
  await transaction.run('delete from list_turns where site = ?', [site])
  await insertMany(
    transaction,
    'list_turns',
    turns.map((turn) => ({ site, ...turn })),
  )
}
