import type { Problem } from '../base/errors.js'
import { isRichText, type RichBlock, type RichText } from '../richtext/document.js'
import type { Environment } from '../base/ids.js'
import { fieldsAt, insideGroup, isList, kindOf, type Field, type FieldOwner, type Model } from '../model/model.js'
import { didYouMean } from '../text/nearest.js'
import {
  hasFields,
  holdsLocales,
  identityOf,
  insideOf,
  isRecord,
  itemIdsIn,
  itemsOf,
  type Document,
  type Item,
} from '../documents/document.js'
import { readContent, readItem } from '../documents/names.js'

/**
 * One operation of a save, addressed by place: field ids and item ids in turn from the top (a field inside a single group is
 * written `group.field`, one step; a block of rich text is addressed by its id too), and the locale where one of the fields on the
 * way is localized. As stored; clients write names (see `readEdits`).
 */
export type Edit =
  | { readonly do: 'set'; readonly at: readonly string[]; readonly locale?: string; readonly value: unknown }
  | { readonly do: 'clear'; readonly at: readonly string[]; readonly locale?: string }
  | {
      readonly do: 'insert'
      readonly at: readonly string[]
      readonly locale?: string
      readonly item: Item | RichBlock
      readonly after: string | null
    }
  | { readonly do: 'move'; readonly at: readonly string[]; readonly locale?: string; readonly after: string | null }
  | { readonly do: 'remove'; readonly at: readonly string[]; readonly locale?: string }

/** An edit as the outside writes it: the same with field names, and an item whose id may be left out. */
export interface NamedEdit {
  readonly do: Edit['do']
  /**
   * Field names and item ids, in turn: `["body", "h1", "text"]`; inside a single group with a dot, `["contact.phone"]`; a block
   * of a rich text by its id.
   */
  readonly at: readonly string[]
  readonly locale?: string | undefined
  readonly value?: unknown
  readonly item?: unknown
  /** The item or block before it, by its id; null for the first place. */
  readonly after?: string | null | undefined
}

/** The content of a place: a field of an entry or block, or an item of its list. */
interface Target {
  readonly field: Field
  /** When the place is an item, or a block of rich text. */
  readonly itemId: string | undefined
  /** The stored content, where the place is a field. */
  readonly content: unknown
  /** Whether the place is inside a locale's value. */
  readonly localized: boolean
}

/**
 * Reads edits by names against a document, so that ids decide which block type's fields are meant. Edits are read in order: a later
 * one may address an item that an earlier one inserted.
 * @returns stored edits and the document after them, or every problem (pointers into the array of edits).
 */
