import { z } from 'zod'
import { jobView } from '../jobs/jobs.js'
import { route, type Route } from '../kernel/route.js'
import { exportArchive } from './exporting.js'
import { archiveContents } from './form.js'
import { receiveArchive } from './receiving.js'

const base = '/edit/v1/sites/{site}/archive'

export const archiveRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: base,
    summary:
      'The whole site as an archive: a ZIP file with JSON Lines and files, which another service imports. `everything`: model and settings with their histories, entries with all revisions, files, saved views, the glossary, front ends, automations and webhooks; no secrets, keys and members. `public`: only what readers of the published edition can see.',
    permission: 'site.archive',
    query: z.object({ content: z.enum(archiveContents).default('everything') }),
    handle: async ({ kernel, site, query }) => exportArchive(kernel, site, query.content),
  }),
  route({
    method: 'PUT',
    path: base,
    summary:
      'Imports an archive of a site, whose bytes are the body, as a job. The site must have no model, entries and files; it gets the settings of the archive, and keeps its name, members and keys. Where the import fails or is stopped, nothing of the archive stays. `ids=new` gives entries and files other ids, for a copy on the same service. Automations and webhooks are switched off at first. A dry run looks into the archive and imports nothing.',
    permission: 'site.archive',
    isFile: true,
    query: z.object({ ids: z.enum(['same', 'new']).default('same') }),
    handle: async (request) => {
      const { kernel, site, actor, file, query } = request
      const { head, begin, discard } = await receiveArchive(kernel, site, actor, file, query.ids === 'new')
      let isKept = false
      try {
        const answer = await request.write(async (transaction) => {
          const job = await begin(transaction)
          return { status: 202, body: { job: jobView(job), archive: head } }
        })
        isKept = answer.headers?.['Dry-Run'] === undefined
        return answer
      } finally {
        if (isKept) kernel.jobs.wake()
        else await discard()
      }
    },
  }),
]
