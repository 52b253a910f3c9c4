import type { AutomationStep, Each } from '@wisteria/core'
import {
  definitionOf,
  changeItem,
  changeRun,
  dueRuns,
  itemsOf,
  nextRunAt,
  runOnSite,
  type AutomationRun,
  type RunProgress,
  type Transaction,
} from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import { pauseAfter } from '../outgoing/calling.js'
import type { Work } from '../worker/loop.js'
import { advance, endOf, afterStep, type PendingCall } from './advancing.js'
import { mostTries, sendOut, type Outward } from './outward.js'

/** Runs of automations. Those of one automation go on in the order in which they began, unless one waits. */
export function runWork(kernel: Kernel): Work<AutomationRun> {
  let asked = kernel.at
  return {
    name: 'automations',
    atOnce: 8,
    keyOf: ({ id }) => id,
    due: (most, skipped) => {
      asked = kernel.at
      return dueRuns(kernel.database, asked, most, skipped)
    },
    // One that is due by now, and waits for another of its automation, is looked for when that has moved on.
    next: async () => {
      const at = await nextRunAt(kernel.database, asked)
      return at === undefined ? undefined : Date.parse(at)
    },
    run: (run) => goOn(kernel, run),
    giveUp: (run, error) =>
      kernel.write(async (transaction) => {
        const current = await runOnSite(transaction, run.site, run.id)
        const message = `It failed several times with an unexpected error: ${error instanceof Error ? error.message : String(error)}`
        if (current?.state === 'running')
          await changeRun(transaction, run.id, { state: 'failed', ...endOf(kernel.at, message) })
      }),
  }
}

/** Moves a run on until it waits or has ended: its calls are made between transactions. */
async function goOn(kernel: Kernel, run: AutomationRun): Promise<void> {
  for (;;) {
    const pending = await kernel.write((transaction) => advance(kernel, transaction, run))
    if (!pending) return
    const sent = await sendOut(kernel, pending.call)
    await kernel.write((transaction) => recordCall(kernel, transaction, pending, sent))
    if (kernel.ending.signal.aborted) return
  }
}

/** Records what came of a call. One without an answer is tried again later, with growing pauses. */
export async function recordCall(
  kernel: Kernel,
  transaction: Transaction,
  { run: id, site, position, step }: PendingCall,
  sent: Outward,
): Promise<void> {
  const run = await runOnSite(transaction, site, id)
  if (run?.state !== 'running') return
  const { steps: all } = await definitionOf(transaction, run)
  if (position === null) {
    const after = progressAfterCall(kernel, run, all[step]!, sent)
    await changeRun(transaction, id, { ...after, ...(after.finishedAt === null ? {} : { state: 'failed' }) })
    return
  }
  const [item] = await itemsOf(transaction, id, { from: position, most: 1 })
  const each = all[item!.eachStep] as Each
  const after = progressAfterCall(kernel, item!, each.steps[step]!, sent)
  const isFailed = after.finishedAt !== null
  await changeItem(transaction, item!, { ...after, ...(isFailed ? { state: 'failed' } : {}) })
  await changeRun(transaction, id, isFailed ? { failed: run.failed + 1 } : {})
}

function progressAfterCall(
  kernel: Kernel,
  thread: RunProgress,
  step: AutomationStep,
  { status, meaning }: Outward,
): RunProgress {
  const { log, tries } = thread
  const { at, now, environment } = kernel
  const done = {
    step: thread.step,
    do: step.do,
    at,
    ...(status === null ? {} : { status }),
  }
  if (meaning.is === 'done') return afterStep({ ...thread, nextAt: at }, { step }, meaning.result, done)
  const count = tries + 1
  if (meaning.is === 'failed' || count >= mostTries)
    return { ...thread, tries: count, ...endOf(at, meaning.message), log: [...log, done] }
  const pause = pauseAfter(count, environment.random(1)[0]! / 256)
  return { ...thread, tries: count, nextAt: new Date(now + pause).toISOString(), message: meaning.message }
}
