import { rm } from 'node:fs/promises'
import { elsewhere, makeId, nameOfElsewhere, WisteriaError, type Model } from '@wisteria/core'
import {
  accountsWithEmails,
  buildArchive,
  clearArchive,
  endJob,
  enactPublications,
  firstBatch,
  insertArchiveLines,
  jobWithId,
  keepJobProgress,
  markAdoption,
  nextBatch,
  putArchiveInForce,
  requireWhole,
  setRowTimes,
  siteWithId,
  unbuilt,
  type Added,
  type ArchiveLine,
  type ArchiveTarget,
  type Job,
  type PartName,
  type Progress,
  type Transaction,
} from '@wisteria/store'
import { callerOfActor } from '../access/actors.js'
import { keepFile } from '../assets/files.js'
import type { JobKind } from '../jobs/jobs.js'
import type { Kernel } from '../kernel/kernel.js'
import { perKernel } from '../kernel/perKernel.js'
import { makeWebhookSecret } from '../outgoing/signing.js'
import { fileOf } from './form.js'
import { Archive } from './opening.js'
import { archiveImport, type ArchiveCursor, type ArchiveTask } from './receiving.js'

/** How many lines one step stores, and how many characters they have at most. */
const linesAtOnce = 200
const charactersAtOnce = 1_000_000

/** The phases of an import whose lines are stored one by one, in their order. */
const stored = ['assets', 'assetRevisions', 'entries', 'revisions', 'publications', 'paths'] as const
/** The parts that are stored at the end, as a whole. */
const small = ['settings', 'models', 'glossary', 'views', 'frontEnds', 'automations', 'webhooks'] as const

const phases = ['files', ...stored, 'check', 'enacted', 'rows', 'published', 'drafts', 'end'] as const
type Phase = (typeof phases)[number]
const phaseAfter = (phase: Phase): Phase => phases[phases.indexOf(phase) + 1]!

/** An archive that is open for an import, between its steps. */
interface OpenImport {
  readonly archive: Archive
  readonly task: ArchiveTask
  readonly target: ArchiveTarget
  /** The names of its files, with the digests of their bytes. */
  readonly files: readonly (readonly [hash: string, name: string])[]
  /** The media types that the archive says of each file, by digest. */
  readonly mediaTypes: ReadonlyMap<string, string>
  /** The part that is being read, and the lines that were read ahead of what is stored. */
  reading: { readonly part: PartName; at: number; readonly lines: AsyncGenerator<Numbered> } | undefined
}
type Numbered = { readonly line: ArchiveLine; readonly number: number }

const openImports = perKernel(() => new Map<string, OpenImport>())

/** Imports an archive into a site that has nothing yet, in short transactions; a last one puts it in force. */
export const archiveImportJob = (kernel: Kernel): JobKind => ({
  name: archiveImport,
  permission: 'site.archive',
  step: async (job) => {
    const current = await jobWithId(kernel.database, job.id)
    if (current?.state !== 'running') return false
    const cursor = JSON.parse(current.cursor) as ArchiveCursor
    if (cursor.end) return clear(kernel, current, cursor.end)
    const open = await openedImport(kernel, current)
    return step(kernel, open, current, cursor)
  },
  abandon: async (job, state, message) => {
    forget(kernel, job)
    const current = (await jobWithId(kernel.database, job.id)) ?? job
    const cursor = JSON.parse(current.cursor) as ArchiveCursor
    const end = cursor.end ?? { state, message }
    await kernel.write((transaction) =>
      keepJobProgress(transaction, job.id, current.done, JSON.stringify({ ...cursor, end })),
    )
    kernel.jobs.wake()
  },
})

/** Deletes what was stored, a piece at a time; then the job has ended. */
function clear(kernel: Kernel, job: Job, { state, message }: NonNullable<ArchiveCursor['end']>): Promise<boolean> {
  return kernel.write(async (transaction) => {
    if (await clearArchive(transaction, job.site, linesAtOnce)) return true
    await markAdoption(transaction, job.site, null, job.id)
    await endJob(transaction, job.id, { state, at: kernel.at, message: `${message} Nothing of the archive is here.` })
    transaction.touch('clearing')
    await rm((JSON.parse(job.task) as ArchiveTask).path, { force: true })
    return false
  })
}

