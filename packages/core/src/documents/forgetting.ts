import { eachField, ownersOf, type Field, type Model } from '../model/model.js'
import { isRecord, type Document } from './document.js'

/**
 * The fields of a model by their ids, also those that only other models of the site had: values of removed fields stay in documents.
 * @param model under which a document was written; where models differ, its fields count.
 */
export function fieldsEver(model: Model, others: readonly Model[]): Map<string, Field> {
  const fields = new Map<string, Field>()
  for (const each of [...others, model])
    for (const owner of ownersOf(each)) eachField(owner, (field) => void fields.set(field.id, field))
  return fields
}

/** A document without the values of a locale. @returns the same object where it has none. */
export function documentWithoutLocale(
  fields: ReadonlyMap<string, Field>,
  document: Document,
  locale: string,
): Document {
  const within = (values: Document): Document => {
    let isChanged = false
    const kept = Object.entries(values).flatMap(([id, content]): [string, unknown][] => {
      const field = fields.get(id)
      const without = field?.localized ? withoutKey(content, locale) : inside(field, content)
      if (without === content) return [[id, content]]
      isChanged = true
      return without === undefined ? [] : [[id, without]]
    })
    return isChanged ? Object.fromEntries(kept) : values
  }
  const inside = (field: Field | undefined, content: unknown): unknown => {
    if (field?.kind === 'group' && isRecord(content)) return within(content)
    if (!Array.isArray(content)) return content
    const items = content.map((item: unknown) => {
      if (!isRecord(item) || !isRecord(item['values'])) return item
      const values = within(item['values'])
      return values === item['values'] ? item : { ...item, values }
    })
    return items.some((item, index) => item !== content[index]) ? items : content
  }
  return within(document)
}

/** A map of locales without one; undefined where nothing is left. */
function withoutKey(content: unknown, locale: string): unknown {
  if (!isRecord(content) || !(locale in content)) return content
  const { [locale]: _, ...rest } = content
  return Object.keys(rest).length === 0 ? undefined : rest
}
