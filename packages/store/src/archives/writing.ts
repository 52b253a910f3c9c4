import {
  typeNamed,
  typeWithId,
  withStoredKeys,
  WisteriaError,
  type Document,
  type Environment,
  type Model,
} from '@wisteria/core'
import { buildBatch, type Progress } from '../adoption/building.js'
import { makeOnlyEntries } from '../adoption/switching.js'
import { insertMany } from '../connection/inserting.js'
import type { Binding, Reader, Transaction } from '../connection/reader.js'
import { beginHistoryOf } from '../events/history.js'
import { projectPublic } from '../projections/editionWriting.js'
import { layersFrom } from '../publications/publicHistory.js'
import { siteWithId, switchProjection, type Site } from '../sites/sites.js'
import { archiveParts, rowOf, type ArchiveLine, type PartName } from './parts.js'

/** A site that an archive is imported into, as it will be: with its model, its settings, and a projection set of its own. */
export interface ArchiveTarget {
  readonly site: Site
  /** Every model of the archive, by version. */
  readonly models: ReadonlyMap<number, Model>
  /** Who an actor of the archive is here. */
  readonly actorOf: (actor: string) => string
}

/** Columns that archives do not have, by the part. Ids and secrets are made anew. */
export type Added = (part: PartName, row: Readonly<Record<string, Binding>>) => Readonly<Record<string, Binding>>

/** The column that says to which entry or asset a row belongs. */
const ownerColumns: Partial<Record<PartName, 'entry' | 'asset'>> = {
  assetRevisions: 'asset',
  revisions: 'entry',
  publications: 'entry',
  paths: 'entry',
}

/**
 * Stores lines of a part.
 * @throws WisteriaError `invalid` or `conflict` where a line does not fit: the transaction must be rolled back then.
 */
export async function insertArchiveLines(
  transaction: Transaction,
  target: ArchiveTarget,
  name: PartName,
  lines: readonly ArchiveLine[],
  added: Added = () => ({}),
): Promise<void> {
  const part = archiveParts[name]
  const rows = lines.map((line): Record<string, Binding> => ({
    ...rowOf(part, line, target.actorOf),
    ...(part.of === 'site' ? { site: target.site.id } : {}),
  }))
  const owner = ownerColumns[name]
  if (owner) await requireOwners(transaction, target.site, owner, rows)
  if (name === 'entries') rows.forEach((row) => completeEntry(target.site.model, row))
  if (name === 'revisions') await spellDocuments(transaction, target, rows)
  if (name === 'entries' || name === 'assets') await requireFree(transaction, name, rows)
  const whole = rows.map((row) => ({ ...row, ...added(name, row) }))
  try {
    await insertMany(transaction, part.table.name, whole)
  } catch (error) {
    if (!/SQLITE_CONSTRAINT/.test((error as Error).message)) throw error
    throw new WisteriaError('invalid', 'A line repeats another one.')
  }
}

function completeEntry(model: Model, row: Record<string, Binding>): void {
  const type = typeNamed(model, row['type'] as string)
  if (!type)
    throw new WisteriaError(
      'invalid',
      `\`${String(row['type']).slice(0, 60)}\` is no type of the model in the archive.`,
    )
  row['type'] = type.id
  // The edits of saves are not in archives.
  row['mergeable_from'] = row['version']!
}

async function spellDocuments(
  transaction: Transaction,
  { models }: ArchiveTarget,
  rows: readonly Record<string, Binding>[],
): Promise<void> {
  const stored = await transaction.all<{ id: string; type: string }>(
    'select id, type from entries where id in (select value from json_each(?))',
    [JSON.stringify(rows.map(({ entry }) => entry))],
  )
  const types = new Map(stored.map(({ id, type }) => [id, type]))
  for (const row of rows) {
    const model = models.get(row['model_version'] as number)
    const type = model && typeWithId(model, types.get(row['entry'] as string) ?? '')
    if (!type) continue
    const document = withStoredKeys(model, type, JSON.parse(row['document'] as string) as Document)
    row['document'] = JSON.stringify(document)
  }
}

