import {
  didYouMean,
  fieldNamed,
  kindOf,
  mergePatch,
  valueOf,
  WisteriaError,
  type ContentType,
  type Data,
  type SingleStep,
  type Fact,
  type Moment,
  type NamedValues,
  type ReadyStep,
  type Scope,
} from '@wisteria/core'
import {
  Act,
  connectorsOf,
  draftsByFact,
  type StepRecord,
  type Site,
  type Transaction,
  type WorkingCopy,
} from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import { orderTranslations } from '../ordering/ordering.js'
import { publishIfImmediate } from '../publishing/immediate.js'
import { mergeValues } from '../publishing/mergeValues.js'
import { publish, withdraw } from '../publishing/publishing.js'
import { scheduleEntry } from '../publishing/schedules.js'
import { createEntry } from '../workingCopies/creating.js'
import { requireEntry } from '../workingCopies/entryView.js'
import { saveValues, type Author } from '../workingCopies/saving.js'
import { entryIdIn } from './scope.js'

/** Where a step is done: on the site as it is now. */
export interface Place {
  readonly kernel: Kernel
  readonly transaction: Transaction
  readonly site: Site
  readonly author: Author
  readonly scope: Scope
  readonly moment: Moment
}

/** What a step did: its result for later steps, and a line for people. */
export interface Effect {
  readonly result: Data
  readonly said: Partial<StepRecord>
}

/**
 * Does a step that changes the site, or works something out.
 * @throws WisteriaError where it is refused: then nothing of it is done.
 */
export async function doStep(place: Place, ready: ReadyStep): Promise<Effect> {
  const step = ready.step as SingleStep
  switch (step.do) {
    case 'compute':
      return { result: partOf(place, ready, 'values'), said: {} }
    case 'create':
      return create(place, ready, step)
    case 'set':
      return merge(place, await entryOf(place, ready), inputOf(place, ready))
    case 'publish':
    case 'withdraw': {
      const { kernel, transaction, site, author } = place
      const copy = await entryOf(place, ready)
      const act = new Act(transaction, site, author.actor, kernel.environment)
      if (step.do === 'publish') await publish(transaction, act, author, copy, step.locales)
      else await withdraw(transaction, act, author, copy, step.locales, false)
      return effectOn(copy)
    }
    case 'schedule': {
      const { kernel, transaction, site, author } = place
      const copy = await entryOf(place, ready)
      const plan = { does: step.action, at: textOf(partOf(place, ready, 'at'), 'at'), locales: step.locales }
      const { id, at } = await scheduleEntry(kernel, transaction, site, author, copy, plan)
      return { result: { id, at }, said: { ...effectOn(copy).said, until: at } }
    }
    case 'translate':
      return translate(place, ready, step)
    default:
      throw new Error(`\`${step.do}\` does not change the site.`)
  }
}

const partOf = ({ scope, moment }: Place, { parts }: ReadyStep, name: string): Data =>
  parts[name] && valueOf(parts[name], scope, moment)

/** The entry that a step names; the item or the entry that the run is about, where it names none. */
async function entryOf(place: Place, ready: ReadyStep): Promise<WorkingCopy> {
  const { scope } = place
  const value = ready.parts['entry'] ? partOf(place, ready, 'entry') : (scope['item'] ?? scope['entry'])
  const id = entryIdIn(value)
  if (id === undefined) throw new WisteriaError('invalid', 'The value of `entry` is no entry: it has no id.')
  return requireEntry(place.transaction, place.site, id)
}

const effectOn = (copy: WorkingCopy, outcome?: StepRecord['outcome']): Effect => ({
  result: { id: copy.id, type: copy.type.name, ...(outcome ? { outcome } : {}) },
  said: { entry: copy.id, ...(outcome ? { outcome } : {}) },
})

/** The values that a step writes, as the Edit API takes them. */
const inputOf = ({ scope, moment }: Place, { parts }: ReadyStep): NamedValues =>
  withoutGaps(valueOf(parts['values']!, scope, moment, asInput)) as NamedValues

