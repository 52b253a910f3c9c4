import {
  groups,
  jsonSchemaOf,
  normalPath,
  richTextForms,
  typeWithId,
  WisteriaError,
  type ContentType,
  type RichTextForm,
} from '@wisteria/core'
import { editionTables, holderOf, onlyEntryOf, type Edition, type EditionTableRow, type Site } from '@wisteria/store'
import { z } from 'zod'
import type { Kernel } from '../kernel.js'
import { route, type Answer, type Request, type Route, type SiteRequest } from '../route.js'
import { readAnswer, groupHeader } from './answers.js'
import { printEntries } from './entryText.js'
import { allFields } from './fieldReads.js'
import { listParameters, noteList, planList, requireLocale, requireType, runCount, runList } from './listQuery.js'

export const editionParameter = z.enum(['published', 'draft']).default('published')

const base = '/read/v1/{site}'

/** How entries are printed, whatever is asked. */
const printing = {
  edition: editionParameter,
  richText: z.enum(richTextForms, `must be one of ${richTextForms.join(', ')}`).default('document'),
}

export const restRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: `${base}/entries/{type}`,
    summary:
      'A page of entries of a type: `where` a condition, `sort`ed, paged by `limit` and `after`. Of a type with exactly one entry: that entry.',
    permission: 'edition',
    query: z.object({ ...listParameters, ...printing }),
    handle: async (request) => {
      const { kernel, site, query } = request
      const type = requireType(site, request.params['type']!)
      if (type.cardinality === 'one') return onlyEntry(request, type)
      noteReads(request, type, request.params['type']!)
      const plan = planList(kernel, site, type, query.edition, query)
      const page = await runList(kernel, plan)
      const { texts, depends, types, time } = await printEntries(
        kernel,
        site,
        query.edition,
        plan.query.locale,
        page.rows,
        query.richText,
      )
      noteList(kernel, site, request.caller, plan, `${query.where ?? ''} ${query.sort ?? ''}`)
      const next = page.next ? JSON.stringify(plan.cursor(page.next)) : 'null'
      const count = query.count === 'true' ? `,"count":${await runCount(kernel, plan)}` : ''
      return readAnswer(request, site, {
        text: `{"entries":[${texts.join(',')}],"next":${next}${count}}`,
        edition: query.edition,
        depends,
        types: [type.name, ...plan.dependencies.types, ...types],
        time: plan.dependencies.time || time,
      })
    },
  }),
  route({
    method: 'GET',
    path: `${base}/entries/{type}/{id}`,
    summary: 'One entry by its id.',
    permission: 'edition',
    query: z.object({ locale: z.string().optional(), ...printing }),
    handle: async (request) => {
      const { kernel, site, query, params } = request
      const type = requireType(site, params['type']!)
      noteReads(request, type, params['type']!)
      const locale = requireLocale(site, query.locale)
      const row = await rowOf(kernel, site, query.edition, params['id']!, locale)
      if (!row || row.type !== type.id)
        throw new WisteriaError(
          'notFound',
          `There is no ${query.edition === 'draft' ? '' : 'public '}${type.name} \`${params['id']!.slice(0, 60)}\` in ${locale}.`,
        )
      return entryAnswer(request, site, query, row, (text) => text)
    },
  }),
  route({
    method: 'GET',
    path: `${base}/schema/{file}`,
    summary: 'JSON Schema (2020-12) of the values of a type, as readers get them: `schema/activity.json`.',
    permission: 'published.read',
    handle: async ({ kernel, site, params }) => {
      const type = requireType(site, params['file']!.replace(/\.json$/, ''))
      const address = `${kernel.baseUrl}/read/v1/${site.name}/schema/${type.name}.json`
      return {
        body: jsonSchemaOf(site.model, type, address),
        headers: {
          'Content-Type': 'application/schema+json; charset=utf-8',
          'Cache-Control': `${site.isOpen ? 'public' : 'private'}, no-cache`,
        },
      }
    },
  }),
  route({
    method: 'GET',
    path: `${base}/at`,
    summary:
      'What stands at a path: `{ entry }`, or `{ moved }` when it stands elsewhere now. 404 when nothing ever did, 410 when it was taken down.',
    permission: 'edition',
    query: z.object({ path: z.string(), ...printing }),
    handle: async (request) => {
      const { kernel, site, query } = request
      const path = normalPath(query.path)
      if (path === undefined)
        throw new WisteriaError('badRequest', '`path` must begin with `/`, such as `/nl/agenda/nachtwandeling`.')
      return answerAt(request, kernel, site, path, query)
    },
  }),
]

interface Printing {
  readonly edition: Edition
  readonly richText: RichTextForm
}

