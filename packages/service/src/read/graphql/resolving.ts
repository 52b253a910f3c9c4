import { localeTags, normalPath, WisteriaError, type ContentType, type WrittenCondition } from '@wisteria/core'
import { holderOf, onlyEntryOf, pathsOfEntries, type Edition } from '@wisteria/store'
import { GraphQLError } from 'graphql'
import { dependOnList } from '../listDependences.js'
import {
  defaultFirst,
  heldUntil,
  maxFirst,
  noteList,
  planList,
  regionFor,
  readBudget,
  requireLocale,
  runList,
  type PlannedList,
} from '../listQuery.js'
import { rowAt } from '../atPath.js'
import { filterToExpression } from './filters.js'
import type { ReadEntry } from '../readEntry.js'
import { isAsked } from '../extras.js'
import type { Reading } from './reading.js'

/** A page of a list, before it is printed. */
export interface Connection {
  readonly plan: PlannedList
  readonly edges: readonly { readonly node: ReadEntry; readonly cursor: string }[]
  readonly pageInfo: {
    readonly hasNextPage: boolean
    readonly hasPreviousPage: boolean
    readonly startCursor: string | null
    readonly endCursor: string | null
  }
}

/** Lists may be long, so one query may load a limited number of entries. */
const maxConnections = 25

export interface OneArguments {
  readonly id?: string
  readonly path?: string
  readonly locale?: string
  readonly edition: Edition
}

export interface ManyArguments {
  readonly where?: Record<string, unknown>
  readonly search?: string
  readonly sort?: readonly string[]
  readonly first?: number
  readonly after?: string
  readonly locale?: string
  readonly region?: string
  readonly edition: Edition
  /** An additional condition. */
  readonly also?: WrittenCondition
}

/** Null arguments count as left out; the edition is then that of the whole query. */
export function given<Arguments extends { readonly edition: Edition }>(args: Arguments, reading: Reading): Arguments {
  const present = Object.entries(args).filter(([, value]) => value !== null)
  return { edition: reading.edition, ...Object.fromEntries(present) } as unknown as Arguments
}

/** A page of entries of a type. */
export async function manyEntries(reading: Reading, type: ContentType, args: ManyArguments): Promise<Connection> {
  reading.requireEdition(args.edition)
  const first = args.first ?? defaultFirst
  if (first < 0 || first > maxFirst)
    throw new WisteriaError('badRequest', `\`first\` must be from 0 to ${maxFirst}, not ${first}.`)
  if (++reading.connections > maxConnections)
    throw new WisteriaError('badRequest', `A query asks for at most ${maxConnections} lists.`)
  const filter = args.where ? filterToExpression(reading.site.model, type, args.where) : undefined
  const where = args.also && filter ? { is: 'and' as const, of: [args.also, filter] } : (args.also ?? filter)
  const plan = planList(reading.kernel, reading.site, type, args.edition, {
    where,
    search: args.search,
    sort: args.sort?.join(','),
    first: Math.max(first, 1),
    after: args.after,
    locale: args.locale,
    exactLocale: reading.exactLocale,
    region: regionFor(reading.site, args.region),
    budget: readBudget,
  })
  reading.until = Math.min(reading.until, await heldUntil(reading.kernel, plan))
  noteList(reading.kernel, reading.site, reading.caller, plan, JSON.stringify([args.where, args.sort]))
  const page = await runList(reading.kernel, plan)
  const rows = page.rows.slice(0, first)
  const sortValues = (row: object) =>
    plan.query.sort.map((_, index) => ((row as Record<string, unknown>)[`s${index}`] ?? null) as string | number | null)
  const edges = rows.map((row) => ({
    node: reading.entry(row, args.edition),
    cursor: plan.cursor({ values: sortValues(row), entry: row.entry }),
  }))
  // A page may end before it is full, where the limit of rows is reached: the next page goes on.
  const goesOn = page.next !== undefined || page.rows.length > rows.length
  dependOnList(reading.depends, plan, !goesOn && args.after === undefined)
  return {
    plan,
    edges,
    pageInfo: {
      hasNextPage: goesOn,
      hasPreviousPage: args.after !== undefined,
      startCursor: edges[0]?.cursor ?? null,
      endCursor: page.isPartial && page.next ? plan.cursor(page.next) : (edges.at(-1)?.cursor ?? null),
    },
  }
}

/** One entry of a type, by id or by path; null when readers do not get it. */
export async function oneEntry(reading: Reading, type: ContentType, args: OneArguments): Promise<ReadEntry | null> {
  if ((args.id === undefined) === (args.path === undefined))
    throw new GraphQLError(`Ask for one ${type.name} by \`id\` or by \`path\`.`)
  const entry =
    args.path !== undefined ? await entryAt(reading, args.path, args.edition) : await byId(reading, type, args)
  return entry && entry.type.name === type.name ? entry : null
}

/** The entry of a type that has exactly one; null when readers do not get it. */
export async function onlyEntry(reading: Reading, type: ContentType, args: OneArguments): Promise<ReadEntry | null> {
  const id = await onlyEntryOf(reading.kernel.database, reading.site, type.id)
  return id === undefined ? null : byId(reading, type, { ...args, id })
}

async function byId(reading: Reading, type: ContentType, args: OneArguments): Promise<ReadEntry | null> {
  const parts = /^[0-9a-z]{20}$/.test(args.id!) ? [] : Buffer.from(args.id!, 'base64url').toString().split(' ')
  // That of an item has a part more, and no entry has it.
  const opaque = parts.length === 3 ? parts : undefined
  const edition = opaque?.[2] === 'draft' ? 'draft' : args.edition
  reading.requireEdition(edition)
  const locale = requireLocale(reading.site, args.locale ?? opaque?.[1])
  return (await reading.load(edition, locale, opaque?.[0] ?? args.id!)) ?? null
}

/** The entry at a path. */
export async function entryAt(reading: Reading, path: string, edition: Edition): Promise<ReadEntry | null> {
  reading.requireEdition(edition)
  const normal = normalPath(path)
  if (normal === undefined) throw new WisteriaError('badRequest', '`path` must begin with `/`.')
  const holder = await holderOf(reading.kernel.database, reading.site.id, normal)
  const row = await rowAt(reading.kernel, reading.site, edition, normal, holder?.isCurrent ? holder : undefined)
  if (!row) reading.depends.path(normal)
  if (row && isAsked(row, reading)) return reading.entry(row, edition)
  if (row) reading.depends.hidden(row.entry, row.locale)
  return null
}

/** The paths of an entry in all locales, in the order of the site's. */
export async function pathsOf(
  entry: ReadEntry,
  _: unknown,
  { kernel, site, depends }: Reading,
): Promise<{ locale: string; path: string; contentLocale: string }[]> {
  depends.entry(entry.row.entry, entry.type.name)
  const paths = await pathsOfEntries(kernel.database, site, entry.edition, [entry.row.entry])
  const rows = paths.flatMap(({ path, locale, contentLocale }) =>
    path === null ? [] : [{ locale, path, contentLocale }],
  )
  const order = localeTags(site.settings)
  return rows.sort((a, b) => order.indexOf(a.locale) - order.indexOf(b.locale))
}
