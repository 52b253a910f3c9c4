import { didYouMean, WisteriaError, type ConnectorView, type TranslationRuleView } from '@wisteria/core'
import {
  connectorsOf,
  translationRulesOf,
  type Connector,
  type Reader,
  type Site,
  type TranslationRule,
} from '@wisteria/store'
import { refuseAddress } from '../outgoing/addresses.js'
import type { Kernel } from '../kernel/kernel.js'
import { requireTarget } from '../translations/reading.js'

export const connectorView = (connector: Connector): ConnectorView => ({
  id: connector.id,
  label: connector.label,
  address: connector.address,
  locales: connector.locales.length === 0 ? null : connector.locales,
  enabled: connector.isEnabled,
  createdAt: connector.createdAt,
  createdBy: connector.createdBy,
})

export const ruleView = (site: Site, rule: TranslationRule): TranslationRuleView => ({
  id: rule.id,
  label: rule.label,
  connector: rule.connector,
  event: rule.event,
  type: site.model.types.find(({ id }) => id === rule.type)?.name ?? '',
  where: rule.condition === '' ? null : rule.condition,
  locales: rule.locales.length === 0 ? null : rule.locales,
  publish: rule.publishes,
  enabled: rule.isEnabled,
  problem: rule.message === '' ? null : rule.message,
  createdAt: rule.createdAt,
  actor: rule.actor,
})

/** @throws WisteriaError `notFound`, with the nearest label. */
export async function requireConnector(reader: Reader, site: Site, named: string): Promise<Connector> {
  const all = await connectorsOf(reader, site)
  const found = all.find(({ id, label }) => id === named || label === named)
  if (found) return found
  const labels = all.map(({ label }) => label)
  throw new WisteriaError(
    'notFound',
    `There is no connector \`${named.slice(0, 60)}\` on ${site.settings.label}.${didYouMean(named, labels)}`,
  )
}

/** @throws WisteriaError `notFound`. */
export async function requireRule(reader: Reader, site: Site, id: string): Promise<TranslationRule> {
  const rule = (await translationRulesOf(reader, site)).find((candidate) => candidate.id === id)
  if (rule) return rule
  throw new WisteriaError('notFound', `There is no rule \`${id.slice(0, 60)}\` on ${site.settings.label}.`)
}

/** @throws WisteriaError where nothing may be sent to an address. */
export function requireAddress(kernel: Kernel, address: string): void {
  const refused = refuseAddress(address, kernel.options.allowPrivateAddresses)
  if (!refused) return
  throw new WisteriaError('invalid', `The address ${refused}.`, {
    problems: [{ code: 'badAddress', pointer: '/address', message: `The address ${refused}.` }],
  })
}

/** Locales that are translated, each once. @throws WisteriaError for others. */
export const requireTargets = (site: Site, locales: readonly string[]): string[] => [
  ...new Set(locales.map((locale) => requireTarget(site, locale))),
]

/** @throws WisteriaError `conflict` for a locale that a connector does not translate into, or where it is switched off. */
export function requireTranslates(connector: Connector, locale: string): void {
  if (!connector.isEnabled) throw new WisteriaError('conflict', `${connector.label} is switched off.`)
  if (connector.locales.length > 0 && !connector.locales.includes(locale))
    throw new WisteriaError(
      'conflict',
      `${connector.label} does not translate into ${locale}, but into ${connector.locales.join(', ')}.`,
    )
}
