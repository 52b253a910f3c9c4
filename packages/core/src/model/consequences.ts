import type { BlockType, ContentType, Field, Fielded, Model } from './model.js'

/** One thing that adopting a proposal would do. */
export interface Consequence {
  readonly code:
    | 'typeAdded' | 'typeRemoved' | 'typeRenamed' | 'typeChanged'
    | 'blockTypeAdded' | 'blockTypeRemoved' | 'blockTypeRenamed'
    | 'fieldAdded' | 'fieldRemoved' | 'fieldRenamed' | 'fieldChanged' | 'fieldReshaped' // prettier-ignore
  /** `refused`: it cannot be adopted; `breaking`: somebody who reads it today would notice. */
  readonly weight: 'plain' | 'breaking' | 'refused'
  /** `activity`, or `activity.format`. */
  readonly place: string
  readonly message: string
}

/** How many entries there are, by type id: a model's consequences depend on what is stored under it. */
export type EntryCounts = Readonly<Record<string, number>>

/** Everything that changes when `after` takes the place of `before`, worst first. */
export function consequencesOf(before: Model, after: Model, counts: EntryCounts): Consequence[] {
  const all: Consequence[] = []
  const anyEntries = Object.values(counts).some((count) => count > 0)
  compareAll(before.types, after.types, {
    added: (type) =>
      all.push({
        code: 'typeAdded',
        weight: 'plain',
        place: type.name,
        message: `New type with ${type.fields.length} fields.`,
      }),
    removed: (type) => {
      const count = counts[type.id] ?? 0
      all.push({
        code: 'typeRemoved',
        weight: count > 0 ? 'refused' : 'breaking',
        place: type.name,
        message:
          count > 0
            ? `The type has ${count} ${count === 1 ? 'entry' : 'entries'}: delete them first, or keep the type.`
            : 'The type goes, it has no entries.',
      })
    },
    both: (old, type) => {
      if (old.name !== type.name)
        all.push({
          code: 'typeRenamed',
          weight: 'breaking',
          place: type.name,
          message: `Renamed from \`${old.name}\`; readers must ask for the new name.`,
        })
      all.push(...typeChanges(old, type), ...fieldChanges(old, type, counts[type.id] ?? 0, anyEntries))
    },
  })
  compareAll(before.blockTypes, after.blockTypes, {
    added: (block) =>
      all.push({
        code: 'blockTypeAdded',
        weight: 'plain',
        place: block.name,
        message: `New block type with ${block.fields.length} fields.`,
      }),
    removed: (block) =>
      all.push({
        code: 'blockTypeRemoved',
        weight: anyEntries ? 'refused' : 'breaking',
        place: block.name,
        message: anyEntries ? 'The block type may be in use while there are entries: keep it.' : 'The block type goes.',
      }),
    both: (old, block) => {
      if (old.name !== block.name)
        all.push({
          code: 'blockTypeRenamed',
          weight: 'breaking',
          place: block.name,
          message: `Renamed from \`${old.name}\`; readers see the new name.`,
        })
      all.push(...fieldChanges(old, block, anyEntries ? 1 : 0, anyEntries))
    },
  })
  const order = { refused: 0, breaking: 1, plain: 2 }
  return all.sort((a, b) => order[a.weight] - order[b.weight])
}

function compareAll<T extends ContentType | BlockType | Field>(
  before: readonly T[],
  after: readonly T[],
  tell: { added: (one: T) => void; removed: (one: T) => void; both: (old: T, one: T) => void },
): void {
  const olds = new Map(before.map((one) => [one.id, one]))
  for (const one of after) {
    const old = olds.get(one.id)
    if (old) tell.both(old, one)
    else tell.added(one)
    olds.delete(one.id)
  }
  for (const old of olds.values()) tell.removed(old)
}

function typeChanges(old: ContentType, type: ContentType): Consequence[] {
  const changed: Consequence[] = []
  if (!same(old.path, type.path) || old.parent !== type.parent)
    changed.push({
      code: 'typeChanged',
      weight: 'breaking',
      place: type.name,
      message: 'Its path pattern changes: public entries get new paths, the old ones are remembered as moved.',
    })
  const words = [
    old.label !== type.label && 'label',
    old.help !== type.help && 'help',
    old.namedBy !== type.namedBy && 'naming field',
  ].filter(Boolean)
  if (words.length > 0)
    changed.push({ code: 'typeChanged', weight: 'plain', place: type.name, message: `Another ${words.join(', ')}.` })
  return changed
}

function fieldChanges(old: Fielded, owner: Fielded, entries: number, anyEntries: boolean): Consequence[] {
  const all: Consequence[] = []
  compareAll(old.fields, owner.fields, {
    added: (field) =>
      all.push({
        code: 'fieldAdded',
        weight: 'plain',
        place: `${owner.name}.${field.name}`,
        message:
          field.required && entries > 0
            ? 'New field, required: entries without it cannot be published again before it is filled in.'
            : 'New field.',
      }),
    removed: (field) =>
      all.push({
        code: 'fieldRemoved',
        weight: 'breaking',
        place: `${owner.name}.${field.name}`,
        message:
          entries > 0
            ? 'The field goes from forms and readers; what it holds stays in the revisions.'
            : 'The field goes.',
      }),
    both: (before, field) => all.push(...fieldChange(owner, before, field, anyEntries)),
  })
  return all
}

function fieldChange(owner: Fielded, old: Field, field: Field, anyEntries: boolean): Consequence[] {
  const place = `${owner.name}.${field.name}`
  const reshaped = [
    old.kind !== field.kind && `from kind ${old.kind} to ${field.kind}`,
    old.many !== field.many && (field.many ? 'from one value to many' : 'from many values to one'),
    old.localized !== field.localized && (field.localized ? 'to a value per locale' : 'to one value for all locales'),
  ].filter(Boolean)
  if (reshaped.length > 0)
    return [
      {
        code: 'fieldReshaped',
        weight: anyEntries ? 'refused' : 'breaking',
        place,
        message: `It changes ${reshaped.join(' and ')}${anyEntries ? ', which stored values do not survive: add a new field instead' : ''}.`,
      },
    ]
  const all: Consequence[] = []
  if (old.name !== field.name)
    all.push({
      code: 'fieldRenamed',
      weight: 'breaking',
      place,
      message: `Renamed from \`${old.name}\`; every value is kept, readers must ask for the new name.`,
    })
  if (!old.required && field.required)
    all.push({
      code: 'fieldChanged',
      weight: 'plain',
      place,
      message: 'It becomes required, from the next publish on.',
    })
  const rest = (one: Field) => ({ ...one, name: '', required: false })
  if (!same(rest(old), rest(field)) || (old.required && !field.required))
    all.push({ code: 'fieldChanged', weight: 'plain', place, message: 'Its options change.' })
  return all
}

const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b)
