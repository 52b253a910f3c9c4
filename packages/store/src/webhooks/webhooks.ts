import type { Reader, Transaction } from '../connection/reader.js'
import type { WebhookRow } from '../tables/tables.js'

/** An address that receives a site's events. */
export interface Webhook {
  readonly id: string
  readonly site: string
  readonly label: string
  readonly address: string
  readonly secret: string
  /** The types of events it receives; empty for every event that changes what published readers see. */
  readonly events: readonly string[]
  readonly isEnabled: boolean
  readonly createdAt: string
  readonly createdBy: string
}

const webhookFrom = (row: WebhookRow): Webhook => ({
  id: row.id,
  site: row.site,
  label: row.label,
  address: row.address,
  secret: row.secret,
  events: JSON.parse(row.events) as string[],
  isEnabled: row.enabled === 1,
  createdAt: row.created_at,
  createdBy: row.created_by,
})

export async function webhookOnSite(reader: Reader, site: string, id: string): Promise<Webhook | undefined> {
  const [row] = await reader.all<WebhookRow>('select * from webhooks where id = ? and site = ?', [id, site])
  return row && webhookFrom(row)
}

/** The webhooks of a site, oldest first, with how many events wait for each and how many were given up. */
export async function webhooksOf(
  reader: Reader,
  site: string,
): Promise<(Webhook & { readonly waiting: number; readonly failed: number })[]> {
  const rows = await reader.all<WebhookRow & { waiting: number; failed: number }>(
    `select w.*, (select count(*) from deliveries d where d.webhook = w.id and d.status = 'waiting') as waiting,
       (select count(*) from deliveries d where d.webhook = w.id and d.status = 'failed') as failed
     from webhooks w where w.site = ? order by w.created_at, w.id`,
    [site],
  )
  return rows.map((row) => ({ ...webhookFrom(row), waiting: row.waiting, failed: row.failed }))
}

/** The webhooks of all sites that something may be sent to. */
export const enabledWebhooks = (reader: Reader): Promise<Pick<Webhook, 'id' | 'address'>[]> =>
  reader.all('select id, address from webhooks where enabled = 1 order by id')

export async function insertWebhook(transaction: Transaction, webhook: Webhook): Promise<void> {
  await transaction.tables.webhooks.create({
    id: webhook.id,
    site: webhook.site,
    label: webhook.label,
    address: webhook.address,
    secret: webhook.secret,
    events: JSON.stringify(webhook.events),
    enabled: webhook.isEnabled ? 1 : 0,
    created_at: webhook.createdAt,
    created_by: webhook.createdBy,
  })
}

/** Stores the part of a webhook that can change: everything but its secret and its author. */
export async function changeWebhook(
  transaction: Transaction,
  { id, label, address, events, isEnabled }: Webhook,
): Promise<void> {
  await transaction.run('update webhooks set label = ?, address = ?, events = ?, enabled = ? where id = ?', [
    label,
    address,
    JSON.stringify(events),
    isEnabled ? 1 : 0,
    id,
  ])
}

/** Deletes a webhook with its deliveries. */
export async function deleteWebhook(transaction: Transaction, id: string): Promise<void> {
  await transaction.run('delete from webhooks where id = ?', [id])
}
