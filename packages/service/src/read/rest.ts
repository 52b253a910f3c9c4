import {
  choiceForms,
  Dependences,
  jsonSchemaOf,
  localeTags,
  richTextForms,
  typeNamed,
  typeWithId,
  WisteriaError,
  type ContentType,
} from '@wisteria/core'
import { rowOfEntry, type Edition, type EditionTableRow, type Site } from '@wisteria/store'
import { z } from 'zod'
import type { Kernel } from '../kernel/kernel.js'
import { route, type Answer, type Route, type SiteRequest } from '../kernel/route.js'
import { readAnswer } from './answers.js'
import { choose, choosingParameters, type Chosen } from './choosing.js'
import { printEntries, printEverywhere, type Printed, type Printing } from './entryText.js'
import { extraParameters, isAsked } from './extras.js'
import { dependOnList } from './listDependences.js'
import {
  heldUntil,
  listParameters,
  noteList,
  planList,
  regionFor,
  readBudget,
  requireType,
  runCount,
  runList,
} from './listQuery.js'
import { requirePath, standsAt } from './atPath.js'
import { dependingOn, localeFor, nameOfType, noteChosen, onlyRowOf } from './reading.js'

export const editionParameter = z.enum(['published', 'draft']).default('published')

/** The answer is no older than this `publicGeneration` of an event. */
export const generationParameter = z
  .string()
  .regex(/^[0-9a-z]{1,40}\.\d{1,15}$/, 'must be a generation as an event carries it, such as `k3x9.17`')
  .optional()

export const readBase = '/read/v1/{site}'

/** How entries are printed in every list. */
export const printingParameters = {
  ...choosingParameters,
  edition: editionParameter,
  richText: z.enum(richTextForms, `must be one of ${richTextForms.join(', ')}`).default('document'),
  choices: z.enum(choiceForms, `must be one of ${choiceForms.join(', ')}`).default('value'),
  ...extraParameters,
  generation: generationParameter,
}

const inLocales = {
  locale: z.string().optional(),
  locales: z.literal('every', 'must be `every`: all locales at once').optional(),
}

interface Asked extends Omit<Printing, 'selection'> {
  readonly edition: Edition
  readonly locale?: string | undefined
  readonly locales?: 'every' | undefined
  readonly pick?: string | undefined
  readonly follow?: number | undefined
}

