import { type SystemFact } from '../conditions/condition.js'
import type { Moment } from '../conditions/evaluate.js'
import { project } from '../documents/project.js'
import type { Document } from '../documents/document.js'
import { readTest, type CheckedExpression } from '../expressions/check.js'
import { holds, type Data, type Scope } from '../expressions/evaluate.js'
import { chainOf, type SiteSettings } from '../locales/settings.js'
import type { ContentType, Model } from '../model/model.js'
import type { State } from '../model/states.js'
import { regionOf } from './editionRows.js'

/** An entry before or after an event: of the edition that the event changed. */
export interface EntryMoment {
  /** The working copy, or what is public in all locales. */
  readonly document: Document
  readonly states: Readonly<Record<string, State>>
}

/** What an event changed of an entry, for the conditions of its subscribers. */
export interface EntryChange {
  readonly id: string
  readonly type: ContentType
  readonly region: string | null
  /** Absent where there was none, or none that is public. */
  readonly before?: EntryMoment | undefined
  readonly after?: EntryMoment | undefined
}

/** The facts that conditions over a change may use. */
const changeFacts: readonly SystemFact[] = ['id', 'type', 'region', 'state']

const conditions = new WeakMap<Model, Map<string, CheckedExpression>>()

/**
 * Reads a condition over a change: `before`, `after`, and `entry`, which is the entry after it, or before it where it is gone. It
 * sees the entry itself, and no other.
 * @throws WisteriaError `badCondition` with position and suggestion.
 */
export function readChangeCondition(text: string, model: Model): CheckedExpression {
  const ofModel = conditions.get(model) ?? new Map<string, CheckedExpression>()
  conditions.set(model, ofModel)
  const known = ofModel.get(text)
  if (known) return known
  const types = model.types
  const roots = { entry: { types }, before: { types }, after: { types } }
  const checked = readTest(text, { model, roots, facts: changeFacts, follows: false })
  ofModel.set(text, checked)
  return checked
}

/**
 * Whether a change meets a condition in one of the locales that it is about; in the default locale where it is about none.
 * @param locales of the event.
 */
export function changeMeets(
  condition: CheckedExpression,
  change: EntryChange,
  model: Model,
  settings: SiteSettings,
  locales: readonly string[],
  moment: Moment,
): boolean {
  const asked = locales.length > 0 ? locales : [settings.defaultLocale]
  return asked.some((locale) => holds(condition, scopeOf(change, model, settings, locale), moment))
}

/** What a condition, or an automation, sees of a change in a locale. */
export function scopeOf(change: EntryChange, model: Model, settings: SiteSettings, locale: string): Scope {
  const [before, after] = [change.before, change.after].map((moment) =>
    momentData(change, moment, model, settings, locale),
  )
  return { before, after, entry: after ?? before }
}

function momentData(
  { id, type, region }: EntryChange,
  moment: EntryMoment | undefined,
  model: Model,
  settings: SiteSettings,
  locale: string,
): Data {
  if (!moment) return undefined
  const { document, states } = moment
  const placed = regionOf(type, region)
  const { values } = project(model, type, document, chainOf(settings, locale), id, placed)
  return {
    ...(values as Record<string, Data>),
    entry: { id, type: type.name, state: states[locale], ...(placed === null ? {} : { region: placed }) },
  }
}
