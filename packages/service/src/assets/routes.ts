import { Readable } from 'node:stream'
import { WisteriaError, isRendition, localeTags, maxAssetText, sameContent } from '@wisteria/core'
import {
  Act,
  changeAsset,
  deleteAsset,
  listAssets,
  shownChange,
  referrersOf,
  siteWithId,
  type Site,
} from '@wisteria/store'
import { z } from 'zod'
import { titlesIn } from '../kernel/holders.js'
import { readCursor, writeCursor } from '../kernel/cursor.js'
import { meetsIfNoneMatch } from '../kernel/entityTags.js'
import { requireMay } from '../kernel/permission.js'
import { addAsset } from './adding.js'
import { changeTexts } from './origins.js'
import { route, type Answer, type Route, type SiteRequest } from '../kernel/route.js'
import { blobsOf } from './blobs.js'
import { keepFile, type KeptFile } from './files.js'
import { isRaster } from './kinds.js'
import { versionOf } from './reading.js'
import { assetRevisionRoutes } from './revisionRoutes.js'
import { assetView, fileHeaders, requireAsset } from './views.js'
import { renditionParameters } from './renditions.js'
import { renditionsOf } from './renditions.js'

const base = '/edit/v1/sites/{site}/assets'
const assetPath = `${base}/{id}`

const fileName = z
  .string()
  .min(1)
  .max(200)
  .regex(/^[^/\\\p{C}]+$/u, 'must be a file name, without a folder')
  .refine((name) => name !== '.' && name !== '..', 'must be a file name, such as `boat.png`')
const texts = z.record(z.string(), z.string().max(maxAssetText))
const fraction = z.number().min(0).max(1)

/** @throws WisteriaError where a locale is not one of the site's. */
function requireLocales(site: Site, asked: readonly string[]): void {
  const tags = localeTags(site.settings)
  const unknown = asked.find((tag) => !tags.includes(tag))
  if (unknown !== undefined)
    throw new WisteriaError('invalid', `\`${unknown}\` is not a locale of this site (${tags.join(', ')}).`)
}

async function answerAdded(
  request: Pick<SiteRequest, 'kernel' | 'site' | 'actor' | 'write'>,
  name: string,
  alt: Readonly<Record<string, string>>,
  file: KeptFile,
): Promise<Answer> {
  const { kernel, site, actor } = request
  return request.write(async (transaction) => {
    const asset = await addAsset(kernel, transaction, site, actor, { name, alt, file })
    return {
      status: 201,
      body: assetView(kernel, site, asset),
      headers: { Location: `/edit/v1/sites/${site.name}/assets/${asset.id}` },
    }
  })
}

/** The name of the last asset of a page, or when it was created, and its id. */
const positionForm = z.tuple([z.string(), z.string()])

