import {
  absorbs,
  typeWithId,
  upgradeDocument,
  type ContentType,
  type Document,
  type Edit,
  type Freshness,
  type Origins,
  type State,
} from '@wisteria/core'
import type { Reader, Transaction } from '../connection/reader.js'
import { insertMany } from '../connection/inserting.js'
import type { Site } from '../sites/sites.js'
import type { EntryRow, RevisionRow } from '../tables/tables.js'

/** The states of a working copy, by locale. */
export interface DraftStanding {
  readonly states: Readonly<Record<string, State>>
  readonly freshness: Readonly<Record<string, Freshness>>
  readonly paths: Readonly<Record<string, string>>
  /** Whether any path of it differs from before. */
  readonly moved: boolean
}

/** An entry with its working copy. */
export interface WorkingCopy {
  readonly id: string
  readonly type: ContentType
  readonly version: number
  /** The number of the newest revision, which is the working copy. */
  readonly revision: number
  readonly document: Document
  /** What its translated units were made from; undefined where no save has recorded it. */
  readonly origins: Origins | undefined
  readonly createdAt: string
  readonly createdBy: string
  readonly updatedAt: string
  readonly updatedBy: string
  /** When it was archived; null while it is in use. */
  readonly archivedAt: string | null
  /** Null for the main region. Only types that are regional have others. */
  readonly region: string | null
  /** Of a counterpart: where it comes from. */
  readonly counterpart: CounterpartSource | null
  /** The first of all its counterparts, which may be itself; null without any. */
  readonly counterpartRoot: string | null
  readonly newest: { readonly author: string; readonly updatedAt: string; readonly sealedAt: string | null }
  /** The states in its rows of the draft edition, if these were just written. */
  readonly standing?: DraftStanding | undefined
}

/** The source of a counterpart in another region. */
export interface CounterpartSource {
  /** The entry that it was copied from. */
  readonly of: string
  /** The revision of the source that was taken last. */
  readonly revision: number
}

export async function workingCopyOf(reader: Reader, site: Site, id: string): Promise<WorkingCopy | undefined> {
  return (await workingCopiesOf(reader, site, [id])).get(id)
}

/** An entry that lies in the bin. */
export async function binnedCopyOf(reader: Reader, site: Site, id: string): Promise<WorkingCopy | undefined> {
  return (await workingCopiesOf(reader, site, [id], 'binned')).get(id)
}

/** Some entries with their working copies, by id; ids that are not on the site, or whose type is removed, are left out. */
export async function workingCopiesOf(
  reader: Reader,
  site: Site,
  ids: readonly string[],
  which: 'kept' | 'binned' = 'kept',
): Promise<Map<string, WorkingCopy>> {
  const rows = await reader.all<
    EntryRow &
      Pick<RevisionRow, 'document' | 'model_version' | 'author' | 'sealed_at' | 'origins'> & { revised_at: string }
  >(
    `select e.*, r.document, r.origins, r.model_version, r.author, r.sealed_at, r.updated_at as revised_at
     from entries e join revisions r on r.entry = e.id and r.number = e.revision
     where e.id in (select value from json_each(?)) and +e.site = ? and e.deleted_at is ${which === 'kept' ? '' : 'not '}null`,
    [JSON.stringify(ids), site.id],
  )
  return new Map(
    rows.flatMap((row): [string, WorkingCopy][] => {
      const type = typeWithId(site.model, row.type)
      if (!type) return []
      const document = upgradeDocument(site.model, type, JSON.parse(row.document) as Document, row.model_version)
      return [
        [
          row.id,
          {
            id: row.id,
            type,
            version: row.version,
            revision: row.revision,
            document,
            origins: row.origins === null ? undefined : (JSON.parse(row.origins) as Origins),
            createdAt: row.created_at,
            createdBy: row.created_by,
            updatedAt: row.updated_at,
            updatedBy: row.updated_by,
            archivedAt: row.archived_at,
            region: row.region,
            counterpart: counterpartIn(row),
            counterpartRoot: row.counterpart_root,
            newest: { author: row.author, updatedAt: row.revised_at, sealedAt: row.sealed_at },
          },
        ],
      ]
    }),
  )
}

