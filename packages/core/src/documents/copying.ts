import type { RichText } from '../richtext/document.js'
import { insideGroup, isList, type Field, type FieldOwner, type Model } from '../model/model.js'
import { holdsLocales, insideOf, isRecord, type Document, type NestedItem, type ValueItem } from './document.js'

/** What a copy of a document refers to instead of what its original does. */
export interface CopyMap {
  /** The entry to refer to; undefined for none: the reference is left out. */
  readonly entry: (id: string) => string | undefined
  /** The asset to refer to; undefined for none. */
  readonly asset: (id: string) => string | undefined
  /** Whether the values of a locale are copied. */
  readonly locale: (tag: string) => boolean
}

/**
 * A copy of a document with other references, also in rich text and metadata, and in the locales that are wanted. Items keep their ids,
 * so that the copy can be compared with its original. A link whose target is left out becomes its text.
 */
export function copyDocument(model: Model, owner: FieldOwner, document: Document, map: CopyMap): Document {
  const within = (type: FieldOwner, values: Document, insideLocale: boolean): Document =>
    Object.fromEntries(
      type.fields.flatMap((field): [string, unknown][] => {
        const content = values[field.id]
        if (content === undefined) return []
        const copied = holdsLocales(field, insideLocale)
          ? inLocales(field, content)
          : inField(field, content, insideLocale)
        return copied === undefined ? [] : [[field.id, copied]]
      }),
    )
  const inLocales = (field: Field, content: unknown): Document | undefined => {
    const copied = Object.entries(isRecord(content) ? content : {}).flatMap(([locale, value]): [string, unknown][] => {
      const of = map.locale(locale) ? inField(field, value, true) : undefined
      return of === undefined ? [] : [[locale, of]]
    })
    return copied.length === 0 ? undefined : Object.fromEntries(copied)
  }
  const inField = (field: Field, content: unknown, insideLocale: boolean): unknown => {
    if (content === null) return null
    const group = insideGroup(field)
    if (group && !field.many) return within(group, isRecord(content) ? content : {}, insideLocale)
    if (group || field.kind === 'block')
      return insideOf(model, field, content).map((inside) => ({
        ...(content as NestedItem[])[inside.index]!,
        values: within(inside.owner, inside.values, insideLocale),
      }))
    if (!isList(field)) return copyValue(field, content, map)
    return (content as ValueItem[]).flatMap((item) => {
      const value = copyValue(field, item.value, map)
      return value === undefined ? [] : [{ ...item, value }]
    })
  }
  return within(owner, document, false)
}

/** Ids in the conditions of lists are whole words. */
const idInText = /\b[0-9a-z]{20}\b/g

function copyValue(field: Field, value: unknown, map: CopyMap): unknown {
  switch (field.kind) {
    case 'entry':
      return map.entry(value as string)
    case 'asset':
      return map.asset(value as string)
    case 'richText':
      return copyNode(value as RichText, map)[0]
    case 'metadata': {
      const { image, ...rest } = value as { image?: string | null }
      const copied = image ? map.asset(image) : undefined
      return copied === undefined ? rest : { ...rest, image: copied }
    }
    case 'listing':
      return JSON.parse(JSON.stringify(value).replace(idInText, (id) => map.entry(id) ?? id)) as unknown
    default:
      return value
  }
}

interface Node {
  readonly type: string
  readonly data?: { readonly entry?: string; readonly asset?: string }
  readonly children?: readonly Node[]
}

/** A node with its references mapped; its children where its own is left out, and nothing for a picture without one. */
function copyNode(node: object, map: CopyMap): object[] {
  const { type, data, children } = node as Node
  const inside = children && children.flatMap((child) => copyNode(child, map))
  const refers = type === 'link' || type === 'image'
  const entry = refers && data?.entry !== undefined ? map.entry(data.entry) : undefined
  const asset = refers && data?.asset !== undefined ? map.asset(data.asset) : undefined
  const isDropped =
    refers && ((data?.entry !== undefined && entry === undefined) || (data?.asset !== undefined && asset === undefined))
  if (isDropped) return type === 'link' ? (inside ?? []) : []
  return [
    {
      ...node,
      ...(entry === undefined && asset === undefined
        ? {}
        : { data: { ...data, ...(entry === undefined ? { asset } : { entry }) } }),
      ...(inside === undefined ? {} : { children: inside }),
    },
  ]
}
