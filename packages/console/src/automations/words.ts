import type { AutomationStepRecord, AutomationRunView } from '@wisteria/client'
import { stepSays, type Automation, type AutomationStep } from '@wisteria/core'
import { t } from '../messages'
import { moment } from '../times'

/** What starts an automation, in words. */
export function startWords({ starts }: Automation): string {
  switch (starts.by) {
    case 'event':
      return starts.events.join(', ')
    case 'hand':
      return t(`automations.byHand.${starts.on}`)
    case 'timetable':
      return t(`automations.every.${starts.every}`, {
        on: starts.on?.join(', ') ?? '',
        at: starts.at ?? '00:00',
      })
    case 'address':
      return t('automations.byMessage')
  }
}

export const runState = ({ state, nextAt, step }: AutomationRunView): string =>
  state === 'running' && nextAt !== null && Date.parse(nextAt) > Date.now() + 1000
    ? t('automations.waits', { step: step + 1, when: moment(nextAt) })
    : t(`automations.states.${state}`)

/** What a step did, in words. */
export function recordWords({ do: what, isSkipped, outcome, status, until }: AutomationStepRecord): string {
  const label = isStepKind(what) ? stepLabel(what) : what
  if (isSkipped) return t('automations.skipped', { what: label })
  const more = [
    outcome && t(`automations.outcomes.${outcome}`),
    status !== undefined && String(status),
    until !== undefined && moment(until),
  ].filter((part) => typeof part === 'string')
  return more.length === 0 ? label : `${label}: ${more.join(', ')}`
}

const isStepKind = (kind: string): kind is AutomationStep['do'] => Object.hasOwn(stepSays, kind)

/** What a kind of step does, as a verb. */
export const stepLabel = (kind: AutomationStep['do']): string => t(`automations.does.${kind}`)

const partNames = [
  'values',
  'type',
  'key',
  'entry',
  'locales',
  'action',
  'at',
  'connector',
  'publish',
  'address',
  'method',
  'headers',
  'body',
  'text',
  'to',
  'subject',
  'until',
  'in',
  'where',
  'events',
  'types',
  'on',
  'every',
  'if',
  'name',
] as const

/** The name of a part of a start or of a step. */
export function partLabel(name: string): string {
  const part = partNames.find((one) => one === name)
  return part ? t(`automations.parts.${part}`) : name
}
