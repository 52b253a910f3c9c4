import { didYouMean } from '../text/nearest.js'
import {
  isListForReaders,
  shapeOf,
  insideGroup,
  type ContentType,
  type Field,
  type FieldOwner,
  type Model,
} from '../model/model.js'
import { conversionBetween, neverConverts, renamedOptions } from './reshaping.js'

/** One consequence of adopting a proposal. */
export interface Consequence {
  readonly code:
    | 'typeAdded'
    | 'typeRemoved'
    | 'typeRenamed'
    | 'typeChanged'
    | 'cardinalityChanged'
    | 'blockTypeAdded'
    | 'blockTypeRemoved'
    | 'blockTypeRenamed'
    | 'blockTypeChanged'
    | 'fieldAdded'
    | 'fieldRemoved'
    | 'fieldRenamed'
    | 'fieldChanged'
    | 'fieldReshaped'
    | 'nameRetired'
    | 'graphqlChanged'
    | 'filesChanged'
    | 'indexBuilt'
    | 'renameUnknown'
    | 'listsBroken'
    | 'webhookBroken'
    | 'automationBroken'
    | 'valuesRestored'
    | 'valuesLost'
    | 'valuesRefused'
    | 'valuesInvalid'
    | 'valuesHidden'
    | 'valuesTwice'
  /** `refused`: it cannot be adopted; `breaking`: a reader or an editor of today would see a difference. */
  readonly weight: 'plain' | 'breaking' | 'refused'
  /** `activity`, or `activity.format`, or `visitorInfo.contact.phone`. */
  readonly place: string
  readonly message: string
  /** The entries it is about, when it is about some: how many, and the first of them. */
  readonly entries?: ConcernedEntries
  /** The access keys that read the place, if known. */
  readonly readers?: readonly PlaceReader[]
}

export interface ConcernedEntries {
  readonly count: number
  readonly first: readonly { readonly id: string; readonly title: string; readonly because?: string }[]
}

/** An access key that has read a field, or a whole type of it. */
export interface PlaceReader {
  readonly key: string
  readonly label: string
  /** ISO instant, to the minute. */
  readonly lastReadAt: string
  /** The name that they use: the field's current one, or an earlier one. */
  readonly name: string
}

/** The number of entries, by type id: a model's consequences depend on it. */
export type EntryCounts = Readonly<Record<string, number>>

const weights = { refused: 0, breaking: 1, plain: 2 }

export const worstFirst = (all: readonly Consequence[]): Consequence[] =>
  [...all].sort((a, b) => weights[a.weight] - weights[b.weight])

const entriesWord = (count: number): string => `${count.toLocaleString('en')} ${count === 1 ? 'entry' : 'entries'}`

/**
 * Every consequence in the models themselves when `after` replaces `before`, worst first.
 * @param counts the existing entries, which keep their type from being removed.
 * @param inBin the deleted entries that could still be restored, which are removed with their type.
 */