export const restRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: `${readBase}/entries/{type}`,
    summary:
      'A page of entries of a type: filtered by `where` and `search`, sorted by `sort`, paged by `first` and `after`, with the fields in `pick`. Of a type with exactly one entry: that entry.',
    permission: 'edition',
    query: z.object({
      ...listParameters,
      search: z.string().max(500).optional(),
      ...inLocales,
      ...printingParameters,
    }),
    handle: async (request) => {
      const { kernel, site, query } = request
      const type = requireType(site, request.params['type']!)
      if (type.cardinality === 'one') return onlyEntry(request, type)
      const chosen = choose(site, [type], query)
      const { locale, isNegotiated } = localeFor(site, query.locale, request)
      const region = regionFor(site, query.region)
      const plan = planList(kernel, site, type, query.edition, { ...query, locale, region, budget: readBudget })
      const depends = new Dependences()
      const page = await runList(kernel, plan)
      dependOnList(depends, plan, page.next === undefined && query.after === undefined)
      const printed = await print(kernel, site, query, locale, page.rows, chosen, depends)
      noteChosen(kernel, site, request.caller, [type], chosen)
      noteList(kernel, site, request.caller, plan, `${query.where ?? ''} ${query.sort ?? ''}`)
      const cursor = page.next && plan.cursor(page.next)
      const next = cursor ? JSON.stringify(cursor) : 'null'
      const partial = page.isPartial ? ',"partial":true' : ''
      const count = query.count === 'true' ? `,"count":${await runCount(kernel, plan)}` : ''
      return readAnswer(site, {
        text: `{"entries":[${printed.texts.join(',')}],"next":${next}${partial}${count}}`,
        edition: query.edition,
        depends,
        until: Math.min(await heldUntil(kernel, plan), printed.until),
        cost: page.rows.length + printed.followed,
        locale: query.locales ? undefined : locale,
        vary: isNegotiated ? ['Accept-Language'] : [],
        links: {
          next: cursor && withParameter(request.url, 'after', cursor),
          first: query.after === undefined ? undefined : withParameter(request.url, 'after', undefined),
          describedby: schemaAddress(site, type),
        },
      })
    },
  }),
  route({
    method: 'GET',
    path: `${readBase}/entries/{type}/{id}`,
    summary: 'One entry by its id; of a type with exactly one entry, by the name of the type.',
    permission: 'edition',
    query: z.object({ ...inLocales, ...printingParameters }),
    handle: async (request) => {
      const { kernel, site, query, params } = request
      const type = requireType(site, params['type']!)
      const chosen = choose(site, [type], query)
      const { locale, isNegotiated } = localeFor(site, query.locale, request)
      // A type with exactly one entry may stand for its id.
      const isOnly = type.cardinality === 'one' && typeNamed(site.model, params['id']!) === type
      const row = isOnly
        ? await onlyRowOf(kernel, site, query.edition, type.id, locale)
        : await rowIn(kernel, site, query, params['id']!, locale)
      noteChosen(kernel, site, request.caller, [type], chosen)
      if (row?.type !== type.id || !isAsked(row, query))
        throw dependingOn(
          new WisteriaError(
            'notFound',
            `There is no ${query.edition === 'draft' ? '' : 'public '}${type.name} \`${params['id']!.slice(0, 60)}\` in ${locale}.`,
          ),
          site,
          query.edition,
          (depends) =>
            isOnly ? depends.type(type.name, [], locale) : depends.hidden(params['id']!, localeOf(query, locale)),
        )
      return entryAnswer(request, query, row, chosen, { isNegotiated, locale })
    },
  }),
  route({
    method: 'GET',
    path: `${readBase}/schema/{file}`,
    summary: 'JSON Schema (2020-12) of the values of a type, as readers get them: `schema/activity.json`.',
    permission: 'published.read',
    handle: async (request) => {
      const { kernel, site, params } = request
      const type = requireType(site, params['file']!.replace(/\.json$/, ''))
      const schema = jsonSchemaOf(site.model, type, kernel.baseUrl + schemaAddress(site, type))
      return readAnswer(site, {
        text: JSON.stringify(schema),
        type: 'application/schema+json; charset=utf-8',
        edition: 'published',
        depends: new Dependences(),
      })
    },
  }),
  route({
    method: 'GET',
    path: `${readBase}/at`,
    summary:
      'The entry at a path: `{ entry }`, or `{ moved }` when its path has changed. 404 when there never was one, 410 when it was withdrawn.',
    permission: 'edition',
    query: z.object({ path: z.string(), ...printingParameters }),
    handle: async (request) => {
      const { kernel, site, query, caller } = request
      const path = requirePath(query.path)
      // The path decides the type of the entry, so a selection may name fields of any type.
      const chosen = choose(site, site.model.types, query)
      const stand = await standsAt(kernel, site, query.edition, path)
      if (stand.row) {
        if (!isAsked(stand.row, query))
          throw dependingOn(
            new WisteriaError(
              'notFound',
              `The entry at ${path.slice(0, 200)} is not translated into ${stand.row.locale}.`,
            ),
            site,
            query.edition,
            (depends) => depends.hidden(stand.row.entry, stand.row.locale),
          )
        noteChosen(kernel, site, caller, [typeWithId(site.model, stand.row.type)!], chosen)
        const { locale } = stand.row
        return entryAnswer(request, query, stand.row, chosen, { locale, wrap: (text) => `{"entry":${text}}` })
      }
      const { holder, moved } = stand
      if (holder && moved) {
        const depends = new Dependences()
        depends.path(path)
        depends.entry(holder.entry, nameOfType(site, moved), moved.locale)
        return readAnswer(site, {
          text: JSON.stringify({ moved: { path: moved.path, permanent: true } }),
          edition: query.edition,
          depends,
        })
      }
      const error = holder
        ? new WisteriaError('gone', `The entry at ${path.slice(0, 200)} is no longer public.`)
        : new WisteriaError('notFound', `Nothing is at ${path.slice(0, 200)}.`)
      throw dependingOn(error, site, query.edition, (depends) => {
        depends.path(path)
        if (holder) depends.hidden(holder.entry, holder.locale)
      })
    },
  }),
]

