import type { Transaction } from '../connection/reader.js'

/**
 * Makes work due whose time lies further in the future than any pause is: the clock was ahead when it was queued, and was set back.
 * What waits on purpose stays: schedules, and steps of automations that wait.
 * @param far the latest instant that a pause can end at.
 */
export async function resumeBeyond(transaction: Transaction, now: string, far: string): Promise<void> {
  const deliveries = await transaction.run(
    "update deliveries set next_at = ?1 where status = 'waiting' and next_at > ?2",
    [now, far],
  )
  if (deliveries > 0) transaction.touch('deliveries')
  // One that has not begun, or that is tried again.
  const runs = await transaction.run(
    `update automation_runs set next_at = ?1 where state = 'running' and next_at > ?2 and (tries > 0 or next_at = created_at)`,
    [now, far],
  )
  const items = await transaction.run(
    `update automation_items set next_at = ?1 where state = 'waiting' and next_at > ?2 and (tries > 0 or (step = 0 and log = '[]'))
       and run in (select id from automation_runs where state = 'running')`,
    [now, far],
  )
  if (runs + items > 0) transaction.touch('automations')
  const orders = await transaction.run('update translation_order_items set next_at = ?1 where next_at > ?2', [now, far])
  if (orders > 0) transaction.touch('orders')
}
