import {
  didYouMean,
  editFacts,
  fieldNamed,
  isRecord,
  localeTags,
  searchExpression,
  typeWithId,
  WisteriaError,
  type ContentType,
} from '@wisteria/core'
import {
  bestMatches,
  draftRowsIn,
  fillWords,
  lastChangesOf,
  namesOf,
  siteIds,
  siteWithId,
  standingsOf,
  type DraftRow,
  type Site,
} from '@wisteria/store'
import { z } from 'zod'
import { byLocale, titleIn } from './standing.js'
import type { Kernel } from '../kernel/kernel.js'
import {
  planList,
  requireKnownRegion,
  requireType,
  runCount,
  runList,
  listParameters,
  type AskedList,
} from '../read/listQuery.js'
import { route, type Route } from '../kernel/route.js'

type Shown = Pick<
  DraftRow,
  'entry' | 'type' | 'title' | 'path' | 'region' | 'version' | 'summary' | 'updated_at' | 'doc'
>

/** Working copies as lists show them: with each locale's state, and who changed them. */
async function listed(kernel: Kernel, site: Site, rows: readonly Shown[], columns: readonly string[] = []) {
  const ids = rows.map((row) => row.entry)
  const standings = await standingsOf(kernel.database, site, ids)
  const changes = await lastChangesOf(kernel.database, ids)
  const shown = columns.length > 0 ? await columnsOf(kernel, site, rows, columns) : undefined
  return rows.map((row) => {
    const standing = standings.get(row.entry) ?? []
    return {
      id: row.entry,
      type: typeWithId(site.model, row.type)?.name ?? '',
      title: row.title || titleIn(standing),
      path: row.path,
      region: row.region,
      version: row.version,
      state: row.summary,
      ...byLocale(site, standing),
      ...(shown ? { columns: shown.get(row.entry) ?? {} } : {}),
      updatedAt: changes.get(row.entry)?.updatedAt ?? row.updated_at,
      updatedBy: changes.get(row.entry)?.updatedBy ?? '',
    }
  })
}

/** The fields of a list's columns. @throws WisteriaError with a suggestion for an unknown one. */
function requireColumns(type: ContentType | undefined, text: string | undefined): string[] {
  const names = text?.split(',').map((name) => name.trim()) ?? []
  for (const name of names) {
    if (!type) throw new WisteriaError('badRequest', '`columns` need a type: name one with `type`.')
    if (fieldNamed(type, name)) continue
    const names = type.fields.map((field) => field.name)
    throw new WisteriaError(
      'badRequest',
      `\`columns\`: \`${name.slice(0, 80)}\` is not a field of ${type.name}.${didYouMean(name, names)}`,
    )
  }
  return names
}

/** The values of some fields of rows, in the locale of the list; entries and files by their titles and names. */
async function columnsOf(
  kernel: Kernel,
  site: Site,
  rows: readonly Shown[],
  columns: readonly string[],
): Promise<Map<string, Record<string, unknown>>> {
  const values = new Map(
    rows.map((row) => {
      const doc = JSON.parse(row.doc) as Record<string, unknown>
      return [row.entry, Object.fromEntries(columns.map((name) => [name, doc[name] ?? null]))]
    }),
  )
  const heldIn = (value: unknown): string[] =>
    [value].flat().flatMap((item) => (isRecord(item) && typeof item['id'] === 'string' ? [item['id']] : []))
  const ids = [...values.values()].flatMap((byLocale) => Object.values(byLocale).flatMap(heldIn))
  const names = await namesOf(kernel.database, site, ids)
  const named = (value: unknown): unknown =>
    Array.isArray(value)
      ? value.map(named)
      : isRecord(value) && typeof value['id'] === 'string'
        ? (names[value['id']] ?? null)
        : value
  for (const perLocale of values.values())
    for (const [name, value] of Object.entries(perLocale)) (perLocale as Record<string, unknown>)[name] = named(value)
  return values
}

/** A page of working copies, of one type or of all. */
async function draftPage(
  kernel: Kernel,
  site: Site,
  asked: AskedList & {
    readonly type?: string | undefined
    readonly count?: string | undefined
    readonly columns?: string | undefined
  },
) {
  const type = asked.type === undefined ? undefined : requireType(site, asked.type)
  if (asked.region !== undefined) requireKnownRegion(site, asked.region)
  const plan = planList(kernel, site, type, 'draft', { sort: '-entry.updated', facts: editFacts, ...asked })
  const page = await runList(kernel, plan)
  return {
    entries: await listed(kernel, site, page.rows, requireColumns(type, asked.columns)),
    next: page.next ? plan.cursor(page.next) : null,
    ...(asked.count === 'true' ? { count: await runCount(kernel, plan) } : {}),
  }
}

/** Keeps the words of entries that were written before there was search for them, a few at a time. */
export async function keepWords(kernel: Kernel): Promise<void> {
  for (const id of await siteIds(kernel.database))
    for (const edition of ['draft', 'published'] as const)
      while (
        await kernel.write(async (transaction) => fillWords(transaction, await siteWithId(transaction, id), edition))
      )
        continue
}

export const findingRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: '/edit/v1/sites/{site}/entries',
    summary:
      'A page of entries, of one type or of all: working copies with their states, and of their values only the fields in `columns`. `search`: words that the entry contains in the locale.',
    permission: 'draft.read',
    query: z.object({
      type: z.string().optional(),
      search: z.string().max(500).optional(),
      columns: z.string().max(1000).optional(),
      ...listParameters,
    }),
    handle: async ({ kernel, site, query }) => ({ body: await draftPage(kernel, site, query) }),
  }),
  route({
    method: 'GET',
    path: '/edit/v1/sites/{site}/search',
    summary:
      'The entries that contain all of `words` in some locale, by their beginnings or their stems; best first, and a word in the title counts for more.',
    permission: 'draft.read',
    query: z.object({
      words: z.string().max(500),
      type: z.string().optional(),
      first: z.coerce.number('must be a number').int('must be a whole number').min(1).max(50).default(20),
    }),
    handle: async ({ kernel, site, query: { words, type: name, first } }) => {
      const type = name === undefined ? undefined : requireType(site, name)
      const { defaultLocale } = site.settings
      const locales = [defaultLocale, ...localeTags(site.settings).filter((locale) => locale !== defaultLocale)]
      const expression = searchExpression(words, locales)
      const entryIds =
        expression === undefined
          ? []
          : await bestMatches(kernel.database, site.projection, expression, { type: type?.id, locales, limit: first })
      const rows = await draftRowsIn(kernel.database, site, entryIds)
      const entries = await listed(kernel, site, rows)
      return { body: { entries: entries.map((entry, index) => ({ ...entry, foundIn: rows[index]!.locale })) } }
    },
  }),
]
