import { toCloudEvent, type Automation, type CloudEvent, type Data, type Scope } from '@wisteria/core'
import {
  eventsAfter,
  resumeNow,
  insertAutomation,
  insertRun,
  itemsOf,
  runOnSite,
  siteWithId,
  type Site,
  type StoredAutomation,
  type Transaction,
} from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import { advance, type PendingCall } from './advancing.js'
import type { Outward } from './outward.js'
import { recordCall } from './runWork.js'
import { newRun, scopeOfEntry, scopesByHand } from './starting.js'
import { itemView, runView } from './views.js'

/** How long a try may block writes, in milliseconds; how many items and events it shows. */
const longest = 1000
const mostItems = 50
const mostEvents = 100

/** What a try begins with: an entry, entries of a list, or the body of a message. */
export interface TryStart {
  readonly entries?: readonly string[] | undefined
  readonly body?: Data
}

/** A call that would be made. */
interface WouldCall {
  readonly position: number | null
  readonly step: number
  readonly method: string
  readonly address: string
  readonly body: string | null
}

/**
 * Does an automation in a transaction that is rolled back, and says what came of it. Calls are not made: each is taken as answered by
 * 200 with nothing. Nothing is waited for.
 */
export async function tryAutomation(
  kernel: Kernel,
  transaction: Transaction,
  siteId: string,
  actor: string,
  definition: Automation,
  secrets: StoredAutomation['secrets'],
  start: TryStart,
) {
  const before = await siteWithId(transaction, siteId)
  const automation = await storeForTry(kernel, transaction, siteId, actor, definition, secrets)
  const { id } = await beginForTry(kernel, transaction, before, automation, actor, start)
  const calls: WouldCall[] = []
  const until = performance.now() + longest
  let isWhole = false
  while (performance.now() < until) {
    const pending = await advance(kernel, transaction, { id, site: siteId })
    if (pending) {
      calls.push(wouldCall(pending))
      await recordCall(kernel, transaction, pending, answered)
    }
    if ((await runOnSite(transaction, siteId, id))!.state !== 'running') {
      isWhole = true
      break
    }
    await resumeNow(transaction, id, kernel.at)
  }
  const run = (await runOnSite(transaction, siteId, id))!
  const site = await siteWithId(transaction, siteId)
  const items = await itemsOf(transaction, id, { from: 0, most: mostItems })
  const events = await eventsAfter(transaction, siteId, before.sequence, mostEvents)
  return {
    /** Whether it came to its end in the time that a try has. */
    whole: isWhole,
    run: runView(run, definition.automation),
    items: items.map((item) => itemView(item, site)),
    calls,
    events: events.map((event): CloudEvent => toCloudEvent({ ...event, site: site.name })),
  }
}

async function storeForTry(
  kernel: Kernel,
  transaction: Transaction,
  site: string,
  actor: string,
  definition: Automation,
  secrets: StoredAutomation['secrets'],
): Promise<StoredAutomation> {
  const { at } = kernel
  const automation: StoredAutomation = {
    id: `try-${definition.automation}`,
    site,
    version: 1,
    // Another automation has the name, if this one is stored.
    definition: { ...definition, automation: `${definition.automation} (try)` },
    isEnabled: false,
    secret: null,
    secrets,
    nextAt: null,
    createdAt: at,
    changedAt: at,
    changedBy: actor,
  }
  await insertAutomation(transaction, automation)
  return automation
}

async function beginForTry(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  automation: StoredAutomation,
  actor: string,
  { entries = [], body }: TryStart,
) {
  const { definition } = automation
  const { starts } = definition
  const scope: Scope =
    starts.by === 'hand'
      ? (await scopesByHand(transaction, site, definition, actor, kernel.at, { entries }))[0]!
      : starts.by === 'event' && entries[0] !== undefined
        ? await scopeOfEntry(transaction, site, starts.events[0]!, kernel.at, entries[0])
        : { trigger: { at: kernel.at, ...(starts.by === 'address' ? { body } : {}) } }
  const run = newRun(kernel, automation, actor, scope)
  await insertRun(transaction, run)
  return run
}

const wouldCall = ({ position, step, call }: PendingCall): WouldCall => ({
  position,
  step,
  ...('to' in call
    ? { method: 'MAIL', address: call.to.join(', '), body: `${call.subject}\n\n${call.text}` }
    : { method: call.method, address: call.address, body: call.body ?? null }),
})

const answered: Outward = { status: 200, meaning: { is: 'done', result: { status: 200, body: '' } } }