/** What was read, as it is written: an entry or a file is its id. */
function asInput(data: Data): Data {
  if (typeof data !== 'object' || data === null) return data
  if (Array.isArray(data)) return (data as readonly Data[]).map(asInput)
  return entryIdIn(data) ?? Object.fromEntries(Object.entries(data).map(([name, value]) => [name, asInput(value)]))
}

/** Values without those that are undefined. */
const withoutGaps = (data: Data): unknown => JSON.parse(JSON.stringify(data ?? {}))

async function create(place: Place, ready: ReadyStep, step: Extract<SingleStep, { do: 'create' }>): Promise<Effect> {
  const { kernel, transaction, site, author } = place
  const type = ready.type!
  const values = inputOf(place, ready)
  const existing = step.key === undefined ? undefined : await withKey(place, type, step.key, values[step.key])
  if (existing) return merge(place, existing, values)
  const created = await createEntry(kernel, transaction, site, author, {
    type: type.name,
    values: mergePatch({}, values),
  })
  return effectOn(await publishIfImmediate(kernel, transaction, site, author, created), 'created')
}

/** The entry that has the value of a key, if any. */
async function withKey(
  { transaction, site }: Place,
  type: ContentType,
  key: string,
  value: unknown,
): Promise<WorkingCopy | undefined> {
  const field = fieldNamed(type, key)!
  const { defaultLocale } = site.settings
  const keyValue = field.localized ? (value as Readonly<Record<string, unknown>> | undefined)?.[defaultLocale] : value
  if (keyValue === undefined || keyValue === null || keyValue === '')
    throw new WisteriaError('invalid', `The key \`${key}\` has no value, so that no entry can be found by it.`)
  const fact: Fact | undefined =
    kindOf(field).checkForm(keyValue, field.options) === undefined ? kindOf(field).fact(keyValue) : undefined
  if (fact === undefined)
    throw new WisteriaError(
      'invalid',
      `The value of the key \`${key}\` does not fit its field: ${JSON.stringify(keyValue)}.`,
    )
  const ids = (await draftsByFact(transaction, site, [type.id], field.id, defaultLocale, [fact])).get(fact) ?? []
  if (ids.length > 1)
    throw new WisteriaError(
      'conflict',
      `There are ${ids.length} entries of ${type.label} whose ${key} is ${JSON.stringify(keyValue)}: a key must find one entry.`,
    )
  return ids[0] === undefined ? undefined : requireEntry(transaction, site, ids[0])
}

async function merge(
  { kernel, transaction, site, author }: Place,
  copy: WorkingCopy,
  patch: NamedValues,
): Promise<Effect> {
  const merged = mergeValues(kernel, site, copy.type, copy, patch)
  const { values, isSame, problems } = merged
  if (problems.length > 0) throw new WisteriaError('invalid', problems[0]!.message, { problems })
  if (isSame) return effectOn(copy, 'unchanged')
  const saved = await saveValues(kernel, transaction, site, author, copy, values)
  return effectOn(await publishIfImmediate(kernel, transaction, site, author, saved), 'updated')
}

async function translate(
  place: Place,
  ready: ReadyStep,
  { connector: label, locales, publish: publishes = false }: Extract<SingleStep, { do: 'translate' }>,
): Promise<Effect> {
  const { kernel, transaction, site, author } = place
  const copy = await entryOf(place, ready)
  const connectors = await connectorsOf(transaction, site)
  const connector = connectors.find((known) => known.label === label || known.id === label)
  if (!connector)
    throw new WisteriaError(
      'notFound',
      `There is no connector \`${label}\`.${didYouMean(
        label,
        connectors.map((known) => known.label),
      )}`,
    )
  const orders: string[] = []
  for (const locale of locales) {
    const order = await orderTranslations(kernel, transaction, site, author, connector, {
      ids: [copy.id],
      locale,
      publishes,
    })
    if (order) orders.push(order.id)
  }
  return { ...effectOn(copy), result: { orders } }
}

/** A text that a part must be. @throws WisteriaError `invalid`. */
export function textOf(value: Data, part: string): string {
  if (typeof value === 'string' && value.trim() !== '') return value
  throw new WisteriaError(
    'invalid',
    `\`${part}\` must be a text, and ${value === undefined ? 'has no value' : 'is none'}.`,
  )
}
