import { makeId, WisteriaError } from '@wisteria/core'
import { fillWords, forgetWords, rebuildPublished, siteWithId, type Site, type Transaction } from '@wisteria/store'
import { z } from 'zod'
import type { Kernel } from '../kernel/kernel.js'
import { route, type Route } from '../kernel/route.js'
import { requireSettings, settingsBody } from './localeRoutes.js'

/** A site's name stands in addresses and never changes. */
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
  if ((await transaction.all('select 1 from sites where name = ?', [name])).length > 0)
    throw new WisteriaError('conflict', `There is a site named \`${name}\` already.`)
  const id = makeId(kernel.environment)
  const at = kernel.at
  await transaction.tables.sites.create({
    id, name, open: 0, model_version: 0, settings_version: 1, sequence: 0, generation: 0, epoch: makeId(kernel.environment).slice(10), created_at: at,
  }) // prettier-ignore
  await transaction.tables.settings.create({
    site: id,
    version: 1,
    settings: JSON.stringify(settings),
    sequence: 0,
    at,
    actor: `account:${account}`,
  })
  await transaction.tables.memberships.create({ account, site: id, role: 'owner', locales: null, created_at: at })
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
    summary: 'A site: its settings, the version of its model, where its events and its public generation stand.',
    permission: 'model.read',
    handle: async ({ site }) => ({ body: siteView(site) }),
  }),
  route({
    method: 'PUT',
    path: '/edit/v1/sites/{site}/open',
    summary: 'Opens the published edition to readers without a key, or closes it.',
    permission: 'integration.manage',
    body: z.strictObject({ open: z.boolean() }),
    handle: (request) =>
      request.write(async (transaction) => {
        await transaction.run('update sites set open = ? where id = ?', [request.body.open ? 1 : 0, request.site.id])
        return { body: siteView(await siteWithId(transaction, request.site.id)) }
      }),
  }),
  route({
    method: 'POST',
    path: '/edit/v1/sites/{site}/rebuild',
    summary:
      'Throws away the rows of the published edition and makes them anew from its publications; and the words that entries are found by.',
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
