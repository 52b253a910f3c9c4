import { translatedLocales, typeWithId, WisteriaError } from '@wisteria/core'
import {
  connectorWithId,
  deleteTranslationTrigger,
  noteTranslationRule,
  openTriggers,
  siteWithId,
  translationRuleWithId,
  type TranslationTrigger,
} from '@wisteria/store'
import { callerOfActor } from '../access/actors.js'
import { tryOrRefuse, whyNot } from '../kernel/attempt.js'
import type { Kernel } from '../kernel/kernel.js'
import { entriesInScope } from '../translations/exporting.js'
import type { Work } from '../worker/loop.js'
import { orderTranslations, whyNoLonger } from './ordering.js'

const keyOf = ({ sequence, rule }: TranslationTrigger): string => `${sequence} ${rule}`

/** Looks at the events that rules wait for, and orders translations of the entries that meet their conditions. */
export const ruleWork = (kernel: Kernel): Work<TranslationTrigger> => ({
  name: 'translation rules',
  atOnce: 1,
  keyOf,
  due: (most, skipped) => openTriggers(kernel.database, most, skipped),
  next: async (skipped) => ((await openTriggers(kernel.database, 1, skipped)).length > 0 ? kernel.now : undefined),
  run: (trigger) => lookAt(kernel, trigger),
  giveUp: (trigger) =>
    kernel.write(async (transaction) => {
      await deleteTranslationTrigger(transaction, trigger)
      await noteTranslationRule(
        transaction,
        trigger.rule,
        'It failed several times with an unexpected error; the log of the service has it.',
      )
    }),
})

async function lookAt(kernel: Kernel, trigger: TranslationTrigger): Promise<void> {
  const site = await siteWithId(kernel.database, trigger.site)
  const rule = await translationRuleWithId(kernel.database, trigger.rule)
  const type = rule && typeWithId(site.model, rule.type)
  let meets: boolean | WisteriaError = false
  if (rule?.isEnabled && type)
    try {
      const where = `entry.id = "${trigger.entry}"${rule.condition === '' ? '' : ` and (${rule.condition})`}`
      meets = (await entriesInScope(kernel, site, { type: type.name, where })).length > 0
    } catch (error) {
      if (!(error instanceof WisteriaError)) throw error
      meets = error
    }
  await kernel.write(async (transaction) => {
    await deleteTranslationTrigger(transaction, trigger)
    if (meets instanceof WisteriaError) return noteTranslationRule(transaction, trigger.rule, whyNot(meets))
    if (!meets) return
    const site = await siteWithId(transaction, trigger.site)
    const connector = (await connectorWithId(transaction, rule!.connector))!
    const all =
      connector.locales.length > 0 ? connector.locales : translatedLocales(site.settings).map(({ tag }) => tag)
    const author = { caller: await callerOfActor(kernel, rule!.actor, site), actor: rule!.actor }
    const ordered = await tryOrRefuse(transaction, async () => {
      for (const locale of rule!.locales.length > 0 ? rule!.locales : all)
        await orderTranslations(kernel, transaction, site, author, connector, {
          ids: [trigger.entry],
          locale,
          publishes: rule!.publishes,
          rule: rule!.id,
        })
    })
    await noteTranslationRule(transaction, rule!.id, ordered instanceof WisteriaError ? whyNoLonger(ordered) : '')
  })
}
