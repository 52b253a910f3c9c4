import type { Binding, Reader } from '../connection/reader.js'
import { editionTables, type Edition } from '../projections/editionTables.js'

/**
 * Entries among `p` whose words match an FTS5 expression. The join is a cross join, here and below, so that SQLite begins with the
 * words: otherwise it tests every row of the site.
 */
export function wordsSql(
  edition: Edition,
  expression: string,
  projection: string,
  locale: string,
): { text: string; bindings: Binding[] } {
  const { texts, words } = editionTables[edition]
  return {
    text: `p.entry in (select t.entry from ${words} w cross join ${texts} t on t.id = w.rowid where w.${words} match ? and t.projection = ? and t.locale = ?)`,
    bindings: [expression, projection, locale],
  }
}

export interface Match {
  readonly entry: string
  /** In which it was found: the first of them that it was found in. */
  readonly locale: string
}

/** How many of the best rows are read to find entries: one entry may match in several locales. */
const maxRanked = 200

/**
 * The entries that match an FTS5 expression best, in any locale; a word of the title counts for more.
 * @param locales in order of preference, for an entry that matches in several.
 */
export async function bestMatches(
  reader: Reader,
  projection: string,
  expression: string,
  {
    type,
    locales,
    limit,
  }: { readonly type?: string | undefined; readonly locales: readonly string[]; readonly limit: number },
): Promise<Match[]> {
  const rows = await reader.all<Match>(
    `select t.entry, t.locale from draft_words w cross join draft_texts t on t.id = w.rowid
     ${type === undefined ? '' : 'cross join drafts d on d.projection = t.projection and d.entry = t.entry and d.locale = t.locale and d.type = ?'}
     where w.draft_words match ? and t.projection = ? order by bm25(draft_words, 10.0, 1.0, 0.5), t.entry limit ${maxRanked}`,
    [...(type === undefined ? [] : [type]), expression, projection],
  )
  const ranked = new Map<string, Match>()
  const rank = ({ locale }: Match) => locales.indexOf(locale)
  for (const row of rows) {
    const existing = ranked.get(row.entry)
    // A key that is set again keeps its place: that of its best row.
    if (!existing || rank(row) < rank(existing)) ranked.set(row.entry, row)
  }
  return [...ranked.values()].slice(0, limit)
}

/** Restrictions of a search among the rows of an edition in one locale. */
export interface MatchAsked {
  readonly locale: string
  /** Internal ids; all types when left out. */
  readonly types?: readonly string[] | undefined
  /** The region of entries whose types are regional; no limit when left out. */
  readonly region?: string | undefined
  readonly limit: number
  /** Whether the best come first; otherwise in no order, which costs only the rows returned. */
  readonly ranked: boolean
}

/** The ids of entries of an edition that match an FTS5 expression in a locale, without archived ones. */
export async function matchesInLocale(
  reader: Reader,
  edition: Edition,
  projection: string,
  expression: string,
  { locale, types, region, limit, ranked }: MatchAsked,
): Promise<string[]> {
  const { rows: table, texts, words } = editionTables[edition]
  const narrowing = [
    ...(types === undefined ? [] : ['and d.type in (select value from json_each(?))']),
    ...(region === undefined ? [] : ['and (d.region is null or d.region = ?)']),
  ]
  const ofRow =
    narrowing.length === 0
      ? ''
      : `cross join ${table} d on d.projection = t.projection and d.entry = t.entry and d.locale = t.locale ${narrowing.join(' ')}`
  const order = ranked ? `order by bm25(${words}, 10.0, 1.0, 0.5), t.entry` : ''
  const archived =
    edition === 'draft' ? 'and t.entry not in (select id from entries where archived_at is not null)' : ''
  const rows = await reader.all<{ entry: string }>(
    `select t.entry from ${words} w cross join ${texts} t on t.id = w.rowid ${ofRow}
     where w.${words} match ? and t.projection = ? and t.locale = ? ${archived} ${order} limit ${limit}`,
    [
      ...(types === undefined ? [] : [JSON.stringify(types)]),
      ...(region === undefined ? [] : [region]),
      expression,
      projection,
      locale,
    ],
  )
  return rows.map(({ entry }) => entry)
}
