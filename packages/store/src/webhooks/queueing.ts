import { changeMeets, makeId, mostMerged, readChangeCondition, type Environment, type Merge } from '@wisteria/core'
import type { Subscriber, ToldEvent, Transaction } from '../connection/reader.js'

/** A webhook that may get an event. */
interface Candidate {
  readonly id: string
  readonly condition: string | null
  readonly merge: Merge
}

/**
 * Queues an event for every webhook that subscribes to it, or to every public change. The number of webhooks does not change the
 * number of statements. A delivery is the head of its queue when no other of its webhook and entry waits. An event joins the
 * newest delivery of its queue where both go out together: saves of an entry, and what a webhook wants merged.
 */
export const queueDeliveries: Subscriber = async (transaction, events, environment) => {
  const [first] = events
  const candidates = await transaction.all<Candidate>(
    `select id, condition, merge from webhooks where site = ?1 and enabled = 1
       and (events = '[]' and ?2 or exists (select 1 from json_each(events) where value = ?3)) order by id`,
    [first.site.id, first.isPublic ? 1 : 0, first.type],
  )
  if (candidates.length === 0) return
  for (const event of events) await queueEvent(transaction, event, environment, candidates)
}

async function queueEvent(
  transaction: Transaction,
  event: ToldEvent,
  environment: Environment,
  candidates: readonly Candidate[],
): Promise<void> {
  const wanted = candidates.filter(({ condition }) => meets(condition, event, environment.now()))
  if (wanted.length === 0) return
  const queues = wanted.map(({ id, merge }) => ({
    webhook: id,
    // Whoever wants acts as a whole gets them in their order.
    entry: merge === 'act' ? '' : (event.data.entry?.id ?? ''),
    merge,
  }))
  const joined = await join(transaction, event, queues)
  const others = queues.filter(({ webhook }) => !joined.has(webhook))
  if (others.length > 0)
    await transaction.run(
      `insert into deliveries (id, site, webhook, sequence, entry, status, attempts, next_at, created_at, head)
       select ?1 || lower(hex(randomblob(5))), ?2, q.value ->> 'webhook', ?3, q.value ->> 'entry', 'waiting', 0, ?4, ?4, not exists (
         select 1 from deliveries o where o.webhook = q.value ->> 'webhook' and o.entry = q.value ->> 'entry' and o.status = 'waiting')
       from json_each(?5) q`,
      [makeId(environment).slice(0, 10), event.site.id, event.sequence, event.at, JSON.stringify(others)],
    )
  transaction.touch('deliveries')
}

/** Whether an event meets the condition of a webhook. One that is about no entry does; so does one whose condition no longer fits the model, lest it be missed. */
function meets(condition: string | null, { data, change, site }: ToldEvent, now: number): boolean {
  if (condition === null || !data.entry || !change) return true
  let checked
  try {
    checked = readChangeCondition(condition, site.model)
  } catch {
    return true
  }
  const { model, settings } = site
  return changeMeets(checked, change(), model, settings, data.locales ?? [], { now, timeZone: settings.timeZone })
}

/** Adds an event to deliveries that nobody has tried to send. @returns the webhooks that have it now. */
async function join(
  transaction: Transaction,
  { type, sequence, action, site }: ToldEvent,
  queues: readonly { readonly webhook: string; readonly entry: string; readonly merge: Merge }[],
): Promise<ReadonlySet<string>> {
  const joining = queues.filter(({ merge, entry }) => merge !== 'none' || (type === 'entry.saved' && entry !== ''))
  if (joining.length === 0) return new Set()
  const rows = await transaction.all<{ webhook: string }>(
    `update deliveries set earlier = json_insert(earlier, '$[#]', sequence), sequence = ?1 where id in (
       select d.id from json_each(?2) q cross join deliveries d on d.id = (
         select l.id from deliveries l where l.webhook = q.value ->> 'webhook' and l.entry = q.value ->> 'entry'
           and l.status = 'waiting' order by l.sequence desc limit 1)
       join events e on e.site = ?3 and e.sequence = d.sequence
       where d.attempts = 0 and json_array_length(d.earlier) < ?4 and case q.value ->> 'merge'
         when 'none' then e.type = 'entry.saved' when 'act' then e.action = ?5 else 1 end)
     returning webhook`,
    [sequence, JSON.stringify(joining), site.id, mostMerged - 1, action],
  )
  return new Set(rows.map(({ webhook }) => webhook))
}
