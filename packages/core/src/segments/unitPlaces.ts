import { blockTypeWithId, fieldWithId, insideGroup, isList, type FieldOwner, type Model } from '../model/model.js'
import { holdsLocales, isRecord, type Document, type Item } from '../documents/document.js'

/** The place of a unit in words and in names. */
export interface UnitPlace {
  /** Field names and item ids in turn, as in an edit. */
  readonly at: readonly string[]
  /** Labels from the outside in: of fields, and of blocks with their number in the list. */
  readonly labels: readonly string[]
}

/**
 * The place of a unit as people and edits name it.
 * @param place field ids and item ids from the top (`Segment.at`).
 * @param locale the locale in which its value is.
 */
export function unitPlace(
  model: Model,
  type: FieldOwner,
  document: Document,
  place: readonly string[],
  locale: string,
): UnitPlace {
  const at: string[] = []
  const labels: string[] = []
  let owner: FieldOwner = type
  let values: Document = document
  let insideLocale = false
  for (let index = 0; index < place.length; index += 2) {
    const names: string[] = []
    let list: unknown
    let within: FieldOwner | undefined
    for (const id of place[index]!.split('.')) {
      const field = fieldWithId(owner, id)
      if (!field) return { at: [...at, ...place.slice(index)], labels }
      names.push(field.name)
      labels.push(field.label)
      const content = values[id]
      const isMap = holdsLocales(field, insideLocale)
      list = isMap ? (isRecord(content) ? content[locale] : undefined) : content
      insideLocale ||= isMap
      within = insideGroup(field)
      if (within && !field.many) {
        owner = within
        values = isRecord(list) ? list : {}
      } else if (!isList(field)) break
    }
    at.push(names.join('.'))
    const id = place[index + 1]
    if (id === undefined) break
    at.push(id)
    const items = Array.isArray(list) ? (list as Item[]) : []
    const position = items.findIndex((item) => item.id === id)
    const item = items[position]
    const inside = item && 'block' in item ? blockTypeWithId(model, item.block) : within
    labels.push(item && 'block' in item && inside ? `${inside.label} ${position + 1}` : String(position + 1))
    if (!inside || !item || !('values' in item)) break
    owner = inside
    values = item.values
  }
  return { at, labels }
}
