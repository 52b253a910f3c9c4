import { contentFor, chainOf, makeId, WisteriaError } from '@wisteria/core'
import {
  deleteFrontEnd,
  draftPathOf,
  frontEndNamed,
  frontEndsOf,
  revokeGrantsOf,
  storeFrontEnd,
  type FrontEnd,
  type Site,
} from '@wisteria/store'
import { z } from 'zod'
import type { Kernel } from '../kernel/kernel.js'
import { exchangeCode, issueCode } from '../access/grants.js'
import { requireLocale } from '../read/listQuery.js'
import { route, type Route } from '../kernel/route.js'
import { requireEntry } from '../workingCopies/entryView.js'

const base = '/edit/v1/sites/{site}/front-ends'

const placeholders = ['path', 'slug', 'locale', 'id', 'code']

const origin = z
  .string()
  .refine(
    (text) => URL.canParse(text) && new URL(text).origin === text && text.startsWith('http'),
    'must be an origin such as https://site.example',
  )
const enterAddress = z
  .string()
  .max(1000)
  .refine((text) => /^https?:\/\//.test(text), 'must begin with https:// or http://')
  .refine((text) => text.includes('{code}'), 'must hold {code}, the code that the front end exchanges')
  .refine(
    (text) => [...text.matchAll(/\{([^}]*)\}/g)].every((match) => placeholders.includes(match[1]!)),
    `knows the placeholders ${placeholders.map((name) => `{${name}}`).join(' ')}`,
  )

const frontEndBody = z.strictObject({
  label: z.string().trim().min(1, 'must not be empty').max(120),
  origins: z.array(origin).min(1).max(50),
  /** By type; `*` for all others. */
  enter: z.record(z.string(), enterAddress),
})

const frontEndView = ({ name, label, origins, enter, createdAt }: FrontEnd) => ({
  name,
  label,
  origins,
  enter,
  createdAt,
})

function requireConsistent(site: Site, body: z.infer<typeof frontEndBody>): void {
  for (const [type, address] of Object.entries(body.enter)) {
    if (type !== '*' && !site.model.types.some((other) => other.name === type))
      throw new WisteriaError('invalid', `\`enter\`: \`${type}\` is not a type of this site; \`*\` means all others.`)
    const origin = new URL(address.replaceAll(/[{}]/g, '')).origin
    if (!body.origins.includes(origin))
      throw new WisteriaError('invalid', `\`enter\`: ${origin} is not among the front end's origins.`)
  }
}

async function requireFrontEnd(kernel: Kernel, site: Site, name: string): Promise<FrontEnd> {
  const frontEnd = await frontEndNamed(kernel.database, site.id, name)
  if (!frontEnd) throw new WisteriaError('notFound', `There is no front end \`${name.slice(0, 60)}\`.`)
  return frontEnd
}

export const frontEndRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: base,
    summary: 'The registered front ends: their origins, and where a preview enters them.',
    permission: 'model.read',
    handle: async ({ kernel, site }) => ({
      body: { frontEnds: (await frontEndsOf(kernel.database, site.id)).map(frontEndView) },
    }),
  }),
  route({
    method: 'PUT',
    path: `${base}/{name}`,
    summary: 'Registers a front end, or changes it.',
    permission: 'integration.manage',
    body: frontEndBody,
    handle: (request) =>
      request.write(async (transaction) => {
        const name = request.params['name']!
        if (!/^[a-z][a-z0-9-]{0,39}$/.test(name))
          throw new WisteriaError('invalid', 'The name of a front end is lowercase letters, digits and hyphens.')
        requireConsistent(request.site, request.body)
        await storeFrontEnd(transaction, {
          id: makeId(request.kernel.environment),
          site: request.site.id,
          name,
          ...request.body,
          createdAt: request.kernel.at,
        })
        return { body: frontEndView((await frontEndNamed(transaction, request.site.id, name))!) }
      }),
  }),
  route({
    method: 'DELETE',
    path: `${base}/{name}`,
    summary: 'Removes a front end; its preview grants end.',
    permission: 'integration.manage',
    handle: async (request) => {
      const { id } = await requireFrontEnd(request.kernel, request.site, request.params['name']!)
      return request.write(async (transaction) => {
        await deleteFrontEnd(transaction, id)
        return { status: 204 }
      })
    },
  }),
  route({
    method: 'POST',
    path: '/edit/v1/sites/{site}/entries/{id}/preview',
    insteadOfDryRun: 'It only makes a code that is good for a minute.',
    summary:
      'An address that shows the working copy on a front end: it contains a single-use code, valid for a minute.',
    permission: 'member.self',
    body: z.strictObject({ frontEnd: z.string(), locale: z.string().optional() }),
    handle: async ({ kernel, site, caller, params, body }) => {
      if (caller.is !== 'member')
        throw new WisteriaError('forbidden', 'A preview is opened by a member: the grant has their rights.')
      const frontEnd = await requireFrontEnd(kernel, site, body.frontEnd)
      const copy = await requireEntry(kernel.database, site, params['id']!)
      const locale = requireLocale(site, body.locale)
      const pattern = frontEnd.enter[copy.type.name] ?? frontEnd.enter['*']
      if (pattern === undefined)
        throw new WisteriaError('notFound', `${frontEnd.label} has no preview address for the type ${copy.type.name}.`)
      const path = await draftPathOf(kernel.database, site, copy.id, locale)
      const slugField = copy.type.fields.find((field) => field.kind === 'slug')
      const slug = slugField ? contentFor(slugField, copy.document, chainOf(site.settings, locale)) : undefined
      const fill: Record<string, string> = {
        path: path ?? '',
        slug: typeof slug === 'string' ? slug : '',
        locale,
        id: copy.id,
        code: await issueCode(kernel, site, frontEnd.id, caller.account),
      }
      return {
        body: {
          address: pattern.replaceAll(/\{(\w+)\}/g, (_, name: string) => encodeURIComponent(fill[name] ?? '')),
          path,
        },
      }
    },
  }),
  route({
    method: 'POST',
    path: '/read/v1/{site}/grants',
    summary: 'Exchanges a preview code for a grant: a token that reads drafts, for the front end to keep in a cookie.',
    permission: 'published.read',
    // A code is 256 random bits and valid for a minute: it cannot be guessed, and one front end exchanges the codes of all its
    // visitors.
    body: z.strictObject({ code: z.string().max(200) }),
    handle: async ({ kernel, site, body }) => ({
      status: 201,
      body: await exchangeCode(kernel, site, body.code),
      headers: { 'Cache-Control': 'no-store' },
    }),
  }),
  route({
    method: 'DELETE',
    path: '/edit/v1/sites/{site}/grants',
    summary: 'Revokes every preview grant that you have created.',
    permission: 'member.self',
    handle: (request) =>
      request.write(async (transaction) => {
        const account = request.caller.is === 'member' ? request.caller.account : ''
        await revokeGrantsOf(transaction, account, request.kernel.at, request.site.id)
        return { status: 204 }
      }),
  }),
]
