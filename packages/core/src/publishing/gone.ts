import { eachField, type ContentType, type Model } from '../model/model.js'
import { hasContent, walk, type Document } from '../documents/document.js'
import { printContent } from '../documents/names.js'

/** A value of a field that the model no longer has. */
export interface GoneValue {
  /** The labels of the place at that time. */
  readonly label: string
  /** JSON Pointer, by the names of the time. */
  readonly pointer: string
  readonly kind: string
  /** The locale that it is of; null where all shared it. */
  readonly locale: string | null
  /** By the names of the time. */
  readonly value: unknown
}

/**
 * The values of a document in removed fields. A field inside a removed one is not reported by itself.
 * @param then the model that the document was written under, and the type in it.
 * @param now the model in force.
 */
export function goneFrom(
  then: Model,
  type: ContentType,
  now: Model,
  document: Document,
  locales: readonly string[],
): GoneValue[] {
  const ids = new Set<string>()
  for (const owner of [...now.types, ...now.blockTypes]) eachField(owner, (field) => void ids.add(field.id))
  const gone: GoneValue[] = []
  walk(then, type, document, locales, (content, { field, pointer, locale, insideLocale }) => {
    if (ids.has(field.id)) return true
    if (hasContent(content))
      gone.push({
        label: field.label,
        pointer,
        kind: field.kind,
        locale: locale ?? null,
        value: printContent(then, field, content, insideLocale || locale !== undefined),
      })
    return false
  })
  return gone
}
