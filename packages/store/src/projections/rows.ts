import type { ContentType, Fact, Field, Freshness, State } from '@wisteria/core'
import type { Reader } from '../connection/reader.js'
import type { DraftStanding } from '../entries/workingCopies.js'
import type { Site } from '../sites/sites.js'
import type { DraftRow, EditionTableRow } from '../tables/tables.js'
import { editionTables, factExpression, literal, readColumns, type Edition } from './editionTables.js'

/** The row of an entry in a locale; undefined when readers of the edition do not get it. */
export async function rowOfEntry(
  reader: Reader,
  site: Site,
  edition: Edition,
  entry: string,
  locale: string,
): Promise<EditionTableRow | undefined> {
  const [row] = await reader.all<EditionTableRow>(
    `select * from ${editionTables[edition].rows} where projection = ? and entry = ? and locale = ?`,
    [site.projection, entry, locale],
  )
  return row
}

/** The rows of some entries in all locales. */
export const rowsInAllLocales = (
  reader: Reader,
  site: Site,
  edition: Edition,
  entries: readonly string[],
): Promise<EditionTableRow[]> =>
  reader.all(
    `select * from ${editionTables[edition].rows} where projection = ? and entry in (select value from json_each(?))`,
    [site.projection, JSON.stringify(entries)],
  )

/** The rows of some entries in one locale, with the columns that answers are made of. */
export const rowsInLocale = (
  reader: Reader,
  site: Site,
  edition: Edition,
  entries: readonly string[],
  locale: string,
): Promise<EditionTableRow[]> =>
  reader.all(
    `select ${readColumns(edition, 'p')} from ${editionTables[edition].rows} p where projection = ? and locale = ? and entry in (select value from json_each(?))`,
    [site.projection, locale, JSON.stringify(entries)],
  )

/** The public part of a referenced entry. */
export interface NamedRow {
  readonly entry: string
  /** Internal id. */
  readonly type: string
  readonly path: string | null
  readonly title: string
  readonly contentLocale: string
}

/** The public part of some entries in one locale. */
export const namedRowsInLocale = (
  reader: Reader,
  site: Site,
  edition: Edition,
  entries: readonly string[],
  locale: string,
): Promise<NamedRow[]> =>
  reader.all(
    `select entry, type, path, title, content_locale as contentLocale from ${editionTables[edition].rows} where projection = ? and locale = ? and entry in (select value from json_each(?))`,
    [site.projection, locale, JSON.stringify(entries)],
  )

/** The public part of some entries, by entry: in the default locale, or in any in which they can be read. */
export async function namedPublicRows(
  reader: Reader,
  site: Site,
  entries: readonly string[],
): Promise<Map<string, NamedRow>> {
  const rows = await reader.all<NamedRow>(
    `select entry, type, path, title, content_locale as contentLocale from published where projection = ? and entry in (select value from json_each(?)) order by locale = ?, entry`,
    [site.projection, JSON.stringify(entries), site.settings.defaultLocale],
  )
  return new Map(rows.map((row) => [row.entry, row]))
}

/** The draft at a path: two may have one path until one of them is published, and `preferred` goes first. */
export async function draftAtPath(
  reader: Reader,
  site: Site,
  path: string,
  preferred: string | undefined,
): Promise<EditionTableRow | undefined> {
  const [row] = await reader.all<EditionTableRow>(
    'select * from drafts where projection = ? and path = ? order by entry <> ?, entry limit 1',
    [site.projection, path, preferred ?? ''],
  )
  return row
}

/** Whether a working copy has one of some paths. */
export async function hasDraftAtPath(reader: Reader, site: Site, paths: readonly string[]): Promise<boolean> {
  const rows = await reader.all(
    'select 1 from drafts where projection = ? and path in (select value from json_each(?)) limit 1',
    [site.projection, JSON.stringify(paths)],
  )
  return rows.length > 0
}

/** The oldest public entry of a type that can be read in a locale. */
export async function firstPublicRow(
  reader: Reader,
  site: Site,
  type: string,
  locale: string,
): Promise<EditionTableRow | undefined> {
  const [row] = await reader.all<EditionTableRow>(
    'select * from published where projection = ? and type = ? and locale = ? order by entry limit 1',
    [site.projection, type, locale],
  )
  return row
}

/** The rows of drafts in given locales, in the order in which they are given. */
export const draftRowsIn = (
  reader: Reader,
  site: Site,
  wanted: readonly { readonly entry: string; readonly locale: string }[],
): Promise<DraftRow[]> =>
  reader.all(
    `select d.* from json_each(?) w cross join drafts d on d.projection = ? and d.entry = w.value ->> 'entry' and d.locale = w.value ->> 'locale' order by w.key`,
    [JSON.stringify(wanted), site.projection],
  )

