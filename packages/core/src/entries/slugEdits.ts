import type { ContentType } from '../model/model.js'
import { fieldNamed } from '../model/model.js'
import { slugFrom } from '../text/fold.js'
import { isRecord, type Document } from '../documents/document.js'
import type { Edit } from './edits.js'

/**
 * The slugs that a save changes, per locale: a missing one is made from the text, and a generated one follows that text, until the
 * locale is first public. A slug that somebody wrote, or emptied, stays.
 * @param isNew whether a locale was never public.
 */
export function slugEdits(
  type: ContentType,
  before: Document,
  after: Document,
  edits: readonly Edit[],
  isNew: (locale: string) => boolean,
): Edit[] {
  const touches = (field: string, locale: string): boolean =>
    edits.some((edit) => edit.at.length === 1 && edit.at[0] === field && edit.locale === locale)
  const textIn = (document: Document, field: string, locale: string): unknown =>
    isRecord(document[field]) ? document[field][locale] : undefined
  return type.fields.flatMap((field) => {
    const from =
      field.kind === 'slug' ? fieldNamed(type, (field.options['from'] as string | undefined) ?? '') : undefined
    if (!from?.localized || !field.localized) return []
    const locales = [...new Set(edits.flatMap((edit) => (edit.at[0] === from.id ? (edit.locale ?? []) : [])))]
    return locales.flatMap((locale): Edit[] => {
      if (!isNew(locale) || touches(field.id, locale)) return []
      const [was, is] = [textIn(before, from.id, locale), textIn(after, from.id, locale)]
      const slug = textIn(before, field.id, locale)
      const value = typeof is === 'string' ? slugFrom(is) : ''
      const isOwn = slug === undefined || (typeof was === 'string' && slug === slugFrom(was))
      return isOwn && value !== '' && value !== slug ? [{ do: 'set', at: [field.id], locale, value }] : []
    })
  })
}