/** An answer without a selection reads every field of the type. */
function noteReads({ kernel, site, caller }: SiteRequest<unknown, unknown>, type: ContentType, name: string): void {
  kernel.fieldReads.note(site, caller, type.id, allFields, name)
}

/** The entry of a type that has exactly one: no list around it, and nothing to page. */
async function onlyEntry(
  request: SiteRequest<Printing & { readonly [parameter: string]: unknown }, unknown>,
  type: ContentType,
): Promise<Answer> {
  const { kernel, site, query } = request
  const listing = ['where', 'sort', 'limit', 'after', 'count'].find((name) => query[name] !== undefined)
  if (listing)
    throw new WisteriaError(
      'badRequest',
      `\`${listing}\`: ${type.name} has exactly one entry, so there is no list to ask for. Leave it out.`,
    )
  noteReads(request, type, request.params['type']!)
  const locale = requireLocale(site, query['locale'] as string | undefined)
  const id = await onlyEntryOf(kernel.database, site, type.id)
  const row = id === undefined ? undefined : await rowOf(kernel, site, query.edition, id, locale)
  if (!row)
    throw withHeaders(new WisteriaError('notFound', `${type.label} is not public in ${locale} yet.`), {
      'Cache-Groups': groupHeader([groups.type(type.name)]),
      'Wisteria-Generation': site.publicGeneration,
    })
  return entryAnswer(request, site, query, row, (text) => text)
}

async function answerAt(
  request: SiteRequest<unknown, unknown>,
  kernel: Kernel,
  site: Site,
  path: string,
  printed: Printing,
): Promise<Answer> {
  const { edition } = printed
  const holder = await holderOf(kernel.database, site.id, path)
  const row = await rowAt(kernel, site, edition, path, holder?.isCurrent ? holder : undefined)
  if (row) {
    const type = typeWithId(site.model, row.type)!
    noteReads(request, type, type.name)
    return entryAnswer(request, site, printed, row, (text) => `{"entry":${text}}`)
  }
  const now = holder ? await rowOf(kernel, site, edition, holder.entry, holder.locale) : undefined
  if (holder && now?.path != null) {
    const text = JSON.stringify({ moved: { path: now.path, permanent: true } })
    return readAnswer(request, site, {
      text,
      edition,
      depends: [{ id: holder.entry, type: typeWithId(site.model, now.type)!.name }],
    })
  }
  const error = holder
    ? new WisteriaError('gone', `What stood at ${path} is no longer public.`)
    : new WisteriaError('notFound', `Nothing is at ${path.slice(0, 200)}.`)
  if (edition === 'published')
    throw withHeaders(error, {
      'Cache-Groups': groupHeader([holder ? groups.entry(holder.entry) : groups.site, groups.site]),
      'Wisteria-Generation': site.publicGeneration,
    })
  throw error
}

/** Headers that an error carries along: what a cached 404 depends on. */
export const errorHeaders = new WeakMap<WisteriaError, Readonly<Record<string, string>>>()

function withHeaders(error: WisteriaError, headers: Readonly<Record<string, string>>): WisteriaError {
  errorHeaders.set(error, headers)
  return error
}

export async function rowOf(
  kernel: Kernel,
  site: Site,
  edition: Edition,
  entry: string,
  locale: string,
): Promise<EditionTableRow | undefined> {
  const [row] = await kernel.database.all<EditionTableRow>(
    `select * from ${editionTables[edition].rows} where shelf = ? and entry = ? and locale = ?`,
    [site.shelf, entry, locale],
  )
  return row
}

/** The row at a path: of the published edition by who has it, of drafts by the path that the working copy would have. */
export async function rowAt(
  kernel: Kernel,
  site: Site,
  edition: Edition,
  path: string,
  holder: { entry: string; locale: string } | undefined,
): Promise<EditionTableRow | undefined> {
  if (edition === 'published') return holder ? rowOf(kernel, site, edition, holder.entry, holder.locale) : undefined
  // Two drafts may claim one path until one of them is published: who has it goes first.
  const rows = await kernel.database.all<EditionTableRow>(
    'select * from drafts where shelf = ? and path = ? order by entry <> ?, entry limit 1',
    [site.shelf, path, holder?.entry ?? ''],
  )
  return rows[0]
}

async function entryAnswer(
  request: Request<unknown, unknown>,
  site: Site,
  { edition, richText }: Printing,
  row: EditionTableRow,
  wrap: (text: string) => string,
): Promise<Answer> {
  const { texts, depends, types, time } = await printEntries(request.kernel, site, edition, row.locale, [row], richText)
  return readAnswer(request, site, { text: wrap(texts[0]!), edition, depends, types, time })
}
