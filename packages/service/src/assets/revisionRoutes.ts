import { sameContent, WisteriaError, type AssetChanged } from '@wisteria/core'
import {
  Act,
  assetRevision,
  shownChange,
  revisionsOfAsset,
  siteWithId,
  type Asset,
  type AssetContent,
  type AssetRevision,
  type Reader,
} from '@wisteria/store'
import { z } from 'zod'
import { requireMay } from '../kernel/permission.js'
import { changeTexts } from './origins.js'
import { route, type Route } from '../kernel/route.js'
import { blobsOf } from './blobs.js'
import { isRaster } from './kinds.js'
import { assetView, fileHeaders, requireAsset } from './views.js'

const assetPath = '/edit/v1/sites/{site}/assets/{id}'

/** Which members of an asset are its file, and which its texts. */
const parts = {
  file: ['mediaType', 'size', 'hash', 'width', 'height', 'focalPoint'],
  texts: ['name', 'alt', 'title', 'caption'],
} as const satisfies Readonly<Record<string, readonly (keyof AssetContent)[]>>

/** Which of its members differ between two states: texts by their names, and `file`. */
function changedIn(now: AssetContent, before: AssetContent | undefined): AssetChanged[] {
  if (!before) return []
  const differs = (name: keyof AssetContent) => !sameContent(now[name], before[name])
  const texts: AssetChanged[] = parts.texts.filter(differs)
  return differs('hash') ? [...texts, 'file'] : differs('focalPoint') ? [...texts, 'focalPoint'] : texts
}

const revisionView = (revision: AssetRevision, before: AssetRevision | undefined) => {
  const { hash: _, origins: _origins, ...view } = revision
  return { ...view, changed: changedIn(revision, before) }
}

export const assetRevisionRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: `${assetPath}/revisions`,
    summary:
      'The revisions of an asset, newest first: every state of its texts and its file, who made it, and what `changed`. `before` a number, at most `first`.',
    permission: 'draft.read',
    query: z.object({
      before: z.coerce.number().int().min(1).optional(),
      first: z.coerce.number().int().min(1).max(100).default(50),
    }),
    handle: async ({ kernel, site, params, query }) => {
      const { id, revision } = await requireAsset(kernel.database, site, params['id']!)
      // One more than asked for: the last is compared with the one before it.
      const all = await revisionsOfAsset(kernel.database, id, query.before ?? revision + 1, query.first + 1)
      const revisions = all.slice(0, query.first).map((state, index) => revisionView(state, all[index + 1]))
      return { body: { revisions, next: all.length > query.first ? revisions.at(-1)!.revision : null } }
    },
  }),
  route({
    method: 'GET',
    path: `${assetPath}/revisions/{number}/file`,
    summary: 'The file of an asset as it was in a revision.',
    permission: 'draft.read',
    handle: async ({ kernel, site, params }) => {
      const asset = await requireAsset(kernel.database, site, params['id']!)
      const state = await requireRevision(kernel.database, asset, params['number']!)
      return {
        path: blobsOf(kernel).address(state.hash),
        headers: {
          'Cache-Control': 'private, no-cache',
          ...fileHeaders(state.mediaType, state.name, isRaster(state.mediaType)),
        },
      }
    },
  }),
  route({
    method: 'POST',
    path: `${assetPath}/restore`,
    summary:
      'Restores an asset from a revision: its `file`, its `texts`, or both when `only` is left out. The restore is a new revision, so nothing is lost.',
    permission: 'entry.write',
    body: z.strictObject({
      revision: z.int('must be the number of a revision').min(1),
      only: z.enum(['file', 'texts'], 'must be file or texts').optional(),
    }),
    handle: (request) =>
      request.write(async (transaction) => {
        const { kernel, body } = request
        requireMay(request.caller, 'entry.write', { shared: true })
        const site = await siteWithId(transaction, request.site.id)
        const asset = await requireAsset(transaction, site, request.params['id']!)
        const state = await requireRevision(transaction, asset, String(body.revision))
        const names = body.only ? parts[body.only] : [...parts.file, ...parts.texts]
        const change = Object.fromEntries(names.map((name) => [name, state[name]])) as Partial<AssetContent>
        if (names.every((name) => sameContent(asset[name], state[name])))
          return { body: assetView(kernel, site, asset) }
        const act = new Act(transaction, site, request.actor, kernel.environment)
        // Restored texts are as fresh as they were then.
        const next = await changeTexts(transaction, site, asset, change, act.at, request.actor, state.origins ?? {})
        const shown = await shownChange(transaction, site, asset.id)
        await act.tell('asset.changed', { asset: { id: asset.id, name: next.name } }, shown)
        return { body: assetView(kernel, site, next) }
      }),
  }),
]

async function requireRevision(reader: Reader, asset: Asset, number: string): Promise<AssetRevision> {
  const wanted = Number(number)
  if (!Number.isInteger(wanted))
    throw new WisteriaError('badRequest', `Give the number of a revision, 1 to ${asset.revision}.`)
  const state = await assetRevision(reader, asset.id, wanted)
  if (!state)
    throw new WisteriaError(
      'notFound',
      `There is no revision ${wanted} of ${asset.name}; the newest is ${asset.revision}.`,
    )
  return state
}
