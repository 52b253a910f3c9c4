import type { ContentType } from '../model/model.js'
import { fieldNamed } from '../model/model.js'
import { slugFrom } from '../text/fold.js'
import { isRecord, type Document } from './document.js'

/** Fills missing slugs from the text that they come `from`, per locale. A slug that exists, or is empty on purpose, stays. */
export function withSlugs(type: ContentType, document: Document): Document {
  const filled: Record<string, unknown> = { ...document }
  for (const field of type.fields) {
    const from =
      field.kind === 'slug' ? fieldNamed(type, (field.options['from'] as string | undefined) ?? '') : undefined
    if (!from) continue
    const source = filled[from.id]
    if (!field.localized) {
      const text = from.localized ? Object.values(isRecord(source) ? source : {})[0] : source
      if (filled[field.id] === undefined && typeof text === 'string' && slugFrom(text))
        filled[field.id] = slugFrom(text)
      continue
    }
    const slugs = isRecord(filled[field.id]) ? (filled[field.id] as Record<string, unknown>) : {}
    const texts = from.localized ? (isRecord(source) ? source : {}) : {}
    const created = Object.entries(texts).flatMap(([locale, text]) =>
      slugs[locale] === undefined && typeof text === 'string' && slugFrom(text)
        ? [[locale, slugFrom(text)] as const]
        : [],
    )
    if (created.length > 0) filled[field.id] = { ...slugs, ...Object.fromEntries(created) }
  }
  return filled
}
