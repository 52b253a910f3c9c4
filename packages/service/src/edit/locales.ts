import { checkSettings, localeTags, WisteriaError, type LocaleConsequences, type SiteSettings } from '@wisteria/core'
import { siteWithId, useOfLocale, type JobRow, type Reader, type Site, type Transaction } from '@wisteria/store'
import { z } from 'zod'
import { jobView } from '../jobs/jobs.js'
import type { Kernel } from '../kernel.js'
import { route, type Route } from '../route.js'
import { beginAdoption } from './adopting.js'

const locale = z.strictObject({
  tag: z.string().max(40),
  label: z.string().min(1).max(80),
  fallback: z.array(z.string().max(40)).max(20).default([]),
})

export const settingsBody = z.strictObject({
  label: z.string().min(1).max(120),
  defaultLocale: z.string().max(40),
  locales: z.array(locale).min(1).max(200),
  timeZone: z.string().max(80),
})

/** @throws WisteriaError `invalid` with everything that is wrong with them. */
export function requireSettings(settings: SiteSettings): SiteSettings {
  const problems = checkSettings(settings)
  if (problems.length > 0)
    throw new WisteriaError('invalid', problems.map((problem) => problem.message).join(' '), { problems })
  return settings
}

/** What other settings would do to what is there. */
async function consequencesOf(reader: Reader, site: Site, settings: SiteSettings): Promise<LocaleConsequences> {
  const [before, after] = [localeTags(site.settings), localeTags(settings)]
  const retired = []
  for (const tag of before.filter((one) => !after.includes(one))) {
    const pattern = site.model.types.find((type) => type.path?.[tag] !== undefined)
    retired.push({
      tag,
      ...(await useOfLocale(reader, site, tag, after)),
      refused:
        tag === site.settings.defaultLocale
          ? `\`${tag}\` is the default locale.`
          : pattern
            ? `\`${tag}\` has a path pattern in the type ${pattern.name}. Adopt a model without it first.`
            : null,
    })
  }
  const changed = settings.locales.filter(({ tag, fallback }) => {
    const was = site.settings.locales.find((one) => one.tag === tag)
    return was !== undefined && was.fallback.join() !== fallback.join()
  })
  return {
    added: after.filter((tag) => !before.includes(tag)),
    retired,
    fallbacksChanged: changed.map(({ tag }) => tag),
    timeZoneChanged: settings.timeZone !== site.settings.timeZone,
  }
}

/**
 * Puts other settings in force.
 * @param retire locales whose content may be withdrawn: those that go and have something public must be among them.
 * @returns the job, where there is much to rebuild.
 */
async function changeSettings(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  actor: string,
  settings: SiteSettings,
  retire: readonly string[],
): Promise<JobRow | undefined> {
  const { retired } = await consequencesOf(transaction, site, settings)
  for (const { tag, refused, ...use } of retired) {
    if (refused !== null) throw new WisteriaError('conflict', refused)
    if (use.public > 0 && !retire.includes(tag))
      throw new WisteriaError(
        'conflict',
        `\`${tag}\` is public in ${use.public === 1 ? 'one entry' : `${use.public} entries`}. To withdraw it there, and keep its texts, name it in \`retire\`.`,
      )
  }
  if (settings.defaultLocale !== site.settings.defaultLocale) {
    const [used] = await transaction.all('select 1 from publications where site = ? limit 1', [site.id])
    if (used) throw new WisteriaError('conflict', 'The default locale stays what it is once something has been public.')
  }
  return beginAdoption(kernel, transaction, site, actor, { what: 'settings', model: site.model, settings })
}

const base = '/edit/v1/sites/{site}/locales'

export const localeRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: base,
    summary: 'The locales of a site, each with its whole fallback chain.',
    permission: 'model.read',
    handle: async ({ site }) => ({ body: site.settings }),
  }),
  route({
    method: 'POST',
    path: `${base}/consequences`,
    summary:
      'What other settings would do: locales that come and go, how many entries are public in those that go, how many of them in no other, and how many URLs would stop working. Changes nothing.',
    permission: 'model.change',
    body: settingsBody,
    handle: async ({ kernel, site, body }) => ({
      body: await consequencesOf(kernel.database, site, requireSettings(body)),
    }),
  }),
  route({
    method: 'PUT',
    path: base,
    summary:
      'Sets label, locales, fallback chains and time zone; everything public is rebuilt under them. A locale that goes and is public somewhere must be named in `retire`: it is withdrawn, and its texts are kept for the day when it comes back.',
    permission: 'model.change',
    body: settingsBody.extend({ retire: z.array(z.string().max(40)).max(200).default([]) }),
    handle: (request) =>
      request.write(async (transaction) => {
        const site = await siteWithId(transaction, request.site.id)
        const { retire, ...wanted } = request.body
        const settings = requireSettings(wanted)
        const job = await changeSettings(request.kernel, transaction, site, request.actor, settings, retire)
        if (job) request.kernel.jobs.wake()
        return { status: job ? 202 : 200, body: { ...settings, ...(job ? { job: jobView(job) } : {}) } }
      }),
  }),
]
