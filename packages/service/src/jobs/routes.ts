import { WisteriaError } from '@wisteria/core'
import type { JobRow, Site } from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import { requirePermission } from '../kernel/permission.js'
import { route, type Route } from '../kernel/route.js'
import { jobView } from './jobs.js'

const base = '/edit/v1/sites/{site}/jobs'

/** @throws WisteriaError `notFound` that says what was looked for. */
export async function requireJob(kernel: Kernel, site: Site, id: string): Promise<JobRow> {
  const [row] = await kernel.database.all<JobRow>('select * from jobs where site = ? and id = ?', [site.id, id])
  if (!row) throw new WisteriaError('notFound', `There is no job \`${id.slice(0, 60)}\` on ${site.settings.label}.`)
  return row
}

export const jobRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: base,
    summary: 'Long work of the site, newest first: how far it is, and how it ended.',
    permission: 'model.read',
    handle: async ({ kernel, site }) => {
      const rows = await kernel.database.all<JobRow>(
        'select * from jobs where site = ? order by created_at desc, id desc limit 100',
        [site.id],
      )
      return { body: { jobs: rows.map(jobView) } }
    },
  }),
  route({
    method: 'GET',
    path: `${base}/{id}`,
    summary: 'One job.',
    permission: 'model.read',
    handle: async ({ kernel, site, params }) => ({ body: jobView(await requireJob(kernel, site, params['id']!)) }),
  }),
  route({
    method: 'POST',
    path: `${base}/{id}/stop`,
    summary:
      'Stops a job that is running. An adoption leaves everything as it was; of a bulk job what is done stays done, and can be put back.',
    permission: 'entry.write',
    handle: async (request) => {
      const { kernel, site } = request
      const row = await requireJob(kernel, site, request.params['id']!)
      requirePermission(request.caller, kernel.jobs.permissionFor(row), site)
      if (row.state !== 'running') throw new WisteriaError('conflict', `The job has ended already: it is ${row.state}.`)
      await kernel.jobs.abandon(row)
      return { body: jobView(await requireJob(kernel, site, row.id)) }
    },
  }),
]
