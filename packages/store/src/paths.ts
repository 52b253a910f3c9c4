import { WisteriaError } from '@wisteria/core'
import type { Reader, Transaction } from './database.js'
import type { RowsChanged } from './rowWriting.js'
import type { Site } from './sites.js'

export interface PathHolder {
  readonly entry: string
  readonly locale: string
  readonly path: string
  /** False when the entry has moved from there. */
  readonly isCurrent: boolean
}

/** Who has a path, or last had it. */
export async function holderOf(reader: Reader, site: string, path: string): Promise<PathHolder | undefined> {
  const [row] = await reader.all<{ entry: string; locale: string; current: number }>(
    'select entry, locale, current from paths where site = ? and path = ?',
    [site, path],
  )
  return row ? { entry: row.entry, locale: row.locale, path, isCurrent: row.current === 1 } : undefined
}

/** What the paths of some entries were and are, by locale. */
export interface PathsOfEntry {
  readonly entry: string
  readonly paths: RowsChanged['paths']
}

/**
 * Records the paths that entries have gained and lost. An old path goes on pointing at its entry, wherever that is by
 * then, so that chains of moves collapse by themselves; a living entry takes an old path over.
 * @throws WisteriaError `conflict` that names the entry which has a path.
 */
export async function recordPaths(
  transaction: Transaction,
  site: Site,
  changed: readonly PathsOfEntry[],
  at: string,
): Promise<void> {
  for (const { entry, paths } of changed)
    for (const { from } of Object.values(paths))
      if (from !== null)
        await transaction.run('update paths set current = 0, since = ? where site = ? and path = ? and entry = ?', [
          at,
          site.id,
          from,
          entry,
        ])
  for (const { entry, paths } of changed)
    for (const [locale, { to }] of Object.entries(paths))
      if (to !== null) await takePath(transaction, site, entry, locale, to, at)
}

async function takePath(
  transaction: Transaction,
  site: Site,
  entry: string,
  locale: string,
  path: string,
  at: string,
): Promise<void> {
  const holder = await holderOf(transaction, site.id, path)
  if (holder?.isCurrent && !(holder.entry === entry && holder.locale === locale)) {
    const [other] = await transaction.all<{ title: string }>(
      'select title from published where shelf = ? and entry = ? and locale = ?',
      [site.shelf, holder.entry, holder.locale],
    )
    const message = `${path} belongs to “${other?.title ?? holder.entry}”. Choose another slug.`
    throw new WisteriaError('conflict', message, {
      problems: [{ code: 'pathTaken', message, locale }],
      extra: { path, entry: holder.entry },
    })
  }
  await transaction.run(
    `insert into paths (site, path, locale, entry, current, since) values (?, ?, ?, ?, 1, ?)
     on conflict (site, path) do update set locale = excluded.locale, entry = excluded.entry, current = 1, since = excluded.since`,
    [site.id, path, locale, entry, at],
  )
}
