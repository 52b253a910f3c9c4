import { checkHolds, fieldRuleState, fieldsOfCheck } from '../documents/fieldRules.js'
import { chainOf, localeTags, type SiteSettings } from '../locales/settings.js'
import type { MessageParameters, Problem } from '../base/errors.js'
import {
  blockTypeNamed,
  blockTypeWithId,
  isList,
  kindOf,
  type Check,
  type ContentType,
  type Field,
  type FieldOwner,
  type Model,
} from '../model/model.js'
import { composePublic, type PublicLayers } from '../documents/layers.js'
import {
  hasContent,
  valuesIn,
  walk,
  type BlockItem,
  type Document,
  type Item,
  type Spot,
} from '../documents/document.js'
import { resolve, storedReader } from '../documents/facts.js'

/** The layers that would be public after publishing a working copy in some locales. */
export function layersAfter(
  document: Document,
  locales: readonly string[],
  now: PublicLayers | undefined,
): PublicLayers {
  return {
    shared: document,
    locales: { ...now?.locales, ...Object.fromEntries(locales.map((locale) => [locale, document])) },
  }
}

/**
 * Every problem of the document that would be public: every missing or wrong value, in every locale that would be public, also
 * inside groups and blocks. Required means: has a value after fallback through layers that will be public. Hidden values are not
 * checked.
 */
export function validate(model: Model, type: ContentType, layers: PublicLayers, settings: SiteSettings): Problem[] {
  const problems: Problem[] = []
  const composed = composePublic(model, type, layers)
  const publicLocales = localeTags(settings).filter((locale) => layers.locales[locale] !== undefined)
  let contents: Map<string, unknown> | undefined
  /** The contents of every spot, also in locales that will not be public: computed when a required value is missing. */
  const contentsOf = (): ReadonlyMap<string, unknown> => {
    if (contents) return contents
    const all = (contents = new Map<string, unknown>())
    walk(model, type, composed, localeTags(settings), (content, { place, locale }) => {
      all.set(key(place, locale), content)
    })
    return all
  }
  const checked = new CheckedOwners()
  walk(model, type, composed, publicLocales, (content, spot) => {
    const { field, locale } = spot
    checked.note(spot)
    const chain = chainOf(settings, locale ?? settings.defaultLocale)
    const ruling = fieldRuleState(model, spot.owner, field, spot.around, storedReader(chain, spot.insideLocale))
    if (!ruling.isShown) return false
    const tell = (code: string, say: (name: string, where: string) => string, more: MessageParameters = {}) => {
      const place = placeOf(spot, composed, model)
      const name = printPlace(place)
      problems.push({
        code,
        message: say(name, locale === undefined ? '' : ` in ${locale}`),
        parameters: { field: name, ...place, ...more },
        pointer: spot.pointer,
        ...(locale === undefined ? {} : { locale }),
      })
    }
    if (!hasContent(content)) {
      if (ruling.isRequired && !hasContent(inherited(spot, contentsOf, settings)))
        tell('required', (name) => emptyMessage(name, locale))
      return false
    }
    if (isList(field))
      judgeCount(model, field, content as readonly Item[], (code, message, more) =>
        tell(code, (name, where) => `${name} ${message}${where}.`, more),
      )
    for (const value of valuesIn(content, field)) {
      const misfit = kindOf(field).checkForm(value, field.options)
      if (misfit) tell('wrongForm', (name, where) => `${name}${where} ${misfit}.`, { kind: field.kind })
      else
        for (const { code, message, parameters } of kindOf(field).checkRules(value, field.options))
          tell(code, (name, where) => `${name}${where} ${message.replace(/\.$/, '')}.`, parameters)
    }
    return true
  })
  problems.push(...checked.problems(model, settings, publicLocales))
  return problems
}

/** Everything with fields that has rules across them, and where its fields are. */
class CheckedOwners {
  readonly #spots = new Map<Document, Spot[]>()

  note(spot: Spot): void {
    if (!spot.owner.checks) return
    const spots = this.#spots.get(spot.around) ?? []
    this.#spots.set(spot.around, spots)
    spots.push(spot)
  }

  /** The rules that do not hold, each reported once in a locale, or once if it is about shared values. */
  problems(model: Model, settings: SiteSettings, locales: readonly string[]): Problem[] {
    return [...this.#spots.values()].flatMap((spots) => {
      const { owner, insideLocale, locale } = spots[0]!
      return owner.checks!.flatMap((check) => {
        const named = fieldsOfCheck(model, owner, check).flatMap((id) => spots.filter(({ field }) => field.id === id))
        const isShared = named.every((spot) => spot.locale === undefined)
        const tags = isShared ? [undefined] : insideLocale ? [locale] : locales
        return tags.flatMap((tag) => {
          const read = storedReader(chainOf(settings, tag ?? settings.defaultLocale), insideLocale)
          if (checkHolds(model, owner, check, spots[0]!.around, read)) return []
          const at = named.find((spot) => spot.locale === tag) ?? named[0] ?? spots[0]!
          return [problemOf(check, owner, at.pointer, isShared ? undefined : tag)]
        })
      })
    })
  }
}