const schemaAddress = (site: Site, type: ContentType): string => `/read/v1/${site.name}/schema/${type.name}.json`

/** An address with one parameter replaced, or left out. */
function withParameter(url: string, name: string, value: string | undefined): string {
  const [path, query = ''] = url.split('?') as [string, string?]
  const parameters = new URLSearchParams(query)
  parameters.delete(name)
  if (value !== undefined) parameters.set(name, value)
  return parameters.size === 0 ? path : `${path}?${parameters}`
}

const print = (
  kernel: Kernel,
  site: Site,
  { edition, locales, ...printing }: Asked,
  locale: string,
  rows: readonly EditionTableRow[],
  { selection }: Chosen,
  depends: Dependences,
): Promise<Printed> =>
  locales === 'every'
    ? printEverywhere(kernel, site, edition, rows, depends, { ...printing, selection })
    : printEntries(kernel, site, edition, locale, rows, depends, { ...printing, selection })

/** The locale that an answer depends on; undefined for every one. */
const localeOf = ({ locales }: Asked, locale: string): string | undefined => (locales === 'every' ? undefined : locale)

/** The row of an entry in a locale, or in any locale for `locales=every`. */
async function rowIn(
  kernel: Kernel,
  site: Site,
  asked: Asked,
  id: string,
  locale: string,
): Promise<EditionTableRow | undefined> {
  const others = asked.locales === 'every' ? localeTags(site.settings) : []
  for (const tag of [locale, ...others]) {
    const row = await rowOfEntry(kernel.database, site, asked.edition, id, tag)
    if (row && isAsked(row, asked)) return row
  }
  return undefined
}

/** The entry of a type that has exactly one, without a list around it. */
async function onlyEntry(
  request: SiteRequest<Asked & { readonly [parameter: string]: unknown }, unknown>,
  type: ContentType,
): Promise<Answer> {
  const { kernel, site, query, caller } = request
  const listing = ['where', 'search', 'sort', 'first', 'after', 'count'].find((name) => query[name] !== undefined)
  if (listing)
    throw new WisteriaError(
      'badRequest',
      `\`${listing}\`: ${type.name} has exactly one entry, so there is no list to ask for. Send the request without it.`,
    )
  const chosen = choose(site, [type], query)
  noteChosen(kernel, site, caller, [type], chosen)
  const { locale, isNegotiated } = localeFor(site, query.locale, request)
  const row = await onlyRowOf(kernel, site, query.edition, type.id, locale)
  if (!row || !isAsked(row, query))
    throw dependingOn(
      new WisteriaError('notFound', `${type.label} is not public in ${locale} yet.`),
      site,
      query.edition,
      (depends) => depends.type(type.name, [], localeOf(query, locale)),
    )
  return entryAnswer(request, query, row, chosen, { isNegotiated, locale })
}

async function entryAnswer(
  request: SiteRequest<unknown, unknown>,
  query: Asked,
  row: EditionTableRow,
  chosen: Chosen,
  how: { readonly locale: string; readonly isNegotiated?: boolean; readonly wrap?: (text: string) => string },
): Promise<Answer> {
  const { kernel, site } = request
  const depends = new Dependences()
  const { texts, until, followed } = await print(kernel, site, query, row.locale, [row], chosen, depends)
  const { wrap = (text: string) => text, isNegotiated = false } = how
  return readAnswer(site, {
    text: wrap(texts[0]!),
    edition: query.edition,
    depends,
    until,
    cost: 1 + followed,
    vary: isNegotiated ? ['Accept-Language'] : [],
    locale: query.locales === 'every' ? undefined : row.locale,
    links: { describedby: schemaAddress(site, typeWithId(site.model, row.type)!) },
  })
}