const counterpartIn = (row: Pick<EntryRow, 'counterpart_of' | 'counterpart_revision'>): CounterpartSource | null =>
  row.counterpart_of === null ? null : { of: row.counterpart_of, revision: row.counterpart_revision! }

/** An entry before it is stored. */
export interface NewEntry {
  readonly id: string
  readonly type: ContentType
  readonly document: Document
  readonly origins: Origins
  readonly region?: string | null | undefined
  readonly counterpart?: CounterpartSource | null | undefined
  readonly counterpartRoot?: string | null | undefined
}

/** Stores entries with their first revisions, all at once. */
export async function insertEntries(
  transaction: Transaction,
  site: Site,
  entries: readonly NewEntry[],
  author: string,
  at: string,
): Promise<WorkingCopy[]> {
  const heads: EntryRow[] = []
  const first: RevisionRow[] = []
  const copies: WorkingCopy[] = []
  for (const entry of entries) {
    const { id, type, document, origins, region = null, counterpart = null, counterpartRoot = null } = entry
    heads.push({
      id,
      site: site.id,
      type: type.id,
      version: 1,
      revision: 1,
      created_at: at,
      created_by: author,
      updated_at: at,
      updated_by: author,
      mergeable_from: 1,
      archived_at: null,
      deleted_at: null,
      deleted_by: null,
      region,
      counterpart_of: counterpart?.of ?? null,
      counterpart_root: counterpartRoot,
      counterpart_revision: counterpart?.revision ?? null,
    })
    first.push({
      entry: id,
      number: 1,
      site: site.id,
      document: JSON.stringify(document),
      model_version: site.model.version,
      version: 1,
      author,
      created_at: at,
      updated_at: at,
      sealed_at: null,
      origins: JSON.stringify(origins),
    })
    copies.push({
      id,
      type,
      version: 1,
      revision: 1,
      document,
      origins,
      createdAt: at,
      createdBy: author,
      updatedAt: at,
      updatedBy: author,
      archivedAt: null,
      region,
      counterpart,
      counterpartRoot,
      newest: { author, updatedAt: at, sealedAt: null },
    })
  }
  await insertMany(transaction, 'entries', heads)
  await insertMany(transaction, 'revisions', first)
  return copies
}

/**
 * Stores a save: into the open revision of the same sitting, or as the first of a new one. Stores the edits too, to merge against.
 * @param originsIn the origins of its translated units, by the number of the revision that it writes.
 * @param keepsNewest whether the newest revision must stay as it is.
 */
export async function storeSave(
  transaction: Transaction,
  site: Site,
  copy: WorkingCopy,
  document: Document,
  originsIn: (revision: number) => Origins,
  edits: readonly Edit[],
  author: string,
  at: string,
  keepsNewest = false,
): Promise<WorkingCopy> {
  const version = copy.version + 1
  const text = JSON.stringify(document)
  const isAbsorbed = !keepsNewest && absorbs(copy.newest, author, Date.parse(at))
  const revision = isAbsorbed ? copy.revision : copy.revision + 1
  const origins = originsIn(revision)
  if (isAbsorbed)
    await transaction.run(
      'update revisions set document = ?, origins = ?, model_version = ?, version = ?, updated_at = ? where entry = ? and number = ?',
      [text, JSON.stringify(origins), site.model.version, version, at, copy.id, revision],
    )
  else {
    await sealNewest(transaction, copy, at)
    await insertMany(transaction, 'revisions', [
      {
        entry: copy.id,
        number: revision,
        site: site.id,
        document: text,
        model_version: site.model.version,
        version,
        author,
        created_at: at,
        updated_at: at,
        sealed_at: null,
        origins: JSON.stringify(origins),
      },
    ])
  }
  const save = { entry: copy.id, version, site: site.id, edits: JSON.stringify(edits), author, at }
  await insertMany(transaction, 'saves', [save])
  await transaction.run('update entries set version = ?, revision = ?, updated_at = ?, updated_by = ? where id = ?', [
    version,
    revision,
    at,
    author,
    copy.id,
  ])
  return {
    ...copy,
    version,
    revision,
    document,
    origins,
    updatedAt: at,
    updatedBy: author,
    newest: { author, updatedAt: at, sealedAt: null },
    standing: undefined,
  }
}