export function consequencesOf(
  before: Model,
  after: Model,
  counts: EntryCounts,
  inBin: EntryCounts = {},
): Consequence[] {
  const all: Consequence[] = []
  const tell = (code: Consequence['code'], weight: Consequence['weight'], place: string, message: string) =>
    void all.push({ code, weight, place, message })
  const total = Object.values(counts).reduce((sum, count) => sum + count, 0)
  compareAll(before.types, after.types, {
    added: (type) =>
      tell(
        'typeAdded',
        'plain',
        type.name,
        isBack(before, type)
          ? `The type returns with ${type.fields.length} fields. Its entries were deleted with it and do not return.`
          : `New type with ${type.fields.length} fields.${type.cardinality === 'one' ? ' Its one entry is made with it.' : ''}`,
      ),
    removed: (type) => {
      const count = type.cardinality === 'one' ? 0 : (counts[type.id] ?? 0)
      if (count > 0)
        tell(
          'typeRemoved',
          'refused',
          type.name,
          `The type has ${entriesWord(count)}: delete ${count === 1 ? 'it' : 'them'} first, or keep the type.`,
        )
      else
        tell(
          'typeRemoved',
          'breaking',
          type.name,
          type.cardinality === 'one' ? 'The type is removed, with its one entry.' : goneWithBin(inBin[type.id] ?? 0),
        )
    },
    both: (old, type) => {
      const count = counts[type.id] ?? 0
      nameChanges(tell, 'typeRenamed', old, type)
      typeChanges(tell, old, type, count)
      fieldChanges(tell, before, old, type, type.name, type.graphql.type, count, after)
    },
  })
  compareAll(before.blockTypes, after.blockTypes, {
    added: (block) => tell('blockTypeAdded', 'plain', block.name, `New block type with ${block.fields.length} fields.`),
    removed: (block) => tell('blockTypeRemoved', 'breaking', block.name, 'The block type goes.'),
    both: (old, block) => {
      nameChanges(tell, 'blockTypeRenamed', old, block)
      wordChanges(tell, 'blockTypeChanged', old, block)
      fieldChanges(tell, before, old, block, block.name, block.graphql.type, total, after)
    },
  })
  return worstFirst(all)
}

const goneWithBin = (count: number): string =>
  count === 0
    ? 'The type is removed. It has no entries.'
    : `The type is removed, and ${entriesWord(count)} in the bin with it. Restore those that should stay first.`

type Tell = (code: Consequence['code'], weight: Consequence['weight'], place: string, message: string) => void

function compareAll<T extends { readonly id: string }>(
  before: readonly T[],
  after: readonly T[],
  tell: { added: (item: T) => void; removed: (item: T) => void; both: (old: T, item: T) => void },
): void {
  const olds = new Map(before.map((item) => [item.id, item]))
  for (const item of after) {
    const old = olds.get(item.id)
    if (old) tell.both(old, item)
    else tell.added(item)
    olds.delete(item.id)
  }
  for (const old of olds.values()) tell.removed(old)
}

interface Named {
  readonly name: string
  readonly aliases?: readonly string[]
}

function nameChanges(tell: Tell, code: Consequence['code'], old: Named, now: Named, place = now.name): void {
  const answered = [old.name, ...(old.aliases ?? [])]
  const answers = new Set([now.name, ...(now.aliases ?? [])])
  if (old.name !== now.name && answers.has(old.name))
    tell(
      code,
      'plain',
      place,
      `Renamed from \`${old.name}\`: every value is kept, and it still answers to \`${old.name}\`, marked as deprecated, until \`was: ${old.name}\` is removed.`,
    )
  for (const name of answered)
    if (!answers.has(name)) tell('nameRetired', 'breaking', place, `It no longer answers to \`${name}\`.`)
}

function wordChanges(
  tell: Tell,
  code: 'typeChanged' | 'blockTypeChanged',
  old: FieldOwner,
  now: FieldOwner,
  more: readonly (string | false)[] = [],
): void {
  const words = [
    old.label !== now.label && 'label',
    old.help !== now.help && 'help',
    old.icon !== now.icon && 'icon',
    !same(old.sections, now.sections) && 'sections',
    orderOfBoth(old, now) !== orderOfBoth(now, old) && 'order of fields',
    ...more,
  ].filter(Boolean)
  if (words.length > 0) tell(code, 'plain', now.name, `Another ${words.join(', ')}.`)
}

const ids = (owner: FieldOwner): string[] => owner.fields.map((field) => field.id)

/** The fields that both have, in the order of the first. */
const orderOfBoth = (owner: FieldOwner, other: FieldOwner): string =>
  ids(owner)
    .filter((id) => ids(other).includes(id))
    .join()

