import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { binKeptDays, savesKeptDays } from '@wisteria/core'
import {
  beginHistoryOf,
  completeRows,
  emptyBin,
  forgetOlder,
  forgettable,
  giveUpWaiting,
  hasAccounts,
  resumeBeyond,
  serviceValue,
  setServiceValue,
  siteIds,
  siteWithId,
  type Forgettable,
  type Transaction,
  type Work,
} from '@wisteria/store'
import { destination, pino } from 'pino'
import { forgetFiles, tidyFolder } from './assets/files.js'
import { buildApp } from './http/app.js'
import { adoptionJob, ClearingWork, ensureIndexes } from './model/adopting.js'
import { bulkJob } from './lists/bulkJob.js'
import { keepWords } from './lists/finding.js'
import { openFolder } from './kernel/folder.js'
import { Front } from './http/front.js'
import { watchBodies } from './http/bodies.js'
import { archiveImportJob } from './archives/importJob.js'
import { tidyArchives } from './archives/receiving.js'
import { localeForgettingJob } from './sites/forgetLocaleJob.js'
import { tidyImportFiles } from './imports/files.js'
import { importJobs } from './imports/importJobs.js'
import { siteCopyJob } from './copying/copyJob.js'
import { counterpartJob } from './counterparts/counterpartJob.js'
import { translationImportJob } from './translations/importing.js'
import { OrderWork } from './ordering/orderWork.js'
import { ruleWork } from './ordering/ruleWork.js'
import { runWork } from './automations/runWork.js'
import { timetableWork } from './automations/timetableWork.js'
import { turnWork } from './lists/turnWork.js'
import { Deliveries } from './webhooks/deliveries.js'
import { Jobs } from './jobs/jobs.js'
import { scheduleWork } from './publishing/scheduleWork.js'
import { Kernel } from './kernel/kernel.js'
import { serveOperator } from './operator/socket.js'
import { OptionError, type ServiceOptions } from './kernel/options.js'
import { beginNotedHistory, isRestored, notePositions } from './operator/positions.js'
import { readRoutes, routes } from './routes.js'
import { Loop } from './worker/loop.js'
import { fieldReadsOf } from './read/fieldReads.js'
import { setUpCodeOf } from './access/setUpCode.js'

/** A service that listens. */
export interface RunningService {
  /** Where it is reached. */
  readonly baseUrl: string
  /** The address of the set-up, until there is an owner. */
  readonly setUpAddress: string | undefined
  /** Accepts no more requests, finishes running ones, and closes the database. */
  stop(): Promise<void>
}

/**
 * Starts a service.
 * @throws OptionError in a sentence when the port is taken or the data folder cannot be written.
 */
