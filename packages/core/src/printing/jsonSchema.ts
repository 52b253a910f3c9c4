import { assetMembers } from '../fields/asset.js'
import type { ChoiceOption, Shape } from '../fields/shape.js'
import { richTextSchema } from '../richtext/reading.js'
import {
  blockTypeNamed,
  insideGroup,
  isListForReaders,
  shapeOf,
  type BlockType,
  type ContentType,
  type Field,
  type FieldOwner,
  typeNamed,
  type Model,
} from '../model/model.js'
import { states } from '../model/states.js'

type Schema = Record<string, unknown>

/** The definitions that schemas refer to, and the requested forms of values. */
interface Definitions {
  readonly used: Map<string, Schema>
  /**
   * `plain`: nothing was chosen, so that every value is there and references are id and type. `any`: whatever selection,
   * depth and form of rich text.
   */
  readonly answers: 'plain' | 'any'
}

/**
 * JSON Schema (2020-12) of the printed values of a type over REST: fields by name, null for a missing value.
 * @param address of the schema itself, its `$id`.
 */
export function jsonSchemaOf(model: Model, type: ContentType, address: string): Schema {
  const used = new Map<string, Schema>()
  const values = valuesSchema(model, type, { used, answers: 'plain' })
  return {
    $schema: 'https://json-schema.org/draft/2020-12/schema',
    $id: address,
    title: type.label,
    ...(type.help ? { description: type.help } : {}),
    ...values,
    ...(used.size > 0 ? { $defs: Object.fromEntries(used) } : {}),
  }
}

/**
 * The same as definitions that may refer to each other: for each type `ActivityValues` and `Activity`, the entry around them, with
 * the names of types in GraphQL, and the blocks and objects inside.
 * @param at where definitions are in the document that they become part of.
 */
export function entrySchemas(model: Model, at = '#/components/schemas/'): Record<string, Schema> {
  const used = new Map<string, Schema>()
  const into: Definitions = { used, answers: 'any' }
  const properties: Record<string, Schema> = {}
  for (const type of model.types) {
    const name = type.graphql.type
    const { help } = type
    properties[name] = {
      title: type.label,
      ...(help ? { description: help } : {}),
      ...objectOf(
        {
          id: { type: 'string' },
          type: { const: type.name },
          locale: { type: 'string' },
          contentLocale: {
            type: 'string',
            description: 'The locale of its content: another one where it falls back.',
          },
          path: { type: ['string', 'null'] },
          publishedAt: { type: ['string', 'null'], format: 'date-time' },
          updatedAt: { type: 'string', format: 'date-time' },
          values: { $ref: `#/$defs/${name}Values` },
        },
        {
          state: {
            type: 'string',
            enum: [...states],
            description: 'In drafts: the state in the locale.',
          },
          ...(type.regional ? { region: { type: 'string', description: 'Its region, `main` for the main one.' } } : {}),
          version: { type: 'integer', description: 'In drafts: the version of the working copy.' },
          alternates: {
            type: 'array',
            items: objectOf({ locale: { type: 'string' }, path: { type: 'string' } }),
            description:
              'With `alternates`: where the entry can be read in its own words, in the order of the locales.',
          },
          valueLocales: {
            type: 'object',
            additionalProperties: { type: 'string' },
            description:
              'With `valueLocales`: the locale of each value that falls back, by its JSON Pointer in `values`.',
          },
          freshness: {
            type: 'object',
            additionalProperties: { type: 'string', enum: ['missing', 'outdated', 'partial'] },
            description: 'With `freshness`: translated values with work left, by their JSON Pointer in `values`.',
          },
        },
      ),
    }
    properties[`${name}Everywhere`] = {
      title: `${type.label} in every locale`,
      ...objectOf({
        id: { type: 'string' },
        type: { const: type.name },
        locales: { type: 'object', additionalProperties: { $ref: `#/$defs/${name}` } },
      }),
    }
    properties[`${name}Values`] = valuesSchema(model, type, into)
  }
  const all = { ...properties, ...Object.fromEntries(used) }
  return JSON.parse(JSON.stringify(all).replaceAll('#/$defs/', at)) as Record<string, Schema>
}

function valuesSchema(model: Model, owner: FieldOwner, into: Definitions): Schema {
  const properties: Record<string, Schema> = {}
  for (const field of owner.fields) {
    properties[field.name] = {
      title: field.label,
      ...(field.help ? { description: field.help } : {}),
      ...fieldSchema(model, field, into),
    }
    for (const alias of field.aliases ?? [])
      properties[alias] = { ...properties[field.name], deprecated: true, description: `Renamed to \`${field.name}\`.` }
  }
  return into.answers === 'any' ? partsOf(properties) : objectOf(properties)
}

function fieldSchema(model: Model, field: Field, into: Definitions): Schema {
  const group = insideGroup(field)
  if (group && !field.many) return valuesSchema(model, group, into)
  const schema = group ? itemSchema({}, valuesSchema(model, group, into)) : valueSchema(model, shapeOf(field), into)
  if (!isListForReaders(field)) return nullable(schema)
  return {
    type: 'array',
    items: schema,
    ...(field.count?.max === undefined ? {} : { maxItems: field.count.max }),
  }
}

