import { block } from './block.js'
import { boolean } from './boolean.js'
import { choice } from './choice.js'
import { date } from './date.js'
import { dateTime } from './dateTime.js'
import { entry } from './entry.js'
import type { FieldKind } from './kind.js'
import { longText } from './longText.js'
import { number } from './number.js'
import { slug } from './slug.js'
import { text } from './text.js'

/** Every field kind there is, in the order in which people are offered them. */
export const fieldKinds: readonly FieldKind[] = [
  text,
  longText,
  slug,
  number,
  boolean,
  date,
  dateTime,
  choice,
  entry,
  block,
]

const byName = new Map(fieldKinds.map((kind) => [kind.name, kind]))

/** The kind of that name. The model has been checked, so an unknown one is a fault of ours. */
export function kindNamed(name: string): FieldKind {
  const kind = byName.get(name)
  if (!kind) throw new Error(`no field kind is named ${name}`)
  return kind
}

export const isKindName = (name: string): boolean => byName.has(name)