function typeChanges(tell: Tell, old: ContentType, type: ContentType, count: number): void {
  if (old.cardinality !== type.cardinality) {
    if (type.cardinality === 'one' && count > 1)
      tell(
        'cardinalityChanged',
        'refused',
        type.name,
        `It has ${entriesWord(count)}, and a type with exactly one keeps one: delete the others first.`,
      )
    else
      tell(
        'cardinalityChanged',
        'breaking',
        type.name,
        type.cardinality === 'one'
          ? `It becomes a type with exactly one entry: readers get that entry where they got a list, and \`${old.graphql.many}\` is removed from GraphQL.`
          : `It becomes a type with many entries: readers get a list where they got the one entry, and GraphQL gains \`${type.graphql.many}\`.`,
      )
  }
  if (!same(old.path, type.path) || old.parent !== type.parent)
    tell(
      'typeChanged',
      'breaking',
      type.name,
      'Its path pattern changes: public entries get new paths, the old ones are remembered as moved.',
    )
  if (old.drafts !== type.drafts)
    tell(
      'typeChanged',
      'plain',
      type.name,
      type.drafts === false
        ? 'From now on a save publishes at once. Edited entries stay edited until they are saved again.'
        : 'A save no longer publishes: public values stay until the next publish.',
    )
  if (old.regional !== type.regional)
    tell(
      'typeChanged',
      'plain',
      type.name,
      type.regional
        ? 'Its entries belong to regions: those that there are to the main one, which readers get unless they ask for another.'
        : 'Its entries belong to no region any more.',
    )
  if (old.root !== type.root && type.root === false)
    tell('typeChanged', 'plain', type.name, 'Entries need a parent to be published. Public ones stay public.')
  if (old.order !== type.order || old.menu !== type.menu)
    tell('typeChanged', 'plain', type.name, 'Another field says how entries are ordered, or which are in menus.')
  wordChanges(tell, 'typeChanged', old, type, [old.namedBy !== type.namedBy && 'naming field'])
}

/** Whether something that is not in the model was in an earlier one: ids are never reused. */
const isBack = (before: Model, { id }: { readonly id: string }): boolean => Number(id.slice(1)) < before.nextId

function fieldChanges(
  tell: Tell,
  before: Model,
  old: FieldOwner,
  owner: FieldOwner,
  place: string,
  graphql: string,
  entries: number,
  after: Model,
): void {
  const newNames = owner.fields
    .filter((field) => !old.fields.some((other) => other.id === field.id))
    .map((field) => field.name)
  compareAll<Field>(old.fields, owner.fields, {
    added: (field) => {
      if (isBack(before, field))
        return tell(
          'fieldAdded',
          'plain',
          `${place}.${field.name}`,
          'The field returns, with the values that entries still have for it.',
        )
      unknownRenames(tell, old, field, `${place}.${field.name}`)
      const needed = field.required && entries > 0
      const begins = field.default ? ' New entries begin with its default; those that are there stay without.' : ''
      tell(
        'fieldAdded',
        'plain',
        `${place}.${field.name}`,
        needed
          ? `New field, required: entries without it cannot be published again before it is filled in.${begins}`
          : `New field.${begins}`,
      )
    },
    removed: (field) =>
      tell(
        'fieldRemoved',
        'breaking',
        `${place}.${field.name}`,
        `The field goes from forms and readers; what it holds stays in the revisions.${newNames.length > 0 ? `${didYouMean(field.name, newNames) ? ` Is \`${newNames.find((name) => didYouMean(field.name, [name]))}\` its new name? Then say so there: \`was: ${field.name}\`.` : ''}` : ''}`,
      ),
    both: (old, field) => fieldChange(tell, before, old, field, `${place}.${field.name}`, graphql, entries, after),
  })
}

