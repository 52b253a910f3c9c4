import { pointerTo, type Problem } from '../base/errors.js'
import { itemIdPattern, makeItemId, type Environment } from '../base/ids.js'
import {
  blockTypeNamed,
  blockTypeWithId,
  fieldNamed,
  insideGroup,
  isList,
  kindOf,
  shapeOf,
  type Field,
  type FieldOwner,
  type Model,
} from '../model/model.js'
import { didYouMean } from '../text/nearest.js'
import {
  holdsLocales,
  isRecord,
  type BlockItem,
  type Document,
  type Item,
  type LocaleMap,
  type NestedItem,
  type ValueItem,
} from './document.js'

/** Values as clients send and get them: keyed by field names. */
export type NamedValues = Readonly<Record<string, unknown>>

const maxItems = 1000
/** After so many problems a document is not looked at any further. */
const maxProblems = 50
const maxDepth = 8
const maxText = 1_000_000

interface Reading {
  readonly model: Model
  readonly locales: readonly string[]
  readonly random: Environment['random']
  readonly problems: Problem[]
  readonly ids: TakenIds
  /** The locale being read; `*` for shared values. */
  readonly scope: string
  /** The stored content of the place, when a single place is read. */
  readonly before?: unknown
}

/**
 * The ids of the items of an entry. An id is unique in each locale: lists of different locales may share ids, so that a translation
 * keeps the ids of its source.
 */
class TakenIds {
  readonly #scopes = new Map<string, Set<string>>()

  /** @returns whether the id was free there. */
  take(id: string, scope: string): boolean {
    const scopes = this.#scopes.get(id) ?? new Set<string>()
    this.#scopes.set(id, scopes)
    const isTaken = scope === '*' ? scopes.size > 0 : scopes.has(scope) || scopes.has('*')
    scopes.add(scope)
    return !isTaken
  }
}

/**
 * Reads named values into a stored document. Checks the form (kinds, locales, block types, ids), not rules: a valid form can be
 * saved. Missing ids are made; a plain value in a list becomes an item.
 * @returns the document, and every problem with a JSON Pointer; with problems the document must not be used.
 */
export function readValues(
  model: Model,
  owner: FieldOwner,
  values: unknown,
  locales: readonly string[],
  random: Environment['random'],
): { document: Document; problems: Problem[] } {
  const reading: Reading = { model, locales, random, problems: [], ids: new TakenIds(), scope: '*' }
  const document = readFields(reading, owner, values, '/values', false, 0)
  return { document, problems: reading.problems }
}

/**
 * Reads one content for one place, from an edit. `pointer` is its place in the request, `insideLocale` says that it belongs to a
 * locale, `before` is the stored content.
 */
export function readContent(
  model: Model,
  field: Field,
  content: unknown,
  pointer: string,
  locales: readonly string[],
  insideLocale: boolean,
  random: Environment['random'],
  before?: unknown,
): { content: unknown; problems: Problem[] } {
  const reading: Reading = { model, locales, random, problems: [], ids: new TakenIds(), scope: '*', before }
  return { content: readOne(reading, field, content, pointer, insideLocale, 0), problems: reading.problems }
}

/** Reads one item of a list. `insideLocale` when the list belongs to a locale. */
export function readItem(
  model: Model,
  field: Field,
  item: unknown,
  pointer: string,
  locales: readonly string[],
  insideLocale: boolean,
  random: Environment['random'],
): { item: Item | undefined; problems: Problem[] } {
  const reading: Reading = { model, locales, random, problems: [], ids: new TakenIds(), scope: '*' }
  return { item: readListItem(reading, field, item, pointer, insideLocale, 1), problems: reading.problems }
}

