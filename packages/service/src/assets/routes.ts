import { Readable } from 'node:stream'
import { isRendition, localeTags, makeId, typeWithId, WisteriaError } from '@wisteria/core'
import { Act, referrersOf, siteWithId, type AssetRow, type PublicChange, type Reader, type Site } from '@wisteria/store'
import { z } from 'zod'
import { titlesIn } from '../kernel/holders.js'
import type { Kernel } from '../kernel/kernel.js'
import { requireMay } from '../kernel/permission.js'
import { route, type Answer, type Route, type SiteRequest } from '../kernel/route.js'
import { fileAt, keepFile, type KeptFile } from './files.js'
import { isRaster } from './kinds.js'
import { addressOf, versionOf } from './reading.js'
import { renditionParameters } from './renditions.js'
import { renditionsOf } from './renditions.js'

const base = '/edit/v1/sites/{site}/assets'
const one = `${base}/{id}`

const assetView = (kernel: Kernel, site: Site, row: AssetRow) => ({
  id: row.id,
  name: row.name,
  address: addressOf(kernel, site, row),
  mediaType: row.media_type,
  size: row.size,
  width: row.width,
  height: row.height,
  alt: JSON.parse(row.alt) as Record<string, string>,
  title: JSON.parse(row.title) as Record<string, string>,
  caption: JSON.parse(row.caption) as Record<string, string>,
  focalPoint: row.focal_x === null || row.focal_y === null ? null : { x: row.focal_x, y: row.focal_y },
  createdAt: row.created_at,
  createdBy: row.created_by,
  updatedAt: row.updated_at,
})

const fileName = z
  .string()
  .min(1)
  .max(200)
  .regex(/^[^/\\\p{C}]+$/u, 'must be a file name, without a folder')
  .refine((name) => name !== '.' && name !== '..', 'must be a file name, such as `boat.png`')
const texts = z.record(z.string(), z.string().max(1000))
const fraction = z.number().min(0).max(1)

/** @throws WisteriaError where a text is in a locale that the site does not have. */
function requireLocales(site: Site, all: readonly Readonly<Record<string, unknown>>[]): void {
  const known = localeTags(site.settings)
  const unknown = all.flatMap((one) => Object.keys(one)).find((tag) => !known.includes(tag))
  if (unknown !== undefined)
    throw new WisteriaError('invalid', `\`${unknown}\` is not a locale of this site (${known.join(', ')}).`)
}

async function addAsset(
  request: Pick<SiteRequest, 'kernel' | 'site' | 'actor' | 'write'>,
  name: string,
  alt: Readonly<Record<string, string>>,
  file: KeptFile,
): Promise<Answer> {
  const { kernel, site } = request
  return request.write(async (transaction) => {
    const act = new Act(transaction, await siteWithId(transaction, site.id), request.actor, kernel.environment)
    const row: AssetRow = {
      id: makeId(kernel.environment), site: site.id, name, media_type: file.mediaType, size: file.size, hash: file.hash,
      width: file.width ?? null, height: file.height ?? null, alt: JSON.stringify(alt), title: '{}', caption: '{}', focal_x: null, focal_y: null,
      created_at: act.at, created_by: request.actor, updated_at: act.at,
    } // prettier-ignore
    await transaction.tables.assets.create(row)
    await act.tell('asset.added', { asset: { id: row.id, name } })
    return {
      status: 201,
      body: assetView(kernel, site, row),
      headers: { Location: `/edit/v1/sites/${site.name}/assets/${row.id}` },
    }
  })
}

/** The public pages that show an asset: their bytes differ when it changes. */
async function publicChange(reader: Reader, site: Site, id: string): Promise<PublicChange | undefined> {
  const rows = await reader.all<{ entry: string; type: string; path: string | null }>(
    `select distinct p.entry, p.type, p.path from published_refs r indexed by published_refs_by_target
     join published p on p.shelf = r.shelf and p.entry = r.entry and p.locale = r.locale where r.shelf = ? and r.target = ?`,
    [site.shelf, id],
  )
  if (rows.length === 0) return undefined
  const types = new Map(rows.map((row) => [row.entry, typeWithId(site.model, row.type)?.name ?? '']))
  return {
    entries: [...types].map(([entry, type]) => ({ id: entry, type })),
    paths: rows.flatMap(({ path }) => path ?? []).sort(),
  }
}

