import type { ContentType } from '../model/model.js'
import { isRecord, type Document } from '../documents/document.js'

/**
 * What a copy of an entry holds: all of it, except what no two may have. Slugs get a number, values of other unique fields
 * are left for whoever copies.
 * @param number from 2 on.
 */
export function duplicateOf(type: ContentType, document: Document, number: number): Document {
  const numbered = (slug: unknown): unknown => (typeof slug === 'string' ? `${slug.slice(0, 90)}-${number}` : slug)
  return Object.fromEntries(
    type.fields.flatMap((field): [string, unknown][] => {
      const own = document[field.id]
      if (own === undefined) return []
      if (field.kind !== 'slug') return field.unique ? [] : [[field.id, own]]
      const slugs = isRecord(own)
        ? Object.fromEntries(Object.entries(own).map(([locale, slug]) => [locale, numbered(slug)]))
        : numbered(own)
      return [[field.id, slugs]]
    }),
  )
}
