import {
  Dependences,
  looseExpression,
  matchTexts,
  passagesOf,
  searchExpression,
  searchQuestion,
  type ContentType,
  type Highlight,
  type SearchQuestion,
} from '@wisteria/core'
import { matchesInLocale, type Edition, type Site } from '@wisteria/store'
import { z } from 'zod'
import type { Kernel } from '../kernel/kernel.js'
import { route, type Route } from '../kernel/route.js'
import { readAnswer } from './answers.js'
import { choose } from './choosing.js'
import { printEntries, rowsOf } from './entryText.js'
import { exactly, isAsked, type AskedExtras } from './extras.js'
import { searchedIn } from './listDependences.js'
import { regionFor, requireType, wholeNumber } from './listQuery.js'
import type { ReadEntry } from './readEntry.js'
import { localeFor, noteChosen } from './reading.js'
import { printingParameters, readBase } from './rest.js'

/** The most results. */
const maxResults = 50
/** How many times the wanted number of candidates are compared: the index orders them differently. */
const rankedFor = 2
/** How many candidates are compared for typos, in steps. */
const maxCandidates = 150
const step = 50

interface Result {
  readonly entry: ReadEntry
  readonly highlights: readonly Highlight[]
}

interface AskedSearch extends AskedExtras {
  readonly edition: Edition
  readonly words: string
  readonly first: number
  readonly region?: string | undefined
}

/** The entries that match some words in a locale, best first. */
async function search(
  kernel: Kernel,
  site: Site,
  asked: AskedSearch,
  locale: string,
  types: readonly ContentType[] | undefined,
): Promise<Result[]> {
  const { edition, words: text, first } = asked
  const question = searchQuestion(text, locale)
  const exact = searchExpression(text, [locale])
  if (!question || !exact) return []
  const ids = types?.map(({ id }) => id)
  const region = regionFor(site, asked.region)
  const find = (expression: string, limit: number, ranked: boolean): Promise<string[]> =>
    matchesInLocale(kernel.database, edition, site.projection, expression, {
      locale,
      types: ids,
      region,
      limit,
      ranked,
    })
  const best = await find(exact, first * rankedFor, true)
  const results = byScore(await judged(kernel, site, asked, locale, question, best)).slice(0, first)
  if (results.length >= first) return results
  // Nothing more is written like that: perhaps it is written a little differently.
  const found = new Set(best)
  const others = (await find(looseExpression(question), maxCandidates, false)).filter((id) => !found.has(id))
  const near: (Result & { readonly score: number })[] = []
  for (let at = 0; at < others.length && results.length + near.length < first; at += step)
    near.push(...(await judged(kernel, site, asked, locale, question, others.slice(at, at + step))))
  return [...results, ...byScore(near)].slice(0, first)
}

/** Best first; equal ones in the order of the index. */
const byScore = <Scored extends { readonly score: number }>(results: readonly Scored[]): Scored[] =>
  [...results].sort((a, b) => b.score - a.score)

/** Compares what readers get of entries with a query; entries without a match are left out. */
async function judged(
  kernel: Kernel,
  site: Site,
  { edition, ...asked }: AskedSearch,
  locale: string,
  question: SearchQuestion,
  ids: readonly string[],
): Promise<(Result & { readonly score: number })[]> {
  const entries = await rowsOf(kernel, site, edition, locale, ids)
  return ids.flatMap((id) => {
    const found = entries.get(id)
    const entry = found && isAsked(found.row, asked) ? found.with(exactly(asked)) : undefined
    const match = entry && matchTexts(question, passagesOf(site.model, entry.type, entry.values))
    return match ? [{ entry, ...match }] : []
  })
}

export const searchRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: `${readBase}/search`,
    summary:
      'Entries of all types that contain all of `words` in a locale, best first: by their beginnings, their stems, or with a typo. Each with pieces of its texts and the places of the words in them.',
    permission: 'edition',
    query: z.object({
      words: z.string().max(500),
      types: z.string().max(1000).optional(),
      first: wholeNumber(1, maxResults).default(20),
      locale: z.string().optional(),
      region: z.string().optional(),
      ...printingParameters,
    }),
    handle: async (request) => {
      const { kernel, site, query, caller } = request
      const types = query.types?.split(',').map((name) => requireType(site, name.trim()))
      const chosen = choose(site, types ?? site.model.types, query)
      const { locale, isNegotiated } = localeFor(site, query.locale, request)
      const results = await search(kernel, site, query, locale, types)
      const rows = results.map(({ entry }) => entry.row)
      const { selection } = chosen
      const depends = new Dependences()
      for (const { name, fields } of types ?? site.model.types) depends.type(name, searchedIn(fields), locale)
      const printed = await printEntries(kernel, site, query.edition, locale, rows, depends, { ...query, selection })
      noteChosen(kernel, site, caller, [...new Set(results.map(({ entry }) => entry.type))], chosen)
      const texts = results.map(({ highlights }, index) => {
        const told = highlights.map(({ place, text, marks }) => ({ field: place, text, marks }))
        return `{"entry":${printed.texts[index]},"highlights":${JSON.stringify(told)}}`
      })
      return readAnswer(site, {
        text: `{"results":[${texts.join(',')}]}`,
        edition: query.edition,
        depends,
        until: printed.until,
        cost: results.length + printed.followed,
        locale,
        vary: isNegotiated ? ['Accept-Language'] : [],
      })
    },
  }),
]