export function readEdits(
  model: Model,
  type: FieldOwner,
  document: Document,
  edits: readonly NamedEdit[],
  locales: readonly string[],
  random: Environment['random'],
  /** Completes an inserted item, such as with the defaults of its type. */
  complete: (field: Field, item: Item, insideLocale: boolean) => Item = (_, item) => item,
): { edits: Edit[]; document: Document; problems: Problem[] } {
  const read: Edit[] = []
  const problems: Problem[] = []
  let now = document
  /** Rich texts whose blocks change one by one, by the last edit of each. */
  const texts = new Map<string, { index: number; field: Field; at: readonly string[]; locale: string | undefined }>()
  /** A block of a rich text as it is stored, independent of the rest of the text. */
  const readBlock = ({ field, localized }: Target, value: unknown, pointer: string): RichBlock | undefined => {
    const whole = { type: 'root', children: [value] }
    const { content, problems: wrong } = readContent(model, field, whole, pointer, locales, localized, random)
    problems.push(...wrong)
    return wrong.length === 0 ? (content as RichText).children[0] : undefined
  }
  edits.forEach((edit, index) => {
    const pointer = `/edits/${index}`
    const tell = (code: string, member: string, message: string) =>
      void problems.push({ code, pointer: `${pointer}${member}`, message })
    const found = findPlace(model, type, now, edit.at, edit.locale)
    if (typeof found === 'string') return tell('unknownPlace', '/at', found)
    const { target, at } = found
    if (edit.locale !== undefined && !locales.includes(edit.locale))
      return tell(
        'unknownLocale',
        '/locale',
        `\`${edit.locale}\` is not a locale of this site (${locales.join(', ')}).`,
      )
    if (target.localized && edit.locale === undefined)
      return tell('missing', '', `${target.field.label} is localized: say which \`locale\`.`)
    if (!target.localized && edit.locale !== undefined)
      return tell(
        'notLocalized',
        '/locale',
        `${target.field.label} has one value for all locales: leave \`locale\` out.`,
      )
    const base = { at, ...(edit.locale === undefined ? {} : { locale: edit.locale }) }
    const needs = (wanted: boolean, message: string): boolean => (wanted || tell('wrongPlace', '/at', message), wanted)
    let readEdit: Edit | undefined
    switch (edit.do) {
      case 'set': {
        if (edit.value === undefined)
          return tell('missing', '', 'A `set` needs a `value`; null makes it empty on purpose.')
        if (target.itemId !== undefined && (target.field.kind === 'block' || target.field.kind === 'group'))
          return tell('wrongPlace', '/at', 'A block or an element of a group is not set as a whole: set its fields.')
        if (target.itemId !== undefined && isOneRichText(target.field)) {
          const block = readBlock(target, edit.value, `${pointer}/value`)
          if (block) readEdit = { do: 'set', ...base, value: { ...block, data: { id: target.itemId } } }
          break
        }
        const field = target.itemId === undefined ? target.field : { ...target.field, many: false }
        const { content, problems: wrong } = readContent(
          model,
          field,
          edit.value,
          `${pointer}/value`,
          locales,
          target.localized,
          random,
          target.content,
        )
        if (wrong.length > 0) return void problems.push(...wrong)
        readEdit = { do: 'set', ...base, value: content }
        break
      }
      case 'clear':
        if (!needs(target.itemId === undefined, 'A `clear` names a field. Use `remove` for an item.')) return
        readEdit = { do: 'clear', ...base }
        break
      case 'insert': {
        const after = edit.after === undefined ? lastIdentity(now, at, edit.locale) : edit.after
        if (target.itemId === undefined && isOneRichText(target.field)) {
          const block = readBlock(target, edit.item, `${pointer}/item`)
          const blocks = itemsOf(target.content) ?? []
          if (!block) return
          if (blocks.some((other) => identityOf(other) === block.data.id))
            return tell('twice', '/item/data/id', `The id \`${block.data.id}\` is taken.`)
          readEdit = { do: 'insert', ...base, item: block, after }
          break
        }
        if (
          !needs(
            target.itemId === undefined && isList(target.field),
            'An `insert` names a field with multiple values, or rich text.',
          )
        )
          return
        const { item, problems: wrong } = readItem(
          model,
          target.field,
          edit.item,
          `${pointer}/item`,
          locales,
          target.localized,
          random,
        )
        if (wrong.length > 0 || !item) return void problems.push(...wrong)
        if (itemIdsIn(model, type, now, target.localized ? [edit.locale!] : locales).has(item.id))
          return tell('twice', '/item/id', `The id \`${item.id}\` is taken.`)
        readEdit = {
          do: 'insert',
          ...base,
          item: complete(target.field, item, target.localized),
          after,
        }
        break
      }
      case 'move':
      case 'remove':
        if (!needs(target.itemId !== undefined, `A \`${edit.do}\` names an item: the field, then the item's id.`))
          return
        if (edit.do === 'move' && edit.after === undefined)
          return tell('missing', '', 'A `move` needs `after`: an id, or null for the first place.')
        readEdit = edit.do === 'remove' ? { do: 'remove', ...base } : { do: 'move', ...base, after: edit.after ?? null }
        break
    }
    if (!readEdit) return
    const { after } = readEdit as { after?: string | null }
    if (
      typeof after === 'string' &&
      !listAt(now, readEdit.do === 'move' ? at.slice(0, -1) : at, edit.locale).some(
        (item) => identityOf(item) === after,
      )
    )
      return tell('unknownPlace', '/after', `There is no item \`${after}\` in ${target.field.label}.`)
    if (isOneRichText(target.field) && (target.itemId !== undefined || readEdit.do === 'insert')) {
      const place = target.itemId === undefined ? at : at.slice(0, -1)
      texts.set(JSON.stringify([place, edit.locale]), { index, field: target.field, at: place, locale: edit.locale })
    }
    read.push(readEdit)
    now = applyEdit(now, readEdit)
  })
  // Between two edits an id may be there twice, as while a paragraph moves into a quote: at the end it may not.
  for (const { index, field, at, locale } of texts.values()) {
    const text = { type: 'root', children: listAt(now, at, locale) }
    const wrong = kindOf(field).checkForm(text, field.options)
    if (wrong)
      problems.push({
        code: 'wrongForm',
        pointer: `/edits/${index}`,
        message: `${field.label} ${wrong}.`,
        parameters: { field: field.label },
      })
  }
  return { edits: read, document: now, problems }
}

