import { localeTags, type SiteSettings } from '../locales/settings.js'
import {
  fieldsAt,
  insideGroup,
  isList,
  shapeOf,
  typeNamed,
  type ContentType,
  type Field,
  type FieldOwner,
  type Model,
} from '../model/model.js'
import { fold } from '../text/fold.js'
import { editDistance } from '../text/nearest.js'
import { isEmptyCell, type Cell } from './cells.js'
import { canBeKey, holdsParts, idPlace, importableTypes, type ImportColumn, type ImportMapping } from './mapping.js'
import { looksLikeId } from './rows.js'

/** A place of a type that a column can go to. */
export interface ImportPlace {
  readonly to: string
  readonly label: string
  readonly field: Field | undefined
}

/** Every place of a type that a column can go to, in the order of the model; localized ones once for each locale. */
export function placesOf(type: ContentType, settings: SiteSettings): ImportPlace[] {
  const tags = localeTags(settings)
  const places: ImportPlace[] = [{ to: idPlace, label: 'ID', field: undefined }]
  const within = (owner: FieldOwner, path: string, labels: string, isLocalized: boolean): void => {
    for (const field of owner.fields) {
      if (field.kind === 'listing') continue
      const [to, label] = [`${path}${field.name}`, `${labels}${field.label}`]
      const group = insideGroup(field)
      const localized = isLocalized || field.localized
      if (group && !field.many) {
        within(group, `${to}.`, `${label} › `, localized)
        continue
      }
      const shape = shapeOf(field)
      const members =
        shape.is === 'object' && field.kind === 'metadata' && !isList(field) ? Object.keys(shape.members) : []
      for (const [end, name] of members.length > 0
        ? members.map((member) => [`.${member}`, ` › ${member}`])
        : [['', '']])
        for (const tag of localized ? tags : [undefined])
          places.push({
            to: `${to}${end}${tag === undefined ? '' : `:${tag}`}`,
            label: `${label}${name}${tag === undefined ? '' : ` (${tag})`}`,
            field,
          })
    }
  }
  within(type, '', '', false)
  return places
}

const plain = (text: string): string => fold(text).replace(/[^\p{L}\p{N}]+/gu, '')

/** The head of a column without the locale at its end: `title:nl`, `Title (nl)`, `title_nl`, `Title [nl]`, `title nl`. */
function withoutTag(
  head: string,
  tags: readonly string[],
): { readonly name: string; readonly tag: string | undefined } {
  const match = /^(.+?)\s*(?:[:_\s]|[([])\s*([A-Za-z]{2,3}(?:[-_][A-Za-z0-9]+)*)[)\]]?\s*$/.exec(head)
  const tag = match && tags.find((candidate) => fold(candidate) === fold(match[2]!.replace('_', '-')))
  return tag === undefined || tag === null ? { name: head, tag: undefined } : { name: match![1]!, tag }
}

/** The place that the head of a column names, if any. */
function placeFor(
  head: string,
  type: ContentType,
  settings: SiteSettings,
  places: readonly ImportPlace[],
): ImportPlace | undefined {
  const exact = places.find(({ to }) => to === head.trim())
  if (exact) return exact
  if (['id', 'entryid'].includes(plain(head))) return places[0]
  const { name, tag } = withoutTag(head, localeTags(settings))
  const wanted = plain(name)
  if (wanted === '') return undefined
  const inLocale = places.filter(({ to }) => {
    const [, locale] = to.split(':')
    return locale === undefined ? tag === undefined : locale === (tag ?? settings.defaultLocale)
  })
  const namesOf = ({ to, field, label }: ImportPlace): string[] =>
    field
      ? [to.split(':')[0]!, label.replace(/ \([^)]*\)$/, ''), field.label, field.name, ...(field.aliases ?? [])].map(
          plain,
        )
      : []
  const same = inLocale.find((place) => namesOf(place).includes(wanted))
  if (same) return same
  const near = inLocale.find((place) =>
    namesOf(place).some((name) => name.length > 4 && editDistance(name, wanted) <= (name.length > 8 ? 2 : 1)),
  )
  return near
}