async function step(kernel: Kernel, open: OpenImport, job: Job, cursor: ArchiveCursor): Promise<boolean> {
  const { target, task } = open
  const phase = cursor.phase as Phase
  /** Does work and records how far it is, in one transaction. */
  const write = (work: (transaction: Transaction) => Promise<Partial<ArchiveCursor> & { readonly done?: number }>) =>
    kernel.write(async (transaction) => {
      if ((await jobWithId(transaction, job.id))?.state !== 'running') return false
      const { done = 0, ...next } = await work(transaction)
      const moved: ArchiveCursor = { ...cursor, building: undefined, ...next }
      await keepJobProgress(transaction, job.id, Math.min(job.total, job.done + done), JSON.stringify(moved))
      return true
    }, true)
  const onward = { phase: phaseAfter(phase), at: 0 }
  switch (phase) {
    case 'files': {
      const next = await storeFile(kernel, open, cursor)
      return write(async () => (next ? { ...next, done: 1 } : onward))
    }
    case 'assets':
    case 'assetRevisions':
    case 'entries':
    case 'revisions':
    case 'publications':
    case 'paths': {
      const lines = await take(open, phase, cursor.at)
      if (lines.length === 0) return write(async () => onward)
      const hashed = phase.startsWith('asset')
        ? lines.map(({ line }) => withHash(line, cursor.hashes))
        : lines.map(({ line }) => line)
      return write(async (transaction) => {
        await atLine(phase, lines[0]!.number, lines.at(-1)!.number, () =>
          insertArchiveLines(transaction, target, phase, hashed),
        )
        return { at: cursor.at + lines.length, done: lines.length }
      })
    }
    case 'check':
      await requireWhole(kernel.database, target)
      return write(async () => onward)
    case 'enacted': {
      if (task.content === 'everything') return write(async () => onward)
      return write(async (transaction) => {
        const last = await enactPublications(transaction, target, cursor.at, firstBatch)
        return last === undefined ? onward : { at: last }
      })
    }
    case 'rows': {
      const { progress, size } = (cursor.building ?? { progress: unbuilt, size: firstBatch }) as {
        readonly progress: Progress
        readonly size: number
      }
      const began = performance.now()
      return write(async (transaction) => {
        const now = await buildArchive(transaction, target, progress, size, task.at)
        const done = now.done - progress.done
        if (now.phase === 'built') return { ...onward, done }
        return { building: { progress: { ...now, changed: [] }, size: nextBatch(size, began) }, done }
      })
    }
    case 'published':
    case 'drafts': {
      const lines = task.content === 'everything' ? await take(open, phase, cursor.at) : []
      if (lines.length === 0) return write(async () => onward)
      return write(async (transaction) => {
        await setRowTimes(
          transaction,
          target,
          phase,
          lines.map(({ line }) => line),
        )
        return { at: cursor.at + lines.length, done: lines.length }
      })
    }
    case 'end':
      return end(kernel, open, job)
  }
}

async function end(kernel: Kernel, open: OpenImport, job: Job): Promise<boolean> {
  const { archive, target, task } = open
  const lines: Partial<Record<PartName, readonly ArchiveLine[]>> = {}
  for (const part of small) lines[part] = await archive.all(part)
  // A view of one's own is seen by nobody whose owner is not here.
  lines.views = (lines.views ?? []).filter(
    ({ shared, owner }) => shared === true || nameOfElsewhere(target.actorOf(String(owner))) === undefined,
  )
  await kernel.write(async (transaction) => {
    if ((await jobWithId(transaction, job.id))?.state !== 'running') return
    await putArchiveInForce(transaction, kernel.environment, target, {
      actor: job.actor,
      sequence: task.archiveSequence,
      lines,
      added: addedTo(kernel),
    })
    const entries = archive.head.counts['entries'] ?? 0
    const message = `${target.site.settings.label} is here, with ${entries} ${entries === 1 ? 'entry' : 'entries'}.`
    await endJob(transaction, job.id, { state: 'done', at: kernel.at, message, done: job.total })
  })
  forget(kernel, job)
  await rm(task.path, { force: true })
  return false
}

/** Ids and secrets are made anew. Nothing is sent to anybody before somebody switches it on. */
const addedTo =
  (kernel: Kernel): Added =>
  (part) => {
    const id = { id: makeId(kernel.environment) }
    const secret = (): string => makeWebhookSecret(kernel.environment.random)
    switch (part) {
      case 'views':
      case 'frontEnds':
        return id
      case 'automations':
        return { ...id, enabled: 0, secret: secret(), secrets: '{}', next_at: null }
      case 'webhooks':
        return {
          ...id,
          enabled: 0,
          secrets: JSON.stringify([{ secret: secret(), createdAt: kernel.at, until: null }]),
          headers: '{}',
        }
      default:
        return {}
    }
  }

/** The import of a job, opened again after a restart. */
async function openedImport(kernel: Kernel, job: Job): Promise<OpenImport> {
  const opened = openImports(kernel).get(job.id)
  if (opened) return opened
  const task = JSON.parse(job.task) as ArchiveTask
  const archive = await Archive.open(task.path)
  if (task.newIds)
    archive.rename([...(await archive.values('entries', 'id')), ...(await archive.values('assets', 'id'))], job.id)
  const { model, settings, settingsVersion, projection } = task
  const site = { ...(await siteWithId(kernel.database, job.site)), model, settings, settingsVersion, projection }
  const models = (await archive.all('models')).map((line) => line['model'] as Model)
  const open: OpenImport = {
    archive,
    task,
    target: {
      site,
      models: new Map(models.map((one) => [one.version, one])),
      actorOf: await actorsHere(kernel, archive, job),
    },
    files: [...archive.files],
    mediaTypes: await mediaTypesIn(archive),
    reading: undefined,
  }
  openImports(kernel).set(job.id, open)
  return open
}

