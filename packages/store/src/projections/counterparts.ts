import { mainRegion, storedRegion, typeWithId, type State } from '@wisteria/core'
import type { Reader, Transaction } from '../connection/reader.js'
import type { WorkingCopy } from '../entries/workingCopies.js'
import type { Site } from '../sites/sites.js'
import { editionTables } from './editionTables.js'

/** An entry among its counterparts. */
export interface CounterpartRow {
  readonly id: string
  /** The name of its type. */
  readonly type: string
  /** The name of its region. */
  readonly region: string
  readonly root: string | null
  /** The entry that it was copied from; null for the first. */
  readonly of: string | null
  /** In the site's default locale, where it has one there. */
  readonly title: string
  readonly path: string | null
  readonly state: State
  /** Whether its source has changed since its changes were taken last. */
  readonly behind: boolean
}

interface Row extends Omit<CounterpartRow, 'type' | 'behind' | 'region'> {
  readonly region: string | null
  readonly type: string
  readonly behind: 0 | 1
}

const drafts = editionTables.draft.rows

const columns = `e.id, e.type, e.region, e.counterpart_root as root, e.counterpart_of as "of", d.title, d.path, d.summary as state,
  exists (select 1 from entries s where s.id = e.counterpart_of and s.deleted_at is null and s.revision > e.counterpart_revision) as behind`

/** Binds the site's projection set and default locale. */
const withRow = `entries e join ${drafts} d on d.projection = ? and d.entry = e.id and d.locale = ?`

function rowsFrom(site: Site, rows: readonly Row[]): CounterpartRow[] {
  return rows.flatMap(({ type: typeId, region, behind, ...row }) => {
    const type = typeWithId(site.model, typeId)
    return type ? [{ ...row, type: type.name, region: region ?? mainRegion, behind: behind === 1 }] : []
  })
}

/** Entries with all their counterparts, those in the bin left out. @param roots the first of each family. */
export async function familiesOf(reader: Reader, site: Site, roots: readonly string[]): Promise<CounterpartRow[]> {
  if (roots.length === 0) return []
  const rows = await reader.all<Row>(
    `select ${columns} from ${withRow} where e.counterpart_root in (select value from json_each(?)) and +e.site = ? and e.deleted_at is null`,
    [site.projection, site.settings.defaultLocale, JSON.stringify(roots), site.id],
  )
  return rowsFrom(site, rows)
}

/** One entry among its counterparts. */
export async function counterpartRow(reader: Reader, site: Site, id: string): Promise<CounterpartRow | undefined> {
  const rows = await reader.all<Row>(`select ${columns} from ${withRow} where e.id = ?`, [
    site.projection,
    site.settings.defaultLocale,
    id,
  ])
  return rowsFrom(site, rows)[0]
}

export interface FamiliesAsked {
  /** Internal ids of types. */
  readonly types: readonly string[]
  /** Only those without an entry in a region. */
  readonly missing?: string | undefined
  /** Only those whose entry in a region has a source with newer changes. */
  readonly behind?: string | undefined
  readonly after: number
  readonly limit: number
}

/**
 * The first of each family, and entries without counterparts, in the order of their paths. Archived ones are left out, and others
 * whose first is gone stand for themselves.
 */
export async function firstOfFamilies(
  reader: Reader,
  site: Site,
  { types, missing, behind, after, limit }: FamiliesAsked,
): Promise<CounterpartRow[]> {
  const terms = [
    'e.type in (select value from json_each(?))',
    '+e.site = ?',
    'e.deleted_at is null',
    'e.archived_at is null',
    `(e.counterpart_root is null or e.counterpart_root = e.id
      or not exists (select 1 from entries f where f.id = e.counterpart_root and f.deleted_at is null))`,
  ]
  const bindings: (string | number)[] = [site.projection, site.settings.defaultLocale, JSON.stringify(types), site.id]
  if (missing !== undefined) {
    terms.push(`coalesce(e.region, '${mainRegion}') <> ? and not exists (
      select 1 from entries c where c.counterpart_root = e.counterpart_root and c.deleted_at is null and coalesce(c.region, '${mainRegion}') = ?)`)
    bindings.push(missing, missing)
  }
  if (behind !== undefined) {
    terms.push(`exists (select 1 from entries c join entries s on s.id = c.counterpart_of
      where c.counterpart_root = e.counterpart_root and c.deleted_at is null and coalesce(c.region, '${mainRegion}') = ?
        and s.deleted_at is null and s.revision > c.counterpart_revision)`)
    bindings.push(behind)
  }
  const rows = await reader.all<Row>(
    `select ${columns} from ${withRow} where ${terms.join(' and ')} order by d.path is null, d.path, d.title, e.id limit ? offset ?`,
    [...bindings, limit, after],
  )
  return rowsFrom(site, rows)
}

