import { groups, normalPath, typeWithId, WisteriaError } from '@wisteria/core'
import { editionTables, holderOf, type Edition, type EditionTableRow, type Site } from '@wisteria/store'
import { z } from 'zod'
import type { Kernel } from '../kernel.js'
import { route, type Answer, type Request, type Route } from '../route.js'
import { readAnswer, groupHeader } from './answers.js'
import { printEntries } from './entryText.js'
import { listParameters, planList, requireLocale, requireType, runCount, runList } from './listQuery.js'

export const editionParameter = z.enum(['published', 'draft']).default('published')

const base = '/read/v1/{site}'

export const restRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: `${base}/entries/{type}`,
    summary: 'A page of entries of a type: `where` a condition, `sort`ed, paged by `limit` and `after`.',
    permission: 'edition',
    query: z.object({ ...listParameters, edition: editionParameter }),
    handle: async (request) => {
      const { kernel, site, query } = request
      const type = requireType(site, request.params['type']!)
      const plan = planList(kernel, site, type, query.edition, query)
      const page = await runList(kernel, plan)
      const { texts, depends, types } = await printEntries(
        kernel.database,
        site,
        query.edition,
        plan.query.locale,
        page.rows,
      )
      const next = page.next ? JSON.stringify(plan.cursor(page.next)) : 'null'
      const count = query.count === 'true' ? `,"count":${await runCount(kernel, plan)}` : ''
      return readAnswer(request, site, {
        text: `{"entries":[${texts.join(',')}],"next":${next}${count}}`,
        edition: query.edition,
        depends,
        types: [type.name, ...plan.dependencies.types, ...types],
        time: plan.dependencies.time,
      })
    },
  }),
  route({
    method: 'GET',
    path: `${base}/entries/{type}/{id}`,
    summary: 'One entry by its id.',
    permission: 'edition',
    query: z.object({ locale: z.string().optional(), edition: editionParameter }),
    handle: async (request) => {
      const { kernel, site, query, params } = request
      const type = requireType(site, params['type']!)
      const locale = requireLocale(site, query.locale)
      const row = await rowOf(kernel, site, query.edition, params['id']!, locale)
      if (!row || row.type !== type.id)
        throw new WisteriaError(
          'notFound',
          `There is no ${query.edition === 'draft' ? '' : 'public '}${type.name} \`${params['id']!.slice(0, 60)}\` in ${locale}.`,
        )
      return entryAnswer(request, site, query.edition, row, (text) => text)
    },
  }),
  route({
    method: 'GET',
    path: `${base}/at`,
    summary:
      'What stands at a path: `{ entry }`, or `{ moved }` when it stands elsewhere now. 404 when nothing ever did, 410 when it was taken down.',
    permission: 'edition',
    query: z.object({ path: z.string(), edition: editionParameter }),
    handle: async (request) => {
      const { kernel, site, query } = request
      const path = normalPath(query.path)
      if (path === undefined)
        throw new WisteriaError('badRequest', '`path` must begin with `/`, such as `/nl/agenda/nachtwandeling`.')
      return answerAt(request, kernel, site, path, query.edition)
    },
  }),
]

async function answerAt(
  request: Request<unknown, unknown>,
  kernel: Kernel,
  site: Site,
  path: string,
  edition: Edition,
): Promise<Answer> {
  const holder = await holderOf(kernel.database, site.id, path)
  const row = await rowAt(kernel, site, edition, path, holder?.isCurrent ? holder : undefined)
  if (row) return entryAnswer(request, site, edition, row, (text) => `{"entry":${text}}`)
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
    `select * from ${editionTables[edition].rows} where site = ? and entry = ? and locale = ?`,
    [site.id, entry, locale],
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
    'select * from drafts where site = ? and path = ? order by entry <> ?, entry limit 1',
    [site.id, path, holder?.entry ?? ''],
  )
  return rows[0]
}

async function entryAnswer(
  request: Request<unknown, unknown>,
  site: Site,
  edition: Edition,
  row: EditionTableRow,
  wrap: (text: string) => string,
): Promise<Answer> {
  const { texts, depends, types } = await printEntries(request.kernel.database, site, edition, row.locale, [row])
  return readAnswer(request, site, { text: wrap(texts[0]!), edition, depends, types })
}