function forget(kernel: Kernel, job: Job): void {
  openImports(kernel).get(job.id)?.archive.close()
  openImports(kernel).delete(job.id)
}

/** Files that assets have or had, with their media types. @throws WisteriaError `invalid` where the archive lacks one. */
async function mediaTypesIn(archive: Archive): Promise<ReadonlyMap<string, string>> {
  const [files, missing] = [archive.files, new Set(archive.head.missingFiles)]
  const mediaTypes = new Map<string, string>()
  for (const part of ['assets', 'assetRevisions'] as const)
    for await (const { line, number } of archive.lines(part)) {
      const hash = String(line['sha256'])
      if (!files.has(hash) && !missing.has(hash))
        throw new WisteriaError('invalid', `${fileOf(part)}, line ${number}: the archive lacks the file ${hash}.`)
      mediaTypes.set(hash, String(line['mediaType']))
    }
  return mediaTypes
}

/** Who the people of an archive are here: the account with the same e-mail, if the importer may know it. */
async function actorsHere(kernel: Kernel, archive: Archive, job: Job): Promise<ArchiveTarget['actorOf']> {
  const people = await archive.people()
  const site = await siteWithId(kernel.database, job.site)
  const caller = await callerOfActor(kernel, job.actor, site)
  const accounts = await accountsWithEmails(
    kernel.database,
    people.flatMap(({ email }) => email ?? []),
    caller.is === 'member' && caller.operator === true ? undefined : job.site,
  )
  const here = new Map(
    people.map(({ actor, name, email }) => {
      const account = email === undefined ? undefined : accounts.get(email.toLowerCase())
      return [actor, account === undefined ? elsewhere(name) : `account:${account}`]
    }),
  )
  const isNobodyElse = (actor: string): boolean => actor === 'service' || nameOfElsewhere(actor) !== undefined
  return (actor) => here.get(actor) ?? (isNobodyElse(actor) ? actor : elsewhere(''))
}

/** Some lines of a part, from one on. */
async function take(open: OpenImport, part: PartName, from: number): Promise<Numbered[]> {
  if (open.reading?.part !== part || open.reading.at !== from) {
    await open.reading?.lines.return(undefined)
    open.reading = { part, at: from, lines: open.archive.lines(part, from) }
  }
  const { reading } = open
  const lines: Numbered[] = []
  let characters = 0
  while (lines.length < linesAtOnce && characters < charactersAtOnce) {
    const next = await reading.lines.next()
    if (next.done) break
    lines.push(next.value)
    characters += part === 'revisions' ? JSON.stringify(next.value.line).length : 0
  }
  reading.at += lines.length
  return lines
}

/** Says in which lines of a part an error is. */
async function atLine(part: PartName, first: number, last: number, work: () => Promise<void>): Promise<void> {
  try {
    await work()
  } catch (error) {
    if (!(error instanceof WisteriaError)) throw error
    const where = `${fileOf(part)}, ${first === last ? `line ${first}` : `lines ${first} to ${last}`}`
    throw new WisteriaError(error.code, `${where}: ${error.message}`)
  }
}

const withHash = (line: ArchiveLine, hashes: ArchiveCursor['hashes']): ArchiveLine => {
  return { ...line, ...hashes[String(line['sha256'])] }
}

/** Stores the next file. @returns how far the files are; undefined where all are done. */
async function storeFile(
  kernel: Kernel,
  { archive, files, mediaTypes }: OpenImport,
  { at, hashes }: ArchiveCursor,
): Promise<Pick<ArchiveCursor, 'at' | 'hashes'> | undefined> {
  const entry = files[at]
  if (!entry) return undefined
  const [hash, name] = entry
  const mediaType = mediaTypes.get(hash)
  const content = mediaType === undefined ? undefined : await archive.file(name)
  if (!content) return { at: at + 1, hashes }
  const kept = await keepFile(kernel, name, content)
  if (kept.mediaType !== mediaType)
    throw new WisteriaError('invalid', `${name} is ${kept.mediaType}, and not ${mediaType}.`)
  // A drawing is cleaned again, by the rules of this version.
  if (kept.hash !== hash && mediaType !== 'image/svg+xml')
    throw new WisteriaError('invalid', `${name} has other bytes than its name says: it is damaged.`)
  const cleaned = { sha256: kept.hash, size: kept.size }
  return { at: at + 1, hashes: kept.hash === hash ? hashes : { ...hashes, [hash]: cleaned } }
}