/** The counterparts of entries in a region, by the ids of the entries; one that is there already stands for itself. */
export async function counterpartsIn(
  reader: Reader,
  site: Site,
  ids: readonly string[],
  region: string,
): Promise<Map<string, string>> {
  const rows = await reader.all<{ of: string; id: string }>(
    `select e.id as "of", c.id from entries e join entries c on c.counterpart_root = e.counterpart_root and coalesce(c.region, '${mainRegion}') = ?
     where e.id in (select value from json_each(?)) and +e.site = ? and c.deleted_at is null`,
    [region, JSON.stringify(ids), site.id],
  )
  return new Map(rows.map(({ of, id }) => [of, id]))
}

/** Which of some entries have a counterpart in a region that lies in the bin. */
export async function binnedCounterparts(
  reader: Reader,
  site: Site,
  ids: readonly string[],
  region: string,
): Promise<Set<string>> {
  const rows = await reader.all<{ id: string }>(
    `select e.id from entries e join entries c on c.counterpart_root = e.counterpart_root and coalesce(c.region, '${mainRegion}') = ?
     where e.id in (select value from json_each(?)) and +e.site = ? and c.deleted_at is not null`,
    [region, JSON.stringify(ids), site.id],
  )
  return new Set(rows.map(({ id }) => id))
}

/** Names an entry as the first of its counterparts, where it has none yet. @returns the first of its counterparts. */
export async function becomeRoot(transaction: Transaction, copy: WorkingCopy): Promise<string> {
  if (copy.counterpartRoot !== null) return copy.counterpartRoot
  await transaction.run('update entries set counterpart_root = id where id = ?', [copy.id])
  return copy.id
}

/** Records which revision of its source a counterpart has taken. */
export async function recordTaken(transaction: Transaction, copy: WorkingCopy, revision: number): Promise<WorkingCopy> {
  await transaction.run('update entries set counterpart_revision = ? where id = ?', [revision, copy.id])
  return { ...copy, counterpart: copy.counterpart && { ...copy.counterpart, revision } }
}

/** Puts an entry into a region, as a counterpart or on its own. */
export async function setRegion(
  transaction: Transaction,
  copy: WorkingCopy,
  region: string,
  source: { readonly of: string; readonly root: string; readonly revision: number } | undefined,
): Promise<WorkingCopy> {
  const stored = storedRegion(region)
  await transaction.run(
    'update entries set region = ?, counterpart_of = ?, counterpart_root = ?, counterpart_revision = ? where id = ?',
    [stored, source?.of ?? null, source?.root ?? null, source?.revision ?? null, copy.id],
  )
  const counterpart = source ? { of: source.of, revision: source.revision } : null
  return { ...copy, region: stored, counterpart, counterpartRoot: source?.root ?? null }
}

/** How many entries are in each region, the main one left out; those in the bin are counted too. */
export async function countByRegion(
  reader: Reader,
  site: Site,
): Promise<{ readonly region: string; readonly type: string; readonly entries: number }[]> {
  return reader.all(
    'select region, type, count(*) as entries from entries where site = ? and region is not null group by region, type',
    [site.id],
  )
}

/** Whether an entry was ever public. */
export async function wasEverPublic(reader: Reader, id: string): Promise<boolean> {
  return (await reader.all('select 1 from publications where entry = ? limit 1', [id])).length > 0
}
