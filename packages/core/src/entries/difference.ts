import { blockTypeNamed, insideGroup, isList, type Field, type FieldOwner, type Model } from '../model/model.js'
import { isRichText, type RichBlock, type RichText } from '../richtext/document.js'
import { holdsLocales, identityOf, isRecord, sameContent, type Document, type Item } from '../documents/document.js'
import type { NamedEdit } from './edits.js'
import { longestRising } from './risingRun.js'
import { printValues, type NamedValues } from '../documents/names.js'

/** An item of a list by names, or a block of rich text. */
type NamedItem =
  | {
      readonly id: string
      readonly value?: unknown
      readonly block?: string
      readonly values?: NamedValues
    }
  | RichBlock

/**
 * The edits that turn named values into others, place by place: sent by a form when it is saved. Items are matched by their ids, so
 * a moved one is moved and one that changed inside is changed inside.
 */
export function namedEditsBetween(
  model: Model,
  owner: FieldOwner,
  before: NamedValues,
  after: NamedValues,
): NamedEdit[] {
  const edits: NamedEdit[] = []
  const fields = (
    type: FieldOwner,
    old: NamedValues,
    now: NamedValues,
    at: readonly string[] | { readonly step: readonly string[] },
    locale: string | undefined,
  ) => {
    for (const field of type.fields) {
      const place = placeOf(at, field.name)
      if (!holdsLocales(field, locale !== undefined)) content(field, old[field.name], now[field.name], place, locale)
      else {
        const [olds, nows] = [maps(old[field.name]), maps(now[field.name])]
        for (const tag of new Set([...Object.keys(olds), ...Object.keys(nows)]))
          content(field, olds[tag], nows[tag], place, tag)
      }
    }
  }
  const content = (field: Field, old: unknown, now: unknown, at: readonly string[], locale: string | undefined) => {
    if (sameContent(old, now)) return
    const where = { at, ...(locale === undefined ? {} : { locale }) }
    const group = insideGroup(field)
    if (now === undefined) edits.push({ do: 'clear', ...where })
    else if (group && !field.many && isRecord(now) && (old === undefined || isRecord(old)))
      fields(group, old ?? {}, now, { step: at }, locale)
    else if (isList(field) && Array.isArray(now) && (Array.isArray(old) || old === undefined))
      list(field, (old ?? []) as NamedItem[], now as NamedItem[], where)
    else if (isRichText(old) && isRichText(now) && !field.many && shareBlocks(old, now))
      list(field, old.children, now.children, where)
    else edits.push({ do: 'set', ...where, value: now })
  }
  const list = (
    field: Field,
    olds: readonly NamedItem[],
    nows: readonly NamedItem[],
    where: { readonly at: readonly string[]; readonly locale?: string },
  ) => {
    if (nows.length === 0 && olds.length === 0) return void edits.push({ do: 'set', ...where, value: [] })
    const identities = nows.map((item) => identityOf(item as Item))
    const kept = new Set(identities)
    const before = new Map(olds.map((item) => [identityOf(item as Item), item]))
    for (const identity of before.keys())
      if (!kept.has(identity)) edits.push({ do: 'remove', ...where, at: [...where.at, identity] })
    const places = new Map([...before.keys()].map((identity, place) => [identity, place]))
    // As few as possible are moved, and the same ones that a comparison shows as moved.
    const stays = longestRising(identities.flatMap((identity) => places.get(identity) ?? []))
    nows.forEach((item, index) => {
      const identity = identities[index]!
      const place = [...where.at, identity]
      const after = identities[index - 1] ?? null
      const old = before.get(identity)
      if (!old) {
        edits.push({ do: 'insert', ...where, item, after })
        return
      }
      if (!stays.has(places.get(identity)!)) edits.push({ do: 'move', ...where, at: place, after })
      if (!('id' in item) || !('id' in old)) {
        if (!sameContent(old, item)) edits.push({ do: 'set', ...where, at: place, value: item })
      } else if (field.kind === 'block' || field.kind === 'group') {
        const block = insideGroup(field) ?? blockTypeNamed(model, item.block ?? '')
        if (block) fields(block, old.values ?? {}, item.values ?? {}, place, where.locale)
      } else if (!sameContent(old.value, item.value)) edits.push({ do: 'set', ...where, at: place, value: item.value })
    })
  }
  fields(owner, before, after, [], undefined)
  return edits
}

/** A field of an entry, or inside its groups and blocks: names and ids in turn. Without a locale, in all of them. */
export interface FieldPlace {
  readonly at: readonly string[]
  readonly locale?: string | undefined
}

/**
 * The edits from one document to another, everywhere or only at some places. Removals come first, so that an item can move from one
 * list to another.
 */
export function editsTowards(
  model: Model,
  owner: FieldOwner,
  from: Document,
  to: Document,
  places?: readonly FieldPlace[],
): NamedEdit[] {
  const all = namedEditsBetween(model, owner, printValues(model, owner, from), printValues(model, owner, to)).filter(
    (edit) => places === undefined || places.some((place) => isInside(edit, place)),
  )
  const goes = ({ do: how }: NamedEdit) => how === 'remove' || how === 'clear'
  return [...all.filter(goes), ...all.filter((edit) => !goes(edit))]
}

/** Whether an edit is of a place, or of something inside it. */
export const isInside = (edit: NamedEdit, { at, locale }: FieldPlace): boolean =>
  (locale === undefined || edit.locale === locale) &&
  at.every((step, index) => {
    const wanted = edit.at[index]
    return wanted === step || (index === at.length - 1 && wanted?.startsWith(`${step}.`) === true)
  })

/** A place inside: a step of its own, or, in a single group, the group's step and a dot. */
const placeOf = (at: readonly string[] | { readonly step: readonly string[] }, name: string): string[] =>
  'step' in at ? [...at.step.slice(0, -1), `${at.step.at(-1)!}.${name}`] : [...at, name]

/** Whether two texts have a block in common: otherwise one replaces the other as a whole. */
function shareBlocks(a: RichText, b: RichText): boolean {
  const ids = new Set(a.children.map(({ data }) => data.id))
  return b.children.some(({ data }) => ids.has(data.id))
}

const maps = (value: unknown): Record<string, unknown> => (isRecord(value) ? value : {})