export async function startService(options: ServiceOptions, now: () => number = Date.now): Promise<RunningService> {
  // Written at once, so that a killed process loses no line.
  const logger = pino({ level: options.logLevel, base: null }, destination({ dest: 2, sync: true }))
  let onWork: (work: ReadonlySet<Work>) => void = () => undefined
  const { database, lock } = await openFolder(options.data, {
    onTransaction: (phase) => logger.trace({ transaction: phase }),
    onWork: (work) => onWork(work),
  })
  const kernel = new Kernel(database, options, logger, now)
  const jobs = new Jobs(kernel, [
    adoptionJob(kernel),
    bulkJob(kernel),
    translationImportJob(kernel),
    siteCopyJob(kernel),
    counterpartJob(kernel),
    localeForgettingJob(kernel),
    archiveImportJob(kernel),
    ...importJobs(kernel),
  ])
  const looping = { logger, now: () => kernel.now }
  const jobLoop = new Loop(jobs, looping)
  const clearing = new ClearingWork(kernel)
  const byWork = {
    deliveries: new Loop(new Deliveries(kernel), looping),
    schedules: new Loop(scheduleWork(kernel), looping),
    clearing: new Loop(clearing, looping),
    orders: new Loop(new OrderWork(kernel), looping),
    automations: new Loop(runWork(kernel), looping),
  }
  // Looks every few seconds: no transaction says that an event was noted for a rule.
  const ruleLoop = new Loop(ruleWork(kernel), looping)
  const timetableLoop = new Loop(timetableWork(kernel), looping)
  const turnLoop = new Loop(turnWork(kernel), looping)
  const loops = [jobLoop, ruleLoop, timetableLoop, turnLoop, ...Object.values(byWork)]
  onWork = (work) => {
    if (work.has('clearing')) clearing.tell()
    if (work.has('automations')) timetableLoop.wake()
    work.forEach((kind) => byWork[kind].wake())
  }
  kernel.jobs = {
    wake: () => jobLoop.wake(),
    abandon: (job) => jobs.abandon(job),
    permissionFor: (job) => jobs.permissionFor(job),
  }
  await ensureIndexes(kernel)
  await completeEverything(kernel, await tellOfAnswers(kernel))
  const wasRestored = await isRestored(database, options.data)
  await tidyFolder(kernel, wasRestored)
  await tidyArchives(kernel)
  if (wasRestored) {
    logger.warn(
      'The database is older than the one before it: it was restored from a copy. Readers are told to read everything again.',
    )
    await beginNotedHistory(database, (work) => kernel.write(work), kernel.environment, options.data)
  }
  const front = new Front(kernel, readRoutes, buildApp(kernel, routes, readRoutes))
  const server = createServer(front.listen)
  // A large file on a slow line may take long.
  server.requestTimeout = 0
  server.headersTimeout = 30_000
  // Longer than proxies and clients keep connections open: one must not close in the moment in which it is used again.
  server.keepAliveTimeout = 65_000
  const stopWatching = watchBodies(server)
  try {
    await new Promise<void>((resolve, reject) => {
      server.once('error', reject)
      server.listen(options.port, options.host, resolve)
    })
  } catch (error) {
    await database.close()
    await lock.release()
    throw new OptionError(listenMessage(error as NodeJS.ErrnoException, options))
  }
  const { port } = server.address() as AddressInfo
  const host = ['0.0.0.0', '::'].includes(options.host)
    ? 'localhost'
    : options.host.includes(':')
      ? `[${options.host}]`
      : options.host
  kernel.baseUrl = options.baseUrl.replace(/\/+$/, '') || `http://${host}:${port}`
  const operator = await serveOperator(
    {
      database,
      environment: kernel.environment,
      folder: options.data,
      write: (work) => kernel.write(work),
      get now() {
        return kernel.now
      },
      get baseUrl() {
        return kernel.baseUrl
      },
    },
    options.data,
    logger,
  )
  loops.forEach((loop) => loop.wake())
  void keepWords(kernel).catch((error: unknown) => logger.warn(error, 'search is not complete yet'))
  const noting = setInterval(
    () =>
      void fieldReadsOf(kernel)
        .keep()
        .catch((error: unknown) => logger.warn(error)),
    30_000,
  )
  noting.unref()
  const watching = setInterval(() => watchClock(kernel), 5_000)
  watching.unref()
  const tidy = setInterval(() => void tidyUp(kernel), 3_600_000)
  tidy.unref()
  await tidyUp(kernel)
  const setUpAddress = (await hasAccounts(database))
    ? undefined
    : `${kernel.baseUrl}/console/set-up#${setUpCodeOf(kernel).make()}`
  logger.info({ baseUrl: kernel.baseUrl }, 'listening')
  let stopping: Promise<void> | undefined
  const stop = async (): Promise<void> => {
    // Running answers close their connections, so that clients connect to the next service.
    server.prependListener('request', (_, response) => void (response.shouldKeepAlive = false))
    clearInterval(tidy)
    clearInterval(noting)
    clearInterval(watching)
    stopWatching()
    kernel.ending.abort()
    const closed = new Promise<void>((resolve) => server.close(() => resolve()))
    server.closeIdleConnections()
    await Promise.race([closed, new Promise((resolve) => setTimeout(resolve, 10_000).unref())])
    server.closeAllConnections()
    await Promise.all(loops.map((loop) => loop.stop()))
    await operator?.stop()
    await fieldReadsOf(kernel).keep()
    // A failed write, on a full disk, does not keep the database from closing.
    await notePositions(database, options.data).catch((error: unknown) => logger.warn(error))
    await database.close()
    await lock.release()
    logger.info('stopped')
  }
  return { baseUrl: kernel.baseUrl, setUpAddress, stop: () => (stopping ??= stop()) }
}

