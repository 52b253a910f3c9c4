import {
  localeTags,
  makeId,
  WisteriaError,
  typeWithId,
  withDefaults,
  type Consequence,
  type Model,
  type SiteSettings,
} from '@wisteria/core'
import {
  Act,
  addFactIndexes,
  asAdopted,
  beginning,
  buildBatch,
  clearShelf,
  differenceOf,
  forgetMerging,
  insertEntry,
  movePaths,
  onlyEntryOf,
  prepareShelf,
  refuseLosses,
  siteWithId,
  touchedSince,
  withdrawLocales,
  writeDraftRows,
  type AdoptionTask,
  type JobRow,
  type Progress,
  type Site,
  type Transaction,
} from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import type { JobKind } from '../jobs/jobs.js'

/** Up to so many entries another model is adopted at once; above, as a job. */
const atOnce = 300

/** How long one batch of a job may keep others from writing, in milliseconds; its size follows. */
const batchTime = 50
const maxBatch = 500

/** What is to be in force. */
export interface Wanted {
  readonly what: 'model' | 'settings'
  readonly model: Model
  readonly settings: SiteSettings
  /** Of a model: its files, and what was said that adopting them would do. */
  readonly files?: string
  readonly consequences?: readonly Consequence[]
}

interface Task extends AdoptionTask {
  /** The number of the first event since it began. */
  readonly sequence: number
  readonly files: string
  readonly consequences: readonly Consequence[]
  readonly actor: string
}

interface Cursor {
  readonly phase: 'building' | 'clearing'
  readonly progress: Progress
  /** The shelf that is left, while it is being cleared. */
  readonly old: string
  readonly size: number
}

/**
 * Puts another model or other settings in force: at once where there is little to rebuild, or as a job.
 * @returns the job, when it became one.
 */
export async function beginAdoption(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  actor: string,
  wanted: Wanted,
): Promise<JobRow | undefined> {
  requireNoAdoption(site)
  const [{ total }] = (await transaction.all<{ total: number }>(
    'select count(*) as total from entries where site = ?',
    [site.id],
  )) as [{ total: number }]
  const id = makeId(kernel.environment)
  const task: Task = {
    what: wanted.what,
    model: wanted.model,
    settings: wanted.settings,
    shelf: id,
    at: kernel.at,
    sequence: site.sequence + 1,
    actor,
    files: wanted.files ?? '[]',
    consequences: wanted.consequences ?? [],
  }
  const next = asAdopted(site, task.model, task.settings, task.shelf)
  await transaction.run('delete from proposals where site = ?', [site.id])
  await prepareShelf(transaction, next)
  if (total <= atOnce) {
    let progress = beginning
    while (progress.phase !== 'built') progress = await buildBatch(transaction, site, next, progress, atOnce, task.at)
    await switchTo(kernel, transaction, site, next, task, progress)
    while (await clearShelf(transaction, site.shelf, atOnce)) continue
    return undefined
  }
  const cursor: Cursor = { phase: 'building', progress: beginning, old: site.shelf, size: 20 }
  const job: JobRow = {
    id, site: site.id, kind: 'adoption', state: 'running', done: 0, total, task: JSON.stringify(task), cursor: JSON.stringify(cursor),
    message: task.what === 'model' ? `Adopting version ${task.model.version} of the model.` : 'Putting other settings in force.',
    actor, created_at: task.at, finished_at: null,
  } // prettier-ignore
  await transaction.tables.jobs.create(job)
  await transaction.run('update sites set adoption = ? where id = ?', [id, site.id])
  return job
}

/** @throws WisteriaError `conflict` while another adoption is under way. */
export function requireNoAdoption(site: Site): void {
  if (site.next)
    throw new WisteriaError(
      'conflict',
      `Another ${site.next.model.version === site.model.version ? 'change of the settings' : 'model'} is being adopted just now. Wait until that job has ended, then compare again.`,
    )
}

