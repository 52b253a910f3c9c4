/*
 * Deliveries are found by webhook, only the first of each queue; schedules count their attempts; old rows are found by age; a
 * webhook may receive every public change.
 */
export const name = '0007-mending'

/** The default events of a webhook, in the order in which they were stored. */
const formerDefault = '["entry.published","entry.unpublished","model.adopted","settings.changed"]'

export const statements: readonly string[] = [
  `alter table deliveries add column head integer not null default 0`,
  `update deliveries set head = 1 where status = 'waiting' and not exists (
     select 1 from deliveries o
     where o.webhook = deliveries.webhook and o.entry = deliveries.entry and o.status = 'waiting' and o.sequence < deliveries.sequence)`,
  `drop index deliveries_waiting`,
  `create index deliveries_due on deliveries (webhook, next_at) where status = 'waiting' and head = 1`,
  `create index deliveries_queued on deliveries (webhook, entry, sequence) where status = 'waiting'`,
  `create index deliveries_by_event on deliveries (site, sequence)`,
  `create index deliveries_by_age on deliveries (created_at) where status <> 'waiting'`,
  `update webhooks set events = '[]' where events = '${formerDefault}'`,
  `update drafts set published_at = (
     select p.published_at from published p where p.shelf = drafts.shelf and p.entry = drafts.entry and p.locale = drafts.locale)`,
  `alter table schedules add column tries integer not null default 0`,
  `create index schedules_ended on schedules (ended_at) where ended_at is not null`,
  `create index idempotency_by_age on idempotency (at)`,
  `create index events_by_age on events (site, time)`,
  `create index grants_by_age on grants (expires_at)`,
  `create index jobs_by_age on jobs (finished_at) where finished_at is not null`,
]
