import {
  didYouMean,
  fieldNamed,
  kindOf,
  mergePatch,
  valueOf,
  WisteriaError,
  type ContentType,
  type Data,
  type Deed,
  type Fact,
  type Moment,
  type ReadyStep,
  type Scope,
} from '@wisteria/core'
import {
  Act,
  connectorsOf,
  draftsByFact,
  siteWithId,
  type Done,
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

/** Where a step is done. */
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
  readonly said: Partial<Done>
}

/**
 * Does a step that changes the site, or works something out.
 * @throws WisteriaError where it is refused: then nothing of it is done.
 */
export async function doDeed(place: Place, ready: ReadyStep): Promise<Effect> {
  const step = ready.step as Deed
  switch (step.do) {
    case 'compute':
      return { result: partOf(place, ready, 'values'), said: {} }
    case 'create':
      return create(place, ready, step)
    case 'set': {
      const copy = await entryOf(place, ready)
      return merge(place, copy, plain(partOf(place, ready, 'values')))
    }
    case 'publish':
    case 'withdraw': {
      const { kernel, transaction, site, author } = place
      const copy = await entryOf(place, ready)
      const act = new Act(transaction, await siteWithId(transaction, site.id), author.actor, kernel.environment)
      if (step.do === 'publish') await publish(transaction, act, author, copy, step.locales)
      else await withdraw(transaction, act, author, copy, step.locales, false)
      return about(copy)
    }
    case 'schedule': {
      const { kernel, transaction, author } = place
      const copy = await entryOf(place, ready)
      const site = await siteWithId(transaction, place.site.id)
      const plan = { does: step.action, at: textOf(partOf(place, ready, 'at'), 'at'), locales: step.locales }
      const { id, at } = await scheduleEntry(kernel, transaction, site, author, copy, plan)
      return { result: { id, at }, said: { ...about(copy).said, until: at } }
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

const about = (copy: WorkingCopy, outcome?: Done['outcome']): Effect => ({
  result: { id: copy.id, type: copy.type.name, ...(outcome ? { outcome } : {}) },
  said: { entry: copy.id, ...(outcome ? { outcome } : {}) },
})

/** Data as the Edit API takes it: an entry or a file is its id, and what has no value is left out. */
function plain(data: Data): unknown {
  if (typeof data !== 'object' || data === null) return data
  if (Array.isArray(data)) return (data as readonly Data[]).map(plain)
  const { id, type, kind, values } = data as Readonly<Record<string, Data>>
  const names = Object.keys(data)
  // A reference as it is read.
  if (
    typeof id === 'string' &&
    kind === undefined &&
    values === undefined &&
    (type !== undefined || names.length === 1)
  )
    return id
  return Object.fromEntries(
    Object.entries(data).flatMap(([name, value]) => (value === undefined ? [] : [[name, plain(value as Data)]])),
  )
}

async function create(place: Place, ready: ReadyStep, step: Extract<Deed, { do: 'create' }>): Promise<Effect> {
  const { kernel, transaction, site, author } = place
  const type = ready.type!
  const values = plain(partOf(place, ready, 'values')) as Readonly<Record<string, unknown>>
  const found = step.key === undefined ? undefined : await withKey(place, type, step.key, values[step.key])
  if (found) return merge(place, found, values)
  const created = await createEntry(kernel, transaction, site, author, {
    type: type.name,
    values: mergePatch({}, values),
  })
  return about(await publishIfImmediate(kernel, transaction, site, author, created), 'created')
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
  const own = field.localized ? (value as Readonly<Record<string, unknown>> | undefined)?.[defaultLocale] : value
  if (own === undefined || own === null || own === '')
    throw new WisteriaError('invalid', `The key \`${key}\` has no value, so that no entry can be found by it.`)
  const fact: Fact | undefined =
    kindOf(field).checkForm(own, field.options) === undefined ? kindOf(field).fact(own) : undefined
  if (fact === undefined)
    throw new WisteriaError(
      'invalid',
      `The value of the key \`${key}\` does not fit its field: ${JSON.stringify(own)}.`,
    )
  const ids = (await draftsByFact(transaction, site, [type.id], field.id, defaultLocale, [fact])).get(fact) ?? []
  if (ids.length > 1)
    throw new WisteriaError(
      'conflict',
      `There are ${ids.length} entries of ${type.label} whose ${key} is ${JSON.stringify(own)}: the key must be one of one entry.`,
    )
  return ids[0] === undefined ? undefined : requireEntry(transaction, site, ids[0])
}

async function merge({ kernel, transaction, site, author }: Place, copy: WorkingCopy, patch: unknown): Promise<Effect> {
  const merged = mergeValues(kernel, site, copy.type, copy, patch as Parameters<typeof mergeValues>[4])
  const { values, isSame, problems } = merged
  if (problems.length > 0) throw new WisteriaError('invalid', problems[0]!.message, { problems })
  if (isSame) return about(copy, 'unchanged')
  const saved = await saveValues(kernel, transaction, site, author, copy, values)
  return about(await publishIfImmediate(kernel, transaction, site, author, saved), 'updated')
}

async function translate(
  place: Place,
  ready: ReadyStep,
  { connector: label, locales, publish: publishes = false }: Extract<Deed, { do: 'translate' }>,
): Promise<Effect> {
  const { kernel, transaction, author } = place
  const copy = await entryOf(place, ready)
  const site = await siteWithId(transaction, place.site.id)
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
  return { ...about(copy), result: { orders } }
}

/** A text that a part must be. @throws WisteriaError `invalid`. */
export function textOf(value: Data, part: string): string {
  if (typeof value === 'string' && value.trim() !== '') return value
  throw new WisteriaError(
    'invalid',
    `\`${part}\` must be a text, and ${value === undefined ? 'has no value' : 'is none'}.`,
  )
}
