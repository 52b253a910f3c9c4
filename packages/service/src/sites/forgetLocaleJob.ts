import { localeTags, WisteriaError } from '@wisteria/core'
import {
  Act,
  endJob,
  entriesWithLocale,
  forgetLocaleElsewhere,
  forgetLocaleOfEntry,
  jobWithId,
  keepJobProgress,
  modelsEver,
  removedLocales,
  siteWithId,
  type Job,
  type Site,
  type Transaction,
} from '@wisteria/store'
import { beginJob } from '../jobs/beginJob.js'
import type { JobKind } from '../jobs/jobs.js'
import type { Kernel } from '../kernel/kernel.js'

/** How long one step may block other writes, in milliseconds. */
const stepTime = 40

/** Begins to delete the texts of a removed locale permanently. @throws WisteriaError `notFound` where there are none. */
export async function beginForgetting(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  actor: string,
  locale: string,
): Promise<Job> {
  if (localeTags(site.settings).includes(locale))
    throw new WisteriaError('conflict', `\`${locale}\` is a locale of this site. Remove it first.`)
  const removed = (await removedLocales(transaction, site)).find(({ tag }) => tag === locale)
  if (!removed)
    throw new WisteriaError('notFound', `There are no texts in a removed locale \`${locale.slice(0, 40)}\`.`)
  return beginJob(kernel, transaction, site, {
    kind: 'localeForgetting',
    actor,
    total: removed.entries,
    task: { locale },
    message: `Deleting the texts in ${locale} permanently.`,
  })
}

/** Deletes the texts of a removed locale from all revisions, a few entries in a transaction. */
export const localeForgettingJob = (kernel: Kernel): JobKind => ({
  name: 'localeForgetting',
  permission: 'settings.change',
  step: (job) =>
    kernel.write(async (transaction) => {
      const current = await jobWithId(transaction, job.id)
      if (current?.state !== 'running') return false
      const site = await siteWithId(transaction, job.site)
      const { locale } = JSON.parse(current.task) as { locale: string }
      if (localeTags(site.settings).includes(locale))
        throw new WisteriaError('conflict', `\`${locale}\` was added again, so its other texts are kept.`)
      const models = await modelsEver(transaction, site)
      const until = performance.now() + stepTime
      let { done, cursor } = current
      for (const entry of await entriesWithLocale(transaction, site, locale, cursor, 20)) {
        await forgetLocaleOfEntry(transaction, site, entry, locale, models)
        done++
        cursor = entry
        if (performance.now() > until) break
      }
      const isMore = (await entriesWithLocale(transaction, site, locale, cursor, 1)).length > 0
      if (isMore) {
        await keepJobProgress(transaction, job.id, done, cursor)
        return true
      }
      await forgetLocaleElsewhere(transaction, site, locale)
      const act = new Act(transaction, site, job.actor, kernel.environment)
      await act.tell('translation.localeDeleted', { locales: [locale] })
      const message = `The texts in ${locale} are deleted, in ${done} ${done === 1 ? 'entry' : 'entries'}.`
      await endJob(transaction, job.id, { state: 'done', at: kernel.at, message, done })
      return false
    }),
  abandon: (job, state, message) =>
    kernel.write(async (transaction) => {
      await endJob(transaction, job.id, { state, at: kernel.at, message: `${message} What is deleted is gone.` })
    }),
})