function readFields(
  reading: Reading,
  owner: FieldOwner,
  values: unknown,
  pointer: string,
  insideLocale: boolean,
  depth: number,
): Document {
  const document: Record<string, unknown> = {}
  if (!isRecord(values)) {
    reading.problems.push({
      code: 'wrongForm',
      pointer,
      message: 'The values must be an object, keyed by field names.',
    })
    return document
  }
  for (const [name, content] of Object.entries(values)) {
    // The most problems that are reported; finding more would only take time.
    if (reading.problems.length >= maxProblems) break
    const at = pointerTo(pointer, name)
    const field = fieldNamed(owner, name)
    if (!field) {
      const names = owner.fields.map((field) => field.name)
      reading.problems.push({
        code: 'unknownField',
        pointer: at,
        message: `\`${name}\` is not a field of ${owner.name}.${didYouMean(name, names)}`,
        parameters: { name, type: owner.name },
      })
      continue
    }
    if (document[field.id] !== undefined) {
      reading.problems.push({
        code: 'twice',
        pointer: at,
        message: `\`${name}\` is called \`${field.name}\` now: send it under one of its names.`,
        parameters: { name, now: field.name },
      })
      continue
    }
    if (!holdsLocales(field, insideLocale)) {
      document[field.id] = readOne(reading, field, content, at, insideLocale, depth)
      continue
    }
    if (!isRecord(content)) {
      reading.problems.push({
        code: 'wrongForm',
        pointer: at,
        message: `${field.label} holds a value per locale: write \`{ "${reading.locales[0] ?? 'en'}": … }\`.`,
        parameters: { field: field.label },
      })
      continue
    }
    const map: Record<string, unknown> = {}
    for (const [locale, value] of Object.entries(content)) {
      const there = pointerTo(at, locale)
      if (!reading.locales.includes(locale))
        reading.problems.push({
          code: 'unknownLocale',
          pointer: there,
          message: `\`${locale}\` is not a locale of this site (${reading.locales.join(', ')}).`,
          parameters: { tag: locale, locales: reading.locales.join(', ') },
        })
      else map[locale] = readOne({ ...reading, scope: locale }, field, value, there, true, depth)
    }
    if (Object.keys(map).length > 0) document[field.id] = map
  }
  return document
}

function readOne(
  reading: Reading,
  field: Field,
  content: unknown,
  pointer: string,
  insideLocale: boolean,
  depth: number,
): unknown {
  if (content === null) return null
  const group = insideGroup(field)
  if (group && !field.many) return readFields(reading, group, content, pointer, insideLocale, depth + 1)
  if (!isList(field)) return readScalar(reading, field, content, pointer)
  if (!Array.isArray(content)) {
    reading.problems.push({
      code: 'wrongForm',
      pointer,
      message: `${field.label} must be a list.`,
      parameters: { field: field.label },
    })
    return null
  }
  if (content.length > maxItems) {
    reading.problems.push({
      code: 'tooMany',
      pointer,
      message: `${field.label} has ${content.length} items, at most ${maxItems} fit.`,
      parameters: { field: field.label, count: content.length, max: maxItems },
    })
    return null
  }
  return content.map((item, index) =>
    readListItem(reading, field, item, pointerTo(pointer, index), insideLocale, depth + 1),
  )
}

function readScalar(reading: Reading, field: Field, value: unknown, pointer: string): unknown {
  const text = typeof value === 'string' ? value : JSON.stringify(value)
  const wrong =
    text.length > maxText
      ? `has ${text.length} characters, at most ${maxText} fit`
      : (typeof value === 'string' ? /[\0\p{Surrogate}]/u : /\\u0000|\\ud[89a-f]/i).test(text)
        ? 'has a character in it that is none: U+0000 or an unpaired surrogate'
        : kindOf(field).checkForm(value, field.options)
  if (wrong)
    reading.problems.push({
      code: 'wrongForm',
      pointer,
      message: `${field.label} ${wrong}.`,
      parameters: { field: field.label, kind: field.kind },
    })
  // Letters are stored in composed form (UAX 15), inside documents too.
  const composed =
    typeof value === 'string'
      ? value.normalize('NFC')
      : isRecord(value) || Array.isArray(value)
        ? (JSON.parse(text.normalize('NFC')) as unknown)
        : value
  const { canonical } = kindOf(field)
  return canonical && !wrong ? canonical(composed, () => makeItemId(reading), reading.before, field.options) : composed
}

/** Whether a single value of the kind is an object, so that an object sent may be the value itself. */
function isObjectKind(field: Field): boolean {
  return ['object', 'richText', 'json'].includes(shapeOf(field).is)
}