export const assetRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: base,
    summary:
      'The assets of a site, newest first or by name: `accepts` media types, `search` in their names and texts, `withoutAlt` a locale in which pictures have no alternative text, paged by `after`.',
    permission: 'draft.read',
    query: z.object({
      accepts: z.string().max(500).optional(),
      search: z.string().max(200).optional(),
      withoutAlt: z.string().max(40).optional(),
      sort: z.enum(['newest', 'name'], 'must be newest or name').default('newest'),
      first: z.coerce.number().int().min(1).max(100).default(60),
      after: z.string().max(400).optional(),
    }),
    handle: async ({ kernel, site, query }) => {
      const after = query.after === undefined ? undefined : readCursor(query.after, positionForm)
      if (query.withoutAlt !== undefined) requireLocales(site, [query.withoutAlt])
      const { assets, next } = await listAssets(kernel.database, site.id, {
        sort: query.sort,
        accepts: query.accepts?.split(',').map((type) => type.trim()) ?? [],
        words: (query.search ?? '').split(/\s+/).filter(Boolean),
        withoutAlt: query.withoutAlt,
        after: after && { value: after[0], id: after[1] },
        limit: query.first,
      })
      return {
        body: {
          assets: assets.map((asset) => assetView(kernel, site, asset)),
          next: next ? writeCursor([next.value, next.id]) : null,
          maxUpload: kernel.options.maxUpload,
        },
      }
    },
  }),
  route({
    method: 'POST',
    path: base,
    summary:
      'Adds a small file: `{ name, content }` with the content in base64, and an alternative text per locale. Its media type is read from its content.',
    permission: 'entry.write',
    idempotent: true,
    body: z.strictObject({
      name: fileName,
      content: z.base64('must be the file in base64').min(1, 'is empty'),
      alt: texts.default({}),
    }),
    handle: async (request) => {
      const { kernel, site, body } = request
      requireLocales(site, Object.keys(body.alt))
      requireMay(request.caller, 'entry.write', { locales: Object.keys(body.alt) })
      const file = await keepFile(kernel, body.name, Readable.from([Buffer.from(body.content, 'base64')]))
      return answerAdded(request, body.name, body.alt, file)
    },
  }),
  route({
    method: 'POST',
    path: `${base}/upload`,
    summary: 'Adds a file of any size up to the limit: its bytes are the body, its `name` is in the query.',
    permission: 'entry.write',
    isFile: true,
    query: z.object({ name: fileName }),
    handle: async (request) => {
      const { name } = request.query
      const file = await keepFile(request.kernel, name, request.file, Number(request.headers['content-length'] ?? 0))
      return answerAdded(request, name, {}, file)
    },
  }),
  route({
    method: 'GET',
    path: assetPath,
    summary: 'The metadata of an asset.',
    permission: 'draft.read',
    handle: async ({ kernel, site, params }) => ({
      body: assetView(kernel, site, await requireAsset(kernel.database, site, params['id']!)),
    }),
  }),
  route({
    method: 'PATCH',
    path: assetPath,
    summary:
      'Changes an asset: its name, `alt`, `title` and `caption` by locale (null removes one), and the `focalPoint` of a picture.',
    permission: 'entry.translate',
    body: z.strictObject({
      name: fileName.optional(),
      alt: z.record(z.string(), z.string().max(maxAssetText).nullable()).optional(),
      title: z.record(z.string(), z.string().max(maxAssetText).nullable()).optional(),
      caption: z.record(z.string(), z.string().max(maxAssetText).nullable()).optional(),
      focalPoint: z.strictObject({ x: fraction, y: fraction }).nullable().optional(),
    }),
    handle: (request) =>
      request.write(async (transaction) => {
        const { kernel, body } = request
        const site = await siteWithId(transaction, request.site.id)
        const asset = await requireAsset(transaction, site, request.params['id']!)
        const locales = [body.alt, body.title, body.caption].flatMap((texts) => Object.keys(texts ?? {}))
        requireLocales(site, locales)
        const isShared = body.name !== undefined || body.focalPoint !== undefined
        requireMay(request.caller, isShared ? 'entry.write' : 'entry.translate', {
          locales: [...new Set(locales)],
          shared: isShared,
        })
        const merged = (
          now: Readonly<Record<string, string>>,
          changes: Readonly<Record<string, string | null>> | undefined,
        ): Record<string, string> =>
          Object.fromEntries(
            Object.entries({ ...now, ...changes }).filter((pair): pair is [string, string] => Boolean(pair[1])),
          )
        const { focalPoint } = body
        const change = {
          name: body.name ?? asset.name,
          alt: merged(asset.alt, body.alt),
          title: merged(asset.title, body.title),
          caption: merged(asset.caption, body.caption),
          focalPoint: focalPoint === undefined ? asset.focalPoint : focalPoint,
        }
        if (sameContent({ ...asset, ...change }, asset)) return { body: assetView(kernel, site, asset) }
        const act = new Act(transaction, site, request.actor, kernel.environment)
        const next = await changeTexts(transaction, site, asset, change, act.at, request.actor)
        const shown = await shownChange(transaction, site, asset.id)
        await act.tell('asset.changed', { asset: { id: asset.id, name: next.name } }, shown)
        return { body: assetView(kernel, site, next) }
      }),
  }),
  route({
    method: 'PUT',
    path: `${assetPath}/file`,
    summary: 'Replaces the file and keeps its address, its texts and every place that uses it.',
    permission: 'entry.write',
    isFile: true,
    handle: async (request) => {
      const { kernel } = request
      requireMay(request.caller, 'entry.write', { shared: true })
      const before = await requireAsset(kernel.database, request.site, request.params['id']!)
      const announced = Number(request.headers['content-length'] ?? 0)
      const file = await keepFile(kernel, before.name, request.file, announced)
      if (file.mediaType !== before.mediaType && !(isPicture(file.mediaType) && isPicture(before.mediaType)))
        throw new WisteriaError(
          'unsupportedMediaType',
          `${before.name} is ${before.mediaType}, and this is ${file.mediaType}: replace it with a file of the same kind, or add another file.`,
        )
      return request.write(async (transaction) => {
        const site = await siteWithId(transaction, request.site.id)
        const asset = await requireAsset(transaction, site, before.id)
        const act = new Act(transaction, site, request.actor, kernel.environment)
        // The same bytes again: the focal point stays.
        if (file.hash === asset.hash) return { body: assetView(kernel, site, asset) }
        const change = {
          mediaType: file.mediaType,
          size: file.size,
          hash: file.hash,
          width: file.width ?? null,
          height: file.height ?? null,
          focalPoint: null,
        }
        const next = await changeAsset(transaction, asset, change, act.at, request.actor)
        const shown = await shownChange(transaction, site, asset.id)
        await act.tell('asset.changed', { asset: { id: asset.id, name: asset.name } }, shown)
        return { body: assetView(kernel, site, next) }
      })
    },
  }),
  route({
    method: 'GET',
    path: `${assetPath}/usage`,
    summary:
      'The entries that use it, in working copies, in public, in the bin, or only in older revisions: at most 200.',
    permission: 'draft.read',
    handle: async ({ kernel, site, params }) => {
      const { id } = await requireAsset(kernel.database, site, params['id']!)
      return { body: { usedBy: await referrersOf(kernel.database, site, id, 'all') } }
    },
  }),
  route({
    method: 'DELETE',
    path: assetPath,
    summary:
      'Deletes an asset that no entry uses. If only older revisions use it, send `revisions=ignore`: restoring one of them then gives a broken reference.',
    permission: 'entry.write',
    query: z.object({ revisions: z.literal('ignore', 'must be ignore').optional() }),
    handle: (request) =>
      request.write(async (transaction) => {
        const site = await siteWithId(transaction, request.site.id)
        const asset = await requireAsset(transaction, site, request.params['id']!)
        requireMay(request.caller, 'entry.write', { shared: true })
        const holders = await referrersOf(transaction, site, asset.id, 'all')
        const current = holders.filter((holder) => holder.inWorkingCopy || holder.inPublic)
        if (current.length > 0)
          throw new WisteriaError('conflict', `Entries use it: ${titlesIn(current)}. Remove it from them first.`)
        if (holders.length > 0 && request.query.revisions === undefined)
          throw new WisteriaError(
            'conflict',
            `Older revisions of ${titlesIn(holders)} use it. Delete it with \`revisions=ignore\` if they may lose it.`,
          )
        await deleteAsset(transaction, asset.id)
        const act = new Act(transaction, site, request.actor, request.kernel.environment)
        await act.tell('asset.deleted', { asset: { id: asset.id, name: asset.name } })
        return { status: 204 }
      }),
  }),
  route({
    method: 'GET',
    path: '/assets/{site}/{id}/{name}',
    summary:
      'The file itself; everybody who has the address can read it. A picture is also available in other forms: `w` and `h` in pixels, `fit` (`inside`, or `cover` around its focal point), `format` (webp, avif, jpeg, png). With the `v` that answers print, its bytes never change and are cached for a year.',
    permission: 'anyone',
    query: z.object({ ...renditionParameters, v: z.string().max(60).optional() }),
    handle: async ({ kernel, site, params, query, headers, address }) => {
      const asset = await requireAsset(kernel.database, site, params['id']!)
      const asked = isRendition(query)
      const rendition = asked ? await renditionsOf(kernel).of(asset, query, address) : undefined
      const tag = rendition?.tag ?? `"${asset.hash.slice(0, 32)}"`
      const own = {
        ETag: tag,
        'Cache-Control': query.v === versionOf(asset) ? 'public, max-age=31536000, immutable' : 'public, no-cache',
        ...fileHeaders(rendition?.mediaType ?? asset.mediaType, asset.name, asked || isRaster(asset.mediaType)),
      }
      if (meetsIfNoneMatch(headers['if-none-match'], tag)) return { status: 304, headers: own }
      return { path: rendition?.path ?? blobsOf(kernel).address(asset.hash), headers: own }
    },
  }),
  ...assetRevisionRoutes,
]

const isPicture = (mediaType: string): boolean => mediaType.startsWith('image/')