/** One short transaction: from here on everybody reads the next shelf. */
async function switchTo(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  next: Site,
  task: Task,
  progress: Progress,
): Promise<void> {
  const touched = await touchedSince(transaction, site, task.at, task.sequence)
  await requireNothingLost(transaction, site, next, touched)
  const change = await differenceOf(transaction, site, next, progress, touched)
  await movePaths(transaction, site, next, progress, touched, task.at)
  const act = new Act(transaction, site, task.actor, kernel.environment)
  if (task.what === 'model') {
    await transaction.tables.models.create({
      site: site.id, version: task.model.version, model: JSON.stringify(task.model), files: task.files, consequences: JSON.stringify(task.consequences),
      sequence: act.sequence, at: task.at, actor: task.actor,
    }) // prettier-ignore
    await transaction.run('update sites set model_version = ? where id = ?', [task.model.version, site.id])
  } else {
    const version = site.settingsVersion + 1
    await transaction.tables.settings.create({
      site: site.id,
      version,
      settings: JSON.stringify(task.settings),
      sequence: act.sequence,
      at: task.at,
      actor: task.actor,
    })
    await transaction.run('update sites set settings_version = ? where id = ?', [version, site.id])
    const stays = localeTags(task.settings)
    const gone = localeTags(site.settings).filter((tag) => !stays.includes(tag))
    await withdrawLocales(transaction, site, gone, { ...act, sequence: act.sequence })
  }
  await transaction.run('update sites set shelf = ?, adoption = null where id = ?', [next.shelf, site.id])
  if ((task.model.conversions?.length ?? 0) > (site.model.conversions?.length ?? 0))
    await forgetMerging(transaction, site.id)
  // An entry of a type that is gone goes with it: only types with exactly one entry may go while they have it.
  for (const type of site.model.types)
    if (!typeWithId(next.model, type.id))
      await transaction.run('delete from entries where site = ? and type = ?', [site.id, type.id])
  await act.tell(
    task.what === 'model' ? 'model.adopted' : 'settings.changed',
    task.what === 'model' ? { modelVersion: task.model.version } : {},
    change,
  )
  await makeOnlyEntries(kernel, transaction, await siteWithId(transaction, site.id), task.actor)
}

/** What was written while rows were being built may hold what cannot be converted. */
async function requireNothingLost(
  transaction: Transaction,
  site: Site,
  next: Site,
  touched: readonly { readonly id: string; readonly type: string }[],
): Promise<void> {
  const typed = touched.flatMap(({ id, type: typeId }) => {
    const type = typeWithId(next.model, typeId)
    return type ? [{ id, type }] : []
  })
  await refuseLosses(transaction, site, next, typed)
}

/** Types with exactly one entry have it from the beginning. */
async function makeOnlyEntries(kernel: Kernel, transaction: Transaction, site: Site, actor: string): Promise<void> {
  for (const type of site.model.types) {
    if (type.cardinality !== 'one' || (await onlyEntryOf(transaction, site, type.id)) !== undefined) continue
    const moment = { now: kernel.now, timeZone: site.settings.timeZone }
    const document = withDefaults(site.model, type, {}, site.settings, moment, kernel.environment.random)
    const act = new Act(transaction, await siteWithId(transaction, site.id), actor, kernel.environment)
    const copy = await insertEntry(transaction, site, { id: makeId(kernel.environment), type, document }, actor, act.at)
    await writeDraftRows(transaction, site, type, copy, document, { layers: undefined, withdrawn: [] }, act.at)
    await act.tell('entry.created', { entry: { id: copy.id, type: type.name }, version: copy.version })
  }
}

