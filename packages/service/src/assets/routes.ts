import { createHash } from 'node:crypto'
import { mkdir, readFile, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { localeTags, makeId, WisteriaError } from '@wisteria/core'
import type { AssetRow, Site } from '@wisteria/store'
import { z } from 'zod'
import type { Kernel } from '../kernel.js'
import { route, type Route } from '../route.js'
import { sniff } from './sniff.js'
import { addressOf } from './reading.js'

const base = '/edit/v1/sites/{site}/assets'

const fileAt = (kernel: Kernel, hash: string): string => join(kernel.options.data, 'assets', hash.slice(0, 2), hash)

const assetView = (kernel: Kernel, site: Site, row: AssetRow) => ({
  id: row.id,
  name: row.name,
  address: addressOf(kernel, site, row),
  mediaType: row.media_type,
  size: row.size,
  width: row.width,
  height: row.height,
  alt: JSON.parse(row.alt) as Record<string, string>,
  createdAt: row.created_at,
  createdBy: row.created_by,
})

export const assetRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: base,
    summary: 'The assets of a site by name: `accepts` media types, `search` in the name, paged by `after`.',
    permission: 'draft.read',
    query: z.object({
      accepts: z.string().max(500).optional(),
      search: z.string().max(200).optional(),
      after: z.string().max(400).optional(),
    }),
    handle: async ({ kernel, site, query }) => {
      const types = query.accepts?.split(',').map((type) => type.trim()) ?? []
      const [name, id] = query.after?.split('\n') ?? ['', '']
      const rows = await kernel.database.all<AssetRow>(
        `select * from assets where site = ? and (name, id) > (?, ?) and instr(lower(name), lower(?)) > 0
         ${types.length > 0 ? `and (${types.map(() => 'media_type like ?').join(' or ')})` : ''} order by name, id limit 101`,
        [
          site.id,
          name ?? '',
          id ?? '',
          query.search ?? '',
          ...types.map((type) => type.replace(/[%_]/g, '').replace(/\*$/, '%')),
        ],
      )
      const page = rows.slice(0, 100)
      const last = page.at(-1)
      return {
        body: {
          assets: page.map((row) => assetView(kernel, site, row)),
          next: rows.length > 100 && last ? `${last.name}\n${last.id}` : null,
        },
      }
    },
  }),
  route({
    method: 'POST',
    path: base,
    summary:
      'Adds a file: `{ name, content }` with the content in base64, and an alternative text per locale. What it is is found out from its content.',
    permission: 'entry.write',
    idempotent: true,
    body: z.strictObject({
      name: z
        .string()
        .min(1)
        .max(200)
        .regex(/^[^/\\\p{C}]+$/u, 'must be a file name, without a folder'),
      content: z.base64('must be the file in base64').min(1, 'is empty'),
      alt: z.record(z.string(), z.string().max(1000)).default({}),
    }),
    handle: async (request) => {
      const { kernel, site, body } = request
      const unknown = Object.keys(body.alt).find((tag) => !localeTags(site.settings).includes(tag))
      if (unknown !== undefined)
        throw new WisteriaError(
          'invalid',
          `\`${unknown}\` is not a locale of this site (${localeTags(site.settings).join(', ')}).`,
        )
      const content = Buffer.from(body.content, 'base64')
      const found = sniff(content)
      if (!found)
        throw new WisteriaError(
          'unsupportedMediaType',
          `${body.name} is of no kind that is taken here: PNG, JPEG, GIF, WebP, SVG, PDF or plain text.`,
        )
      const hash = createHash('sha256').update(content).digest('hex')
      const file = fileAt(kernel, hash)
      await mkdir(dirname(file), { recursive: true })
      await writeFile(file, content)
      return request.write(async (transaction) => {
        const row: AssetRow = {
          id: makeId(kernel.surroundings), site: site.id, name: body.name, media_type: found.mediaType, size: content.length, hash,
          width: found.width ?? null, height: found.height ?? null, alt: JSON.stringify(body.alt), created_at: kernel.at, created_by: request.actor,
        } // prettier-ignore
        await transaction.tables.assets.create(row)
        return {
          status: 201,
          body: assetView(kernel, site, row),
          headers: { Location: `/edit/v1/sites/${site.name}/assets/${row.id}` },
        }
      })
    },
  }),
  route({
    method: 'GET',
    path: `${base}/{id}`,
    summary: 'What is known of an asset.',
    permission: 'draft.read',
    handle: async ({ kernel, site, params }) => ({
      body: assetView(kernel, site, await requireAsset(kernel, site, params['id']!)),
    }),
  }),
  route({
    method: 'DELETE',
    path: `${base}/{id}`,
    summary: 'Takes an asset away that nothing refers to.',
    permission: 'entry.write',
    handle: async (request) => {
      const { kernel, site } = request
      const row = await requireAsset(kernel, site, request.params['id']!)
      return request.write(async (transaction) => {
        const holders = await transaction.all<{ title: string }>(
          `select distinct title from (
             select title from drafts, json_each(assets) held where shelf = ? and held.value = ?
             union all select title from published, json_each(assets) held where shelf = ? and held.value = ?) limit 5`,
          [site.shelf, row.id, site.shelf, row.id],
        )
        if (holders.length > 0)
          throw new WisteriaError(
            'conflict',
            `Entries hold it: ${holders.map(({ title }) => `“${title}”`).join(', ')}. Take it out of them first.`,
          )
        await transaction.run('delete from assets where id = ?', [row.id])
        return { status: 204 }
      })
    },
  }),
  route({
    method: 'GET',
    path: '/assets/{site}/{id}/{name}',
    summary: 'The file itself. Whoever has the address may read it.',
    permission: 'anyone',
    handle: async ({ kernel, site, params, headers }) => {
      const row = await requireAsset(kernel, site, params['id']!)
      const tag = `"${row.hash.slice(0, 32)}"`
      const isRaster = row.media_type.startsWith('image/') && row.media_type !== 'image/svg+xml'
      const own = {
        ETag: tag,
        'Cache-Control': 'public, no-cache',
        'Content-Type': row.media_type,
        'X-Content-Type-Options': 'nosniff',
        'Content-Security-Policy': "default-src 'none'; style-src 'unsafe-inline'; sandbox",
        'Content-Disposition': isRaster ? 'inline' : `attachment; filename*=UTF-8''${encodeURIComponent(row.name)}`,
      }
      if (headers['if-none-match']?.split(',').some((one) => one.trim() === tag)) return { status: 304, headers: own }
      return { text: await readFile(fileAt(kernel, row.hash)), headers: own }
    },
  }),
]

async function requireAsset(kernel: Kernel, site: Site, id: string): Promise<AssetRow> {
  const [row] = await kernel.database.all<AssetRow>('select * from assets where site = ? and id = ?', [site.id, id])
  if (!row) throw new WisteriaError('notFound', `There is no asset \`${id.slice(0, 60)}\` on ${site.settings.label}.`)
  return row
}