/** Turns a place by names into one by ids; a sentence when there is no such place. */
function findPlace(
  model: Model,
  type: FieldOwner,
  document: Document,
  names: readonly string[],
  locale: string | undefined,
): { target: Target; at: string[] } | string {
  let owner = type
  let values = document
  let localized = false
  const at: string[] = []
  for (let index = 0; index < names.length; index += 2) {
    const fields = fieldsAt(owner, names[index]!)
    if (!fields) return unknownPlace(owner, names[index]!)
    const field = fields.at(-1)!
    const many = fields.slice(0, -1).find((candidate) => candidate.many)
    if (many) return `${many.label} is repeated: name an element by its id before the field inside.`
    at.push(fields.map((field) => field.id).join('.'))
    const itemId = names[index + 1]
    let content: unknown = { [fields[0]!.id]: values[fields[0]!.id] }
    for (const field of fields) {
      const mapped = holdsLocales(field, localized)
      localized ||= mapped
      const stored: unknown = isRecord(content) ? content[field.id] : undefined
      content = mapped ? (isRecord(stored) && locale !== undefined ? stored[locale] : undefined) : stored
    }
    if (itemId === undefined) return { target: { field, itemId: undefined, localized, content }, at }
    if (isOneRichText(field)) {
      if (localized && locale === undefined) return `${field.label} is localized: say which \`locale\`.`
      if (!itemsOf(content)?.some((block) => identityOf(block) === itemId))
        return `There is no block \`${itemId}\` in ${field.label}.`
      at.push(itemId)
      if (index + 2 >= names.length) return { target: { field, itemId, localized, content: undefined }, at }
      return `A block of ${field.label} has no fields: set it as a whole.`
    }
    if (!isList(field))
      return field.kind === 'group'
        ? `${field.label} is one group: write \`${names[index]}.${itemId}\` for a field inside it.`
        : `${field.label} holds one value: there is nothing at \`${itemId}\` in it.`
    if (localized && locale === undefined) return `${field.label} is localized: say which \`locale\`.`
    const item = Array.isArray(content) ? (content as Item[]).find((other) => other.id === itemId) : undefined
    if (!item) return `There is no item \`${itemId}\` in ${field.label}.`
    at.push(itemId)
    if (index + 2 >= names.length) return { target: { field, itemId, localized, content: undefined }, at }
    const inside = insideOf(model, field, [item])[0]
    if (!inside) return `The item \`${itemId}\` of ${field.label} has no fields.`
    owner = inside.owner
    values = inside.values
  }
  return 'A place begins with a field: `["title"]`.'
}

/** Whether edits address the blocks of a field one by one. */
const isOneRichText = (field: Field): boolean => field.kind === 'richText' && !field.many

function unknownPlace(owner: FieldOwner, path: string): string {
  let here = owner
  for (const name of path.split('.')) {
    const field = fieldsAt(here, name)?.[0]
    if (!field) {
      const names = here.fields.map((field) => field.name)
      return `\`${name}\` is not a field of ${here.name}.${didYouMean(name, names)}`
    }
    here = insideGroup(field) ?? { ...field, fields: [] }
  }
  return `\`${path}\` is not a place in ${owner.name}.`
}

