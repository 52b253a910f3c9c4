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
  type GraphQLFieldConfig,
  type GraphQLFieldConfigArgumentMap,
  type GraphQLFieldConfigMap,
  type GraphQLOutputType,
} from 'graphql'
import { defaultFirst, maxFirst, runCount } from '../listQuery.js'
import { contentTypes, dateTimeScalar, itemIdFields, type ReadBlock } from './contentTypes.js'
import { filterTypes } from './filters.js'
import { usedByField } from './usedBy.js'
import type { ReadEntry } from '../readEntry.js'
import type { Reading } from './reading.js'
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
    PUBLISHED: { value: 'published', description: 'The published edition.' },
    DRAFT: { value: 'draft', description: 'The working copies.' },
  },
})

const localePath = new GraphQLObjectType({
  name: 'LocalePath',
  description: 'The state of an entry in a locale.',
  fields: {
    locale: { type: new GraphQLNonNull(GraphQLString) },
    path: { type: new GraphQLNonNull(GraphQLString) },
    contentLocale: {
      type: new GraphQLNonNull(GraphQLString),
      description: 'The locale of its content: another one where it falls back.',
    },
  },
})

const member = (name: string, type: GraphQLOutputType) => ({
  [name]: { type, extensions: { covered: { is: 'member' as const, name } } },
})

const pageInfo = new GraphQLObjectType({
  name: 'PageInfo',
  description: 'Where a page of a connection begins and ends.',
  fields: {
    ...member('hasNextPage', new GraphQLNonNull(GraphQLBoolean)),
    ...member('hasPreviousPage', new GraphQLNonNull(GraphQLBoolean)),
    ...member('startCursor', GraphQLString),
    ...member('endCursor', GraphQLString),
  },
})

