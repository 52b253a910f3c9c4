import {
  blockTypeNamed,
  shapeOf,
  typeNamed,
  type ContentType,
  type Field,
  type Fielded,
  type Model,
  type Scalar,
} from '@wisteria/core'
import type { Edition } from '@wisteria/store'
import {
  GraphQLBoolean,
  GraphQLEnumType,
  GraphQLFloat,
  GraphQLID,
  GraphQLInt,
  GraphQLInterfaceType,
  GraphQLList,
  GraphQLNonNull,
  GraphQLObjectType,
  GraphQLScalarType,
  GraphQLSchema,
  GraphQLString,
  GraphQLUnionType,
  type GraphQLFieldConfig,
  type GraphQLFieldConfigArgumentMap,
  type GraphQLFieldConfigMap,
  type GraphQLOutputType,
} from 'graphql'
import { defaultLimit, maxLimit, runCount } from '../listQuery.js'
import { filterTypes } from './filters.js'
import type { ReadEntry, Reading } from './reading.js'
import {
  entryAt,
  given,
  manyEntries,
  oneEntry,
  pathsOf,
  type Connection,
  type ManyArguments,
  type OneArguments,
} from './resolving.js'

const text = (name: string, description: string) =>
  new GraphQLScalarType({ name, description, serialize: (value) => value as string })
const dateScalar = text('Date', 'A calendar day, `2031-05-04` (RFC 3339 full-date).')
const dateTimeScalar = text('DateTime', 'An instant with its offset, `2031-05-04T20:30:00+02:00` (RFC 3339 date-time).')

const scalars: Record<Scalar, GraphQLScalarType> = {
  string: GraphQLString, number: GraphQLFloat, integer: GraphQLFloat, boolean: GraphQLBoolean, date: dateScalar, dateTime: dateTimeScalar,
} // prettier-ignore

const editionEnum = new GraphQLEnumType({
  name: 'Edition',
  description: 'Which version a reader sees.',
  values: {
    PUBLISHED: { value: 'published', description: 'What is public.' },
    DRAFT: { value: 'draft', description: 'The working copies.' },
  },
})

const localePath = new GraphQLObjectType({
  name: 'LocalePath',
  description: 'Where an entry stands in a locale.',
  fields: { locale: { type: new GraphQLNonNull(GraphQLString) }, path: { type: new GraphQLNonNull(GraphQLString) } },
})

const pageInfo = new GraphQLObjectType({
  name: 'PageInfo',
  description: 'Where a page of a connection begins and ends.',
  fields: {
    hasNextPage: { type: new GraphQLNonNull(GraphQLBoolean) },
    hasPreviousPage: { type: new GraphQLNonNull(GraphQLBoolean) },
    startCursor: { type: GraphQLString },
    endCursor: { type: GraphQLString },
  },
})

/** A field of content: of an entry, or of a block, which reads as its entry does. */
type ContentField = GraphQLFieldConfig<Holder, Reading>

type Holder = Pick<ReadEntry, 'row' | 'edition' | 'values'>