/** An adoption as a job: batches, the switch, then clearing the shelf that is left. */
export const adoptionJob = (kernel: Kernel): JobKind => ({
  permission: 'model.change',
  step: (job) =>
    kernel.write(async (transaction) => {
      const cursor = JSON.parse(job.cursor) as Cursor
      const [current] = await transaction.all<JobRow>('select * from jobs where id = ?', [job.id])
      if (current?.state !== 'running') return false
      if (cursor.phase === 'clearing') {
        const before = performance.now()
        const more = await clearShelf(transaction, cursor.old, cursor.size)
        if (!more)
          await transaction.run("update jobs set state = 'done', finished_at = ? where id = ?", [kernel.at, job.id])
        else await keep(transaction, job, { ...cursor, size: nextSize(cursor.size, before) }, job.total)
        return more
      }
      const site = await siteWithId(transaction, job.site)
      const task = JSON.parse(job.task) as Task
      const next = asAdopted(site, task.model, task.settings, task.shelf)
      if (cursor.progress.phase === 'built') {
        await switchTo(kernel, transaction, site, next, task, cursor.progress)
        await keep(transaction, job, { ...cursor, phase: 'clearing' }, job.total)
        return true
      }
      const before = performance.now()
      const progress = await buildBatch(transaction, site, next, cursor.progress, cursor.size, task.at)
      const size = nextSize(cursor.size, before)
      await keep(transaction, job, { ...cursor, progress, size }, Math.min(progress.done, job.total))
      return true
    }),
  abandon: async (job, state, message) => {
    const task = JSON.parse(job.task) as Task
    await kernel.write(async (transaction) => {
      const site = await siteWithId(transaction, job.site)
      if (site.shelf === task.shelf && state === 'stopped')
        throw new WisteriaError(
          'conflict',
          'It is in force already; only what was there before is still being cleared away.',
        )
      await transaction.run('update jobs set state = ?, message = ?, finished_at = ? where id = ?', [
        state,
        message,
        kernel.at,
        job.id,
      ])
      await transaction.run('update sites set adoption = null where id = ? and adoption = ?', [job.site, job.id])
    })
    // What was built so far is cleared bit by bit, while others write in between.
    await clearLeftShelf(kernel, task.shelf)
  },
})

/** Clears rows that nobody reads any more, in transactions as short as those of a job. Rows in use stay. */
async function clearLeftShelf(kernel: Kernel, shelf: string): Promise<void> {
  let [size, isLeft] = [20, true]
  while (isLeft && !kernel.ending.signal.aborted) {
    const before = performance.now()
    isLeft = await kernel.write(async (transaction) => {
      const inUse = await transaction.all('select 1 from sites where shelf = ?1 or adoption = ?1', [shelf])
      return inUse.length === 0 && (await clearShelf(transaction, shelf, size))
    })
    size = nextSize(size, before)
  }
}

/** Clears what a crash left of an adoption that was stopped. */
export async function clearLeftShelves(kernel: Kernel): Promise<void> {
  for (const table of ['published', 'drafts'])
    for (let after: string | null = ''; after !== null;) {
      const rows: { shelf: string | null }[] = await kernel.database.all(`select min(shelf) as shelf from ${table} where shelf > ?`, [after]) // prettier-ignore
      after = rows[0]!.shelf
      if (after !== null) await clearLeftShelf(kernel, after)
    }
}

/** How much the next step does, after one that began at a time: as much as fits into a batch's time. */
function nextSize(size: number, began: number): number {
  const fitting = batchTime / Math.max(1, performance.now() - began)
  return Math.max(1, Math.min(maxBatch, Math.round(size * Math.max(0.5, Math.min(2, fitting)))))
}

async function keep(transaction: Transaction, job: JobRow, cursor: Cursor, done: number): Promise<void> {
  await transaction.run('update jobs set cursor = ?, done = ? where id = ?', [JSON.stringify(cursor), done, job.id])
}

/** Makes sure, at the start, that every site's shelf has its indexes: a migration may have made its tables anew. */
export async function ensureIndexes(kernel: Kernel): Promise<void> {
  const sites = await kernel.database.all<{ id: string }>('select id from sites')
  for (const { id } of sites)
    await kernel.write(async (transaction) => {
      const site = await siteWithId(transaction, id)
      await addFactIndexes(transaction, site.model)
    })
}