/** The type whose fields most heads name, of those that have more than one entry. */
export function guessType(heads: readonly string[], model: Model, settings: SiteSettings): ContentType | undefined {
  const scored = importableTypes(model)
    .map((type) => {
      const places = placesOf(type, settings)
      return { type, score: heads.filter((head) => placeFor(head, type, settings, places)?.field).length }
    })
    .sort((a, b) => b.score - a.score)
  return scored[0] && scored[0].score > 0 ? scored[0].type : undefined
}

/**
 * A mapping to begin with.
 * @param rows the first rows, by which numbers, dates and lists are guessed.
 */
export function guessMapping(
  heads: readonly string[],
  rows: readonly (readonly Cell[])[],
  type: ContentType,
  model: Model,
  settings: SiteSettings,
): ImportMapping {
  const places = placesOf(type, settings)
  const taken = new Set<string>()
  const columns = heads.flatMap((from, index): ImportColumn[] => {
    const place = placeFor(from, type, settings, places)
    if (!place || taken.has(place.to)) return []
    taken.add(place.to)
    const texts = rows.flatMap((row) =>
      typeof row[index] === 'string' && !isEmptyCell(row[index]) ? [String(row[index])] : [],
    )
    return [{ from, to: place.to, ...listHints(place.field, texts), ...referenceHints(place.field, texts, model) }]
  })
  const textsOf = (kinds: readonly string[]): string[] =>
    columns.flatMap(({ from, to }) => {
      const field = fieldsAt(type, to.split(':')[0]!)?.at(-1)
      if (!field || !kinds.includes(field.kind)) return []
      const index = heads.indexOf(from)
      return rows.flatMap((row) => (typeof row[index] === 'string' ? [row[index].trim()] : []))
    })
  return {
    type: type.name,
    columns,
    ...keyHint(columns, type),
    mode: 'both',
    dates: guessDates(textsOf(['date', 'dateTime'])),
    decimal: guessDecimal(textsOf(['number'])),
    emptyClears: false,
  }
}

function listHints(field: Field | undefined, texts: readonly string[]): { readonly separator?: string } {
  if (!field || !holdsParts(field)) return {}
  const separator = ['|', ';', '\n', ','].find((sign) => texts.some((text) => text.includes(sign)))
  return { separator: separator ?? '|' }
}

/** References that are no ids are found by what names entries of their type. */
function referenceHints(field: Field | undefined, texts: readonly string[], model: Model): { readonly by?: string } {
  const shape = field && shapeOf(field)
  if (shape?.is !== 'reference' || texts.length === 0 || texts.every(looksLikeId)) return {}
  const by = shape.to.flatMap((name) => typeNamed(model, name)?.namedBy ?? [])[0]
  return by === undefined ? {} : { by }
}

/** A key that is there: the id, or a field whose values are unique. */
function keyHint(columns: readonly ImportColumn[], type: ContentType): { readonly key?: string } {
  const isUnique = ({ to }: ImportColumn): boolean => {
    const fields = fieldsAt(type, to.split(':')[0]!)
    return fields?.length === 1 && fields[0]!.unique === true && canBeKey({ fields })
  }
  const key = columns.find(({ to }) => to === idPlace) ?? columns.find(isUnique)
  return key ? { key: key.to } : {}
}

function guessDates(texts: readonly string[]): ImportMapping['dates'] {
  const parts = texts.flatMap((text) => {
    const match = /^(\d{1,4})[-./](\d{1,2})[-./](\d{1,4})/.exec(text)
    return match ? [match.slice(1, 4).map(Number)] : []
  })
  if (parts.length > 0 && parts.every(([first]) => first! > 31)) return 'ymd'
  return parts.some(([, second]) => second! > 12) ? 'mdy' : 'dmy'
}

function guessDecimal(texts: readonly string[]): ImportMapping['decimal'] {
  const ends = (sign: RegExp): number => texts.filter((text) => sign.test(text)).length
  const commas = ends(/,\d{1,2}$|,\d{4,}$|\.\d{3},/)
  const dots = ends(/\.\d{1,2}$|\.\d{4,}$|,\d{3}\./)
  return commas > dots ? ',' : '.'
}