/** The schema of a model: an object type for each content type and block type, connections, filters, one entry by id or path. */
export function buildGraphqlSchema(model: Model): GraphQLSchema {
  const nonNull = (of: GraphQLOutputType) => new GraphQLNonNull(of)
  const entryInterface: GraphQLInterfaceType = new GraphQLInterfaceType({
    name: 'Entry',
    description: 'The fields of every entry.',
    fields: () => entryFields(),
    resolveType: (entry: ReadEntry) => typeNamed(model, entry.type.name)!.graphql.type,
  })
  const head = (
    type: GraphQLOutputType,
    read: (entry: ReadEntry) => unknown,
    description?: string,
  ): GraphQLFieldConfig<ReadEntry, Reading> => ({
    type,
    ...(description ? { description } : {}),
    resolve: read,
    extensions: { covered: { is: 'head', read } },
  })
  const entryFields = (): GraphQLFieldConfigMap<ReadEntry, Reading> => ({
    id: head(nonNull(GraphQLID), (entry) => entry.opaqueId, 'Opaque: identifies the entry in its locale and edition.'),
    entryId: head(nonNull(GraphQLString), (entry) => entry.row.entry, 'The bare id, as REST has it.'),
    type: head(nonNull(GraphQLString), (entry) => entry.type.name, 'The name of its type.'),
    locale: head(nonNull(GraphQLString), (entry) => entry.row.locale),
    contentLocale: head(
      nonNull(GraphQLString),
      (entry) => entry.row.content_locale,
      'The locale of its content: another one where it falls back.',
    ),
    path: head(GraphQLString, (entry) => entry.row.path),
    paths: {
      type: nonNull(new GraphQLList(nonNull(localePath))),
      description: 'Its paths in all locales.',
      resolve: pathsOf,
    },
    publishedAt: head(dateTimeScalar, (entry) => entry.row.published_at),
    updatedAt: head(nonNull(dateTimeScalar), (entry) => entry.row.updated_at, 'When its bytes last changed.'),
    state: head(GraphQLString, (entry) => entry.state, 'In drafts: the state in the locale.'),
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
        fields: () => ({
          ...entryFields(),
          // No field of every entry: other types may have one of their own with this name.
          ...(type.regional
            ? { region: head(nonNull(GraphQLString), (entry) => entry.row.region, 'Its region.') }
            : {}),
          ...contentFields(type, type.graphql.type),
          ...usedByField(model, type, (source) => listField(source)),
        }),
      }),
    )
  for (const block of model.blockTypes)
    blocks.set(
      block.name,
      new GraphQLObjectType<ReadBlock, Reading>({
        name: block.graphql.type,
        description: block.help ?? block.label,
        extensions: { block: block.name },
        fields: () => ({
          ...itemIdFields,
          ...contentFields(block, block.graphql.type),
        }),
      }),
    )

  const filters = filterTypes(model)
  const connections = new Map<string, GraphQLObjectType<Connection, Reading>>()
  /** A list of entries of a type, without how they are found. */
  const listField = (type: ContentType) => {
    const connection = connections.get(type.name) ?? connectionOf(type, objects.get(type.name)!)
    connections.set(type.name, connection)
    const args: GraphQLFieldConfigArgumentMap = {
      where: { type: filters.get(type.name)! },
      search: { type: GraphQLString, description: 'Words to search for, matched by their beginnings or their stems.' },
      sort: {
        type: new GraphQLList(new GraphQLNonNull(GraphQLString)),
        description:
          'Field names, also through references: `museum.name`; a minus before a field sorts in descending order.',
      },
      first: { type: GraphQLInt, defaultValue: defaultFirst, description: `At most ${maxFirst}.` },
      after: { type: GraphQLString },
      ...(type.regional
        ? {
            region: {
              type: GraphQLString,
              description:
                'A region of the site; of entries that refer to another, that of the other one; else the main region.',
            },
          }
        : {}),
    }
    return { type: nonNull(connection), description: `A page of entries of ${type.name}.`, args }
  }
  const placeArguments: GraphQLFieldConfigArgumentMap = {
    locale: {
      type: GraphQLString,
      description: 'A locale of the site; its default when left out. Inherited by all that is inside.',
    },
    edition: {
      type: editionEnum,
      description: 'Inherited by all that is inside. The published one, unless the address says `edition=draft`.',
    },
  }
  const root: GraphQLFieldConfigMap<unknown, Reading> = {
    at: {
      type: entryInterface,
      description: 'The entry at a path; the path decides the locale.',
      args: { path: { type: new GraphQLNonNull(GraphQLString) }, edition: placeArguments['edition']! },
      ...foundBy<{ path: string; edition: Edition }>((reading, { path, edition }) =>
        entryAt(reading, path, edition ?? reading.edition),
      ),
    },
  }
  for (const type of model.types) {
    const object = objects.get(type.name)!
    if (type.cardinality === 'one') {
      root[type.graphql.one] = {
        type: object,
        description: `${type.label}: the only entry of its type. Null while it is not public.`,
        args: placeArguments,
        ...foundBy<OneArguments>((reading, args) => onlyEntry(reading, type, given(args, reading))),
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
      ...foundBy<OneArguments>((reading, args) => oneEntry(reading, type, given(args, reading))),
    }
    const list = listField(type)
    const find = (reading: Reading, args: ManyArguments) => manyEntries(reading, type, given(args, reading))
    root[type.graphql.many] = {
      ...list,
      args: { ...list.args, ...placeArguments },
      resolve: (_, args: ManyArguments, reading) => find(reading, args),
      extensions: { covered: { is: 'list', find } },
    }
  }
  return new GraphQLSchema({
    query: new GraphQLObjectType({ name: 'Query', fields: root }),
    types: [...objects.values(), ...blocks.values()],
  })
}

/** How an entry at the root is found, for either way of answering. */
const foundBy = <Arguments>(find: (reading: Reading, args: Arguments) => Promise<ReadEntry | null>) => ({
  resolve: (_: unknown, args: Arguments, reading: Reading) => find(reading, args),
  extensions: { covered: { is: 'entry' as const, find } },
})

function connectionOf(type: ContentType, object: GraphQLObjectType): GraphQLObjectType<Connection, Reading> {
  const edge = new GraphQLObjectType({
    name: `${type.graphql.type}Edge`,
    fields: { node: { type: object }, cursor: { type: new GraphQLNonNull(GraphQLString) } },
  })
  return new GraphQLObjectType<Connection, Reading>({
    name: `${type.graphql.type}Connection`,
    description: `A page of entries of ${type.name}.`,
    fields: {
      edges: {
        type: new GraphQLNonNull(new GraphQLList(new GraphQLNonNull(edge))),
        extensions: { covered: { is: 'edges' } },
      },
      nodes: {
        type: new GraphQLNonNull(new GraphQLList(new GraphQLNonNull(object))),
        description: 'The entries alone.',
        extensions: { covered: { is: 'nodes' } },
        resolve: ({ edges }) => edges.map(({ node }) => node),
      },
      pageInfo: {
        type: new GraphQLNonNull(pageInfo),
        extensions: { covered: { is: 'pageInfo' } },
      },
      count: {
        type: new GraphQLNonNull(GraphQLInt),
        description: 'How many there are in all.',
        resolve: ({ plan }, _, reading) => runCount(reading.kernel, plan),
      },
    },
  })
}
