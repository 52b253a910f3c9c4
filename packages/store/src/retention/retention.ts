import type { Transaction } from '../connection/reader.js'

/** The rows that are deleted after a while. */
export const forgettable = [
  'attempts',
  'deliveries',
  'events',
  'jobs',
  'schedules',
  'grants',
  'sessions',
  'previewCodes',
  'passwordLinks',
  'invitations',
  'idempotency',
  'proposals',
  'translationImports',
  'imports',
  'automationRuns',
  'saves',
] as const
export type Forgettable = (typeof forgettable)[number]

/** Deletes at most so many rows of a kind; each is found by an index, whatever the size of the table. */
const deletions: Readonly<Record<Exclude<Forgettable, 'saves'>, string>> = {
  attempts: `delete from attempts where id in (
    select a.id from deliveries d join attempts a on a.delivery = d.id where d.status <> 'waiting' and d.created_at < ?1 limit ?2)`,
  deliveries: `delete from deliveries where id in (
    select id from deliveries where status <> 'waiting' and created_at < ?1
      and not exists (select 1 from attempts a where a.delivery = deliveries.id) limit ?2)`,
  // The newest event of a site stays: it is the position of its readers. So do events with open or recent deliveries.
  events: `delete from events where id in (
    select e.id from sites s cross join events e on e.site = s.id and e.time < ?1 and e.sequence < s.sequence
    where not exists (select 1 from deliveries d where d.site = e.site and d.sequence = e.sequence) limit ?2)`,
  jobs: `delete from jobs where id in (select id from jobs where finished_at is not null and finished_at < ?1 limit ?2)`,
  schedules: `delete from schedules where id in (
    select id from schedules where ended_at is not null and ended_at < ?1 limit ?2)`,
  grants: `delete from grants where id in (select id from grants where expires_at < ?1 limit ?2)`,
  sessions: `delete from sessions where hash in (select hash from sessions where expires_at < ?1 limit ?2)`,
  previewCodes: `delete from preview_codes where hash in (select hash from preview_codes where expires_at < ?1 limit ?2)`,
  passwordLinks: `delete from password_links where hash in (select hash from password_links where expires_at < ?1 limit ?2)`,
  invitations: `delete from invitations where id in (select id from invitations where expires_at < ?1 limit ?2)`,
  idempotency: `delete from idempotency where rowid in (select rowid from idempotency where at < ?1 limit ?2)`,
  // Their items go with them.
  translationImports: `delete from translation_imports where id in (select id from translation_imports where created_at < ?1 limit ?2)`,
  imports: `delete from imports where id in (select id from imports where created_at < ?1 limit ?2)`,
  automationRuns: `delete from automation_runs where id in (
    select id from automation_runs where finished_at is not null and finished_at < ?1 limit ?2)`,
  proposals: `delete from proposals where id in (select id from proposals where at < ?1 limit ?2)`,
}

/** The same of their parts, which may be many. */
const deletionsOfParts: Partial<Record<Forgettable, string>> = {
  jobs: `delete from job_items where (job, position) in (
    select i.job, i.position from jobs j join job_items i on i.job = j.id
    where j.finished_at is not null and j.finished_at < ?1 limit ?2)`,
  imports: `delete from import_rows where (import, position) in (
    select r.import, r.position from imports i join import_rows r on r.import = i.id where i.created_at < ?1 limit ?2)`,
  automationRuns: `delete from automation_items where (run, position) in (
    select i.run, i.position from automation_runs r join automation_items i on i.run = r.id
    where r.finished_at is not null and r.finished_at < ?1 limit ?2)`,
}

/**
 * Deletes rows older than an instant, at most `limit` at once. Their parts go first, so that a large job does not make a large
 * transaction.
 * @returns the number of rows; fewer than `limit` when nothing is left.
 */
export async function forgetOlder(
  transaction: Transaction,
  what: Forgettable,
  before: string,
  limit: number,
): Promise<number> {
  if (what === 'saves') return forgetSaves(transaction, before, limit)
  const parts = deletionsOfParts[what]
  // What they are parts of comes next.
  if (parts && (await transaction.run(parts, [before, limit])) > 0) return limit
  return transaction.run(deletions[what], [before, limit])
}

/** Gives up deliveries older than an instant that wait for a webhook that is off or paused, at most `limit`. @returns how many. */
export const giveUpWaiting = (transaction: Transaction, before: string, limit: number): Promise<number> =>
  transaction.run(
    `update deliveries set status = 'failed', head = 0 where id in (
       select d.id from webhooks w cross join deliveries d on d.webhook = w.id and d.status = 'waiting'
       where (w.enabled = 0 or w.paused_at is not null) and d.created_at < ?1 limit ?2)`,
    [before, limit],
  )

/** Deletes stored edits: versions before them can no longer be merged with. */
async function forgetSaves(transaction: Transaction, before: string, limit: number): Promise<number> {
  const rows = await transaction.all<{ entry: string; version: number }>(
    'select entry, version from saves where at < ? order by at limit ?',
    [before, limit],
  )
  const list = JSON.stringify(rows.map(({ entry, version }) => [entry, version]))
  await transaction.run(
    `update entries set mergeable_from = max(mergeable_from, old.version) from (
       select value ->> 0 as entry, max(value ->> 1) as version from json_each(?) group by 1) old where entries.id = old.entry`,
    [list],
  )
  await transaction.run(
    'delete from saves where (entry, version) in (select value ->> 0, value ->> 1 from json_each(?))',
    [list],
  )
  return rows.length
}
