import {
  holds,
  instantOf,
  isDate,
  isOutward,
  localeTags,
  readAutomation,
  startOfDay,
  titleOf,
  typeNamed,
  valueOf,
  WisteriaError,
  type Data,
  type Moment,
  type ReadyAutomation,
  type ReadyStep,
  type Scope,
} from '@wisteria/core'
import {
  actorOfAutomation,
  automationWithId,
  changeItem,
  changeRun,
  countItems,
  definitionOf,
  dueItems,
  idsOf,
  insertItems,
  nextItemAt,
  runOnSite,
  setCause,
  siteWithId,
  type AutomationItem,
  type AutomationRun,
  type StepRecord,
  type RunProgress,
  type Site,
  type StoredAutomation,
  type Transaction,
  type WorkingCopy,
} from '@wisteria/store'
import { callerOfAutomation } from '../access/actors.js'
import { tryOrRefuse, whyNot } from '../kernel/attempt.js'
import type { Kernel } from '../kernel/kernel.js'
import { planList } from '../read/listQuery.js'
import type { Author } from '../workingCopies/saving.js'
import { doStep } from './steps.js'
import { callOf, type Outgoing } from './outward.js'
import { itemData } from './scope.js'

/** How long one step may block other writes, in milliseconds. */
const stepTime = 40
/** How many items are read at once, and the most that a step goes through. */
const itemsAtOnce = 50
const mostItems = 100_000

/** A call that a run, or one of its items, is to make next: outside any transaction. */
export interface PendingCall {
  readonly run: string
  readonly site: string
  /** Of the item; null for the run itself. */
  readonly position: number | null
  readonly step: number
  readonly call: Outgoing
}

/** Everything that a run needs while a transaction moves it on. */
interface OpenRun {
  readonly kernel: Kernel
  readonly transaction: Transaction
  readonly site: Site
  readonly automation: StoredAutomation
  readonly author: Author
  readonly moment: Moment
  run: AutomationRun
}

/** How far something has come in a transaction. */
type Advanced = RunProgress & { readonly ended?: 'done' | 'failed'; readonly call?: Outgoing }

export const endOf = (at: string, message = ''): Pick<RunProgress, 'nextAt' | 'message' | 'finishedAt'> => ({
  nextAt: null,
  message,
  finishedAt: at,
})

/**
 * Moves a run on, in its transaction, as far as its time allows: what its steps change is committed with how far it is, so that after
 * a crash no step is done twice.
 * @returns the call that comes next; undefined where it waits, goes on later, or has ended.
 */
export async function advance(
  kernel: Kernel,
  transaction: Transaction,
  { id, site: siteId }: Pick<AutomationRun, 'id' | 'site'>,
): Promise<PendingCall | undefined> {
  const run = await runOnSite(transaction, siteId, id)
  if (run?.state !== 'running' || run.nextAt === null || run.nextAt > kernel.at) return undefined
  const site = await siteWithId(transaction, siteId)
  const automation = (await automationWithId(transaction, run.automation))!
  setCause(transaction, [...run.cause, automation.id])
  let ready: ReadyAutomation
  try {
    ready = readAutomation(await definitionOf(transaction, run), site.model, site.settings)
  } catch (error) {
    if (!(error instanceof WisteriaError)) throw error
    await changeRun(transaction, id, { state: 'failed', ...endOf(kernel.at, whyNot(error)) })
    return undefined
  }
  const author = { caller: callerOfAutomation(automation), actor: actorOfAutomation(automation.id) }
  const moment = { now: kernel.now, timeZone: site.settings.timeZone }
  const moving: OpenRun = { kernel, transaction, site, automation, author, moment, run }
  const call = await advanceRun(moving, ready, performance.now() + stepTime)
  const { state, eachStep, total, done, failed } = moving.run
  await changeRun(transaction, id, { ...progressOf(moving.run), state, eachStep, total, done, failed })
  return call
}

