import { Dependences, didYouMean, WisteriaError, type ContentType, type Field } from '@wisteria/core'
import { publicPaths, redirects, slugsOf, type Site } from '@wisteria/store'
import { z } from 'zod'
import { route, type Route } from '../kernel/route.js'
import { readAnswer } from './answers.js'
import { regionFor, requireLocale, requireType, wholeNumber } from './listQuery.js'
import { generationParameter, readBase } from './rest.js'

/** Lists of paths and slugs are short a line, so that a page of them may be long. */
const maxLines = 1000

const pageParameters = {
  first: wholeNumber(1, maxLines).default(maxLines),
  after: z.string().max(1000).optional(),
  generation: generationParameter,
}

const cursorOf = (position: string): string => Buffer.from(position).toString('base64url')
function positionIn(cursor: string | undefined, form: RegExp): string {
  if (cursor === undefined) return ''
  const position = Buffer.from(cursor, 'base64url').toString()
  if (cursorOf(position) !== cursor || !form.test(position))
    throw new WisteriaError('badRequest', '`after` is not a cursor. Take `next` from the page before.')
  return position
}

/** A page, and the cursor of the next one. */
function pageOf<Row>(rows: readonly Row[], first: number, positionOf: (row: Row) => string) {
  const page = rows.slice(0, first)
  return { page, next: rows.length > first ? cursorOf(positionOf(page.at(-1)!)) : null }
}

export const pathRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: `${readBase}/paths`,
    summary:
      'Every public path with its locale, type, entry and when it last changed: for building pages and site maps.',
    permission: 'published.read',
    query: z.object({
      type: z.string().optional(),
      locale: z.string().optional(),
      region: z.string().optional(),
      ...pageParameters,
    }),
    handle: async (request) => {
      const { kernel, site, query } = request
      const type = query.type === undefined ? undefined : requireType(site, query.type)
      const locale = query.locale === undefined ? undefined : requireLocale(site, query.locale)
      const after = positionIn(query.after, /^\//)
      const region = regionFor(site, query.region)
      const asked = { type: type?.id, locale, region, after, limit: query.first + 1 }
      const rows = await publicPaths(kernel.database, site, asked)
      const { page, next } = pageOf(rows, query.first, ({ path }) => path)
      const names = new Map(site.model.types.map((type) => [type.id, type.name]))
      const depends = new Dependences()
      depends.paths(type?.name, locale)
      for (const row of page) depends.entry(row.entry, names.get(row.type) ?? '', row.locale)
      const paths = page.map((row) => ({
        path: row.path,
        locale: row.locale,
        contentLocale: row.content_locale,
        hidden: row.hidden === 1,
        type: names.get(row.type) ?? '',
        ...(row.region === null ? {} : { region: row.region }),
        id: row.entry,
        updatedAt: row.updated_at,
      }))
      return readAnswer(site, {
        text: JSON.stringify({ paths, next }),
        edition: 'published',
        depends,
      })
    },
  }),
  route({
    method: 'GET',
    path: `${readBase}/redirects`,
    summary:
      'Every path that an entry has moved away from, and its path now: for a table of redirects of a front end or a server.',
    permission: 'published.read',
    query: z.object({ locale: z.string().optional(), ...pageParameters }),
    handle: async (request) => {
      const { kernel, site, query } = request
      const locale = query.locale === undefined ? undefined : requireLocale(site, query.locale)
      const after = positionIn(query.after, /^\//)
      const rows = await redirects(kernel.database, site, { locale, after, limit: query.first + 1 })
      const { page, next } = pageOf(rows, query.first, ({ from }) => from)
      const names = new Map(site.model.types.map((type) => [type.id, type.name]))
      const depends = new Dependences()
      depends.paths(undefined, locale)
      const moved = page.map(({ from, to, locale, entry, type, since }) => ({
        from,
        to,
        locale,
        type: names.get(type) ?? '',
        id: entry,
        permanent: true,
        since,
      }))
      return readAnswer(site, {
        text: JSON.stringify({ redirects: moved, next }),
        edition: 'published',
        depends,
      })
    },
  }),
  route({
    method: 'GET',
    path: `${readBase}/slugs/{type}`,
    summary: 'Only the slugs of a type in a locale, with their entries, oldest entry first.',
    permission: 'published.read',
    query: z.object({ locale: z.string().optional(), region: z.string().optional(), ...pageParameters }),
    handle: async (request) => {
      const { kernel, site, query, params } = request
      const type = requireType(site, params['type']!)
      const locale = requireLocale(site, query.locale)
      const after = positionIn(query.after, /^[0-9a-z]{20}$/)
      const field = slugField(site, type)
      const asked = {
        type: type.id,
        locale,
        slug: field.id,
        region: type.regional ? regionFor(site, query.region) : undefined,
        after,
        limit: query.first + 1,
      }
      const { page, next } = pageOf(await slugsOf(kernel.database, site, asked), query.first, ({ id }) => id)
      const depends = new Dependences()
      depends.type(type.name, [field.name], locale)
      for (const { id } of page) depends.entry(id, type.name, locale)
      const slugs = page.map(({ slug, id, updatedAt }) => ({ slug, id, updatedAt }))
      return readAnswer(site, {
        text: JSON.stringify({ slugs, next }),
        edition: 'published',
        depends,
        locale,
      })
    },
  }),
]

function slugField(site: Site, type: ContentType): Field {
  const field = type.fields.find((candidate) => candidate.kind === 'slug')
  if (field) return field
  const matching = site.model.types
    .filter((type) => type.fields.some(({ kind }) => kind === 'slug'))
    .map(({ name }) => name)
  throw new WisteriaError(
    'badRequest',
    `${type.name} has no field of kind slug.${didYouMean(type.name, matching)} These have: ${matching.join(', ')}.`,
  )
}