/** @throws WisteriaError `invalid` where a row is about something that is not on the site. */
async function requireOwners(
  reader: Reader,
  site: Site,
  owner: 'entry' | 'asset',
  rows: readonly Record<string, Binding>[],
): Promise<void> {
  const [missing] = await reader.all<{ id: string }>(
    `select v.value as id from json_each(?) v
     where not exists (select 1 from ${owner === 'entry' ? 'entries' : 'assets'} o where o.id = v.value and o.site = ?) limit 1`,
    [JSON.stringify(rows.map((row) => row[owner])), site.id],
  )
  if (missing)
    throw new WisteriaError('invalid', `It is about ${owner} ${missing.id}, which the archive does not have.`)
}

/** @throws WisteriaError `conflict` where an id is taken, on this site or another. */
async function requireFree(
  reader: Reader,
  table: 'entries' | 'assets',
  rows: readonly Record<string, Binding>[],
): Promise<void> {
  const [taken] = await takenIds(
    reader,
    table,
    rows.map(({ id }) => id as string),
  )
  if (taken !== undefined) throw idTaken(table, taken)
}

export const idTaken = (table: 'entries' | 'assets', id: string): WisteriaError =>
  new WisteriaError(
    'conflict',
    `${table === 'entries' ? 'Entry' : 'Asset'} ${id} is on this service already. To import a copy, ask for new ids.`,
  )

/** Those of some ids that entries or assets of any site have. */
export async function takenIds(reader: Reader, table: 'entries' | 'assets', ids: readonly string[]): Promise<string[]> {
  const rows = await reader.all<{ id: string }>(
    `select id from ${table} where id in (select value from json_each(?)) order by id`,
    [JSON.stringify(ids)],
  )
  return rows.map(({ id }) => id)
}

/** Whether a site has no content yet. */
export async function isUnused(reader: Reader, site: Site): Promise<boolean> {
  if (site.model.version > 0) return false
  const rows = await reader.all(
    'select 1 from entries where site = ?1 union all select 1 from assets where site = ?1',
    [site.id],
  )
  return rows.length === 0
}

/**
 * Makes sure that everything that the rows are made from is there.
 * @throws WisteriaError `invalid` that says what the archive lacks.
 */
export async function requireWhole(reader: Reader, { site, models }: ArchiveTarget): Promise<void> {
  const [entry] = await reader.all<{ id: string; revision: number }>(
    `select id, revision from entries e where site = ?
       and not exists (select 1 from revisions r where r.entry = e.id and r.number = e.revision) limit 1`,
    [site.id],
  )
  if (entry)
    throw new WisteriaError('invalid', `The archive lacks revision ${entry.revision} of entry ${entry.id}, its newest.`)
  const [publication] = await reader.all<{ entry: string; revision: number }>(
    `select entry, revision from publications p where site = ? and revision is not null
       and not exists (select 1 from revisions r where r.entry = p.entry and r.number = p.revision) limit 1`,
    [site.id],
  )
  if (publication)
    throw new WisteriaError(
      'invalid',
      `The archive lacks revision ${publication.revision} of entry ${publication.entry}, which was published.`,
    )
  const written = await reader.all<{ model_version: number }>(
    'select distinct model_version from revisions where site = ?',
    [site.id],
  )
  const unknown = written.find(({ model_version: version }) => !models.has(version))
  if (unknown) throw new WisteriaError('invalid', `The archive lacks version ${unknown.model_version} of the model.`)
}

/**
 * Writes the published rows of entries whose publications come after a number, each at the times of its publications. Every number is
 * of one entry.
 * @returns the number of the last publication that is done; undefined where none is left.
 */
