import { WisteriaError } from '@wisteria/core'
import { jobOnSite, jobsOf, jobSummary, type Job, type Site } from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import { requirePermission } from '../kernel/permission.js'
import { route, type Route } from '../kernel/route.js'
import { jobView } from './jobs.js'

const base = '/edit/v1/sites/{site}/jobs'

/** @throws WisteriaError `notFound` with the id. */
export async function requireJob(kernel: Kernel, site: Site, id: string): Promise<Job> {
  return (await jobOnSite(kernel.database, site.id, id)) ?? noJob(site, id)
}

function noJob(site: Site, id: string): never {
  throw new WisteriaError('notFound', `There is no job \`${id.slice(0, 60)}\` on ${site.settings.label}.`)
}

/** So many jobs of a site are shown. */
const maxShown = 100

export const jobRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: base,
    summary: 'The jobs of the site, newest first: their progress, and how they ended.',
    permission: 'model.read',
    handle: async ({ kernel, site }) => ({
      body: { jobs: (await jobsOf(kernel.database, site.id, maxShown)).map(jobView) },
    }),
  }),
  route({
    method: 'GET',
    path: `${base}/{id}`,
    summary: 'One job.',
    permission: 'model.read',
    handle: async ({ kernel, site, params: { id } }) => ({
      body: jobView((await jobSummary(kernel.database, site.id, id!)) ?? noJob(site, id!)),
    }),
  }),
  route({
    method: 'POST',
    path: `${base}/{id}/stop`,
    insteadOfDryRun: 'The job says how far it is.',
    summary:
      'Stops a running job. An adoption changes nothing; what a bulk action has done stays done, and can be undone.',
    permission: 'entry.write',
    handle: async (request) => {
      const { kernel, site } = request
      const job = await requireJob(kernel, site, request.params['id']!)
      requirePermission(request.caller, kernel.jobs.permissionFor(job), site)
      if (job.state !== 'running') throw new WisteriaError('conflict', `The job has ended already: it is ${job.state}.`)
      await kernel.jobs.abandon(job)
      return { body: jobView(await requireJob(kernel, site, job.id)) }
    },
  }),
]