function listenMessage(error: NodeJS.ErrnoException, { host, port }: ServiceOptions): string {
  if (error.code === 'EADDRINUSE')
    return `Port ${port} on ${host} is taken. Stop what uses it, or choose another with --port.`
  if (error.code === 'EACCES') return `Port ${port} may not be used by this user. Choose one above 1023 with --port.`
  if (error.code === 'EADDRNOTAVAIL' || error.code === 'ENOTFOUND')
    return `${host} is not an address of this machine. Choose another with --host.`
  return `The service cannot listen on ${host}:${port}: ${error.message}.`
}

/** Writes rows of an earlier version again in today's form, before they are read; then everything public counts as changed. */
async function completeEverything(kernel: Kernel, wasTold: boolean): Promise<void> {
  for (const id of await siteIds(kernel.database)) {
    let isTold = wasTold
    for (const edition of ['published', 'draft'] as const)
      for (let done = 1, all = 0; done > 0; all += done) {
        if (all > 0) kernel.logger.info({ site: id, edition, entries: all }, 'bringing rows up to date')
        done = await kernel.write(async (transaction) => {
          const completed = await completeRows(transaction, await siteWithId(transaction, id), edition, kernel.at, 500)
          if (completed > 0 && edition === 'published' && !isTold)
            await beginHistoryOf(transaction, id, kernel.environment)
          return completed
        })
        isTold ||= done > 0 && edition === 'published'
      }
  }
}

/** The form of answers and their groups: counted on where those of an earlier version no longer meet the events of this one. */
const answerForm = '2'

/** Where an earlier version answered in another form, everything public counts as changed. @returns whether that was told. */
const tellOfAnswers = (kernel: Kernel): Promise<boolean> =>
  kernel.write(async (transaction) => {
    if ((await serviceValue(transaction, 'answerForm')) === answerForm) return false
    for (const id of await siteIds(transaction)) await beginHistoryOf(transaction, id, kernel.environment)
    await setServiceValue(transaction, 'answerForm', answerForm)
    return true
  })

/** No pause before another attempt is longer, in milliseconds. */
const longestPause = 12 * 3_600_000
/** A clock that goes back by less is being adjusted, and work that waits for it comes soon. */
const setBackBy = 60_000

/** Makes work due that was queued while the clock was ahead. */
const resumeWork = (kernel: Kernel): Promise<void> =>
  kernel.write((transaction) => resumeBeyond(transaction, kernel.at, new Date(kernel.now + longestPause).toISOString()))

/** Notices that the clock was set back. */
function watchClock(kernel: Kernel): void {
  if (kernel.takeSetBack() > setBackBy) void resumeWork(kernel).catch((error: unknown) => kernel.logger.warn(error))
}

/** How many rows are deleted in one transaction, and the pause between two, in milliseconds. */
const forgottenAtOnce = 500

/** The work at the start and every hour: deleting old rows and emptying the bin, in small transactions. */
async function tidyUp(kernel: Kernel): Promise<void> {
  const daysAgo = (days: number): string => new Date(kernel.now - days * 86_400_000).toISOString()
  const { keepEvents, keepHistory } = kernel.options
  const days: Readonly<Record<Forgettable, number>> = {
    attempts: keepHistory,
    deliveries: keepHistory,
    jobs: keepHistory,
    schedules: keepHistory,
    events: keepEvents,
    grants: 1,
    sessions: 0,
    previewCodes: 0,
    passwordLinks: 0,
    // Shown as expired for a month, so that people can be invited again.
    invitations: 30,
    idempotency: 1,
    proposals: 7,
    translationImports: keepHistory,
    imports: keepHistory,
    automationRuns: keepHistory,
    saves: savesKeptDays,
  }
  const inPieces = async (work: (transaction: Transaction) => Promise<number>): Promise<void> => {
    while (!kernel.ending.signal.aborted && (await kernel.database.write(work)) >= forgottenAtOnce) continue
  }
  try {
    await inPieces((transaction) => giveUpWaiting(transaction, daysAgo(keepHistory), forgottenAtOnce))
    for (const what of forgettable)
      await inPieces((transaction) => forgetOlder(transaction, what, daysAgo(days[what]), forgottenAtOnce))
    while ((await kernel.write((transaction) => emptyBin(transaction, daysAgo(binKeptDays), 100))) > 0) continue
    await forgetFiles(kernel)
    await tidyImportFiles(kernel)
    await notePositions(kernel.database, kernel.options.data)
    await resumeWork(kernel)
  } catch (error) {
    kernel.logger.error({ err: error }, 'tidying up failed')
  }
}