/** The document after one edit. An edit of a missing item changes nothing; a missing `after` means the end. */
export function applyEdit(document: Document, edit: Edit): Document {
  const change = (values: Document, at: readonly string[], locale: string | undefined): Document => {
    const [step, itemId, ...rest] = at
    const [field, ...inner] = step!.split('.')
    const stored = values[field!]
    if (inner.length > 0) {
      const group = isRecord(stored) ? stored : {}
      const next = change(group, [inner.join('.'), ...at.slice(1)], locale)
      return next === group ? values : with_(values, field!, Object.keys(next).length > 0 ? next : undefined)
    }
    // The locale is used up at the first map of locales on the way.
    const mapped = locale !== undefined && (isRecord(stored) || (stored === undefined && rest.length === 0))
    const content = mapped ? stored?.[locale] : stored
    const next = itemId === undefined ? whole(content) : list(content, itemId, rest, mapped ? undefined : locale)
    if (next === content && content !== undefined) return values
    if (!mapped) return with_(values, field!, next)
    const map = with_((stored as Document | undefined) ?? {}, locale, next)
    return with_(values, field!, Object.keys(map).length > 0 ? map : undefined)
  }
  const whole = (content: unknown): unknown => {
    if (edit.do === 'set') return edit.value
    if (edit.do === 'clear') return undefined
    if (edit.do !== 'insert') return content
    if (!isRichBlock(edit.item)) return placed((content as Item[] | null | undefined) ?? [], edit.item, edit.after)
    const text: RichText = isRichText(content) ? content : { type: 'root', children: [] }
    return { ...text, children: placed(text.children, edit.item, edit.after) }
  }
  const list = (content: unknown, itemId: string, rest: readonly string[], locale: string | undefined): unknown => {
    if (isRichText(content)) {
      const children = changed(content.children, itemId)
      // A text without blocks is none.
      if (children.length === 0) return undefined
      return children === content.children ? content : { ...content, children }
    }
    if (!Array.isArray(content)) return content
    const items = content as Item[]
    const item = items.find((candidate) => candidate.id === itemId)
    if (!item) return content
    if (rest.length > 0) {
      if (!hasFields(item)) return content
      const values = change(item.values, rest, locale)
      return items.map((other) => (other === item ? { ...item, values } : other))
    }
    return changed(items, itemId)
  }
  /** The list after an edit of one of its items. */
  const changed = <One extends Item | RichBlock>(items: readonly One[], identity: string): readonly One[] => {
    const item = items.find((candidate) => identityOf(candidate) === identity)
    if (!item) return items
    const others = items.filter((other) => other !== item)
    if (edit.do === 'remove') return others
    if (edit.do === 'move') return placed(others, item, edit.after)
    if (edit.do !== 'set' || hasFields(item)) return items
    const next = isRichBlock(item) ? edit.value : { id: identity, value: edit.value }
    return items.map((other) => (other === item ? (next as One) : other))
  }
  return change(document, edit.at, edit.locale)
}

export const applyEdits = (document: Document, edits: readonly Edit[]): Document => edits.reduce(applyEdit, document)

function with_(values: Document, key: string, content: unknown): Document {
  const { [key]: _, ...rest } = values
  return content === undefined ? rest : { ...values, [key]: content }
}

const isRichBlock = (item: Item | RichBlock): item is RichBlock => !('id' in item)

function placed<One extends Item | RichBlock>(items: readonly One[], item: One, after: string | null): One[] {
  const index = after === null ? 0 : items.findIndex((candidate) => identityOf(candidate) === after) + 1 || items.length
  return [...items.slice(0, index), item, ...items.slice(index)]
}

/**
 * The items of the list, or the blocks of the rich text, at a place: keyed as `at` is, by ids or by names. Empty where there is
 * none.
 */
export function listAt(
  document: Document,
  at: readonly string[],
  locale: string | undefined,
): readonly (Item | RichBlock)[] {
  let values: Document = document
  for (let index = 0; ; index += 2) {
    let content: unknown = values
    for (const id of at[index]!.split('.')) content = isRecord(content) ? content[id] : undefined
    if (isRecord(content) && locale !== undefined && !isRichText(content)) content = content[locale]
    const items = itemsOf(content) ?? []
    if (index + 1 >= at.length) return items
    const item = items.find((candidate) => identityOf(candidate) === at[index + 1])
    if (!item || !hasFields(item)) return []
    values = item.values
  }
}

function lastIdentity(document: Document, at: readonly string[], locale: string | undefined): string | null {
  const last = listAt(document, at, locale).at(-1)
  return last ? identityOf(last) : null
}
