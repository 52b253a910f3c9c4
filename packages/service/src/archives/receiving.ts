import { createWriteStream } from 'node:fs'
import { mkdir, readdir, rm } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import type { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { makeId, WisteriaError } from '@wisteria/core'
import {
  idTaken,
  insertJob,
  isUnused,
  jobWithId,
  markAdoption,
  prepareProjection,
  siteWithId,
  takenIds,
  type AdoptionTask,
  type Job,
  type Reader,
  type Site,
  type Transaction,
} from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import { limitBytes } from '../kernel/limitBytes.js'
import type { ArchiveContent, ArchiveHead } from './form.js'
import { Archive, siteIn } from './opening.js'

/** What an import of an archive does. Its model and its settings are in force once it has ended, as after an adoption. */
export interface ArchiveTask extends AdoptionTask {
  /** The file, on this machine. */
  readonly path: string
  readonly content: ArchiveContent
  readonly settingsVersion: number
  /** The number of the archive's newest event. */
  readonly archiveSequence: number
  /** Whether entries and assets get ids of their own. */
  readonly newIds: boolean
}

/** Where an import is. */
export interface ArchiveCursor {
  readonly phase: string
  /** How many lines, files or publications of the phase are done. */
  readonly at: number
  /** Of building the rows, as the store reads it. */
  readonly building?: unknown
  /** Files that were cleaned when they were stored: what they are now, by the digests that they had. */
  readonly hashes: Readonly<Record<string, { readonly sha256: string; readonly size: number }>>
  /** Why it is being cleared. */
  readonly end?: { readonly state: 'stopped' | 'failed'; readonly message: string }
}

/** The kind of its jobs. */
export const archiveImport = 'siteImport'

const folderOf = (kernel: Kernel): string => join(kernel.options.data, 'archives')

/** An archive that has arrived, and was looked into. */
export interface ReceivedArchive {
  readonly path: string
  readonly head: ArchiveHead
  /** Stores the job that imports it. */
  readonly begin: (transaction: Transaction) => Promise<Job>
  readonly discard: () => Promise<void>
}

/**
 * Stores an archive as it arrives, and looks into it. Nothing of the site is changed.
 * @throws WisteriaError `conflict` where the site has content, or ids are taken; `invalid` where it is no archive; `tooLarge`.
 */
export async function receiveArchive(
  kernel: Kernel,
  site: Site,
  actor: string,
  file: Readable,
  newIds: boolean,
): Promise<ReceivedArchive> {
  await requireUnused(kernel.database, site)
  const id = makeId(kernel.environment)
  const path = join(folderOf(kernel), `${id}.zip`)
  const discard = (): Promise<void> => rm(path, { force: true })
  await mkdir(dirname(path), { recursive: true })
  try {
    const { maxArchive } = kernel.options
    const most = `An archive has at most ${maxArchive} MB here; \`--max-archive\` says how many.`
    await pipeline(file, limitBytes(maxArchive * 1e6, most), createWriteStream(path))
    const archive = await Archive.open(path)
    try {
      if (!newIds) await requireFreeIds(kernel.database, archive)
      const { head } = archive
      const { model, settings } = await siteIn(archive)
      const task = (at: string, sequence: number): ArchiveTask => ({
        what: 'model',
        model,
        settings,
        projection: id,
        at,
        sequence,
        actor,
        files: [],
        consequences: [],
        path,
        content: head.content,
        settingsVersion: head.settingsVersion,
        archiveSequence: head.sequence,
        newIds,
      })
      return { path, head, discard, begin: (transaction) => begin(kernel, transaction, site, id, actor, head, task) }
    } finally {
      archive.close()
    }
  } catch (error) {
    await discard()
    throw error
  }
}

async function begin(
  kernel: Kernel,
  transaction: Transaction,
  { id: siteId }: Site,
  id: string,
  actor: string,
  head: ArchiveHead,
  task: (at: string, sequence: number) => ArchiveTask,
): Promise<Job> {
  const site = await siteWithId(transaction, siteId)
  await requireUnused(transaction, site)
  const all = task(kernel.at, site.sequence + 1)
  const cursor: ArchiveCursor = { phase: 'files', at: 0, hashes: {} }
  const job: Job = {
    id,
    site: site.id,
    kind: archiveImport,
    state: 'running',
    done: 0,
    total: workOf(head),
    task: JSON.stringify(all),
    cursor: JSON.stringify(cursor),
    message: `Importing the archive of ${head.site.label}.`,
    actor,
    createdAt: kernel.at,
    finishedAt: null,
  }
  await insertJob(transaction, job)
  await markAdoption(transaction, site.id, id)
  await prepareProjection(transaction, { ...site, model: all.model, settings: all.settings, projection: id })
  return job
}

/** How much is to be done: every file and line, and the rows of every entry. */
const workOf = ({ files, counts }: ArchiveHead): number =>
  files + Object.values(counts).reduce((sum: number, lines) => sum + (lines ?? 0), 0) + (counts['entries'] ?? 0)

async function requireUnused(reader: Reader, site: Site): Promise<void> {
  if (site.next) throw new WisteriaError('conflict', 'An archive is being imported into this site, or a model adopted.')
  if (!(await isUnused(reader, site)))
    throw new WisteriaError(
      'conflict',
      `An archive is imported into a site without a model, entries and files; ${site.settings.label} has some. Create a site for it.`,
    )
}

/** So many ids are looked for at once. */
const batch = 1_000

async function requireFreeIds(reader: Reader, archive: Archive): Promise<void> {
  for (const table of ['entries', 'assets'] as const) {
    const ids = await archive.values(table, 'id')
    for (let from = 0; from < ids.length; from += batch) {
      const [taken] = await takenIds(reader, table, ids.slice(from, from + batch))
      if (taken !== undefined) throw idTaken(table, taken)
    }
  }
}

/** At the start: deletes archives whose import has ended. */
export async function tidyArchives(kernel: Kernel): Promise<void> {
  for (const name of await readdir(folderOf(kernel)).catch(() => []))
    if ((await jobWithId(kernel.database, name.replace(/\.zip$/, '')))?.state !== 'running')
      await rm(join(folderOf(kernel), name), { force: true })
}
