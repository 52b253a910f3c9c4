import { contentFor } from '../documents/project.js'
import type { Document } from '../documents/document.js'
import type { ContentType } from '../model/model.js'
import { fieldNamed } from '../model/model.js'
import { chainOf, type SiteSettings } from '../locales/settings.js'
import { pathInRegion } from '../locales/regions.js'
import { fillPattern, readPattern } from '../paths/pattern.js'

/** The id of a document's parent, when its type has parents and it names one. */
export function parentOf(type: ContentType, document: Document): string | undefined {
  const field = type.parent === undefined ? undefined : fieldNamed(type, type.parent)
  const parent = field ? document[field.id] : undefined
  return typeof parent === 'string' ? parent : undefined
}

/**
 * The path of an entry in a reader's locale.
 * @param document the public document (or the working copy, for a proposed path).
 * @param parentPath the parent's path in that locale: null without a parent, undefined when it has none.
 * @param region of the entry; null for none.
 * @returns undefined when the type has no pattern for the locale, or a value for the pattern is missing.
 */
export function pathIn(
  type: ContentType,
  document: Document,
  settings: SiteSettings,
  locale: string,
  parentPath: string | null | undefined,
  region: string | null,
): string | undefined {
  const pattern = type.path?.[locale]
  const pieces = pattern === undefined ? undefined : readPattern(pattern)
  if (pieces === undefined || typeof pieces === 'string') return undefined
  const chain = chainOf(settings, locale)
  const path = fillPattern(
    pieces,
    (name) => {
      const field = fieldNamed(type, name)
      return field ? (contentFor(field, document, chain) as string | null | undefined) : undefined
    },
    parentPath,
  )
  return path === undefined ? undefined : pathInRegion(path, region)
}
