import { automationForm, WisteriaError, type Data } from '@wisteria/core'
import {
  automationNamed,
  automationsOf,
  changeAutomation,
  countRuns,
  deleteAutomation,
  siteWithId,
  type Reader,
  type Site,
  type StoredAutomation,
} from '@wisteria/store'
import { z } from 'zod'
import { tryOut } from '../kernel/dryRun.js'
import { route, type Route } from '../kernel/route.js'
import { makeWebhookSecret } from '../outgoing/signing.js'
import { adoptAutomations, changesTo, requireFit, versionsOf, storeAutomation } from './adopting.js'
import { inboundRoutes } from './inbound.js'
import { runRoutes } from './runRoutes.js'
import { startByHand } from './starting.js'
import { nextAtOf } from './timetableWork.js'
import { tryAutomation } from './trying.js'
import { automationView, noRuns, type RunCounts } from './views.js'

const base = '/edit/v1/sites/{site}/automations'
const one = `${base}/{automation}`

/** @throws WisteriaError `notFound` with the name. */
export async function requireAutomation(reader: Reader, site: Site, name: string): Promise<StoredAutomation> {
  const automation = await automationNamed(reader, site.id, name)
  if (!automation) throw new WisteriaError('notFound', `There is no automation \`${name.slice(0, 60)}\`.`)
  return automation
}

async function runCounts(reader: Reader, site: Site): Promise<ReadonlyMap<string, RunCounts>> {
  const counts = new Map<string, RunCounts>()
  for (const { automation, state, count, latest } of await countRuns(reader, site.id)) {
    const before = counts.get(automation) ?? noRuns
    const newest = before.latest === null || before.latest < latest ? latest : before.latest
    counts.set(automation, { ...before, [state]: count, latest: newest })
  }
  return counts
}

const set = z.array(automationForm).max(500)
const ids = z.array(z.string().max(60)).max(20_000)

