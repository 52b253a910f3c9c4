import {
  checkSettings,
  localeTags,
  maxRegions,
  sameContent,
  WisteriaError,
  type LocaleConsequences,
  type SiteSettings,
} from '@wisteria/core'
import {
  hasBeenPublic,
  removedLocales,
  siteWithId,
  useOfLocale,
  type Job,
  type Reader,
  type Site,
  type Transaction,
} from '@wisteria/store'
import { z } from 'zod'
import { jobView } from '../jobs/jobs.js'
import type { Kernel } from '../kernel/kernel.js'
import { route, type Route } from '../kernel/route.js'
import { beginAdoption } from '../model/adopting.js'
import { beginForgetting } from './forgetLocaleJob.js'
import { meetsIfMatch } from '../kernel/entityTags.js'

const locale = z.strictObject({
  tag: z.string().max(40),
  label: z.string().min(1).max(80),
  fallback: z.array(z.string().max(40)).max(20).default([]),
  variant: z.boolean().optional(),
})

/** The regions of a request. */
export const regionsBody = z
  .array(z.strictObject({ name: z.string().max(60), label: z.string().max(80) }))
  .max(maxRegions, `has more than ${maxRegions} regions`)

export const settingsBody = z.strictObject({
  label: z.string().min(1).max(120),
  defaultLocale: z.string().max(40),
  locales: z.array(locale).min(1).max(200),
  timeZone: z.string().max(80),
  regions: regionsBody.optional(),
})

/** @throws WisteriaError `invalid` with everything that is wrong with them. */
export function requireSettings(settings: SiteSettings): SiteSettings {
  const problems = checkSettings(settings)
  if (problems.length > 0)
    throw new WisteriaError('invalid', problems.map((problem) => problem.message).join(' '), { problems })
  return settings
}

/** Why another default locale is refused. */
async function defaultKept(reader: Reader, site: Site): Promise<string | null> {
  return (await hasBeenPublic(reader, site.id))
    ? 'The default locale cannot change once something has been public.'
    : null
}

/** Settings with the regions of the site. @throws WisteriaError `conflict` where they have others. */
function withRegionsOf({ settings: { regions } }: Site, wanted: SiteSettings): SiteSettings {
  if (wanted.regions && !sameContent(wanted.regions, regions ?? []))
    throw new WisteriaError('conflict', 'Regions are set at `…/regions`, and not with the locales.')
  return regions ? { ...wanted, regions } : wanted
}

/** The version of the settings, for `If-Match`. */
export const etagOf = (site: Site): string => `"s${site.settingsVersion}"`

/** The consequences of other settings for the content. */
async function consequencesOf(reader: Reader, site: Site, settings: SiteSettings): Promise<LocaleConsequences> {
  const [before, after] = [localeTags(site.settings), localeTags(settings)]
  const retired = []
  for (const tag of before.filter((tag) => !after.includes(tag))) {
    const patterns = site.model.types.filter((type) => type.path?.[tag] !== undefined).map(({ name }) => name)
    retired.push({
      tag,
      ...(await useOfLocale(reader, site, tag, after)),
      refused:
        tag === site.settings.defaultLocale
          ? `\`${tag}\` is the default locale.`
          : patterns.length > 0
            ? `These types have a path pattern for \`${tag}\`: ${patterns.join(', ')}. Adopt a model without it first.`
            : null,
    })
  }
  const changed = settings.locales.filter(({ tag, fallback }) => {
    const was = site.settings.locales.find((candidate) => candidate.tag === tag)
    return was !== undefined && was.fallback.join() !== fallback.join()
  })
  return {
    added: after.filter((tag) => !before.includes(tag)),
    retired,
    fallbacksChanged: changed.map(({ tag }) => tag),
    variantsChanged: settings.locales.flatMap(({ tag, variant = false }) => {
      const was = site.settings.locales.find((candidate) => candidate.tag === tag)
      return was !== undefined && (was.variant ?? false) !== variant ? [tag] : []
    }),
    timeZoneChanged: settings.timeZone !== site.settings.timeZone,
    defaultChanged:
      settings.defaultLocale === site.settings.defaultLocale
        ? null
        : { to: settings.defaultLocale, refused: await defaultKept(reader, site) },
  }
}