async function advanceRun(moving: OpenRun, ready: ReadyAutomation, until: number): Promise<PendingCall | undefined> {
  const { kernel } = moving
  for (;;) {
    const { run } = moving
    const step = ready.steps[run.step]
    if (!step) {
      moving.run = { ...run, state: 'done', ...endOf(kernel.at) }
      return undefined
    }
    if (step.step.do === 'each') {
      const call = await advanceItems(moving, step, until)
      if (call || moving.run.step === run.step) return call
    } else {
      const path = { steps: [step], first: run.step, scope: { ...run.scope, steps: {} }, place: 'run' }
      const { ended, call, ...moved } = await advanceSteps(moving, run, path)
      moving.run = { ...run, ...moved, ...(ended === 'failed' ? { state: ended } : {}) }
      if (call) return { run: run.id, site: run.site, position: null, step: run.step, call }
      if (ended === 'failed' || moved.nextAt! > kernel.at) return undefined
    }
    if (performance.now() > until) return undefined
  }
}

/** Goes through the items of a step; makes them first. The step is over once none is open. */
async function advanceItems(moving: OpenRun, each: ReadyStep, until: number): Promise<PendingCall | undefined> {
  const { kernel, transaction } = moving
  if (moving.run.eachStep !== moving.run.step && !(await makeItems(moving, each))) return undefined
  for (;;) {
    const items = await dueItems(transaction, moving.run.id, kernel.at, itemsAtOnce)
    for (const item of items) {
      const call = await advanceItem(moving, each, item)
      if (call) return call
      if (performance.now() > until) return undefined
    }
    if (items.length === 0) break
  }
  const { run } = moving
  const counts = await countItems(transaction, run.id, run.step)
  if (counts.waiting > 0) moving.run = { ...run, nextAt: (await nextItemAt(transaction, run.id)) ?? kernel.at }
  else if (counts.failed > 0) {
    const all = counts.done + counts.failed
    const message = `${counts.failed} of ${all} items failed. What they could not do can be tried again.`
    moving.run = { ...run, state: 'failed', ...endOf(kernel.at, message) }
  } else moving.run = afterStep(run, each, { count: counts.done }, { step: run.step, do: 'each', at: kernel.at })
  return undefined
}

/** Something after one of its steps is over. */
export const afterStep = <Of extends RunProgress>(
  thread: Of,
  { step }: Pick<ReadyStep, 'step'>,
  result: Data,
  done: StepRecord,
): Of => ({
  ...thread,
  step: thread.step + 1,
  results: step.name === undefined ? thread.results : { ...thread.results, [step.name]: result },
  log: [...thread.log, done],
  tries: 0,
  message: '',
})

/** Finds what a step goes through. @returns whether it is to go through anything: not where it is left out, or cannot. */
async function makeItems(moving: OpenRun, each: ReadyStep): Promise<boolean> {
  const { kernel, transaction, run } = moving
  const at = kernel.at
  const scope = { ...run.scope, steps: run.results }
  const inputs = await tryOrRefuse(transaction, async () => {
    if (each.if && !holds(each.if, scope, moving.moment)) return undefined
    return inputsOf(moving, each, scope)
  })
  if (inputs instanceof WisteriaError) {
    moving.run = { ...run, state: 'failed', ...endOf(at, whyNot(inputs)) }
    return false
  }
  if (!inputs) {
    moving.run = afterStep(run, each, undefined, { step: run.step, do: 'each', at, isSkipped: true })
    return false
  }
  const items = inputs.map((input, index) => ({
    run: run.id,
    position: run.total + index,
    eachStep: run.step,
    input,
    title: '',
    entry: null,
  }))
  await insertItems(transaction, items, at)
  moving.run = { ...run, eachStep: run.step, total: run.total + items.length }
  return true
}

async function inputsOf(
  { kernel, transaction, site, moment }: OpenRun,
  each: ReadyStep,
  scope: Scope,
): Promise<Data[]> {
  const { step, type, parts } = each
  const tooMany = (): never => {
    throw new WisteriaError('tooCostly', `A step goes through at most ${mostItems} items. Use a narrower condition.`)
  }
  if (type && step.do === 'each') {
    const { query } = planList(kernel, site, typeNamed(site.model, type.name), 'draft', { where: step.where })
    const ids = await idsOf(transaction, query, mostItems + 1)
    return ids.length > mostItems ? tooMany() : ids.map((id) => ({ id, type: type.name }))
  }
  const value = parts['in'] && valueOf(parts['in'], scope, moment)
  const list = value === undefined || value === null ? [] : Array.isArray(value) ? (value as Data[]) : [value]
  return list.length > mostItems ? tooMany() : list
}

