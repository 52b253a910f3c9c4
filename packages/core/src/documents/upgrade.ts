import { convertValue } from '../fields/convert.js'
import { type Conversion, type FieldForm, type FieldOwner, type Model } from '../model/model.js'
import { insideGroup, ownersInside } from '../model/model.js'
import { isRecord, type Document, type LocaleMap, type NestedItem } from './document.js'

/** A value that a conversion could not keep. */
export interface Lost {
  readonly field: string
  readonly because: string
}

/**
 * Reads a document that was written under an older model as the model has it now: revisions never change, so what has been
 * reshaped since is converted each time. What cannot be converted is left out and told to `lost`; a model that would lose
 * something of what is in force is not adopted.
 * @param version of the model the document was written under.
 */
export function upgradeDocument(
  model: Model,
  owner: FieldOwner,
  document: Document,
  version: number,
  lost?: (one: Lost) => void,
): Document {
  const due = (model.conversions ?? []).filter((conversion) => conversion.version > version)
  if (due.length === 0) return document
  const byField = new Map<string, Conversion[]>()
  for (const conversion of due) byField.set(conversion.field, [...(byField.get(conversion.field) ?? []), conversion])
  const within = (type: FieldOwner, values: Document): Document => {
    const next: Record<string, unknown> = { ...values }
    for (const field of type.fields) {
      let content = next[field.id]
      if (content === undefined) continue
      for (const conversion of byField.get(field.id) ?? [])
        content = convertContent(content, conversion, (because) => lost?.({ field: field.id, because }))
      // Fields inside have changes of their own.
      if (ownersInside(model, field).length > 0) content = inside(type, field.id, content)
      if (content === undefined) delete next[field.id]
      else next[field.id] = content
    }
    return next
  }
  const inside = (type: FieldOwner, id: string, content: unknown): unknown => {
    const field = type.fields.find((one) => one.id === id)!
    const group = insideGroup(field)
    if (group && !field.many) return isRecord(content) ? within(group, content) : content
    const items = (list: unknown): unknown =>
      !Array.isArray(list)
        ? list
        : (list as (NestedItem & { block?: string })[]).map((item) => {
            const opened = group ?? model.blockTypes.find((one) => one.id === item.block)
            return opened && isRecord(item.values) ? { ...item, values: within(opened, item.values) } : item
          })
    return isRecord(content)
      ? Object.fromEntries(Object.entries(content).map(([tag, list]) => [tag, items(list)]))
      : items(content)
  }
  return within(owner, document)
}

/** One content of a field in its new form: kind, one or many, shared or per locale. */
export function convertContent(
  content: unknown,
  { field, from, to, locale, timeZone }: Conversion,
  lost: (because: string) => void,
): unknown {
  const one = (own: unknown, tag: string): unknown => {
    if (own === null || own === undefined) return own
    const listed = isListForm(from)
      ? (own as { handle: string; value: unknown }[])
      : [{ handle: `${field}-${tag}`, value: own }]
    const kept =
      from.kind === 'group' ||
      from.kind === 'block' ||
      (from.kind === to.kind && from.kind !== 'dateTime' && from.kind !== 'number')
        ? listed
        : listed.flatMap(({ handle, value }) => {
            const made = convertValue(value, from, to, { locale, timeZone })
            if ('because' in made) return (lost(made.because), [])
            return [{ handle, value: made.value }]
          })
    if (isListForm(to))
      return isListForm(from) || to.kind !== 'group' ? kept : [{ handle: `${field}-${tag}`, values: own }]
    if (kept.length > 1) lost(`it holds ${kept.length} values, and one fits`)
    return to.kind === 'group' ? (kept[0] as unknown as NestedItem | undefined)?.values : kept[0]?.value
  }
  if (from.localized && to.localized) return mapOf(content as LocaleMap, one)
  if (!from.localized && to.localized) {
    const made = one(content, locale)
    return made === undefined ? undefined : { [locale]: made }
  }
  if (from.localized) {
    const map = (content ?? {}) as LocaleMap
    const others = Object.keys(map).filter((tag) => map[tag] !== null && map[tag] !== undefined)
    const kept =
      map[locale] !== undefined && map[locale] !== null ? locale : others.length === 1 ? others[0]! : undefined
    if (others.length > 1) lost(`it holds values in ${others.join(', ')}, and one fits for all locales`)
    return kept === undefined ? undefined : one(map[kept], kept)
  }
  return one(content, 'all')
}

const isListForm = (form: FieldForm): boolean => form.many || form.kind === 'block'

function mapOf(map: LocaleMap, one: (own: unknown, tag: string) => unknown): unknown {
  const made = Object.entries(map).flatMap(([tag, own]) => {
    const next = one(own, tag)
    return next === undefined ? [] : [[tag, next] as const]
  })
  return made.length > 0 ? Object.fromEntries(made) : undefined
}
