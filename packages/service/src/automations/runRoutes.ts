import { WisteriaError } from '@wisteria/core'
import {
  automationNamed,
  automationWithId,
  changeRun,
  itemsOf,
  reopenItems,
  runOnSite,
  runsOf,
  type AutomationRun,
  type Reader,
  type Site,
} from '@wisteria/store'
import { z } from 'zod'
import { route, type Route } from '../kernel/route.js'
import { wholeNumber } from '../read/listQuery.js'
import { endOf } from './advancing.js'
import { itemView, runView } from './views.js'

const base = '/edit/v1/sites/{site}/automation-runs'

async function requireRun(reader: Reader, site: Site, id: string): Promise<AutomationRun> {
  const run = await runOnSite(reader, site.id, id)
  if (!run) throw new WisteriaError('notFound', `There is no run \`${id.slice(0, 60)}\` of an automation.`)
  return run
}

/** When a run goes on: one that was stopped while it waited waits on. */
function waitLeft({ log }: AutomationRun, at: string): string {
  const last = log.at(-1)
  return last?.do === 'wait' && last.until !== undefined && last.until > at ? last.until : at
}

async function shownRun(reader: Reader, site: Site, id: string) {
  const run = await requireRun(reader, site, id)
  const automation = await automationWithId(reader, run.automation)
  return runView(run, automation!.definition.automation)
}

export const runRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: '/edit/v1/sites/{site}/automations/{automation}/runs',
    summary: 'The newest runs of an automation.',
    permission: 'draft.read',
    query: z.object({
      state: z.enum(['running', 'done', 'failed', 'stopped']).optional(),
      first: wholeNumber(1, 500).default(50),
    }),
    handle: async ({ kernel, site, params, query }) => {
      const name = params['automation']!
      const automation = await automationNamed(kernel.database, site.id, name)
      if (!automation) throw new WisteriaError('notFound', `There is no automation \`${name.slice(0, 60)}\`.`)
      const runs = await runsOf(kernel.database, automation.id, { state: query.state, most: query.first })
      return { body: { runs: runs.map((run) => runView(run, name)) } }
    },
  }),
  route({
    method: 'GET',
    path: `${base}/{run}`,
    summary: 'One run: what its steps did, and how far it is.',
    permission: 'draft.read',
    handle: async ({ kernel, site, params }) => ({ body: await shownRun(kernel.database, site, params['run']!) }),
  }),
  route({
    method: 'GET',
    path: `${base}/{run}/items`,
    summary: 'The items of a run, in their order: input, what was done, and why it failed.',
    permission: 'draft.read',
    query: z.object({
      from: wholeNumber(0, 1_000_000).default(0).describe('A position; `next` of an earlier answer.'),
      first: wholeNumber(1, 500).default(100),
      state: z.enum(['waiting', 'done', 'failed']).optional(),
    }),
    handle: async ({ kernel, site, params, query }) => {
      const { id } = await requireRun(kernel.database, site, params['run']!)
      const { from, first, state } = query
      const items = await itemsOf(kernel.database, id, { from, most: first + 1, state })
      return {
        body: {
          items: items.slice(0, first).map((item) => itemView(item, site)),
          next: items.length > first ? items[first]!.position : null,
        },
      }
    },
  }),
  route({
    method: 'POST',
    path: `${base}/{run}/stop`,
    summary: 'Stops a run. What it has done stays done.',
    permission: 'entry.write',
    handle: (request) =>
      request.write(async (transaction) => {
        const { kernel, site, params } = request
        const run = await requireRun(transaction, site, params['run']!)
        if (run.state !== 'running')
          throw new WisteriaError('conflict', `The run has ended already: it is ${run.state}.`)
        await changeRun(transaction, run.id, { state: 'stopped', ...endOf(kernel.at, 'It was stopped.') })
        return { body: await shownRun(transaction, site, run.id) }
      }),
  }),
  route({
    method: 'POST',
    path: `${base}/{run}/retry`,
    summary:
      'Goes on with a run that failed or was stopped: at the step that failed, and with the items that failed or were not done. What was done is not done again; what waited waits on.',
    permission: 'entry.write',
    handle: (request) =>
      request.write(async (transaction) => {
        const { kernel, site, params } = request
        const run = await requireRun(transaction, site, params['run']!)
        if (run.state !== 'failed' && run.state !== 'stopped')
          throw new WisteriaError('conflict', `There is nothing to try again: the run is ${run.state}.`)
        const reopened = await reopenItems(transaction, run.id, kernel.at)
        await changeRun(transaction, run.id, {
          state: 'running',
          tries: 0,
          nextAt: waitLeft(run, kernel.at),
          message: '',
          finishedAt: null,
          failed: run.failed - reopened,
        })
        return { status: 202, body: await shownRun(transaction, site, run.id) }
      }),
  }),
]