/** Where an entry can be read: in a locale at a path, null where it has none, with its words in a locale. */
export interface PathInLocale {
  readonly entry: string
  readonly locale: string
  readonly path: string | null
  readonly contentLocale: string
}

/** Where some entries can be read in an edition, in all locales. */
export const pathsOfEntries = (
  reader: Reader,
  site: Site,
  edition: Edition,
  entries: readonly string[],
): Promise<PathInLocale[]> =>
  reader.all(
    `select entry, locale, path, content_locale as contentLocale from ${editionTables[edition].rows}
     where projection = ? and entry in (select value from json_each(?))`,
    [site.projection, JSON.stringify(entries)],
  )

export async function isPublic(reader: Reader, site: Site, entry: string): Promise<boolean> {
  const rows = await reader.all('select 1 from published where projection = ? and entry = ? limit 1', [
    site.projection,
    entry,
  ])
  return rows.length > 0
}

/** The title of a public entry in a locale; undefined where it cannot be read in it. */
export async function publicTitleOf(
  reader: Reader,
  site: Site,
  entry: string,
  locale: string,
): Promise<string | undefined> {
  const [row] = await reader.all<{ title: string }>(
    'select title from published where projection = ? and entry = ? and locale = ?',
    [site.projection, entry, locale],
  )
  return row?.title
}

/** Another public entry of the type that has the same value of a field in a locale. */
export async function publicEntryWithFact(
  reader: Reader,
  site: Site,
  type: ContentType,
  field: Field,
  locale: string,
  fact: Exclude<Fact, boolean> | number,
  except: string,
  region: string | null,
): Promise<{ readonly entry: string; readonly title: string } | undefined> {
  const [row] = await reader.all<{ entry: string; title: string }>(
    `select entry, title from published p where p.projection = ${literal(site.projection)} and p.type = ${literal(type.id)}
       and p.locale = ? and ${factExpression(field.id, 'p')} = ? and p.entry <> ? and p.region is ? limit 1`,
    [locale, fact, except, region],
  )
  return row
}

/** The states of the working copy of an entry, by locale. */
export async function standingOf(reader: Reader, site: Site, entry: string): Promise<Omit<DraftStanding, 'moved'>> {
  const rows = await reader.all<Pick<DraftRow, 'locale' | 'path' | 'state' | 'freshness'>>(
    'select locale, path, state, freshness from drafts where projection = ? and entry = ?',
    [site.projection, entry],
  )
  const byLocale = <Value>(pick: (row: (typeof rows)[number]) => Value | undefined) =>
    Object.fromEntries(rows.flatMap((row) => (pick(row) === undefined ? [] : [[row.locale, pick(row)!]])))
  return {
    states: byLocale((row) => row.state as State),
    freshness: byLocale((row) => (row.freshness === '' ? undefined : (row.freshness as Freshness))),
    paths: byLocale((row) => row.path ?? undefined),
  }
}

/** The states of working copies in a locale. */
export interface LocaleStanding {
  readonly entry: string
  readonly locale: string
  readonly state: State
  /** Undefined where the locale is no translation. */
  readonly freshness: Freshness | undefined
  readonly title: string
}

/** The states of some working copies, by entry and in all locales. */
export async function standingsOf(
  reader: Reader,
  site: Site,
  entries: readonly string[],
): Promise<Map<string, LocaleStanding[]>> {
  const rows = await reader.all<Pick<DraftRow, 'entry' | 'locale' | 'state' | 'freshness' | 'title'>>(
    'select entry, locale, state, freshness, title from drafts where projection = ? and entry in (select value from json_each(?))',
    [site.projection, JSON.stringify(entries)],
  )
  const byEntry = new Map<string, LocaleStanding[]>(entries.map((entry) => [entry, []]))
  for (const { state, freshness, ...row } of rows)
    byEntry.get(row.entry)!.push({
      ...row,
      state: state as State,
      freshness: freshness === '' ? undefined : (freshness as Freshness),
    })
  return byEntry
}

/** The titles of entries and the names of assets of a site, by id, in the default locale. */
export async function namesOf(
  reader: Reader,
  site: Site,
  ids: readonly string[],
): Promise<Readonly<Record<string, string>>> {
  if (ids.length === 0) return {}
  const rows = await reader.all<{ id: string; name: string }>(
    `select entry as id, title as name from drafts where projection = ? and locale = ? and entry in (select value from json_each(?))
     union all select id, name from assets where id in (select value from json_each(?)) and +site = ?`,
    [site.projection, site.settings.defaultLocale, JSON.stringify(ids), JSON.stringify(ids), site.id],
  )
  return Object.fromEntries(rows.map(({ id, name }) => [id, name]))
}