const itemSchema = (more: Record<string, Schema>, values: Schema): Schema => ({
  type: 'object',
  properties: { id: { type: 'string' }, ...more, values },
  required: ['id', ...Object.keys(more), 'values'],
  additionalProperties: false,
})

function nullable(schema: Schema): Schema {
  if (Object.keys(schema).length === 0) return schema
  if (Array.isArray(schema['enum']))
    return { ...schema, type: ['string', 'null'], enum: [...(schema['enum'] as unknown[]), null] }
  return typeof schema['type'] === 'string' && !('properties' in schema)
    ? { ...schema, type: [schema['type'], 'null'] }
    : { anyOf: [schema, { type: 'null' }] }
}

function valueSchema(model: Model, shape: Shape, into: Definitions): Schema {
  switch (shape.is) {
    case 'scalar':
      return scalarSchema(shape)
    case 'choice':
      return into.answers === 'any' ? anyChoice(shape.options) : choiceSchema(shape.options)
    case 'reference': {
      const bare = objectOf({ id: { type: 'string' }, type: { type: 'string', enum: [...shape.to] } })
      if (into.answers === 'plain') return bare
      const followed = shape.to.flatMap((name) => typeNamed(model, name)?.graphql.type ?? [])
      return { anyOf: [bare, ...followed.map((name) => ({ $ref: `#/$defs/${name}` }))] }
    }
    case 'asset':
      return asDefinition(into, 'Asset', () =>
        into.answers === 'any' ? partsOf(assetSchema().properties) : assetSchema(),
      )
    case 'richText': {
      const whole = asDefinition(into, 'RichText', () => documentSchema(into))
      return into.answers === 'any'
        ? { anyOf: [whole, { type: 'string', description: 'As HTML, Markdown or text, where that is asked for.' }] }
        : whole
    }
    case 'json':
      return typeof shape.schema === 'object' && shape.schema !== null ? (shape.schema as Schema) : {}
    case 'object':
      return asDefinition(into, shape.name, () =>
        (into.answers === 'any' ? partsOf : objectOf)(
          Object.fromEntries(
            Object.entries(shape.members).map(([name, member]) => {
              const schema = { ...valueSchema(model, member.shape, into), description: member.says }
              return [name, member.always ? schema : nullable(schema)]
            }),
          ),
        ),
      )
    case 'blocks':
      return { oneOf: shape.of.map((name) => blockSchema(model, blockTypeNamed(model, name)!, into)) }
    case 'group':
      return {}
  }
}

const choiceSchema = (options: readonly ChoiceOption[]): Schema => ({
  type: 'string',
  enum: options.map((option) => option.value),
})

/** A choice in any of its requested forms. */
const anyChoice = (options: readonly ChoiceOption[]): Schema => ({
  anyOf: [
    choiceSchema(options),
    { type: 'string', description: 'The label in the locale, where that is asked for.' },
    objectOf({ value: choiceSchema(options), label: { type: 'string' } }),
  ],
})

/** Blocks are defined once each, so that they may nest. */
const blockSchema = (model: Model, block: BlockType, into: Definitions): Schema =>
  asDefinition(into, block.graphql.type, () => ({
    title: block.label,
    ...itemSchema({ block: { const: block.name } }, valuesSchema(model, block, into)),
  }))

function asDefinition({ used }: Definitions, name: string, make: () => Schema): Schema {
  if (!used.has(name)) {
    used.set(name, {})
    used.set(name, make())
  }
  return { $ref: `#/$defs/${name}` }
}

/** The document's own definitions move up, so that references to them are valid. */
function documentSchema({ used }: Definitions): Schema {
  const { $schema: _, $defs, ...schema } = richTextSchema() as { $schema?: string; $defs?: Record<string, Schema> }
  const renamed = (text: string): string => text.replaceAll('#/$defs/', '#/$defs/RichText_')
  for (const [name, definition] of Object.entries($defs ?? {}))
    used.set(`RichText_${name}`, JSON.parse(renamed(JSON.stringify(definition))) as Schema)
  return JSON.parse(renamed(JSON.stringify(schema))) as Schema
}

function scalarSchema({ scalar, format }: Extract<Shape, { is: 'scalar' }>): Schema {
  switch (scalar) {
    case 'string':
      return { type: 'string', ...(format ? { format } : {}) }
    case 'date':
      return { type: 'string', format: 'date' }
    case 'dateTime':
      return { type: 'string', format: 'date-time' }
    case 'long':
      return { type: 'integer' }
    default:
      return { type: scalar }
  }
}

/** An object with all of some properties, and perhaps others. */
const objectOf = <Properties extends Record<string, Schema>>(
  properties: Properties,
  others: Record<string, Schema> = {},
) => ({
  type: 'object',
  properties: { ...properties, ...others },
  required: Object.keys(properties),
  additionalProperties: false,
})

/** An object with the selected properties. */
const partsOf = (properties: Record<string, Schema>): Schema => ({
  type: 'object',
  properties,
  additionalProperties: false,
})

/** An asset for readers; its texts are in the locale. */
export const assetSchema = (): Schema & { readonly properties: Record<string, Schema> } => objectOf({ ...assetMembers })
