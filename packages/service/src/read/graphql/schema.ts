import { typeNamed, type ContentType, type Model } from '@wisteria/core'
import type { Edition } from '@wisteria/store'
import {
  GraphQLBoolean,
  GraphQLEnumType,
  GraphQLID,
  GraphQLInt,
  GraphQLInterfaceType,
  GraphQLList,
  GraphQLNonNull,
  GraphQLObjectType,
  GraphQLSchema,
  GraphQLString,
  type GraphQLFieldConfigArgumentMap,
  type GraphQLFieldConfigMap,
  type GraphQLOutputType,
} from 'graphql'
import { defaultLimit, maxLimit, runCount } from '../listQuery.js'
import { contentTypes, dateTimeScalar, type ReadBlock } from './contentTypes.js'
import { filterTypes } from './filters.js'
import type { ReadEntry, Reading } from './reading.js'
import {
  entryAt,
  given,
  manyEntries,
  oneEntry,
  onlyEntry,
  pathsOf,
  type Connection,
  type ManyArguments,
  type OneArguments,
} from './resolving.js'

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
  const blocks = new Map<string, GraphQLObjectType>()
  const contentFields = contentTypes(model, objects, blocks, entryInterface)
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
    if (type.cardinality === 'one') {
      root[type.graphql.one] = {
        type: object,
        description: `${type.label}: the only entry of its type. Null while it is not public.`,
        args: placeArguments,
        resolve: (_, args: OneArguments, reading) => onlyEntry(reading, type, given(args)),
      }
      continue
    }
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
