import { makeId, WisteriaError, type ListAsks, type ListView } from '@wisteria/core'
import { type ViewRow } from '@wisteria/store'
import { z } from 'zod'
import type { Kernel } from '../kernel/kernel.js'
import { requirePermission } from '../kernel/permission.js'
import { planList, requireType } from '../read/listQuery.js'
import { route, type Route, type SiteRequest } from '../kernel/route.js'

const base = '/edit/v1/sites/{site}/views'

/** One person keeps at most so many. */
const maxViews = 200

const body = z.strictObject({
  name: z.string().trim().min(1, 'must have a name').max(80),
  shared: z.boolean().default(false),
  asks: z.strictObject({
    type: z.string().max(64).optional(),
    search: z.string().max(500).optional(),
    where: z.string().max(10_000).optional(),
    sort: z.string().max(300).optional(),
    columns: z.array(z.string().max(200)).max(12).optional(),
  }),
})

const viewOf = (row: ViewRow, actor: string): ListView => ({
  id: row.id,
  name: row.name,
  shared: row.shared === 1,
  own: row.owner === actor,
  asks: JSON.parse(row.asks) as ListAsks,
})

/** A list that cannot be asked for is not kept. @throws WisteriaError that says where. */
function requireAskable({ kernel, site }: SiteRequest<unknown, unknown>, asks: ListAsks): void {
  const type = asks.type === undefined ? undefined : requireType(site, asks.type)
  planList(kernel, site, type, 'draft', asks)
}

/** A view that somebody may change: their own, or one that everybody shares. */
async function requireView(request: SiteRequest<unknown, unknown>, reader: Kernel['database']): Promise<ViewRow> {
  const { site, actor, params } = request
  const [row] = await reader.all<ViewRow>(
    'select * from views where site = ? and id = ? and (owner = ? or shared = 1)',
    [site.id, params['id']!, actor],
  )
  if (!row)
    throw new WisteriaError(
      'notFound',
      `There is no view \`${params['id']!.slice(0, 60)}\` for you on ${site.settings.label}.`,
    )
  if (row.shared === 1) requirePermission(request.caller, 'entry.write', site)
  return row
}

export const viewRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: base,
    summary: 'The lists that you keep, and those that everybody shares.',
    permission: 'draft.read',
    handle: async ({ kernel, site, actor }) => {
      const rows = await kernel.database.all<ViewRow>(
        'select * from views where site = ? and (owner = ? or shared = 1) order by shared, name, id',
        [site.id, actor],
      )
      return { body: { views: rows.map((row) => viewOf(row, actor)) } }
    },
  }),
  route({
    method: 'POST',
    path: base,
    summary: 'Keeps a list under a name, for you or for everybody.',
    permission: 'member.self',
    idempotent: true,
    body,
    handle: async (request) => {
      const { kernel, site, actor, body: asked } = request
      if (asked.shared) requirePermission(request.caller, 'entry.write', site)
      requireAskable(request, asked.asks)
      return request.write(async (transaction) => {
        const [held] = await transaction.all<{ count: number }>(
          'select count(*) as count from views where site = ? and owner = ?',
          [site.id, actor],
        )
        if (held!.count >= maxViews)
          throw new WisteriaError('conflict', `You keep ${maxViews} views already. Take one away first.`)
        const row: ViewRow = {
          id: makeId(kernel.environment), site: site.id, name: asked.name, owner: actor, shared: asked.shared ? 1 : 0, asks: JSON.stringify(asked.asks),
          created_at: kernel.at, updated_at: kernel.at,
        } // prettier-ignore
        await transaction.tables.views.create(row)
        return { status: 201, body: viewOf(row, actor) }
      })
    },
  }),
  route({
    method: 'PUT',
    path: `${base}/{id}`,
    summary: 'Changes what a view is called, asks for, or who sees it.',
    permission: 'member.self',
    body,
    handle: async (request) => {
      const { kernel, actor, body: asked } = request
      const row = await requireView(request, kernel.database)
      if (asked.shared) requirePermission(request.caller, 'entry.write', request.site)
      requireAskable(request, asked.asks)
      return request.write(async (transaction) => {
        const next = { ...row, name: asked.name, shared: asked.shared ? 1 : 0, asks: JSON.stringify(asked.asks) }
        await transaction.run('update views set name = ?, shared = ?, asks = ?, updated_at = ? where id = ?', [
          next.name, next.shared, next.asks, kernel.at, row.id,
        ]) // prettier-ignore
        return { body: viewOf(next, actor) }
      })
    },
  }),
  route({
    method: 'DELETE',
    path: `${base}/{id}`,
    summary: 'Takes a view away; the entries stay.',
    permission: 'member.self',
    handle: async (request) => {
      const row = await requireView(request, request.kernel.database)
      return request.write(async (transaction) => {
        await transaction.run('delete from views where id = ?', [row.id])
        return { status: 204 }
      })
    },
  }),
]
