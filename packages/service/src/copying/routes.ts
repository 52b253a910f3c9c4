import { siteWithId } from '@wisteria/store'
import { z } from 'zod'
import { requireOtherSite } from '../access/otherSites.js'
import { jobView } from '../jobs/jobs.js'
import { route, type Route } from '../kernel/route.js'
import { requireMay } from '../kernel/permission.js'
import { beginCopy } from './copyJob.js'
import { planCopy } from './planning.js'

const base = '/edit/v1/sites/{site}/copies'

const order = z.strictObject({
  from: z.string().max(120),
  types: z.array(z.string().max(64)).min(1).max(500).optional(),
  where: z.string().max(10_000).optional(),
  ids: z.array(z.string().max(60)).min(1).max(10_000).optional(),
  references: z.boolean().default(true),
})

export const copyRoutes: readonly Route[] = [
  route({
    method: 'POST',
    path: `${base}/plan`,
    summary:
      'What copying content of the site `from` would do: how many entries of each type, why some would be refused, the files, and what would be left out. Changes nothing.',
    permission: 'entry.write',
    insteadOfDryRun: 'It changes nothing: it is the dry run of a copy.',
    body: order,
    handle: async ({ kernel, site, actor, body }) => {
      const source = await requireOtherSite(kernel, site, actor, body.from)
      return { body: await planCopy(kernel, source, site, body) }
    },
  }),
  route({
    method: 'POST',
    path: base,
    summary:
      'Copies content of the site `from`, as a job: all of it, entries of `types` (that meet `where`, of one type) or of `ids`; with the files that they refer to and, unless `references` is false, with the entries. `publish`: copies are published where their originals are public. Copies get ids of their own.',
    permission: 'entry.write',
    idempotent: true,
    body: order.extend({ publish: z.boolean().default(false) }),
    handle: async (request) => {
      const { kernel, actor, caller, body } = request
      const source = await requireOtherSite(kernel, request.site, actor, body.from)
      if (body.publish) requireMay(caller, 'entry.publish', {})
      const begin = await beginCopy(kernel, source, request.site, body)
      const answer = await request.write(async (transaction) => {
        await siteWithId(transaction, request.site.id)
        return { status: 202, body: jobView(await begin(transaction, actor, body.publish)) }
      })
      kernel.jobs.wake()
      return answer
    },
  }),
]
