import { editFacts, makeId, WisteriaError, type ListAsks, type ListView } from '@wisteria/core'
import {
  changeSavedView,
  countSavedViews,
  deleteSavedView,
  insertSavedView,
  savedViewFor,
  savedViewsFor,
  type SavedView,
} from '@wisteria/store'
import { z } from 'zod'
import type { Kernel } from '../kernel/kernel.js'
import { requirePermission } from '../kernel/permission.js'
import { planList, requireType } from '../read/listQuery.js'
import { route, type Route, type SiteRequest } from '../kernel/route.js'

const base = '/edit/v1/sites/{site}/views'

/** The most views that one person may save. */
const maxViews = 200

const body = z.strictObject({
  name: z.string().trim().min(1, 'must have a name').max(80),
  shared: z.boolean().default(false),
  asks: z.strictObject({
    type: z.string().max(64).optional(),
    search: z.string().max(500).optional(),
    where: z.string().max(10_000).optional(),
    sort: z.string().max(300).optional(),
    locale: z.string().max(40).optional(),
    columns: z.array(z.string().max(200)).max(12).optional(),
  }),
})

const viewOf = ({ id, name, isShared, owner, asks }: SavedView, actor: string): ListView => ({
  id,
  name,
  shared: isShared,
  own: owner === actor,
  asks,
})

/** A list that cannot be run is not saved. @throws WisteriaError with the place. */
function requireAskable({ kernel, site }: SiteRequest<unknown, unknown>, asks: ListAsks): void {
  const type = asks.type === undefined ? undefined : requireType(site, asks.type)
  planList(kernel, site, type, 'draft', { ...asks, facts: editFacts })
}

/** A view that somebody may change: their own, or one that everybody shares. */
async function requireView(request: SiteRequest<unknown, unknown>, reader: Kernel['database']): Promise<SavedView> {
  const { site, actor, params } = request
  const view = await savedViewFor(reader, site.id, actor, params['id']!)
  if (!view)
    throw new WisteriaError(
      'notFound',
      `There is no view \`${params['id']!.slice(0, 60)}\` for you on ${site.settings.label}.`,
    )
  if (view.isShared) requirePermission(request.caller, 'entry.write', site)
  return view
}

export const viewRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: base,
    summary: 'The views that you saved, and those that everybody shares.',
    permission: 'draft.read',
    handle: async ({ kernel, site, actor }) => ({
      body: { views: (await savedViewsFor(kernel.database, site.id, actor)).map((view) => viewOf(view, actor)) },
    }),
  }),
  route({
    method: 'POST',
    path: base,
    summary: 'Saves a view under a name, for you or for everybody.',
    permission: 'member.self',
    idempotent: true,
    body,
    handle: async (request) => {
      const { kernel, site, actor, body: asked } = request
      if (asked.shared) requirePermission(request.caller, 'entry.write', site)
      requireAskable(request, asked.asks)
      return request.write(async (transaction) => {
        if ((await countSavedViews(transaction, site.id, actor)) >= maxViews)
          throw new WisteriaError('conflict', `You have ${maxViews} saved views already. Delete one first.`)
        const view: SavedView = {
          id: makeId(kernel.environment),
          site: site.id,
          name: asked.name,
          owner: actor,
          isShared: asked.shared,
          asks: asked.asks,
          createdAt: kernel.at,
        }
        await insertSavedView(transaction, view)
        return { status: 201, body: viewOf(view, actor) }
      })
    },
  }),
  route({
    method: 'PUT',
    path: `${base}/{id}`,
    summary: 'Changes the name of a view, what it lists, or who sees it.',
    permission: 'member.self',
    body,
    handle: async (request) => {
      const { kernel, actor, body: asked } = request
      const view = await requireView(request, kernel.database)
      if (asked.shared) requirePermission(request.caller, 'entry.write', request.site)
      requireAskable(request, asked.asks)
      return request.write(async (transaction) => {
        const next = { ...view, name: asked.name, isShared: asked.shared, asks: asked.asks }
        await changeSavedView(transaction, next, kernel.at)
        return { body: viewOf(next, actor) }
      })
    },
  }),
  route({
    method: 'DELETE',
    path: `${base}/{id}`,
    summary: 'Deletes a view; the entries stay.',
    permission: 'member.self',
    handle: async (request) => {
      const view = await requireView(request, request.kernel.database)
      return request.write(async (transaction) => {
        await deleteSavedView(transaction, view.id)
        return { status: 204 }
      })
    },
  }),
]
