import type { ContentType } from '../model/model.js'
import { isRecord, type Document } from '../documents/document.js'

/**
 * The document of a copy: everything, except unique values. Slugs get a number, other unique fields are left empty.
 * @param number from 2 on.
 */
export function duplicateOf(type: ContentType, document: Document, number: number): Document {
  const numbered = (slug: unknown): unknown => (typeof slug === 'string' ? `${slug.slice(0, 90)}-${number}` : slug)
  return Object.fromEntries(
    type.fields.flatMap((field): [string, unknown][] => {
      const content = document[field.id]
      if (content === undefined) return []
      if (field.kind !== 'slug') return field.unique ? [] : [[field.id, content]]
      const slugs = isRecord(content)
        ? Object.fromEntries(Object.entries(content).map(([locale, slug]) => [locale, numbered(slug)]))
        : numbered(content)
      return [[field.id, slugs]]
    }),
  )
}