export async function enactPublications(
  transaction: Transaction,
  { site }: ArchiveTarget,
  after: number,
  size: number,
): Promise<number | undefined> {
  const acts = await transaction.all<{ sequence: number; entry: string; type: string; at: string }>(
    `select p.sequence, p.entry, e.type, max(p.at) as at from publications p join entries e on e.id = p.entry
     where p.site = ? and p.sequence > ? group by p.sequence, p.entry order by p.sequence limit ${size}`,
    [site.id, after],
  )
  for (const { sequence, entry, type: typeId, at } of acts) {
    const type = typeWithId(site.model, typeId)
    if (!type) continue
    const until = await transaction.all<{ layer: string; revision: number | null; document: string | null }>(
      `select p.layer, p.revision, r.document, max(p.id) from publications p
         left join revisions r on r.entry = p.entry and r.number = p.revision
       where p.entry = ? and p.sequence <= ? group by p.layer`,
      [entry, sequence],
    )
    const documents = new Map(until.map(({ revision, document }) => [revision, document]))
    const layers = layersFrom(
      Object.fromEntries(until.flatMap(({ layer, revision }) => (revision === null ? [] : [[layer, revision]]))),
      (revision) => JSON.parse(documents.get(revision)!) as Document,
    )
    await projectPublic(transaction, site, [{ id: entry, type, layers }], at)
  }
  return acts.length === size ? acts.at(-1)!.sequence : undefined
}

/** Writes the rows of some entries in both editions. */
export const buildArchive = (
  transaction: Transaction,
  { site }: ArchiveTarget,
  progress: Progress,
  size: number,
  at: string,
): Promise<Progress> => buildBatch(transaction, site, site, progress, size, at)

/** Gives rows of an edition the times that they had. */
export async function setRowTimes(
  transaction: Transaction,
  target: ArchiveTarget,
  name: 'published' | 'drafts',
  lines: readonly ArchiveLine[],
): Promise<void> {
  const part = archiveParts[name]
  const rows = lines.map((line) => rowOf(part, line, target.actorOf))
  const times = Object.keys(part.members).filter((column) => column !== 'entry' && column !== 'locale')
  await transaction.run(
    `update ${name} set ${times.map((column) => `${column} = v.value ->> '${column}'`).join(', ')} from json_each(?) v
     where projection = ? and entry = v.value ->> 'entry' and locale = v.value ->> 'locale'`,
    [JSON.stringify(rows), target.site.projection],
  )
}

/** What puts an imported site in force. */
export interface ArchiveEnd {
  readonly actor: string
  /** The number of the archive's newest event. */
  readonly sequence: number
  /** The lines of the small parts. */
  readonly lines: Readonly<Partial<Record<PartName, readonly ArchiveLine[]>>>
  readonly added: Added
}

/** One transaction after which the site is what the archive says. */
export async function putArchiveInForce(
  transaction: Transaction,
  environment: Environment,
  target: ArchiveTarget,
  { actor, sequence, lines, added }: ArchiveEnd,
): Promise<void> {
  const { id, model, settingsVersion, projection } = target.site
  const insert = async (name: PartName): Promise<void> =>
    insertArchiveLines(transaction, target, name, lines[name] ?? [], added)
  await transaction.run('delete from settings where site = ?', [id])
  for (const name of ['settings', 'models', 'glossary', 'views', 'frontEnds'] as const) await insert(name)
  await switchProjection(transaction, id, projection)
  await transaction.run(
    'update sites set model_version = ?, settings_version = ?, sequence = max(sequence, ?) where id = ?',
    [model.version, settingsVersion, sequence, id],
  )
  await beginHistoryOf(transaction, id, environment, actor, 0)
  await makeOnlyEntries(transaction, environment, await siteWithId(transaction, id), actor)
  // They come last: what happened so far is not news for them.
  for (const name of ['automations', 'webhooks'] as const) await insert(name)
}

/** Deletes some of what an import has stored on a site. @returns whether anything is left. */
export async function clearArchive(transaction: Transaction, site: string, size: number): Promise<boolean> {
  for (const [table, key] of [
    ['paths', 'path'],
    ['publications', 'id'],
    ['entries', 'id'],
    ['assets', 'id'],
  ] as const) {
    const gone = await transaction.run(
      `delete from ${table} where site = ?1 and ${key} in (select ${key} from ${table} where site = ?1 limit ?2)`,
      [site, size],
    )
    if (gone > 0) return true
  }
  return false
}
