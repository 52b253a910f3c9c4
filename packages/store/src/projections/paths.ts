import { WisteriaError } from '@wisteria/core'
import type { Reader, Transaction } from '../connection/reader.js'
import { factExpression, literal } from './editionTables.js'
import type { RowsChanged } from './rowWriting.js'
import type { Site } from '../sites/sites.js'

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

/** The entry that has each of some paths, or had it last; free paths are left out. */
export async function holdersOf(
  reader: Reader,
  site: string,
  paths: readonly string[],
): Promise<Map<string, PathHolder>> {
  if (paths.length === 0) return new Map()
  const rows = await reader.all<{ path: string; entry: string; locale: string; current: number }>(
    'select path, entry, locale, current from paths where site = ? and path in (select value from json_each(?))',
    [site, JSON.stringify(paths)],
  )
  return new Map(
    rows.map(({ path, entry, locale, current }) => [path, { entry, locale, path, isCurrent: current === 1 }]),
  )
}

/** The earlier and present paths of some entries, by locale. */
export interface PathsOfEntry {
  readonly entry: string
  readonly paths: RowsChanged['paths']
}

/**
 * Records the paths that entries have gained and lost. An old path points at its entry, wherever that is now, so that chains of
 * moves collapse by themselves; a public entry takes over an old path.
 * @throws WisteriaError `conflict` that names the entry with the path.
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
      'select title from published where projection = ? and entry = ? and locale = ?',
      [site.projection, holder.entry, holder.locale],
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

/** The path that a working copy has in a locale; null where it has none. */
export async function draftPathOf(reader: Reader, site: Site, entry: string, locale: string): Promise<string | null> {
  const [row] = await reader.all<{ path: string | null }>(
    'select path from drafts where projection = ? and entry = ? and locale = ?',
    [site.projection, entry, locale],
  )
  return row?.path ?? null
}

/** A path that can be read now. */
export interface PublicPath {
  readonly path: string
  readonly locale: string
  readonly entry: string
  /** Internal id. */
  readonly type: string
  /** Null where its type is not regional. */
  readonly region: string | null
  /** The locale that its words are in. */
  readonly content_locale: string
  /** 1 where the page asks search engines not to list it. */
  readonly hidden: 0 | 1
  readonly updated_at: string
}

/** Public paths, in their order, from the one after `after`. */
export function publicPaths(
  reader: Reader,
  site: Site,
  asked: {
    readonly type: string | undefined
    readonly locale: string | undefined
    /** Of entries whose types are regional; no limit when left out. */
    readonly region: string | undefined
    readonly after: string
    readonly limit: number
  },
): Promise<PublicPath[]> {
  const terms = ['p.site = ?', 'p.path > ?', 'p.current = 1']
  const bindings = [site.projection, site.id, asked.after]
  for (const [column, value] of [
    ['r.type', asked.type],
    ['p.locale', asked.locale],
  ] as const)
    if (value !== undefined) {
      terms.push(`${column} = ?`)
      bindings.push(value)
    }
  if (asked.region !== undefined) {
    terms.push('(r.region is null or r.region = ?)')
    bindings.push(asked.region)
  }
  const metadata = site.model.types.flatMap((type) => {
    const field = type.fields.find(({ kind }) => kind === 'metadata')
    return field ? [`when ${literal(type.id)} then json_extract(r.doc, '$.${requireName(field.name)}.hidden')`] : []
  })
  const hidden = metadata.length > 0 ? `coalesce(case r.type ${metadata.join(' ')} end, 0)` : '0'
  return reader.all<PublicPath>(
    `select p.path, p.locale, p.entry, r.type, r.region, r.content_locale, ${hidden} as hidden, r.updated_at from paths p cross join published r
     on r.projection = ? and r.entry = p.entry and r.locale = p.locale and r.path = p.path
     where ${terms.join(' and ')} order by p.path limit ${asked.limit}`,
    bindings,
  )
}

/** A path that an entry had, and where it is now. */
export interface Redirect {
  readonly from: string
  readonly to: string
  readonly locale: string
  readonly entry: string
  /** Internal id. */
  readonly type: string
  /** When the entry left the path. */
  readonly since: string
}

/** Paths that lead elsewhere now, in their order, from the one after `after`. Those of entries that are not public are left out. */
export const redirects = (
  reader: Reader,
  site: Site,
  asked: { readonly locale: string | undefined; readonly after: string; readonly limit: number },
): Promise<Redirect[]> =>
  reader.all<Redirect>(
    `select p.path as "from", r.path as "to", p.locale, p.entry, r.type, p.since from paths p cross join published r
     on r.projection = ? and r.entry = p.entry and r.locale = p.locale and r.path is not null
     where p.site = ? and p.path > ? and p.current = 0${asked.locale === undefined ? '' : ' and p.locale = ?'}
     order by p.path limit ${asked.limit}`,
    [site.projection, site.id, asked.after, ...(asked.locale === undefined ? [] : [asked.locale])],
  )

/** The slugs that can be read now of a type in a locale, in the order of their entries' ids. */
export const slugsOf = (
  reader: Reader,
  site: Site,
  asked: {
    readonly type: string
    readonly locale: string
    /** Internal id of the field that is the slug. */
    readonly slug: string
    /** No limit when left out. */
    readonly region: string | undefined
    readonly after: string
    readonly limit: number
  },
): Promise<{ id: string; slug: string; updatedAt: string }[]> => {
  const slug = factExpression(asked.slug)
  return reader.all(
    `select entry as id, ${slug} as slug, updated_at as updatedAt from published
     where projection = ? and type = ${literal(asked.type)} and locale = ? and entry > ? and ${slug} is not null${asked.region === undefined ? '' : ' and region = ?'} order by entry limit ?`,
    [site.projection, asked.locale, asked.after, ...(asked.region === undefined ? [] : [asked.region]), asked.limit],
  )
}

/** The check of the model allows no other names; parts of a statement are checked again. */
function requireName(name: string): string {
  if (!/^[A-Za-z][A-Za-z0-9_]*$/.test(name)) throw new Error(`not a name: ${name}`)
  return name
}