/** Seals the newest revision, if it is still open: it never changes again, and the next save begins another. */
export async function sealNewest(transaction: Transaction, copy: WorkingCopy, at: string): Promise<WorkingCopy> {
  await transaction.run('update revisions set sealed_at = ? where entry = ? and number = ? and sealed_at is null', [
    at,
    copy.id,
    copy.revision,
  ])
  return { ...copy, newest: { ...copy.newest, sealedAt: copy.newest.sealedAt ?? at } }
}

/** Raises the version without changing the working copy, as a publish does. */
export async function raiseVersion(transaction: Transaction, copy: WorkingCopy): Promise<WorkingCopy> {
  const version = copy.version + 1
  await transaction.run('update entries set version = ? where id = ?', [version, copy.id])
  return { ...copy, version, standing: undefined }
}

/** A save that was made since some version, with who made it. */
export interface KeptSave {
  readonly version: number
  readonly edits: readonly Edit[]
  readonly author: string
  readonly at: string
}

/** The saves after a version; undefined when some of them are no longer kept. A publish raises the version without edits. */
export async function savesSince(reader: Reader, entry: string, version: number): Promise<KeptSave[] | undefined> {
  const [row] = await reader.all<{ mergeable_from: number }>('select mergeable_from from entries where id = ?', [entry])
  if (!row || version < row.mergeable_from) return undefined
  const saves = await reader.all<{ version: number; edits: string; author: string; at: string }>(
    'select version, edits, author, at from saves where entry = ? and version > ? order by version',
    [entry, version],
  )
  return saves.map((save) => ({ ...save, edits: JSON.parse(save.edits) as Edit[] }))
}

/** Makes every base older than now too old to merge with: after a conversion, earlier edits have another form. */
export async function forgetMerging(transaction: Transaction, site: string): Promise<void> {
  await transaction.run('update entries set mergeable_from = version where site = ?', [site])
  await transaction.run('delete from saves where site = ?', [site])
}

/** Archives an entry, or reactivates it. Raises its version, so that open editors notice. */
export async function setArchived(
  transaction: Transaction,
  copy: WorkingCopy,
  at: string | null,
): Promise<WorkingCopy> {
  const raised = await raiseVersion(transaction, copy)
  await transaction.run('update entries set archived_at = ? where id = ?', [at, copy.id])
  return { ...raised, archivedAt: at }
}

/** The entry of a type that has exactly one. */
export async function onlyEntryOf(reader: Reader, site: Site, type: string): Promise<string | undefined> {
  const [row] = await reader.all<{ id: string }>(
    'select id from entries where site = ? and type = ? order by id limit 1',
    [site.id, type],
  )
  return row?.id
}

/** The internal id of an entry's type, even if the rest of it cannot be read; undefined where there is no such entry. */
export async function typeOfEntry(reader: Reader, id: string): Promise<string | undefined> {
  const [row] = await reader.all<{ type: string }>('select type from entries where id = ?', [id])
  return row?.type
}

/** How many entries a site has, those in the bin among them. */
export async function countEntriesOnSite(reader: Reader, site: string): Promise<number> {
  const [row] = await reader.all<{ total: number }>('select count(*) as total from entries where site = ?', [site])
  return row!.total
}

/** Deletes the entries of a type permanently, with their history. */
export async function deleteEntriesOfType(transaction: Transaction, site: string, type: string): Promise<void> {
  await transaction.run('delete from entries where site = ? and type = ?', [site, type])
}

/** How many entries of each type a site has: those in use or archived, and those in the bin. */
export const countEntriesByType = (
  reader: Reader,
  site: string,
): Promise<{ readonly type: string; readonly kept: number; readonly binned: number }[]> =>
  reader.all(
    'select type, count(*) - count(deleted_at) as kept, count(deleted_at) as binned from entries where site = ? group by type',
    [site],
  )

/** Who changed some entries last, and when, by id. */
export async function lastChangesOf(
  reader: Reader,
  ids: readonly string[],
): Promise<Map<string, { readonly updatedAt: string; readonly updatedBy: string }>> {
  const rows = await reader.all<{ id: string; updatedAt: string; updatedBy: string }>(
    'select id, updated_at as updatedAt, updated_by as updatedBy from entries where id in (select value from json_each(?))',
    [JSON.stringify(ids)],
  )
  return new Map(rows.map(({ id, ...change }) => [id, change]))
}