export const automationRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: base,
    summary: 'The automations of a site, with how many of their runs are running, done and failed.',
    permission: 'draft.read',
    handle: async ({ kernel, site }) => {
      const automations = await automationsOf(kernel.database, site.id)
      const counts = await runCounts(kernel.database, site)
      return {
        body: {
          automations: automations.map((automation) =>
            automationView(automation, site, kernel.baseUrl, counts.get(automation.id)),
          ),
          versions: versionsOf(automations),
        },
      }
    },
  }),
  route({
    method: 'POST',
    path: `${base}/compare`,
    summary:
      'What it would do to make these the automations of the site: those that are not among them are removed. Nothing is changed; `versions` is sent when they are adopted.',
    permission: 'integration.manage',
    insteadOfDryRun: 'It changes nothing.',
    body: z.strictObject({ automations: set }),
    handle: async ({ kernel, site, body, caller }) => {
      requireFit(caller, site, body.automations)
      const versions = versionsOf(await automationsOf(kernel.database, site.id))
      return { body: { changes: await changesTo(kernel.database, site, body.automations), versions } }
    },
  }),
  route({
    method: 'POST',
    path: `${base}/adopt`,
    summary: 'Makes these the automations of the site, as they were compared.',
    permission: 'integration.manage',
    body: z.strictObject({
      automations: set,
      versions: z
        .record(z.string(), z.number().int())
        .describe('From the comparison: the versions that it was made with.'),
    }),
    handle: (request) =>
      request.write(async (transaction) => {
        const { kernel, body, caller, actor } = request
        const site = await siteWithId(transaction, request.site.id)
        requireFit(caller, site, body.automations)
        const changes = await changesTo(transaction, site, body.automations)
        await adoptAutomations(kernel, transaction, site, actor, body.automations, body.versions)
        return { body: { changes } }
      }),
  }),
  route({
    method: 'POST',
    path: `${base}/try`,
    summary:
      'What an automation would do, started for an entry, for entries of a list, or by the body of a message. Everything is rolled back, no address is called, and nothing is waited for.',
    permission: 'integration.manage',
    insteadOfDryRun: 'It changes nothing.',
    body: z.strictObject({
      automation: automationForm,
      entries: ids.optional(),
      body: z.unknown().optional(),
    }),
    handle: async ({ kernel, site, body, caller, actor }) => {
      requireFit(caller, site, [body.automation])
      const stored = await automationNamed(kernel.database, site.id, body.automation.automation)
      const { headers: _, ...answer } = await tryOut(kernel, async (transaction) => ({
        body: await tryAutomation(kernel, transaction, site.id, actor, body.automation, stored?.secrets ?? {}, {
          entries: body.entries,
          body: body.body as Data,
        }),
      }))
      return answer
    },
  }),
  route({
    method: 'GET',
    path: one,
    summary: 'One automation.',
    permission: 'draft.read',
    handle: async ({ kernel, site, params }) => {
      const automation = await requireAutomation(kernel.database, site, params['automation']!)
      const counts = (await runCounts(kernel.database, site)).get(automation.id)
      return { body: automationView(automation, site, kernel.baseUrl, counts) }
    },
  }),
  route({
    method: 'PUT',
    path: one,
    summary:
      'Creates an automation, or changes one: `version` is that of the one that was changed, and left out for a new one. Runs that have begun go on with the definition that they began with.',
    permission: 'integration.manage',
    body: z.strictObject({ definition: automationForm, version: z.number().int().min(1).optional() }),
    handle: (request) =>
      request.write(async (transaction) => {
        const { kernel, body, caller, actor, params } = request
        const site = await siteWithId(transaction, request.site.id)
        const name = params['automation']!
        const { definition, version } = body
        if (definition.automation !== name)
          throw new WisteriaError(
            'invalid',
            `The address names \`${name.slice(0, 60)}\`, and the definition \`${definition.automation}\`.`,
          )
        requireFit(caller, site, [definition])
        const stored = await automationNamed(transaction, site.id, name)
        if (stored?.version !== version)
          throw new WisteriaError(
            'conflict',
            stored
              ? `\`${name}\` is there in version ${stored.version}, and this was made from ${version === undefined ? 'none' : `version ${version}`}.`
              : `There is no automation \`${name}\`: somebody removed it. Leave \`version\` out to create it again.`,
          )
        const saved = await storeAutomation(kernel, transaction, site, actor, definition, stored)
        return { status: stored ? 200 : 201, body: automationView(saved, site, kernel.baseUrl) }
      }),
  }),
  route({
    method: 'PATCH',
    path: one,
    summary: 'Switches an automation off or on. While it is off, nothing starts it; runs that have begun go on.',
    permission: 'integration.manage',
    body: z.strictObject({ enabled: z.boolean() }),
    handle: (request) =>
      request.write(async (transaction) => {
        const { kernel, site, body } = request
        const stored = await requireAutomation(transaction, site, request.params['automation']!)
        const automation = {
          ...stored,
          isEnabled: body.enabled,
          // What it missed is not made up for.
          nextAt: nextAtOf(stored, kernel.now, site.settings.timeZone),
        }
        await changeAutomation(transaction, automation)
        return { body: automationView(automation, site, kernel.baseUrl) }
      }),
  }),
  route({
    method: 'DELETE',
    path: one,
    summary: 'Removes an automation with its runs; those that are running end.',
    permission: 'integration.manage',
    handle: (request) =>
      request.write(async (transaction) => {
        const { id } = await requireAutomation(transaction, request.site, request.params['automation']!)
        await deleteAutomation(transaction, id)
        return { status: 204 }
      }),
  }),
  route({
    method: 'POST',
    path: `${one}/run`,
    summary: 'Starts an automation by hand: for the site, for entries of a list together, or for each entry by itself.',
    permission: 'entry.write',
    idempotent: true,
    body: z.strictObject({ entries: ids.optional() }),
    handle: (request) =>
      request.write(async (transaction) => {
        const { kernel, actor, body } = request
        const site = await siteWithId(transaction, request.site.id)
        const automation = await requireAutomation(transaction, site, request.params['automation']!)
        return { status: 202, body: { runs: await startByHand(kernel, transaction, site, automation, actor, body) } }
      }),
  }),
  route({
    method: 'POST',
    path: `${one}/secret`,
    summary:
      'Makes a new secret for the address of an automation, which only this answer contains. The earlier one stops working.',
    permission: 'integration.manage',
    handle: (request) =>
      request.write(async (transaction) => {
        const { kernel, site } = request
        const stored = await requireAutomation(transaction, site, request.params['automation']!)
        if (stored.definition.starts.by !== 'address')
          throw new WisteriaError(
            'conflict',
            `\`${stored.definition.automation}\` has no address: it is started by something else.`,
          )
        const secret = makeWebhookSecret(kernel.environment.random)
        const automation = { ...stored, secret }
        await changeAutomation(transaction, automation)
        return { status: 201, body: { ...automationView(automation, site, kernel.baseUrl), secret } }
      }),
  }),
  route({
    method: 'PUT',
    path: `${one}/secrets/{secret}`,
    summary: 'Sets a secret that calls of an automation use as `secrets.` and its name. It is never shown again.',
    permission: 'integration.manage',
    body: z.strictObject({ value: z.string().min(1, 'must not be empty').max(4000) }),
    handle: (request) =>
      request.write(async (transaction) => {
        const { kernel, site, params, body } = request
        const stored = await requireAutomation(transaction, site, params['automation']!)
        const name = params['secret']!
        if (!/^[a-z][A-Za-z0-9]{0,39}$/.test(name))
          throw new WisteriaError('invalid', 'The name of a secret is such as `token` or `chatAddress`.')
        const automation = { ...stored, secrets: { ...stored.secrets, [name]: body.value } }
        if (Object.keys(automation.secrets).length > 20)
          throw new WisteriaError('conflict', 'An automation has at most 20 secrets.')
        await changeAutomation(transaction, automation)
        return { body: automationView(automation, site, kernel.baseUrl) }
      }),
  }),
  route({
    method: 'DELETE',
    path: `${one}/secrets/{secret}`,
    summary: 'Removes a secret of the calls of an automation.',
    permission: 'integration.manage',
    handle: (request) =>
      request.write(async (transaction) => {
        const { site, params } = request
        const stored = await requireAutomation(transaction, site, params['automation']!)
        const { [params['secret']!]: removed, ...secrets } = stored.secrets
        if (removed === undefined)
          throw new WisteriaError('notFound', `The automation has no secret \`${params['secret']!.slice(0, 60)}\`.`)
        await changeAutomation(transaction, { ...stored, secrets })
        return { status: 204 }
      }),
  }),
  ...runRoutes,
  ...inboundRoutes,
]
