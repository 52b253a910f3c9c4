import { typeWithId, WisteriaError, type Region } from '@wisteria/core'
import { Act, countByRegion, insertSettings, siteWithId, type Reader, type Site } from '@wisteria/store'
import { z } from 'zod'
import { meetsIfMatch } from '../kernel/entityTags.js'
import { route, type Route } from '../kernel/route.js'
import { requireNoAdoption } from '../model/adopting.js'
import { etagOf, regionsBody, requireSettings } from './localeRoutes.js'

const base = '/edit/v1/sites/{site}/regions'

const body = z.strictObject({ regions: regionsBody })

/** The regions of a site, with how many entries are in each. */
async function regionsOf(reader: Reader, site: Site) {
  const counts = await countByRegion(reader, site)
  const total = (name: string): number =>
    counts.filter(({ region }) => region === name).reduce((sum, { entries }) => sum + entries, 0)
  return {
    regions: (site.settings.regions ?? []).map(({ name, label }) => ({ name, label, entries: total(name) })),
    types: site.model.types.filter(({ regional }) => regional).map(({ name }) => name),
  }
}

/** @throws WisteriaError `conflict` where a region that is left out has entries. */
async function requireEmpty(reader: Reader, site: Site, wanted: readonly Region[]): Promise<void> {
  const stays = new Set(wanted.map(({ name }) => name))
  for (const { region, type, entries } of await countByRegion(reader, site))
    if (!stays.has(region))
      throw new WisteriaError(
        'conflict',
        `\`${region}\` has ${entries === 1 ? '1 entry' : `${entries} entries`} of ${typeWithId(site.model, type)?.name ?? 'a removed type'}, those in the bin counted. Delete them permanently first.`,
      )
}

export const regionRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: base,
    summary:
      'The regions of a site besides the main one, with how many entries are in each, and the types whose entries belong to regions.',
    permission: 'model.read',
    handle: async ({ kernel, site }) => ({
      body: await regionsOf(kernel.database, site),
      headers: { ETag: etagOf(site) },
    }),
  }),
  route({
    method: 'PUT',
    path: base,
    summary:
      'Sets the regions of a site: adds, labels, orders and removes them. A region with entries cannot be removed, and a name cannot change: it is part of addresses.',
    permission: 'settings.change',
    body,
    handle: (request) =>
      request.write(async (transaction) => {
        const site = await siteWithId(transaction, request.site.id)
        if (!meetsIfMatch(request.headers['if-match'], etagOf(site)))
          throw new WisteriaError(
            'stale',
            'Somebody else has changed the settings since. Read the regions again before you change them.',
          )
        requireNoAdoption(site)
        const settings = requireSettings({ ...site.settings, regions: request.body.regions })
        await requireEmpty(transaction, site, request.body.regions)
        const act = new Act(transaction, site, request.actor, request.kernel.environment)
        await insertSettings(
          transaction,
          site.id,
          site.settingsVersion + 1,
          settings,
          act.sequence,
          act.at,
          request.actor,
        )
        await act.tell('settings.changed', {})
        const changed = await siteWithId(transaction, site.id)
        return { body: await regionsOf(transaction, changed), headers: { ETag: etagOf(changed) } }
      }),
  }),
]