/** The schema of a model: an object type a content type and block type, connections, filters, one entry by id or path. */
export function buildGraphqlSchema(model: Model): GraphQLSchema {
  const nonNull = (of: GraphQLOutputType) => new GraphQLNonNull(of)
  const entryInterface: GraphQLInterfaceType = new GraphQLInterfaceType({
    name: 'Entry',
    description: 'What every entry has.',
    fields: () => entryFields(),
    resolveType: (entry: ReadEntry) => typeNamed(model, entry.typeName)!.graphql.type,
  })
  const entryFields = (): GraphQLFieldConfigMap<ReadEntry, Reading> => ({
    id: {
      type: nonNull(GraphQLID),
      description: 'Opaque: stands for the entry in its locale and edition.',
      resolve: (entry) => entry.opaqueId,
    },
    entryId: {
      type: nonNull(GraphQLString),
      description: 'The bare id, as REST has it.',
      resolve: (entry) => entry.row.entry,
    },
    type: { type: nonNull(GraphQLString), description: 'The name of its type.', resolve: (entry) => entry.typeName },
    locale: { type: nonNull(GraphQLString), resolve: (entry) => entry.row.locale },
    path: { type: GraphQLString, resolve: (entry) => entry.row.path },
    paths: {
      type: nonNull(new GraphQLList(nonNull(localePath))),
      description: 'Its paths in all locales.',
      resolve: pathsOf,
    },
    publishedAt: { type: dateTimeScalar, resolve: (entry) => entry.row.published_at },
    updatedAt: {
      type: nonNull(dateTimeScalar),
      description: 'When its bytes last changed.',
      resolve: (entry) => entry.row.updated_at,
    },
    state: { type: GraphQLString, description: 'In drafts: the state in the locale.', resolve: (entry) => entry.state },
  })

  const objects = new Map<string, GraphQLObjectType>()
  for (const type of model.types)
    objects.set(
      type.name,
      new GraphQLObjectType<ReadEntry, Reading>({
        name: type.graphql.type,
        description: type.help ?? type.label,
        interfaces: [entryInterface],
        fields: () => ({ ...entryFields(), ...contentFields(type, type.graphql.type) }),
      }),
    )
  const blocks = new Map<string, GraphQLObjectType>()
  for (const block of model.blockTypes)
    blocks.set(
      block.name,
      new GraphQLObjectType<ReadBlock, Reading>({
        name: block.graphql.type,
        description: block.help ?? block.label,
        fields: () => ({
          handle: { type: nonNull(GraphQLString), description: 'Its stable name in the entry.' },
          ...contentFields(block, block.graphql.type),
        }),
      }),
    )

  const unions = new Map<string, GraphQLUnionType>()
  const unionOf = (
    name: string,
    types: readonly GraphQLObjectType[],
    resolveType: (value: never) => string,
  ): GraphQLOutputType => {
    if (types.length === 1) return types[0]!
    const known =
      unions.get(name) ?? new GraphQLUnionType({ name, types, resolveType: resolveType as (value: unknown) => string })
    unions.set(name, known)
    return known
  }

  const contentFields = (owner: Fielded, ownerName: string): GraphQLFieldConfigMap<Holder, Reading> =>
    Object.fromEntries(
      owner.fields.map((field) => [
        field.name,
        { description: field.help ?? field.label, ...contentField(field, ownerName) },
      ]),
    )

  const contentField = (field: Field, ownerName: string): Required<Pick<ContentField, 'type' | 'resolve'>> => {
    const shape = shapeOf(field)
    const unionName = ownerName + field.name.charAt(0).toUpperCase() + field.name.slice(1) + 'Item'
    const many = (of: GraphQLOutputType) => (field.many ? nonNull(new GraphQLList(nonNull(of))) : of)
    switch (shape.is) {
      case 'scalar':
        return {
          type: many(scalars[shape.scalar]),
          resolve: (source) => source.values[field.name] ?? (field.many ? [] : null),
        }
      case 'choice':
        return { type: many(GraphQLString), resolve: (source) => source.values[field.name] ?? (field.many ? [] : null) }
      case 'blocks': {
        const of = unionOf(
          unionName,
          shape.of.map((name) => blocks.get(name)!),
          (block: ReadBlock) => blockTypeNamed(model, block.block)!.graphql.type,
        )
        return {
          type: many(of),
          resolve: (source) =>
            (
              (source.values[field.name] ?? []) as { handle: string; block: string; values: Record<string, unknown> }[]
            ).map((block) => ({ ...block, row: source.row, edition: source.edition })),
        }
      }
      case 'reference': {
        const of = unionOf(
          unionName,
          shape.to.map((name) => objects.get(name)!),
          (entry: ReadEntry) => typeNamed(model, entry.typeName)!.graphql.type,
        )
        const follow = async (source: Holder, reading: Reading, ids: readonly string[]) =>
          (await Promise.all(ids.map((id) => reading.load(source.edition, source.row.locale, id)))).filter(
            (entry) => entry !== undefined,
          )
        return {
          type: many(of),
          resolve: async (source, _, reading) => {
            const held = source.values[field.name]
            const found = await follow(
              source,
              reading,
              ((field.many ? held : held ? [held] : []) as { id: string }[]).map(({ id }) => id),
            )
            return field.many ? found : (found[0] ?? null)
          },
        }
      }
    }
  }

  const filters = filterTypes(model)
  const placeArguments: GraphQLFieldConfigArgumentMap = {
    locale: {
      type: GraphQLString,
      description: 'A locale of the site; its default when left out. Inherited by all that is inside.',
    },
    edition: { type: editionEnum, defaultValue: 'published', description: 'Inherited by all that is inside.' },
  }
  const root: GraphQLFieldConfigMap<unknown, Reading> = {
    at: {
      type: entryInterface,
      description: 'The entry at a path; the path decides the locale.',
      args: { path: { type: new GraphQLNonNull(GraphQLString) }, edition: placeArguments['edition']! },
      resolve: (_, { path, edition }: { path: string; edition: Edition }, reading) =>
        entryAt(reading, path, edition ?? 'published'),
    },
  }
  for (const type of model.types) {
    const object = objects.get(type.name)!
    root[type.graphql.one] = {
      type: object,
      description: `One ${type.label.toLowerCase()}, by id or by path.`,
      args: {
        id: { type: GraphQLString, description: 'A bare id, or an opaque one.' },
        path: { type: GraphQLString },
        ...placeArguments,
      },
      resolve: (_, args: OneArguments, reading) => oneEntry(reading, type, given(args)),
    }
    root[type.graphql.many] = {
      type: nonNull(connectionOf(type, object)),
      description: `A page of entries of ${type.name}.`,
      args: {
        where: { type: filters.get(type.name)! },
        sort: {
          type: new GraphQLList(new GraphQLNonNull(GraphQLString)),
          description: 'Field names; a minus before one sorts downwards.',
        },
        first: { type: GraphQLInt, defaultValue: defaultLimit, description: `At most ${maxLimit}.` },
        after: { type: GraphQLString },
        ...placeArguments,
      },
      resolve: (_, args: ManyArguments, reading) => manyEntries(reading, type, given(args)),
    }
  }
  return new GraphQLSchema({
    query: new GraphQLObjectType({ name: 'Query', fields: root }),
    types: [...objects.values(), ...blocks.values()],
  })
}

