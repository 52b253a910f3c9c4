import { pointerTo } from '../base/errors.js'
import {
  blockTypeNamed,
  fieldNamed,
  fieldsAt,
  insideGroup,
  isList,
  type Field,
  type FieldOwner,
  type Model,
} from '../model/model.js'
import { isRichText, type RichBlock } from '../richtext/document.js'
import { holdsLocales, identityOf, isRecord, itemsOf, type Item } from '../documents/document.js'
import type { NamedValues } from '../documents/names.js'

/** A place in named values: field names and item ids in turn, as edits write them, and the locale on the way. */
export interface NamedPlace {
  readonly at: readonly string[]
  readonly locale?: string | undefined
}

/** A place as the form uses it. */
export interface StandingPlace {
  /** The field that it is, or whose item it is. */
  readonly field: Field
  /** The labels of the fields and items on the way. */
  readonly labels: readonly string[]
  /** JSON Pointer, with positions where the place has ids. */
  readonly pointer: string
}

/** The name for people of the blocks of a rich text. */
const richBlockLabels: Readonly<Record<RichBlock['type'], string>> = {
  paragraph: 'Paragraph',
  heading: 'Heading',
  list: 'List',
  blockquote: 'Quote',
  code: 'Code',
  thematicBreak: 'Rule',
}

/** Finds a place in named values. @returns undefined where there is no such field, or an item on the way is gone. */
export function placeIn(
  model: Model,
  type: FieldOwner,
  values: NamedValues,
  { at, locale }: NamedPlace,
): StandingPlace | undefined {
  let owner: FieldOwner | undefined = type
  let content: unknown = values
  let isInside = false
  let pointer = '/values'
  const labels: string[] = []
  for (let index = 0; index < at.length; index += 2) {
    const fields: readonly Field[] | undefined = owner && fieldsAt(owner, at[index]!)
    const field: Field | undefined = fields?.at(-1)
    if (!fields || !field) return undefined
    for (const field of fields) {
      content = isRecord(content) ? content[field.name] : undefined
      pointer = pointerTo(pointer, field.name)
      labels.push(field.label)
      if (!holdsLocales(field, isInside) || locale === undefined) continue
      content = isRecord(content) ? content[locale] : undefined
      pointer = pointerTo(pointer, locale)
      isInside = true
    }
    const itemId = at[index + 1]
    if (itemId === undefined) return { field, labels, pointer }
    const items = itemsOf(content) ?? []
    const position = items.findIndex((item) => identityOf(item) === itemId)
    if (position < 0) return undefined
    if (isRichText(content))
      return {
        field,
        labels: [...labels, `${richBlockLabels[content.children[position]!.type]} ${position + 1}`],
        pointer: pointerTo(pointerTo(pointer, 'children'), position),
      }
    const item = items[position]! as { readonly block?: string; readonly values?: NamedValues }
    owner = insideGroup(field) ?? blockTypeNamed(model, item.block ?? '')
    labels.push(`${owner && 'label' in owner ? String(owner.label) : ''} ${position + 1}`.trim())
    pointer = pointerTo(pointer, position)
    if (index + 2 >= at.length) return { field, labels, pointer }
    pointer += '/values'
    content = item.values
  }
  return undefined
}

/** The place of a JSON Pointer into named values, as far as it exists: an item's position becomes its id. */
export function placeOfPointer(
  model: Model,
  type: FieldOwner,
  values: NamedValues,
  pointer: string,
): NamedPlace | undefined {
  const steps = pointer
    .split('/')
    .slice(2)
    .map((step) => step.replaceAll('~1', '/').replaceAll('~0', '~'))
  const at: string[] = []
  let owner: FieldOwner | undefined = type
  let content: unknown = values
  let locale: string | undefined
  let group = ''
  for (let index = 0; index < steps.length;) {
    const name = steps[index++]!
    const field: Field | undefined = owner && fieldNamed(owner, name)
    if (!field) return undefined
    content = isRecord(content) ? content[name] : undefined
    if (holdsLocales(field, locale !== undefined) && index < steps.length) {
      locale = steps[index++]!
      content = isRecord(content) ? content[locale] : undefined
    }
    if (insideGroup(field) && !field.many) {
      owner = insideGroup(field)
      group += `${name}.`
      continue
    }
    at.push(group + name)
    group = ''
    if (!isList(field) || index >= steps.length) break
    const item = Array.isArray(content) ? (content as Item[])[Number(steps[index++])] : undefined
    if (!item) return undefined
    at.push(item.id)
    const { block, values: inside } = item as { readonly block?: string; readonly values?: NamedValues }
    if (steps[index] !== 'values') break
    index++
    owner = insideGroup(field) ?? blockTypeNamed(model, block ?? '')
    content = inside
  }
  if (group !== '') at.push(group.slice(0, -1))
  return at.length > 0 ? { at, ...(locale === undefined ? {} : { locale }) } : undefined
}

/** The content of a place: a field's content, an item's value or values. Undefined where nothing does. */
export function contentAt(values: NamedValues, at: readonly string[], locale: string | undefined): unknown {
  let content: unknown = values
  let tag = locale
  for (const [index, step] of at.entries()) {
    if (index % 2 === 1) {
      const item = itemsOf(content)?.find((candidate) => identityOf(candidate) === step)
      content = item && ('values' in item ? item.values : 'id' in item ? item.value : item)
      continue
    }
    for (const name of step.split('.')) content = isRecord(content) ? content[name] : undefined
    if (tag === undefined || !isRecord(content) || isRichText(content)) continue
    content = content[tag]
    tag = undefined
  }
  return content
}
