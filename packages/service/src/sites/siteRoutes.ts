import { makeId, WisteriaError } from '@wisteria/core'
import {
  changeOpen,
  fillWords,
  forgetWords,
  insertMembership,
  insertSite,
  rebuildPublished,
  siteLabels,
  siteNamed,
  siteWithId,
  type Site,
  type Transaction,
} from '@wisteria/store'
import { z } from 'zod'
import type { Kernel } from '../kernel/kernel.js'
import { route, type Route } from '../kernel/route.js'
import { sitesOf } from '../access/memberships.js'
import { requireSettings, settingsBody } from './localeRoutes.js'

/** The name of a site is part of addresses and never changes. */
export const siteName = z
  .string()
  .regex(/^[a-z][a-z0-9-]{0,39}$/, 'must be lowercase letters, digits and hyphens, such as `marram`')

export const newSite = settingsBody.extend({ name: siteName })

/** Creates a site without a model. The account becomes its owner. */
export async function createSite(
  kernel: Kernel,
  transaction: Transaction,
  wanted: z.infer<typeof newSite>,
  account: string,
): Promise<Site> {
  const { name, ...settings } = wanted
  requireSettings(settings)
  if (await siteNamed(transaction, name))
    throw new WisteriaError('conflict', `There is a site named \`${name}\` already.`)
  const id = makeId(kernel.environment)
  const at = kernel.at
  const epoch = makeId(kernel.environment).slice(10)
  await insertSite(transaction, { id, name, epoch, settings }, at, `account:${account}`)
  await insertMembership(transaction, account, id, { role: 'owner' }, at)
  return siteWithId(transaction, id)
}

export const siteView = (site: Site) => ({
  name: site.name,
  ...site.settings,
  open: site.isOpen,
  modelVersion: site.model.version,
  sequence: site.sequence,
  publicGeneration: site.publicGeneration,
})

export const siteRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: '/edit/v1/sites',
    summary: 'The sites that you are a member of; as an operator all sites of the service. `role` is yours there.',
    permission: 'signedIn',
    handle: async ({ kernel, caller }) => {
      const mine = await sitesOf(kernel.database, caller.is === 'member' ? caller.account : '')
      const all = caller.is === 'member' && caller.operator ? await siteLabels(kernel.database) : mine
      const roleOn = new Map(mine.map(({ name, role }) => [name, role]))
      return { body: { sites: all.map(({ name, label }) => ({ name, label, role: roleOn.get(name) ?? null })) } }
    },
  }),
  route({
    method: 'POST',
    path: '/edit/v1/sites',
    summary: 'Creates a site, with its locales and time zone. You become its owner.',
    permission: 'operate',
    idempotent: true,
    body: newSite,
    handle: (request) =>
      request.write(async (transaction) => {
        const account = request.caller.is === 'member' ? request.caller.account : ''
        return { status: 201, body: siteView(await createSite(request.kernel, transaction, request.body, account)) }
      }),
  }),
  route({
    method: 'GET',
    path: '/edit/v1/sites/{site}',
    summary:
      'A site: its settings, the version of its model, the number of its newest event and its public generation.',
    permission: 'model.read',
    handle: async ({ site }) => ({ body: siteView(site) }),
  }),
  route({
    method: 'PUT',
    path: '/edit/v1/sites/{site}/open',
    summary: 'Opens the published edition to readers without a key, or closes it.',
    permission: 'settings.change',
    body: z.strictObject({ open: z.boolean() }),
    handle: (request) =>
      request.write(async (transaction) => {
        await changeOpen(transaction, request.site.id, request.body.open)
        return { body: siteView(await siteWithId(transaction, request.site.id)) }
      }),
  }),
  route({
    method: 'POST',
    path: '/edit/v1/sites/{site}/rebuild',
    summary: 'Rebuilds the rows of the published edition from its publications, and the search index.',
    permission: 'operate',
    handle: (request) =>
      request.write(async (transaction) => {
        const site = await siteWithId(transaction, request.site.id)
        const rows = await rebuildPublished(transaction, site)
        for (const edition of ['draft', 'published'] as const) {
          await forgetWords(transaction, site, edition)
          while (await fillWords(transaction, site, edition)) continue
        }
        return { body: { rows } }
      }),
  }),
]