function readListItem(
  reading: Reading,
  field: Field,
  raw: unknown,
  pointer: string,
  insideLocale: boolean,
  depth: number,
): Item | undefined {
  const tell = (code: string, at: string, message: string) => void reading.problems.push({ code, pointer: at, message })
  const isBlocks = field.kind === 'block'
  const group = insideGroup(field)
  const members = isBlocks ? ['id', 'block', 'values'] : group ? ['id', 'values'] : ['id', 'value']
  // A value that is an object itself is an item only when it has the members of one.
  const isItem = isRecord(raw) && (isBlocks || group !== undefined || 'value' in raw || !isObjectKind(field))
  const item = isItem ? raw : isBlocks || group ? undefined : { value: raw }
  if (!item)
    return tell(
      'wrongForm',
      pointer,
      isBlocks ? 'A block is `{ "block": …, "values": {…} }`.' : 'An element of a group is `{ "values": {…} }`.',
    )
  const id = item['id'] ?? makeItemId(reading)
  if (typeof id !== 'string' || !itemIdPattern.test(id))
    return tell('wrongForm', `${pointer}/id`, 'An id is 1 to 40 letters, digits, `-` or `_`.')
  if (!reading.ids.take(id, reading.scope)) tell('twice', `${pointer}/id`, `The id \`${id}\` is there twice.`)
  for (const key of Object.keys(item))
    if (!members.includes(key))
      tell(
        'unknownMember',
        pointerTo(pointer, key),
        `\`${key}\` does not belong here: an item has ${members.map((name) => `\`${name}\``).join(', ')}.`,
      )
  if (group) {
    if (depth > maxDepth) return tell('tooDeep', pointer, `Groups and blocks nest at most ${maxDepth} deep.`)
    return {
      id,
      values: readFields(reading, group, item['values'] ?? {}, `${pointer}/values`, insideLocale, depth),
    }
  }
  if (!isBlocks) {
    if (item['value'] === undefined || item['value'] === null)
      return tell('wrongForm', `${pointer}/value`, 'An item of a list needs a value.')
    return { id, value: readScalar(reading, field, item['value'], isItem ? `${pointer}/value` : pointer) }
  }
  const shape = shapeOf(field)
  const accepted = shape.is === 'blocks' ? shape.of : []
  const block = typeof item['block'] === 'string' ? blockTypeNamed(reading.model, item['block']) : undefined
  // Whatever was sent there: an object may have no way of its own to be a text.
  const nameSent = typeof item['block'] === 'string' ? item['block'] : (JSON.stringify(item['block']) ?? 'nothing')
  if (!block || !accepted.includes(block.name))
    return tell(
      'unknownBlock',
      `${pointer}/block`,
      `${field.label} takes ${accepted.join(', ')}, not \`${nameSent.slice(0, 60)}\`.${didYouMean(nameSent, accepted)}`,
    )
  if (depth > maxDepth) return tell('tooDeep', pointer, `Blocks nest at most ${maxDepth} deep.`)
  return {
    id,
    block: block.id,
    values: readFields(reading, block, item['values'] ?? {}, `${pointer}/values`, insideLocale, depth),
  }
}

/** Prints a stored document by names: the inverse of `readValues`, without fields that the model no longer has. */
export function printValues(
  model: Model,
  owner: FieldOwner,
  document: Document,
  insideLocale = false,
): Record<string, unknown> {
  const values: Record<string, unknown> = {}
  for (const field of owner.fields) {
    const content = document[field.id]
    if (content === undefined) continue
    if (!holdsLocales(field, insideLocale)) values[field.name] = printContent(model, field, content, insideLocale)
    else
      values[field.name] = Object.fromEntries(
        Object.entries(content as LocaleMap).map(([locale, content]) => [
          locale,
          printContent(model, field, content, true),
        ]),
      )
  }
  return values
}

/** Prints one content by names. */
export function printContent(model: Model, field: Field, content: unknown, insideLocale: boolean): unknown {
  const group = insideGroup(field)
  if (group && isRecord(content)) return printValues(model, group, content, insideLocale)
  if (!isList(field) || !Array.isArray(content)) return content ?? null
  if (group)
    return (content as NestedItem[]).map(({ id, values }) => ({
      id,
      values: printValues(model, group, values, insideLocale),
    }))
  if (field.kind !== 'block') return (content as ValueItem[]).map(({ id, value }) => ({ id, value }))
  return (content as BlockItem[]).flatMap((item) => {
    const block = blockTypeWithId(model, item.block)
    return block
      ? [{ id: item.id, block: block.name, values: printValues(model, block, item.values, insideLocale) }]
      : []
  })
}
