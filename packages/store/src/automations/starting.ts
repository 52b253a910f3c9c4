import { changeMeets, makeId, readChangeCondition, scopeOf, type Data, type Environment } from '@wisteria/core'
import type { Subscriber, ToldEvent, Transaction } from '../connection/reader.js'
import { automationsFor, type StoredAutomation } from './automations.js'
import { insertRun } from './runs.js'

/** The automations whose run writes in a transaction. */
const causes = new WeakMap<Transaction, readonly string[]>()

/** Says that what is told in a transaction is the work of a run: its automations do not start by it. */
export const setCause = (transaction: Transaction, automations: readonly string[]): void =>
  void causes.set(transaction, automations)

const prefix = 'automation:'

/** How an event names an automation that did it. */
export const actorOfAutomation = (id: string): string => `${prefix}${id}`

/** Starts every automation that waits for an event, but those that led to it: an automation never runs in a circle. */
export const startAutomations: Subscriber = async (transaction, events, environment) => {
  const [{ site, type }] = events
  if (!type.startsWith('entry.')) return
  const waiting = await automationsFor(transaction, site.id, type)
  if (waiting.length === 0) return
  for (const event of events) await startBy(transaction, event, environment, waiting)
}

async function startBy(
  transaction: Transaction,
  event: ToldEvent,
  environment: Environment,
  waiting: readonly StoredAutomation[],
): Promise<void> {
  if (!event.data.entry) return
  const { site, data, actor } = event
  const cause = [
    ...(causes.get(transaction) ?? []),
    // What it scheduled, or ordered, happens later.
    ...(actor.startsWith(prefix) ? [actor.slice(prefix.length)] : []),
  ]
  for (const automation of waiting) {
    if (cause.includes(automation.id) || !wants(automation, event, environment.now())) continue
    const locale = data.locales?.find((tag) => tag !== '') ?? site.settings.defaultLocale
    const values = event.change ? scopeOf(event.change(), site.model, site.settings, locale) : {}
    const trigger: Data = {
      event: event.type,
      sequence: event.sequence,
      at: event.at,
      actor,
      locale,
      locales: data.locales ?? [],
      fields: data.fields ?? [],
    }
    await insertRun(transaction, {
      id: makeId(environment),
      site: site.id,
      automation: automation.id,
      version: automation.version,
      key: String(event.sequence),
      scope: { ...values, trigger },
      cause: [...new Set(cause)],
      actor,
      createdAt: event.at,
    })
  }
}

/** Whether an automation is about an event. One whose condition no longer fits the model begins, and its run says so. */
function wants({ definition: { starts } }: StoredAutomation, { data, change, site }: ToldEvent, now: number): boolean {
  if (starts.by !== 'event') return false
  if (starts.types && !starts.types.includes(data.entry!.type)) return false
  if (starts.where === undefined || !change) return true
  let checked
  try {
    checked = readChangeCondition(starts.where, site.model)
  } catch {
    return true
  }
  const { model, settings } = site
  return changeMeets(checked, change(), model, settings, data.locales ?? [], { now, timeZone: settings.timeZone })
}