function fieldChange(
  tell: Tell,
  before: Model,
  old: Field,
  field: Field,
  place: string,
  graphql: string,
  entries: number,
  after: Model,
): void {
  nameChanges(tell, 'fieldRenamed', old, field, place)
  const conversion = conversionBetween(old, field)
  if (conversion) {
    const changes = [
      old.kind !== field.kind && `from kind ${old.kind} to ${field.kind}`,
      old.many !== field.many && (field.many ? 'from one value to many' : 'from many values to one'),
      old.localized !== field.localized && (field.localized ? 'to a value per locale' : 'to one value for all locales'),
      old.kind === field.kind &&
        old.options['withZone'] !== field.options['withZone'] &&
        (field.options['withZone'] ? 'to times with their zone' : 'to times without a zone'),
      old.kind === 'number' &&
        field.kind === 'number' &&
        !old.options['integer'] &&
        field.options['integer'] === true &&
        'to whole numbers',
      ...renamedOptions(old, field).map(({ from, to }) => `\`${from}\` to \`${to}\``),
    ].filter(Boolean)
    const never = entries > 0 ? neverConverts(old, field) : undefined
    tell(
      'fieldReshaped',
      never ? 'refused' : 'breaking',
      place,
      `It changes ${changes.join(' and ')}${never ? `, and ${never}` : entries > 0 ? '; stored values are converted' : ''}.`,
    )
  }
  const [was, becomes] = [graphqlForm(old), graphqlForm(field)]
  if (was !== becomes)
    tell(
      'graphqlChanged',
      'breaking',
      place,
      `In GraphQL, \`${graphql}.${field.name}\` changes from ${was} to ${becomes}: queries that select it must change.`,
    )
  if (field.indexed && !old.indexed && entries > 0)
    tell('indexBuilt', 'plain', place, `An index is built over ${entriesWord(entries)}.`)
  if (!old.required && field.required)
    tell('fieldChanged', 'plain', place, 'It becomes required, from the next publish on.')
  const rest = ({
    name: _,
    aliases: __,
    required: ___,
    kind: ____,
    many: _____,
    localized: ______,
    fields: _______,
    ...one
  }: Field) => one
  if (!same(rest(old), rest(field)) || (old.required && !field.required)) {
    const words = Object.keys({ ...rest(old), ...rest(field) }).filter(
      (key) => !same((old as never)[key], (field as never)[key]),
    )
    if (old.required && !field.required) words.push('required')
    tell(
      'fieldChanged',
      'plain',
      place,
      `Another ${words.map((word) => (word === 'options' ? changedOptions(old, field) : word)).join(', ')}.`,
    )
  }
  const [oldGroup, group] = [insideGroup(old), insideGroup(field)]
  if (oldGroup && group) fieldChanges(tell, before, oldGroup, group, place, graphql, entries, after)
}

/** A `was:` that names nothing in the model: its values would be lost. */
function unknownRenames(tell: Tell, old: FieldOwner, field: Field, place: string): void {
  for (const name of field.aliases ?? []) {
    const names = old.fields.map((field) => field.name)
    if (names.includes(name)) continue
    tell(
      'renameUnknown',
      'plain',
      place,
      `\`was: ${name}\` finds nothing: there is no field \`${name}\`.${didYouMean(name, names)}`,
    )
  }
}

const changedOptions = (old: Field, field: Field): string =>
  Object.keys({ ...old.options, ...field.options })
    .filter((key) => !same(old.options[key], field.options[key]))
    .join(', ')

/** The form of a field in GraphQL, in words. */
function graphqlForm(field: Field): string {
  const shape = shapeOf(field)
  const single = (): string => {
    switch (shape.is) {
      case 'scalar':
        return {
          string: 'String',
          number: 'Float',
          integer: 'Int',
          long: 'Float',
          boolean: 'Boolean',
          date: 'Date',
          dateTime: 'DateTime',
        }[shape.scalar]
      case 'choice':
        return 'an enum'
      case 'reference':
      case 'blocks': {
        const all = shape.is === 'reference' ? shape.to : shape.of
        return all.length === 1 ? `a single ${shape.is === 'reference' ? 'type' : 'block type'}` : 'a union of several'
      }
      case 'asset':
        return 'Asset'
      case 'object':
        return shape.name
      case 'richText':
        return 'RichText'
      case 'json':
        return 'JSON'
      case 'group':
        return 'an object'
    }
  }
  return isListForReaders(field) ? `a list of ${single()}` : single()
}

export const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b)