function problemOf({ holds, message }: Check, owner: FieldOwner, pointer: string, locale: string | undefined): Problem {
  const where = locale === undefined ? '' : ` (${locale})`
  return {
    code: 'checkFailed',
    message: message ? `${message}${where}` : `${owner.label}: \`${holds}\` does not hold${where}.`,
    parameters: { check: holds, owner: owner.label, ...(message ? { said: message } : {}) },
    pointer,
    ...(locale === undefined ? {} : { locale }),
  }
}

/** The number of blocks, of all and of each type. */
function judgeCount(
  model: Model,
  field: Field,
  items: readonly Item[],
  tell: (code: string, message: string, parameters: MessageParameters) => void,
): void {
  const [min, max] = field.many ? [field.count?.min, field.count?.max] : [undefined, 1]
  const all = items.length
  if (min !== undefined && all < min) tell('tooFew', `has ${all} of at least ${min}`, { count: all, min })
  if (max !== undefined && all > max) tell('tooMany', `has ${all} of at most ${max}`, { count: all, max })
  const each = (field.options['each'] ?? {}) as Readonly<
    Record<string, { readonly min?: number; readonly max?: number }>
  >
  for (const [name, limit] of Object.entries(each)) {
    const block = blockTypeNamed(model, name)
    const count = (items as readonly BlockItem[]).filter((item) => item.block === block?.id).length
    const label = block?.label ?? name
    const { min: least, max: most } = limit
    if (least !== undefined && count < least)
      tell('tooFew', `has ${count} of at least ${least} × ${label}`, { count, min: least, block: label })
    if (most !== undefined && count > most)
      tell('tooMany', `has ${count} of at most ${most} × ${label}`, { count, max: most, block: label })
  }
}

/** The value for readers of a spot without one of its own: for a localized one, after fallback. */
function inherited(spot: Spot, contentsOf: () => ReadonlyMap<string, unknown>, settings: SiteSettings): unknown {
  if (spot.locale === undefined) return undefined
  const chain = chainOf(settings, spot.locale)
  const contents = contentsOf()
  return resolve(Object.fromEntries(chain.map((locale) => [locale, contents.get(key(spot.place, locale))])), chain)
    .content
}

const key = (place: readonly string[], locale: string | undefined): string => `${place.join('/')} ${locale ?? ''}`

const emptyMessage = (name: string, locale: string | undefined): string =>
  locale === undefined
    ? `${name} is empty. Fill it in.`
    : `${name} is empty in ${locale}. Write one, or leave ${locale} out.`

/** A field, and what it is inside: a group, an element of a repeated one by its number, or a block by its number. */
type FieldPlace = { readonly label: string } & (
  { readonly inGroup?: string; readonly inNumber?: number } | { readonly inBlock: string; readonly inNumber: number }
)

function placeOf(
  spot: Pick<Spot, 'owner' | 'field' | 'pointer' | 'place'>,
  document: Document,
  model: Model,
): FieldPlace {
  const { label } = spot.field
  if (spot.place.length === 1) return spot.place[0]!.includes('.') ? { label, inGroup: spot.owner.label } : { label }
  const [listPath, id] = spot.place as [string, string]
  let list: unknown = document
  for (const id of listPath.split('.')) list = (list as Document | undefined)?.[id]
  const items = Array.isArray(list) ? (list as Item[]) : []
  const index = items.findIndex((item) => item.id === id)
  const item = items[index]
  if (!item) return { label }
  const inNumber = index + 1
  return 'block' in item
    ? { label, inBlock: blockTypeWithId(model, item.block)?.label ?? '?', inNumber }
    : { label, inGroup: spot.owner.label, inNumber }
}

function printPlace(place: FieldPlace): string {
  const { label, inNumber } = place
  if ('inBlock' in place) return `${label} of block ${inNumber} (${place.inBlock})`
  if (place.inGroup === undefined) return label
  return `${label} of ${place.inGroup}${inNumber === undefined ? '' : ` ${inNumber}`}`
}

/** "Title", "Phone of Contact", or "Text of block 2 (Quote)". */
export const nameOf = (...place: Parameters<typeof placeOf>): string => printPlace(placeOf(...place))

/** The references of a working copy, with their possible targets: the service knows which entries and assets exist. */
export interface PlacedReference {
  readonly pointer: string
  readonly target: string
  readonly to: 'entry' | 'asset'
  /** Names of types, or media types. */
  readonly accepts: readonly string[]
  readonly field: Field
}

/** Every reference of a document, in every locale. */
export function referencesOf(
  model: Model,
  type: ContentType,
  document: Document,
  locales: readonly string[],
): PlacedReference[] {
  const all: PlacedReference[] = []
  walk(model, type, document, locales, (content, { field, pointer }) => {
    const kind = kindOf(field)
    if (!kind.references) return
    valuesIn(content, field).forEach((value, index) => {
      const references = kind.references!(value)
      const at = isList(field) ? `${pointer}/${index}` : pointer
      const shape = kind.shape(field.options)
      const types = shape.is === 'reference' ? shape.to : shape.is === 'richText' ? shape.entries : []
      const media = shape.is === 'asset' ? shape.accepts : field.kind === 'metadata' ? ['image/*'] : []
      for (const target of references.entries) all.push({ pointer: at, target, to: 'entry', accepts: types, field })
      for (const target of references.assets) all.push({ pointer: at, target, to: 'asset', accepts: media, field })
    })
  })
  return all
}
