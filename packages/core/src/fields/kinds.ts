import { asset } from './asset.js'
import { block } from './block.js'
import { boolean } from './boolean.js'
import { choice } from './choice.js'
import { colour } from './colour.js'
import { date } from './date.js'
import { dateTime } from './dateTime.js'
import { email } from './email.js'
import { entry } from './entry.js'
import { group } from './group.js'
import { json } from './json.js'
import type { FieldKind } from './kind.js'
import { listing } from './listing.js'
import { location } from './location.js'
import { longText } from './longText.js'
import { metadata } from './metadata.js'
import { number } from './number.js'
import { richText } from './richText.js'
import { slug } from './slug.js'
import { text } from './text.js'
import { timeSpan } from './timeSpan.js'
import { webAddress } from './webAddress.js'

/** Every field kind, in the order in which people choose from them. */
export const fieldKinds: readonly FieldKind[] = [
  text,
  longText,
  richText,
  slug,
  number,
  boolean,
  date,
  dateTime,
  timeSpan,
  choice,
  colour,
  email,
  webAddress,
  location,
  json,
  entry,
  listing,
  asset,
  block,
  group,
  metadata,
]

const byName = new Map(fieldKinds.map((kind) => [kind.name, kind]))

/** The kind of that name. The model has been checked, so an unknown one is a bug. */
export function kindNamed(name: string): FieldKind {
  const kind = byName.get(name)
  if (!kind) throw new Error(`no field kind is named ${name}`)
  return kind
}

export const isKindName = (name: string): boolean => byName.has(name)
