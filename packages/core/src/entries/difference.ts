import { blockTypeNamed, insideGroup, isList, type Field, type FieldOwner, type Model } from '../model/model.js'
import { holdsLocales, isRecord, sameContent, type Document } from '../documents/document.js'
import type { NamedEdit } from './edits.js'
import { printValues, type NamedValues } from '../documents/names.js'

interface NamedItem {
  readonly handle: string
  readonly value?: unknown
  readonly block?: string
  readonly values?: NamedValues
}

/**
 * The edits that turn named values into others, place by place: what a form sends when it is saved. Items are told
 * apart by their handles, so one that moved is moved and one that changed inside is changed inside.
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
    else edits.push({ do: 'set', ...where, value: now })
  }
  const list = (
    field: Field,
    olds: readonly NamedItem[],
    nows: readonly NamedItem[],
    where: { readonly at: readonly string[]; readonly locale?: string },
  ) => {
    if (nows.length === 0 && olds.length === 0) return void edits.push({ do: 'set', ...where, value: [] })
    const kept = new Set(nows.map((item) => item.handle))
    for (const item of olds)
      if (!kept.has(item.handle)) edits.push({ do: 'remove', ...where, at: [...where.at, item.handle] })
    const order = olds.map((item) => item.handle).filter((handle) => kept.has(handle))
    nows.forEach((item, index) => {
      const after = nows[index - 1]?.handle ?? null
      const old = olds.find((one) => one.handle === item.handle)
      if (!old) {
        edits.push({ do: 'insert', ...where, item, after })
        order.splice(index, 0, item.handle)
        return
      }
      if (order[index] !== item.handle) {
        edits.push({ do: 'move', ...where, at: [...where.at, item.handle], after })
        order.splice(order.indexOf(item.handle), 1)
        order.splice(index, 0, item.handle)
      }
      if (field.kind === 'block' || field.kind === 'group') {
        const block = insideGroup(field) ?? blockTypeNamed(model, item.block ?? '')
        if (block) fields(block, old.values ?? {}, item.values ?? {}, [...where.at, item.handle], where.locale)
      } else if (!sameContent(old.value, item.value))
        edits.push({ do: 'set', ...where, at: [...where.at, item.handle], value: item.value })
    })
  }
  fields(owner, before, after, [], undefined)
  return edits
}

/** A field of an entry, or inside its groups and blocks: names and handles in turn. Without a locale, in all of them. */
export interface FieldPlace {
  readonly at: readonly string[]
  readonly locale?: string | undefined
}

/**
 * The edits that lead from one document to another, everywhere or only at some places. What goes is taken away first, so
 * that an item may have moved from one list to another.
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

const isInside = (edit: NamedEdit, { at, locale }: FieldPlace): boolean =>
  (locale === undefined || edit.locale === locale) &&
  at.every((step, index) => {
    const own = edit.at[index]
    return own === step || (index === at.length - 1 && own?.startsWith(`${step}.`) === true)
  })

/** A place inside: a step of its own, or, in a single group, the group's step and a dot. */
const placeOf = (at: readonly string[] | { readonly step: readonly string[] }, name: string): string[] =>
  'step' in at ? [...at.step.slice(0, -1), `${at.step.at(-1)!}.${name}`] : [...at, name]

const maps = (value: unknown): Record<string, unknown> => (isRecord(value) ? value : {})