/**
 * Puts other settings in force.
 * @param retire locales whose content may be withdrawn: removed ones with public content must be among them.
 * @returns the job, where there is much to rebuild.
 */
async function changeSettings(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  actor: string,
  settings: SiteSettings,
  retire: readonly string[],
): Promise<Job | undefined> {
  const { retired, defaultChanged } = await consequencesOf(transaction, site, settings)
  for (const { tag, refused, ...use } of retired) {
    if (refused !== null) throw new WisteriaError('conflict', refused)
    if (use.public > 0 && !retire.includes(tag))
      throw new WisteriaError(
        'conflict',
        `\`${tag}\` is public in ${use.public === 1 ? 'one entry' : `${use.public} entries`}. To withdraw it there, and keep its texts, name it in \`retire\`.`,
      )
  }
  if (defaultChanged?.refused) throw new WisteriaError('conflict', defaultChanged.refused)
  return beginAdoption(kernel, transaction, site, actor, { what: 'settings', model: site.model, settings })
}

const base = '/edit/v1/sites/{site}/locales'

export const localeRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: base,
    summary: 'The locales of a site, each with its whole fallback chain.',
    permission: 'model.read',
    handle: async ({ site }) => ({ body: site.settings, headers: { ETag: etagOf(site) } }),
  }),
  route({
    method: 'POST',
    path: `${base}/consequences`,
    insteadOfDryRun: 'It changes nothing.',
    summary:
      'The consequences of other settings: locales added and removed, how many entries are public in the removed ones, how many of them in no other, and how many URLs would stop working. Changes nothing.',
    permission: 'settings.change',
    body: settingsBody,
    handle: async ({ kernel, site, body }) => ({
      body: await consequencesOf(kernel.database, site, requireSettings(withRegionsOf(site, body))),
    }),
  }),
  route({
    method: 'PUT',
    path: base,
    summary:
      'Sets label, locales, fallback chains and time zone; everything public is rebuilt under them. A removed locale that is public somewhere must be named in `retire`: it is withdrawn, and its texts are kept in case it is added again.',
    permission: 'settings.change',
    body: settingsBody.extend({ retire: z.array(z.string().max(40)).max(200).default([]) }),
    handle: (request) =>
      request.write(async (transaction) => {
        const site = await siteWithId(transaction, request.site.id)
        if (!meetsIfMatch(request.headers['if-match'], etagOf(site)))
          throw new WisteriaError(
            'stale',
            'Somebody else has changed the locales since. Read them again before you change them.',
          )
        const { retire, ...wanted } = request.body
        const settings = requireSettings(withRegionsOf(site, wanted))
        const job = await changeSettings(request.kernel, transaction, site, request.actor, settings, retire)
        if (job) request.kernel.jobs.wake()
        return { status: job ? 202 : 200, body: { ...settings, ...(job ? { job: jobView(job) } : {}) } }
      }),
  }),
  route({
    method: 'GET',
    path: `${base}/removed`,
    summary:
      'Locales that the site had once and has no longer, with the number of entries and files whose texts in them are kept.',
    permission: 'model.read',
    handle: async ({ kernel, site }) => ({ body: { locales: await removedLocales(kernel.database, site) } }),
  }),
  route({
    method: 'DELETE',
    path: `${base}/removed/{locale}`,
    summary:
      'Deletes the texts of a removed locale permanently, as a job: from working copies, all revisions, files and the glossary. They do not come back.',
    permission: 'settings.change',
    handle: async (request) => {
      const answer = await request.write(async (transaction) => {
        const site = await siteWithId(transaction, request.site.id)
        const job = await beginForgetting(request.kernel, transaction, site, request.actor, request.params['locale']!)
        return { status: 202, body: jobView(job) }
      })
      request.kernel.jobs.wake()
      return answer
    },
  }),
]
