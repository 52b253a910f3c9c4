import type { Merge } from '@wisteria/core'
import type { Reader, Transaction } from '../connection/reader.js'
import type { WebhookRow } from '../tables/tables.js'

/** A key that deliveries are signed with. */
export interface WebhookSecret {
  readonly secret: string
  readonly createdAt: string
  /** When it ends; null for the newest. */
  readonly until: string | null
}

/** An address that receives a site's events. */
export interface Webhook {
  readonly id: string
  readonly site: string
  readonly label: string
  readonly address: string
  /** Newest first. */
  readonly secrets: readonly WebhookSecret[]
  /** Headers of its own, by name. */
  readonly headers: Readonly<Record<string, string>>
  /** The types of events it receives; empty for every event that changes what published readers see. */
  readonly events: readonly string[]
  /** A condition over the entries that its events are about. */
  readonly condition: string | null
  readonly merge: Merge
  readonly isEnabled: boolean
  /** Since when its address accepts nothing. */
  readonly failingSince: string | null
  /** Since when nothing is sent, because of that. */
  readonly pausedAt: string | null
  readonly createdAt: string
  readonly createdBy: string
}

const webhookFrom = (row: WebhookRow): Webhook => ({
  id: row.id,
  site: row.site,
  label: row.label,
  address: row.address,
  secrets: JSON.parse(row.secrets) as WebhookSecret[],
  headers: JSON.parse(row.headers) as Record<string, string>,
  events: JSON.parse(row.events) as string[],
  condition: row.condition,
  merge: row.merge,
  isEnabled: row.enabled === 1,
  failingSince: row.failing_since,
  pausedAt: row.paused_at,
  createdAt: row.created_at,
  createdBy: row.created_by,
})

export async function webhookOnSite(reader: Reader, site: string, id: string): Promise<Webhook | undefined> {
  const [row] = await reader.all<WebhookRow>('select * from webhooks where id = ? and site = ?', [id, site])
  return row && webhookFrom(row)
}

/** How many deliveries of a webhook wait, since when the oldest does, and how many were given up. */
export interface Backlog {
  readonly waiting: number
  readonly oldest: string | null
  readonly failed: number
}

const backlog = `(select count(*) from deliveries d where d.webhook = w.id and d.status = 'waiting') as waiting,
  (select min(d.created_at) from deliveries d where d.webhook = w.id and d.status = 'waiting') as oldest,
  (select count(*) from deliveries d where d.webhook = w.id and d.status = 'failed') as failed`

/** The webhooks of a site, oldest first, with their backlogs. */
export async function webhooksOf(reader: Reader, site: string): Promise<(Webhook & Backlog)[]> {
  const rows = await reader.all<WebhookRow & Backlog>(
    `select w.*, ${backlog} from webhooks w where w.site = ? order by w.created_at, w.id`,
    [site],
  )
  return rows.map((row) => ({ ...webhookFrom(row), waiting: row.waiting, oldest: row.oldest, failed: row.failed }))
}

/** The backlogs of all webhooks of the service. @returns each with the name of its site. */
export const backlogs = (reader: Reader): Promise<(Backlog & { readonly id: string; readonly site: string })[]> =>
  reader.all(`select w.id, s.name as site, ${backlog} from webhooks w join sites s on s.id = w.site order by w.id`)

/** The webhooks of all sites that something may be sent to. */
export const enabledWebhooks = (reader: Reader): Promise<Pick<Webhook, 'id' | 'address'>[]> =>
  reader.all('select id, address from webhooks where enabled = 1 and paused_at is null order by id')

export async function insertWebhook(transaction: Transaction, webhook: Webhook): Promise<void> {
  await transaction.tables.webhooks.create({
    id: webhook.id,
    site: webhook.site,
    label: webhook.label,
    address: webhook.address,
    secrets: JSON.stringify(webhook.secrets),
    headers: JSON.stringify(webhook.headers),
    events: JSON.stringify(webhook.events),
    condition: webhook.condition,
    merge: webhook.merge,
    enabled: webhook.isEnabled ? 1 : 0,
    created_at: webhook.createdAt,
    created_by: webhook.createdBy,
    failing_since: webhook.failingSince,
    paused_at: webhook.pausedAt,
  })
}

/** Stores what can change of a webhook: everything but its author. */
export async function changeWebhook(transaction: Transaction, webhook: Webhook): Promise<void> {
  await transaction.run(
    `update webhooks set label = ?, address = ?, secrets = ?, headers = ?, events = ?, condition = ?, merge = ?, enabled = ?,
       failing_since = ?, paused_at = ? where id = ?`,
    [
      webhook.label,
      webhook.address,
      JSON.stringify(webhook.secrets),
      JSON.stringify(webhook.headers),
      JSON.stringify(webhook.events),
      webhook.condition,
      webhook.merge,
      webhook.isEnabled ? 1 : 0,
      webhook.failingSince,
      webhook.pausedAt,
      webhook.id,
    ],
  )
  // What waits for it may be sent now.
  if (webhook.isEnabled && webhook.pausedAt === null) transaction.touch('deliveries')
}

/** Notes since when an address accepts nothing; null where it did accept something. */
export async function noteFailing(transaction: Transaction, webhook: string, since: string | null): Promise<void> {
  await transaction.run('update webhooks set failing_since = ?1 where id = ?2 and failing_since is not ?1', [
    since,
    webhook,
  ])
}

/** Sends nothing to a webhook until it is resumed. @returns its label; undefined where it was paused already. */
export async function pauseWebhook(transaction: Transaction, webhook: string, at: string): Promise<string | undefined> {
  const [row] = await transaction.all<{ label: string }>(
    'update webhooks set paused_at = ? where id = ? and paused_at is null returning label',
    [at, webhook],
  )
  return row?.label
}

/** Deletes a webhook with its deliveries. */
export async function deleteWebhook(transaction: Transaction, id: string): Promise<void> {
  await transaction.run('delete from webhooks where id = ?', [id])
}
