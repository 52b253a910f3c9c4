/*
 * Webhooks have conditions, secrets that follow each other, headers of their own, may get their events merged, and pause. A delivery
 * may carry several events; an attempt records what was sent.
 */
export const name = '0023-webhooks'

export const statements: readonly string[] = [
  // JSON, newest first: each with the time at which it ends.
  `alter table webhooks add column secrets text not null default '[]'`,
  `update webhooks set secrets = json_array(json_object('secret', secret, 'createdAt', created_at, 'until', null))`,
  `alter table webhooks drop column secret`,
  // JSON, by name.
  `alter table webhooks add column headers text not null default '{}'`,
  `alter table webhooks add column condition text`,
  `alter table webhooks add column merge text not null default 'none'`,
  // Since when nothing was accepted, and since when it is paused.
  `alter table webhooks add column failing_since text`,
  `alter table webhooks add column paused_at text`,
  // JSON: the numbers of earlier events that go with its newest, which is in the column sequence.
  `alter table deliveries add column earlier text not null default '[]'`,
  // JSON.
  `alter table attempts add column headers text not null default '{}'`,
  `alter table attempts add column sequences text not null default '[]'`,
  `create index deliveries_by_webhook on deliveries (webhook, sequence)`,
  `create index deliveries_failed on deliveries (webhook, entry, sequence) where status = 'failed'`,
  `update attempts set sequences = (select json_array(sequence) from deliveries d where d.id = attempts.delivery)`,
]
