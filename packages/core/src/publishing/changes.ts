import { blockTypeWithId, isList, type ContentType, type Model } from '../model/model.js'
import {
  hasContent,
  hasFields,
  isBlockItem,
  sameContent,
  walk,
  type Document,
  type Item,
  type Spot,
} from '../documents/document.js'
import { nameOf } from './validate.js'

/** One place that differs between two documents. */
export interface Change {
  /** JSON Pointer into the later document; into the earlier one for a removed value. */
  readonly pointer: string
  /** The name of the top-level field that it is in. */
  readonly field: string
  /** The internal id of the field itself, which decides how its values are shown. */
  readonly fieldId: string
  /** The labels of the place. */
  readonly label: string
  readonly kind: string
  /** Its layer: a locale, or null for the shared one. */
  readonly locale: string | null
  /** Empty content is null. For a list of blocks, the id and block type of each. */
  readonly before: unknown
  readonly after: unknown
}

/** Every place that differs, in the order of the fields. An added or removed block is one difference. */
export function changesBetween(
  model: Model,
  type: ContentType,
  before: Document,
  after: Document,
  locales: readonly string[],
): Change[] {
  const olds = spotsOf(model, type, before, locales)
  const news = spotsOf(model, type, after, locales)
  const changes: Change[] = []
  for (const key of new Set([...news.keys(), ...olds.keys()])) {
    const [old, now] = [olds.get(key), news.get(key)]
    const { spot } = (now ?? old)!
    const [from, to] = [printed(model, old), printed(model, now)]
    if ((!old || !now) && spot.place.length > 1) continue
    if (sameContent(from, to)) continue
    changes.push({
      pointer: spot.pointer,
      field: spot.pointer.split('/')[2]!,
      fieldId: spot.field.id,
      label: nameOf(spot, now ? after : before, model),
      kind: spot.field.kind,
      locale: spot.locale ?? null,
      before: from,
      after: to,
    })
  }
  return changes
}

interface Standing {
  readonly content: unknown
  readonly spot: Spot
}

function spotsOf(
  model: Model,
  type: ContentType,
  document: Document,
  locales: readonly string[],
): Map<string, Standing> {
  const spots = new Map<string, Standing>()
  walk(
    model,
    type,
    document,
    locales,
    (content, spot) => void spots.set(`${spot.place.join('/')} ${spot.locale ?? ''}`, { content, spot }),
  )
  return spots
}

function printed(model: Model, standing: Standing | undefined): unknown {
  if (!standing || !hasContent(standing.content)) return null
  const { content, spot } = standing
  const { field } = spot
  // Fields inside a group differ one by one.
  if (field.kind === 'group' && !field.many) return null
  if (!isList(field)) return content
  const items = content as Item[]
  return items.map((item) =>
    isBlockItem(item)
      ? { id: item.id, block: blockTypeWithId(model, item.block)?.label ?? '' }
      : hasFields(item)
        ? { id: item.id, block: field.label }
        : item.value,
  )
}
