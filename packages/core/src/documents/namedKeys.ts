import { WisteriaError } from '../base/errors.js'
import {
  blockTypeNamed,
  blockTypeWithId,
  insideGroup,
  type Field,
  type FieldOwner,
  type Model,
} from '../model/model.js'
import { holdsLocales, isRecord, type Document } from './document.js'

/** Before the id of a field or block type that the model does not have (any more). No name begins with it. */
const mark = '#'

/** @throws WisteriaError `invalid` where a key is neither a name nor a marked id. */
function unmarked(key: string, owner: string): string {
  if (key.startsWith(mark)) return key.slice(mark.length)
  throw new WisteriaError('invalid', `\`${key.slice(0, 80)}\` is not a name in ${owner}.`)
}

/** How keys and block types are written instead of how they stand. */
interface Spelling {
  readonly fieldOf: (owner: FieldOwner, key: string) => Field | undefined
  readonly keyOf: (owner: FieldOwner, field: Field | undefined, key: string) => string
  readonly blockOf: (key: unknown) => FieldOwner | undefined
  readonly blockKeyOf: (block: FieldOwner | undefined, key: unknown) => unknown
}

/**
 * A stored document with the names of fields and block types instead of their internal ids, and nothing else changed. Values of
 * fields that the model does not have keep their id, after a `#`.
 * @param model the one that the document was written under.
 */
export const withNamedKeys = (model: Model, owner: FieldOwner, document: Document): Document =>
  respell(owner, document, {
    fieldOf: ({ fields }, key) => fields.find(({ id }) => id === key),
    keyOf: (_, field, key) => field?.name ?? mark + key,
    blockOf: (key) => blockTypeWithId(model, key as string),
    blockKeyOf: (block, key) => block?.name ?? (typeof key === 'string' ? mark + key : key),
  })

/**
 * The stored document that `withNamedKeys` has written, under the same model.
 * @throws WisteriaError `invalid` where it has a name that the model does not have.
 */
export const withStoredKeys = (model: Model, owner: FieldOwner, document: Document): Document =>
  respell(owner, document, {
    fieldOf: ({ fields }, key) => fields.find(({ name }) => name === key),
    keyOf: (type, field, key) => field?.id ?? unmarked(key, type.name),
    blockOf: (key) => {
      const block = typeof key === 'string' ? blockTypeNamed(model, key) : undefined
      return block?.name === key ? block : undefined
    },
    blockKeyOf: (block, key) => block?.id ?? (typeof key === 'string' ? unmarked(key, 'the block types') : key),
  })

function respell(owner: FieldOwner, document: Document, { fieldOf, keyOf, blockOf, blockKeyOf }: Spelling): Document {
  const within = (type: FieldOwner, values: Document, insideLocale: boolean): Document =>
    Object.fromEntries(
      Object.entries(values).map(([key, content]) => {
        const field = fieldOf(type, key)
        return [keyOf(type, field, key), field ? inField(field, content, insideLocale) : content]
      }),
    )
  const inField = (field: Field, content: unknown, insideLocale: boolean): unknown => {
    if (!holdsLocales(field, insideLocale) || !isRecord(content)) return inContent(field, content, insideLocale)
    return Object.fromEntries(Object.entries(content).map(([locale, value]) => [locale, inContent(field, value, true)]))
  }
  const inContent = (field: Field, content: unknown, insideLocale: boolean): unknown => {
    const group = insideGroup(field)
    if (group && !field.many) return isRecord(content) ? within(group, content, insideLocale) : content
    if ((!group && field.kind !== 'block') || !Array.isArray(content)) return content
    return content.map((item: unknown) => {
      if (!isRecord(item) || !isRecord(item['values'])) return item
      if (group) return { ...item, values: within(group, item['values'], insideLocale) }
      if (!('block' in item)) return item
      const block = blockOf(item['block'])
      const values = block ? within(block, item['values'], insideLocale) : item['values']
      return { ...item, block: blockKeyOf(block, item['block']), values }
    })
  }
  return within(owner, document, false)
}
