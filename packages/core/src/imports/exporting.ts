import { WisteriaError } from '../base/errors.js'
import { isRecord } from '../documents/document.js'
import type { NamedValues } from '../documents/names.js'
import type { SiteSettings } from '../locales/settings.js'
import { type ContentType, type Field, type Model } from '../model/model.js'
import { isRichText } from '../richtext/document.js'
import { toMarkdown } from '../richtext/print.js'
import { placesOf } from './guessing.js'
import { fieldOf, holdsParts, idPlace, readColumn, type ReadyColumn } from './mapping.js'

/** Parts several values in a cell. */
const separator = '|'

/**
 * The columns of an export: the places that are asked for, or all of a type.
 * @throws WisteriaError `badRequest` for a place that there is not, with a suggestion.
 */
export function exportColumns(
  places: readonly string[] | undefined,
  type: ContentType,
  model: Model,
  settings: SiteSettings,
): readonly ReadyColumn[] {
  const wanted = places ?? placesOf(type, settings).map(({ to }) => to)
  return wanted.map((to) => {
    const column = readColumn({ from: to, to }, [to], type, model, settings)
    if (typeof column === 'string') throw new WisteriaError('badRequest', `\`columns\`: ${column}`)
    const isLocalized = column.fields.some(({ localized }) => localized)
    return isLocalized && column.locale === undefined ? { ...column, locale: settings.defaultLocale } : column
  })
}

/** The value at a column's place; undefined where there is none. */
export function valueAt(column: ReadyColumn, id: string, values: NamedValues): unknown {
  if (column.to === idPlace) return id
  let here: unknown = values
  let isInLocale = false
  const enter = (name: string): void => void (here = isRecord(here) ? here[name] : undefined)
  for (const field of column.fields) {
    enter(field.name)
    if (!field.localized || isInLocale) continue
    enter(column.locale!)
    isInLocale = true
  }
  if (column.member !== undefined) enter(column.member)
  return here === null ? undefined : here
}

/** A value as the text of a cell, as an import reads it. */
export function textOfValue(column: ReadyColumn, value: unknown): string {
  if (value === undefined || value === null) return ''
  const field = fieldOf(column)
  if (!field) return String(value)
  if (holdsParts(field) && Array.isArray(value)) {
    const texts = value.map((item) => textOfOne(field, isRecord(item) && 'value' in item ? item['value'] : item))
    return texts.join(texts.some((text) => text.includes(separator)) ? '\n' : separator)
  }
  return textOfOne(field, value)
}

function textOfOne(field: Field, value: unknown): string {
  if (isRichText(value)) return toMarkdown(value)
  if (field.kind === 'location' && isRecord(value)) return `${String(value['latitude'])}, ${String(value['longitude'])}`
  return typeof value === 'object' && value !== null ? JSON.stringify(value) : String(value)
}