/** A block while a query runs: it reads in the locale and edition of the entry that holds it. */
interface ReadBlock extends Holder {
  readonly handle: string
  readonly block: string
}

function connectionOf(type: ContentType, object: GraphQLObjectType): GraphQLObjectType<Connection, Reading> {
  const edge = new GraphQLObjectType({
    name: `${type.graphql.type}Edge`,
    fields: { node: { type: object }, cursor: { type: new GraphQLNonNull(GraphQLString) } },
  })
  return new GraphQLObjectType<Connection, Reading>({
    name: `${type.graphql.type}Connection`,
    description: `A page of entries of ${type.name}.`,
    fields: {
      edges: { type: new GraphQLNonNull(new GraphQLList(new GraphQLNonNull(edge))) },
      nodes: {
        type: new GraphQLNonNull(new GraphQLList(new GraphQLNonNull(object))),
        description: 'The entries alone.',
        resolve: ({ edges }) => edges.map(({ node }) => node),
      },
      pageInfo: {
        type: new GraphQLNonNull(pageInfo),
        resolve: ({ edges, hasNextPage, plan }) => ({
          hasNextPage,
          hasPreviousPage: plan.query.after !== undefined,
          startCursor: edges[0]?.cursor ?? null,
          endCursor: edges.at(-1)?.cursor ?? null,
        }),
      },
      count: {
        type: new GraphQLNonNull(GraphQLInt),
        description: 'How many there are in all.',
        resolve: ({ plan }, _, reading) => runCount(reading.kernel, plan),
      },
    },
  })
}
