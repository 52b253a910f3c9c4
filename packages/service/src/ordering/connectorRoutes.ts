import { editFacts, makeId, ruleEvents } from '@wisteria/core'
import {
  changeConnector,
  connectorsOf,
  deleteConnector,
  deleteTranslationRule,
  enableTranslationRule,
  insertConnector,
  insertTranslationRule,
  siteWithId,
  translationRulesOf,
  type Connector,
  type TranslationRule,
} from '@wisteria/store'
import { z } from 'zod'
import { requireMay } from '../kernel/permission.js'
import { route, type Route } from '../kernel/route.js'
import { makeWebhookSecret } from '../outgoing/signing.js'
import { planList, requireType } from '../read/listQuery.js'
import {
  connectorView,
  requireAddress,
  requireConnector,
  requireRule,
  requireTargets,
  requireTranslates,
  ruleView,
} from './connectors.js'

const connectors = '/edit/v1/sites/{site}/translations/connectors'
const rules = '/edit/v1/sites/{site}/translations/rules'

const label = z.string().trim().min(1, 'must not be empty').max(120)
const address = z.string().max(2000)
const locales = z.array(z.string().max(40)).min(1).max(200)

/** Machines and agencies that translate, and rules that order from them. */
export const connectorRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: connectors,
    summary: 'The connectors of a site: addresses of machines and agencies that translate.',
    permission: 'draft.read',
    handle: async ({ kernel, site }) => ({
      body: { connectors: (await connectorsOf(kernel.database, site)).map(connectorView) },
    }),
  }),
  route({
    method: 'POST',
    path: connectors,
    summary:
      'Adds a connector. Only this answer contains the `secret` that requests to it are signed with. Without `locales`, it translates into all.',
    permission: 'integration.manage',
    body: z.strictObject({ label, address, locales: locales.optional() }),
    handle: (request) =>
      request.write(async (transaction) => {
        const { kernel, body } = request
        const site = await siteWithId(transaction, request.site.id)
        requireAddress(kernel, body.address)
        const connector: Connector = {
          id: makeId(kernel.environment),
          site: site.id,
          label: body.label,
          address: body.address,
          secret: makeWebhookSecret(kernel.environment.random),
          locales: requireTargets(site, body.locales ?? []),
          isEnabled: true,
          createdAt: kernel.at,
          createdBy: request.actor,
        }
        await insertConnector(transaction, connector)
        return { status: 201, body: { ...connectorView(connector), secret: connector.secret } }
      }),
  }),
  route({
    method: 'PATCH',
    path: `${connectors}/{connector}`,
    summary:
      'Changes the label, the address or the locales of a connector, or switches it off and on. While it is off, nothing is sent to it and nothing is asked of it.',
    permission: 'integration.manage',
    body: z.strictObject({
      label: label.optional(),
      address: address.optional(),
      locales: locales.nullable().optional().describe('null: all locales.'),
      enabled: z.boolean().optional(),
    }),
    handle: (request) =>
      request.write(async (transaction) => {
        const { kernel, body, params } = request
        const site = await siteWithId(transaction, request.site.id)
        const before = await requireConnector(transaction, site, params['connector']!)
        if (body.address !== undefined) requireAddress(kernel, body.address)
        const connector: Connector = {
          ...before,
          label: body.label ?? before.label,
          address: body.address ?? before.address,
          locales: body.locales === undefined ? before.locales : requireTargets(site, body.locales ?? []),
          isEnabled: body.enabled ?? before.isEnabled,
        }
        await changeConnector(transaction, connector)
        if (connector.isEnabled) transaction.touch('orders')
        return { body: connectorView(connector) }
      }),
  }),
  route({
    method: 'DELETE',
    path: `${connectors}/{connector}`,
    summary: 'Removes a connector with its rules and its orders. Translations that come back later are not taken.',
    permission: 'integration.manage',
    handle: (request) =>
      request.write(async (transaction) => {
        const { id } = await requireConnector(transaction, request.site, request.params['connector']!)
        await deleteConnector(transaction, id)
        return { status: 204 }
      }),
  }),
  route({
    method: 'GET',
    path: rules,
    summary: 'The rules of a site that order translations by themselves.',
    permission: 'draft.read',
    handle: async ({ kernel, site }) => ({
      body: { rules: (await translationRulesOf(kernel.database, site)).map((rule) => ruleView(site, rule)) },
    }),
  }),
  route({
    method: 'POST',
    path: rules,
    summary:
      'Adds a rule: after `event`, entries of `type` that meet `where` are translated by `connector`, into `locales` or all that it translates into. `publish`: results are published; otherwise they are drafts that are ready for review. It has the rights of whoever adds it. A result triggers no rule.',
    permission: 'entry.write',
    body: z.strictObject({
      label,
      connector: z.string().max(120),
      event: z.enum(ruleEvents),
      type: z.string().max(64),
      where: z.string().max(10_000).optional(),
      locales: locales.optional(),
      publish: z.boolean().default(false),
    }),
    handle: (request) =>
      request.write(async (transaction) => {
        const { kernel, body, caller } = request
        const site = await siteWithId(transaction, request.site.id)
        const connector = await requireConnector(transaction, site, body.connector)
        const type = requireType(site, body.type)
        if (body.where !== undefined) planList(kernel, site, type, 'draft', { where: body.where, facts: editFacts })
        const targets = requireTargets(site, body.locales ?? [])
        for (const locale of targets) requireTranslates(connector, locale)
        const touched = targets.length > 0 ? { locales: targets, type: type.name } : { type: type.name }
        requireMay(caller, 'entry.write', { type: type.name })
        if (body.publish) requireMay(caller, 'entry.publish', touched)
        const rule: TranslationRule = {
          id: makeId(kernel.environment),
          site: site.id,
          connector: connector.id,
          label: body.label,
          event: body.event,
          type: type.id,
          condition: body.where ?? '',
          locales: targets,
          publishes: body.publish,
          isEnabled: true,
          message: '',
          createdAt: kernel.at,
          actor: request.actor,
        }
        await insertTranslationRule(transaction, rule)
        return { status: 201, body: ruleView(site, rule) }
      }),
  }),
  route({
    method: 'PATCH',
    path: `${rules}/{rule}`,
    summary: 'Switches a rule off and on.',
    permission: 'entry.write',
    body: z.strictObject({ enabled: z.boolean() }),
    handle: (request) =>
      request.write(async (transaction) => {
        const rule = await requireRule(transaction, request.site, request.params['rule']!)
        await enableTranslationRule(transaction, rule.id, request.body.enabled)
        return { body: ruleView(request.site, { ...rule, isEnabled: request.body.enabled }) }
      }),
  }),
  route({
    method: 'DELETE',
    path: `${rules}/{rule}`,
    summary: 'Removes a rule. Its orders go on.',
    permission: 'entry.write',
    handle: (request) =>
      request.write(async (transaction) => {
        const { id } = await requireRule(transaction, request.site, request.params['rule']!)
        await deleteTranslationRule(transaction, id)
        return { status: 204 }
      }),
  }),
]