async function advanceItem(moving: OpenRun, each: ReadyStep, item: AutomationItem): Promise<PendingCall | undefined> {
  const { kernel, transaction, site, run } = moving
  const { data, copy } = await itemData(transaction, site, item.input)
  const scope = { ...run.scope, item: data, steps: run.results }
  const itemNow = copy && (async () => (await itemData(transaction, site, item.input)).data)
  const path = { steps: each.steps, first: 0, scope, place: String(item.position), ...(itemNow ? { itemNow } : {}) }
  const { ended, call, ...moved } = await advanceSteps(moving, item, path)
  await changeItem(transaction, item, {
    ...moved,
    ...(ended === 'done' ? endOf(kernel.at) : {}),
    ...(ended ? { state: ended } : {}),
    title: titleOfItem(site, item.input, copy),
    entry: copy?.id ?? null,
  })
  if (ended) moving.run = { ...run, [ended]: run[ended] + 1 }
  return call && { run: run.id, site: run.site, position: item.position, step: moved.step, call }
}

/** What an item is called for people: the title of its entry, or what it is. */
function titleOfItem({ settings }: Site, input: Data, copy: WorkingCopy | undefined): string {
  if (copy) return titleOf(copy.type, copy.document, [settings.defaultLocale, ...localeTags(settings)])
  const text = typeof input === 'string' ? input : JSON.stringify(input)
  return text.slice(0, 200)
}

/** Steps that something goes through. */
interface Path {
  readonly steps: readonly ReadyStep[]
  /** The number of the first of them. */
  readonly first: number
  readonly scope: Scope
  /** What `item` is now: asked again after each step that may have changed it. */
  readonly itemNow?: () => Promise<Data>
  /** `run`, or the position of the item: calls are known by it. */
  readonly place: string
}

/**
 * Takes something through steps, until it waits, is to call an address, fails, or has done them all. A refused step changes nothing.
 */
async function advanceSteps(moving: OpenRun, thread: RunProgress, path: Path): Promise<Advanced> {
  const { kernel, transaction, site, automation, author, moment, run } = moving
  let moved = progressOf(thread)
  let base = path.scope
  for (;;) {
    const ready = path.steps[moved.step - path.first]
    if (!ready) return { ...moved, ended: 'done' }
    const { step } = ready
    const scope = { ...base, steps: { ...(base['steps'] as Scope), ...moved.results } }
    const line: StepRecord = { step: moved.step, do: step.do, at: kernel.at }
    const before = moved
    const next = await tryOrRefuse(transaction, async (): Promise<Advanced> => {
      if (ready.if && !holds(ready.if, scope, moment))
        return afterStep(before, ready, undefined, { ...line, isSkipped: true })
      if (step.do === 'wait') {
        const until = momentIn(valueOf(ready.parts['until']!, scope, moment), site)
        return { ...afterStep(before, ready, undefined, { ...line, until }), nextAt: until }
      }
      if (isOutward(step)) {
        const id = `${run.id}.${path.place}.${before.step}`
        return { ...before, call: callOf(ready, { ...scope, secrets: automation.secrets }, moment, id) }
      }
      // Numbers of events move with each step.
      const place = { kernel, transaction, site: await siteWithId(transaction, site.id), author, scope, moment }
      const { result, said } = await doStep(place, ready)
      return afterStep(before, ready, result, { ...line, ...said })
    })
    if (next instanceof WisteriaError) return { ...moved, ...endOf(kernel.at, whyNot(next)), ended: 'failed' }
    if (next.call || next.nextAt! > kernel.at) return next
    moved = next
    if (path.itemNow && step.do !== 'compute') base = { ...base, item: await path.itemNow() }
  }
}

/** How far something is, without the rest of it. */
export const progressOf = ({ step, results, log, tries, nextAt, message, finishedAt }: RunProgress): RunProgress => ({
  step,
  results,
  log,
  tries,
  nextAt,
  message,
  finishedAt,
})

/** The instant that something waits until. */
function momentIn(value: Data, site: Site): string {
  const instant =
    typeof value !== 'string' ? undefined : isDate(value) ? startOfDay(value, site.settings.timeZone) : instantOf(value)
  if (instant === undefined) throw new WisteriaError('invalid', '`until` must be an instant or a day: `now + 2 hours`.')
  return instant
}
