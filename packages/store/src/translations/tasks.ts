import type { Transaction } from '../connection/reader.js'
import type { Site } from '../sites/sites.js'

/** Assigns the translation of entries into a locale to somebody, until a date; to nobody where both are null. */
export async function assignTranslations(
  transaction: Transaction,
  site: Site,
  entries: readonly string[],
  locale: string,
  assignee: string | null,
  due: string | null,
  by: string,
  at: string,
): Promise<void> {
  await transaction.run(
    `insert into translation_tasks (entry, locale, site, assignee, due, assigned_by, assigned_at)
     select value, ?, ?, ?, ?, ?, ? from json_each(?) where true
     on conflict (entry, locale) do update set assignee = excluded.assignee, due = excluded.due,
       assigned_by = excluded.assigned_by, assigned_at = excluded.assigned_at`,
    [locale, site.id, assignee, due, by, at, JSON.stringify(entries)],
  )
  await forgetEmptyTasks(transaction, entries, locale)
}

/** Marks the translation of an entry as ready for review, or no longer. */
export async function setReady(
  transaction: Transaction,
  site: Site,
  entry: string,
  locale: string,
  ready: { readonly by: string; readonly at: string } | undefined,
): Promise<void> {
  await transaction.run(
    `insert into translation_tasks (entry, locale, site, ready_by, ready_at) values (?, ?, ?, ?, ?)
     on conflict (entry, locale) do update set ready_by = excluded.ready_by, ready_at = excluded.ready_at`,
    [entry, locale, site.id, ready?.by ?? null, ready?.at ?? null],
  )
  await forgetEmptyTasks(transaction, [entry], locale)
}

/** Ends the review of locales that are public now. */
export async function endReviews(transaction: Transaction, entry: string, locales: readonly string[]): Promise<void> {
  await transaction.run(
    `update translation_tasks set ready_by = null, ready_at = null
     where entry = ? and locale in (select value from json_each(?)) and ready_at is not null`,
    [entry, JSON.stringify(locales)],
  )
}

const forgetEmptyTasks = (transaction: Transaction, entries: readonly string[], locale: string) =>
  transaction.run(
    `delete from translation_tasks where entry in (select value from json_each(?)) and locale = ?
       and assignee is null and due is null and ready_at is null`,
    [JSON.stringify(entries), locale],
  )