export const assetRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: base,
    summary:
      'The assets of a site, newest first or by name: `accepts` media types, `search` in their names and texts, paged by `after`.',
    permission: 'draft.read',
    query: z.object({
      accepts: z.string().max(500).optional(),
      search: z.string().max(200).optional(),
      sort: z.enum(['newest', 'name'], 'must be newest or name').default('newest'),
      limit: z.coerce.number().int().min(1).max(100).default(60),
      after: z.string().max(400).optional(),
    }),
    handle: async ({ kernel, site, query }) => {
      const types = query.accepts?.split(',').map((type) => type.trim()) ?? []
      const terms = ['site = ?']
      const bindings: (string | number)[] = [site.id]
      const [key, beyond, order] =
        query.sort === 'name' ? ['name', '>', 'name, id'] : ['created_at', '<', 'created_at desc, id desc']
      const [value, id] = query.after?.split('\n') ?? []
      if (value !== undefined && id !== undefined) {
        terms.push(`(${key}, id) ${beyond} (?, ?)`)
        bindings.push(value, id)
      }
      for (const word of (query.search ?? '').split(/\s+/).filter(Boolean)) {
        terms.push("instr(lower(name || ' ' || alt || ' ' || title || ' ' || caption), lower(?)) > 0")
        bindings.push(word)
      }
      if (types.length > 0) {
        terms.push(`(${types.map(() => 'media_type like ?').join(' or ')})`)
        bindings.push(...types.map((type) => type.replace(/[%_]/g, '').replace(/\*$/, '%')))
      }
      const rows = await kernel.database.all<AssetRow>(
        `select * from assets where ${terms.join(' and ')} order by ${order} limit ${query.limit + 1}`,
        bindings,
      )
      const page = rows.slice(0, query.limit)
      const last = page.at(-1)
      return {
        body: {
          assets: page.map((row) => assetView(kernel, site, row)),
          next:
            rows.length > query.limit && last
              ? `${query.sort === 'name' ? last.name : last.created_at}\n${last.id}`
              : null,
          maxUpload: kernel.options.maxUpload,
        },
      }
    },
  }),
  route({
    method: 'POST',
    path: base,
    summary:
      'Adds a small file: `{ name, content }` with the content in base64, and an alternative text per locale. What it is is found out from its content.',
    permission: 'entry.write',
    idempotent: true,
    body: z.strictObject({
      name: fileName,
      content: z.base64('must be the file in base64').min(1, 'is empty'),
      alt: texts.default({}),
    }),
    handle: async (request) => {
      const { kernel, site, body } = request
      requireLocales(site, [body.alt])
      requireMay(request.caller, 'entry.write', { locales: Object.keys(body.alt) })
      const file = await keepFile(kernel, body.name, Readable.from([Buffer.from(body.content, 'base64')]))
      return addAsset(request, body.name, body.alt, file)
    },
  }),
  route({
    method: 'POST',
    path: `${base}/upload`,
    summary: 'Adds a file of any size up to the limit: its bytes are the body, its `name` stands in the query.',
    permission: 'entry.write',
    isFile: true,
    query: z.object({ name: fileName }),
    handle: async (request) => {
      const { name } = request.query
      const file = await keepFile(request.kernel, name, request.file, Number(request.headers['content-length'] ?? 0))
      return addAsset(request, name, {}, file)
    },
  }),
  route({
    method: 'GET',
    path: one,
    summary: 'What is known of an asset.',
    permission: 'draft.read',
    handle: async ({ kernel, site, params }) => ({
      body: assetView(kernel, site, await requireAsset(kernel.database, site, params['id']!)),
    }),
  }),
  route({
    method: 'PATCH',
    path: one,
    summary:
      'Changes what is said of an asset: its name, `alt`, `title` and `caption` by locale (null takes one away), and the `focalPoint` of a picture.',
    permission: 'entry.translate',
    body: z.strictObject({
      name: fileName.optional(),
      alt: z.record(z.string(), z.string().max(1000).nullable()).optional(),
      title: z.record(z.string(), z.string().max(1000).nullable()).optional(),
      caption: z.record(z.string(), z.string().max(1000).nullable()).optional(),
      focalPoint: z.strictObject({ x: fraction, y: fraction }).nullable().optional(),
    }),
    handle: (request) =>
      request.write(async (transaction) => {
        const { kernel, body } = request
        const site = await siteWithId(transaction, request.site.id)
        const row = await requireAsset(transaction, site, request.params['id']!)
        requireLocales(site, [body.alt ?? {}, body.title ?? {}, body.caption ?? {}])
        const said = [body.alt ?? {}, body.title ?? {}, body.caption ?? {}]
        const isShared = body.name !== undefined || body.focalPoint !== undefined
        requireMay(request.caller, isShared ? 'entry.write' : 'entry.translate', {
          locales: [...new Set(said.flatMap((one) => Object.keys(one)))],
          shared: isShared,
        })
        const merged = (now: string, change: Readonly<Record<string, string | null>> | undefined): string =>
          JSON.stringify(
            Object.fromEntries(
              Object.entries({ ...(JSON.parse(now) as Record<string, string>), ...change }).filter(
                ([, text]) => text !== null && text !== '',
              ),
            ),
          )
        const { focalPoint } = body
        const next: AssetRow = {
          ...row,
          name: body.name ?? row.name,
          alt: merged(row.alt, body.alt),
          title: merged(row.title, body.title),
          caption: merged(row.caption, body.caption),
          ...(focalPoint === undefined ? {} : { focal_x: focalPoint?.x ?? null, focal_y: focalPoint?.y ?? null }),
          updated_at: kernel.at,
        }
        await transaction.run(
          'update assets set name = ?, alt = ?, title = ?, caption = ?, focal_x = ?, focal_y = ?, updated_at = ? where id = ?',
          [next.name, next.alt, next.title, next.caption, next.focal_x, next.focal_y, next.updated_at, row.id],
        )
        const act = new Act(transaction, site, request.actor, kernel.environment)
        const change = await publicChange(transaction, site, row.id)
        await act.tell('asset.changed', { asset: { id: row.id, name: next.name } }, change)
        return { body: assetView(kernel, site, next) }
      }),
  }),
  route({
    method: 'PUT',
    path: `${one}/file`,
    summary: 'Replaces the file and keeps its address, its texts, and every place that it stands in.',
    permission: 'entry.write',
    isFile: true,
    handle: async (request) => {
      const { kernel } = request
      requireMay(request.caller, 'entry.write', { shared: true })
      const before = await requireAsset(kernel.database, request.site, request.params['id']!)
      const announced = Number(request.headers['content-length'] ?? 0)
      const file = await keepFile(kernel, before.name, request.file, announced)
      if (file.mediaType !== before.media_type && !(isPicture(file.mediaType) && isPicture(before.media_type)))
        throw new WisteriaError(
          'unsupportedMediaType',
          `${before.name} is ${before.media_type}, and this is ${file.mediaType}: replace it with one of its kind, or add another file.`,
        )
      return request.write(async (transaction) => {
        const site = await siteWithId(transaction, request.site.id)
        const row = await requireAsset(transaction, site, before.id)
        const act = new Act(transaction, site, request.actor, kernel.environment)
        const next: AssetRow = {
          ...row, media_type: file.mediaType, size: file.size, hash: file.hash, width: file.width ?? null, height: file.height ?? null,
          focal_x: null, focal_y: null, updated_at: act.at,
        } // prettier-ignore
        await transaction.run(
          'update assets set media_type = ?, size = ?, hash = ?, width = ?, height = ?, focal_x = null, focal_y = null, updated_at = ? where id = ?',
          [next.media_type, next.size, next.hash, next.width, next.height, next.updated_at, row.id],
        )
        const change = await publicChange(transaction, site, row.id)
        await act.tell('asset.changed', { asset: { id: row.id, name: row.name } }, change)
        return { body: assetView(kernel, site, next) }
      })
    },
  }),
  route({
    method: 'GET',
    path: `${one}/usage`,
    summary:
      'The entries that hold it, in working copies, in public, in the bin, or only in older revisions: at most 200.',
    permission: 'draft.read',
    handle: async ({ kernel, site, params }) => {
      const { id } = await requireAsset(kernel.database, site, params['id']!)
      return { body: { usedBy: await referrersOf(kernel.database, site, id, 'all') } }
    },
  }),
  route({
    method: 'DELETE',
    path: one,
    summary:
      'Deletes an asset that no entry holds. If only older revisions hold it, say `revisions=ignore`: restoring one of them then gives a broken reference.',
    permission: 'entry.write',
    query: z.object({ revisions: z.literal('ignore', 'must be ignore').optional() }),
    handle: (request) =>
      request.write(async (transaction) => {
        const site = await siteWithId(transaction, request.site.id)
        const row = await requireAsset(transaction, site, request.params['id']!)
        requireMay(request.caller, 'entry.write', { shared: true })
        const holders = await referrersOf(transaction, site, row.id, 'all')
        const current = holders.filter((one) => one.inWorkingCopy || one.inPublic)
        if (current.length > 0)
          throw new WisteriaError('conflict', `Entries hold it: ${titlesIn(current)}. Remove it from them first.`)
        if (holders.length > 0 && request.query.revisions === undefined)
          throw new WisteriaError(
            'conflict',
            `Older revisions of ${titlesIn(holders)} hold it. Delete it with \`revisions=ignore\` if they may lose it.`,
          )
        await transaction.run('delete from assets where id = ?', [row.id])
        const act = new Act(transaction, site, request.actor, request.kernel.environment)
        await act.tell('asset.deleted', { asset: { id: row.id, name: row.name } })
        return { status: 204 }
      }),
  }),
  route({
    method: 'GET',
    path: '/assets/{site}/{id}/{name}',
    summary:
      'The file itself; whoever has the address may read it. A picture may be asked for in other forms: `w` and `h` in pixels, `fit` (`inside`, or `cover` around its focal point), `format` (webp, avif, jpeg, png). With the `v` that answers print, its bytes never change and are cached for a year.',
    permission: 'anyone',
    query: z.object({ ...renditionParameters, v: z.string().max(60).optional() }),
    handle: async ({ kernel, site, params, query, headers, address }) => {
      const row = await requireAsset(kernel.database, site, params['id']!)
      const asked = isRendition(query)
      const rendition = asked ? await renditionsOf(kernel).of(row, query, address) : undefined
      const tag = rendition?.tag ?? `"${row.hash.slice(0, 32)}"`
      const own = {
        ETag: tag,
        'Cache-Control': query.v === versionOf(row) ? 'public, max-age=31536000, immutable' : 'public, no-cache',
        'Content-Type': rendition?.mediaType ?? row.media_type,
        'X-Content-Type-Options': 'nosniff',
        'Content-Security-Policy': "default-src 'none'; style-src 'unsafe-inline'; sandbox",
        'Content-Disposition':
          asked || isRaster(row.media_type) ? 'inline' : `attachment; filename*=UTF-8''${encodeURIComponent(row.name)}`,
      }
      if (headers['if-none-match']?.split(',').some((one) => one.trim() === tag)) return { status: 304, headers: own }
      return { path: rendition?.path ?? fileAt(kernel, row.hash), headers: own }
    },
  }),
]

const isPicture = (mediaType: string): boolean => mediaType.startsWith('image/')

async function requireAsset(reader: Reader, site: Site, id: string): Promise<AssetRow> {
  const [row] = await reader.all<AssetRow>('select * from assets where site = ? and id = ?', [site.id, id])
  if (!row) throw new WisteriaError('notFound', `There is no asset \`${id.slice(0, 60)}\` on ${site.settings.label}.`)
  return row
}
