import { upgradeListing } from '../fields/listing.js'
import { convertValue } from '../fields/convert.js'
import {
  insideGroup,
  isList,
  ownersInside,
  type Conversion,
  type Field,
  type FieldForm,
  type FieldOwner,
  type Model,
} from '../model/model.js'
import { isRichText } from '../richtext/document.js'
import { isEarlierRichText, upgradeRichText } from '../richtext/upgrade.js'
import { holdsItems, holdsListings, holdsRichText } from './resolveReferences.js'
import { isRecord, type Document, type LocaleMap, type NestedItem } from './document.js'

/** A value that a conversion could not keep. */
export interface Lost {
  readonly field: string
  readonly because: string
}

/**
 * Reads a document of an older model in the form of the current one: revisions never change, so values are converted at each
 * reading, and rich text, lists that fill themselves and items of an earlier form are upgraded. A value that cannot be converted is
 * left out and reported to `lost`; a model that would lose current values cannot be adopted.
 * @param version of the model the document was written under.
 */
export function upgradeDocument(
  model: Model,
  owner: FieldOwner,
  document: Document,
  version: number,
  lost?: (dropped: Lost) => void,
): Document {
  const due = (model.conversions ?? []).filter((conversion) => conversion.version > version)
  const mayBeEarlier = holdsItems(model, owner) || holdsRichText(model, owner) || holdsListings(model, owner)
  if (due.length === 0 && !mayBeEarlier) return document
  const byField = new Map<string, Conversion[]>()
  for (const conversion of due) byField.set(conversion.field, [...(byField.get(conversion.field) ?? []), conversion])
  const within = (type: FieldOwner, values: Document): Document => {
    const next: Record<string, unknown> = { ...values }
    let isChanged = false
    for (const field of type.fields) {
      let content = next[field.id]
      if (content === undefined) continue
      for (const conversion of byField.get(field.id) ?? [])
        content = convertContent(content, conversion, (because) => lost?.({ field: field.id, because }))
      if (isList(field)) content = eachItem(content, upgradeItem)
      if (field.kind === 'richText') content = inNewForm(content, field)
      if (field.kind === 'listing')
        content =
          field.localized && isRecord(content) && !('type' in content)
            ? keeping(content, upgradeListing)
            : upgradeListing(content)
      // Fields inside have changes of their own.
      if (ownersInside(model, field).length > 0) content = inside(type, field.id, content)
      isChanged ||= content !== values[field.id]
      if (content === undefined) delete next[field.id]
      else next[field.id] = content
    }
    return isChanged ? next : values
  }
  const inside = (type: FieldOwner, id: string, content: unknown): unknown => {
    const field = type.fields.find((candidate) => candidate.id === id)!
    const group = insideGroup(field)
    if (group && !field.many) return isRecord(content) ? within(group, content) : content
    return eachItem(content, (item: NestedItem & { block?: string }) => {
      const opened = group ?? model.blockTypes.find((blockType) => blockType.id === item.block)
      if (!opened || !isRecord(item.values)) return item
      const values = within(opened, item.values)
      return values === item.values ? item : { ...item, values }
    })
  }
  return within(owner, document)
}

/** An item of a list. Before, its `id` was called `handle`. */
type EarlierItem = { readonly id?: string; readonly handle?: string; readonly value?: unknown }

function upgradeItem(item: EarlierItem): EarlierItem {
  if (!isRecord(item) || item.handle === undefined) return item
  const { handle, ...more } = item
  return { id: handle, ...more }
}

/** Rich text of a field, per locale or not, one or many, in its current form; itself where it has that form. */
function inNewForm(content: unknown, field: Field): unknown {
  if (isEarlierRichText(content)) return upgradeRichText(content)
  const each = (content: unknown): unknown =>
    isList(field)
      ? eachItem(content, (item: { value?: unknown }) => {
          const value = upgradeRichText(item.value)
          return value === item.value ? item : { ...item, value }
        })
      : upgradeRichText(content)
  return field.localized && isRecord(content) && !isRichText(content) ? keeping(content, each) : each(content)
}

/** Changes the items of a list, or of the list of each locale; the same object where none changes. */
function eachItem<Item>(content: unknown, change: (item: Item) => Item): unknown {
  if (Array.isArray(content)) {
    const next = (content as Item[]).map(change)
    return next.some((item, index) => item !== content[index]) ? next : content
  }
  return isRecord(content) ? keeping(content, (list) => eachItem(list, change)) : content
}

/** Changes the values of an object; the same object where none changes. */
function keeping(object: Record<string, unknown>, change: (value: unknown) => unknown): Record<string, unknown> {
  const entries = Object.entries(object).map(([key, value]) => [key, change(value)] as const)
  return entries.some(([key, value]) => value !== object[key]) ? Object.fromEntries(entries) : object
}

/** One content of a field in its new form: kind, one or many, shared or per locale. */
export function convertContent(
  content: unknown,
  { field, from, to, locale, timeZone }: Conversion,
  lost: (because: string) => void,
): unknown {
  const upgradeValue = (own: unknown, tag: string): unknown => {
    if (own === null || own === undefined) return own
    const listed = isListForm(from)
      ? (own as EarlierItem[]).map((item) => upgradeItem(item) as { id: string; value: unknown })
      : [{ id: `${field}-${tag}`, value: own }]
    const kept =
      from.kind === 'group' ||
      from.kind === 'block' ||
      (from.kind === to.kind && !['dateTime', 'number', 'choice'].includes(from.kind))
        ? listed
        : listed.flatMap(({ id, value }) => {
            const current = from.kind === 'richText' ? upgradeRichText(value) : value
            const converted = convertValue(current, from, to, { locale, timeZone })
            if ('because' in converted) return (lost(converted.because), [])
            return [{ id, value: converted.value }]
          })
    if (isListForm(to)) return isListForm(from) || to.kind !== 'group' ? kept : [{ id: `${field}-${tag}`, values: own }]
    if (kept.length > 1) lost(`it holds ${kept.length} values, and one fits`)
    return to.kind === 'group' ? (kept[0] as unknown as NestedItem | undefined)?.values : kept[0]?.value
  }
  if (from.localized && to.localized) return mapOf(content as LocaleMap, upgradeValue)
  if (!from.localized && to.localized) {
    const upgraded = upgradeValue(content, locale)
    return upgraded === undefined ? undefined : { [locale]: upgraded }
  }
  if (from.localized) {
    const map = (content ?? {}) as LocaleMap
    const others = Object.keys(map).filter((tag) => map[tag] !== null && map[tag] !== undefined)
    const kept =
      map[locale] !== undefined && map[locale] !== null ? locale : others.length === 1 ? others[0]! : undefined
    if (others.length > 1) lost(`it holds values in ${others.join(', ')}, and one fits for all locales`)
    return kept === undefined ? undefined : upgradeValue(map[kept], kept)
  }
  return upgradeValue(content, 'all')
}

const isListForm = (form: FieldForm): boolean => form.many || form.kind === 'block'

function mapOf(map: LocaleMap, upgradeValue: (value: unknown, tag: string) => unknown): unknown {
  const upgraded = Object.entries(map).flatMap(([tag, value]) => {
    const next = upgradeValue(value, tag)
    return next === undefined ? [] : [[tag, next] as const]
  })
  return upgraded.length > 0 ? Object.fromEntries(upgraded) : undefined
}
