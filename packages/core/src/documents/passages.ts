import type { Passage } from '../text/matching.js'
import { kindOf, ownersInside, insideGroup, type ContentType, type FieldOwner, type Model } from '../model/model.js'
import { isRecord } from './document.js'

/** How much a word in the title of an entry counts. */
const titleWeight = 4

/**
 * The texts of an entry for readers, for a search: of its fields, groups and blocks, by the name of the entry's field around them.
 * @param values as printed, by names.
 */
export function passagesOf(model: Model, type: ContentType, values: Readonly<Record<string, unknown>>): Passage[] {
  const passages: Passage[] = []
  const within = (owner: FieldOwner, inside: Readonly<Record<string, unknown>>, place: string | undefined): void => {
    for (const field of owner.fields) {
      const content = inside[field.name]
      if (content === null || content === undefined) continue
      const at = place ?? field.name
      const { searchText } = kindOf(field)
      if (searchText) {
        const weight = place === undefined && field.name === type.namedBy ? titleWeight : 1
        for (const value of [content].flat())
          if (value !== null) passages.push({ place: at, text: searchText(value), weight })
        continue
      }
      const group = insideGroup(field)
      for (const item of [content].flat()) {
        if (!isRecord(item)) continue
        if (group) within(group, field.many ? (item['values'] as Record<string, unknown>) : item, at)
        else if (field.kind === 'block') {
          const block = ownersInside(model, field).find(({ name }) => name === item['block'])
          if (block) within(block, item['values'] as Record<string, unknown>, at)
        }
      }
    }
  }
  within(type, values, undefined)
  // The title comes first.
  return passages.sort((a, b) => b.weight - a.weight)
}
