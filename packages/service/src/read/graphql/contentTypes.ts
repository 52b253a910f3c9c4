import {
  blockTypeNamed,
  chainOf,
  choiceNames,
  choiceTypeName,
  groupTypeName,
  insideGroup,
  fieldNamed,
  isListForReaders,
  itemTypeName,
  labelFieldName,
  labelOfChoice,
  plainText,
  referencesIn,
  resolveRichText,
  shapeOf,
  typeNamed,
  type Field,
  type FieldOwner,
  type Links,
  type Model,
  type ObjectShape,
  type Listing,
  type RichText,
  type RichTextForm,
  type Scalar,
} from '@wisteria/core'
import {
  GraphQLBoolean,
  GraphQLEnumType,
  GraphQLFloat,
  GraphQLID,
  GraphQLInt,
  GraphQLList,
  GraphQLNonNull,
  GraphQLObjectType,
  GraphQLScalarType,
  GraphQLString,
  GraphQLUnionType,
  type GraphQLFieldConfig,
  type GraphQLFieldConfigMap,
  type GraphQLInterfaceType,
  type GraphQLOutputType,
} from 'graphql'
import { assetLinks, type ReadAsset } from '../../assets/reading.js'
import type { ReadEntry } from '../readEntry.js'
import type { Reading } from './reading.js'

const scalar = (name: string, description: string) =>
  new GraphQLScalarType({ name, description, serialize: (value) => value })
const dateScalar = scalar('Date', 'A calendar day, `2031-05-04` (RFC 3339 full-date).')
export const dateTimeScalar = scalar(
  'DateTime',
  'An instant with its offset, `2031-05-04T20:30:00+02:00` (RFC 3339 date-time).',
)
const jsonScalar = scalar('JSON', 'Any JSON value.')

const scalars: Record<Scalar, GraphQLScalarType> = {
  string: GraphQLString,
  number: GraphQLFloat,
  integer: GraphQLInt,
  long: GraphQLFloat,
  boolean: GraphQLBoolean,
  date: dateScalar,
  dateTime: dateTimeScalar,
}

const nonNull = (of: GraphQLOutputType) => new GraphQLNonNull(of)

/** Marks fields that are plain members of an object. */
function withMembers<Source>(fields: GraphQLFieldConfigMap<Source, Reading>): GraphQLFieldConfigMap<Source, Reading> {
  return Object.fromEntries(
    Object.entries(fields).map(([name, field]) => [
      name,
      { ...field, extensions: { covered: { is: 'member', name } } },
    ]),
  )
}

/** The id of a block or group element for GraphQL clients: entry, locale, edition and item. */
export const opaqueItemId = ({ row, edition, id }: ReadBlock): string =>
  Buffer.from([row.entry, row.locale, edition, id].join(' ')).toString('base64url')

/** The ids of a block, or of an element of a repeated group. */
export const itemIdFields: GraphQLFieldConfigMap<ReadBlock, Reading> = {
  id: {
    type: nonNull(GraphQLID),
    description: 'Opaque: identifies the item in its entry, locale and edition.',
    resolve: opaqueItemId,
    extensions: { covered: { is: 'item', opaque: true } },
  },
  itemId: {
    type: nonNull(GraphQLString),
    description: 'The bare id, as REST has it.',
    resolve: ({ id }) => id,
    extensions: { covered: { is: 'item', opaque: false } },
  },
}

/** An asset in a locale: its texts differ by locale, so client caches must distinguish them. */
export type LocalAsset = ReadAsset & { readonly assetId: string }

export const localAsset = (asset: ReadAsset, locale: string): LocalAsset => ({
  ...asset,
  id: Buffer.from(`${asset.id} ${locale}`).toString('base64url'),
  assetId: asset.id,
})

const assetType = new GraphQLObjectType<LocalAsset, Reading>({
  name: 'Asset',
  description: 'A file of the site.',
  fields: withMembers({
    id: { type: nonNull(GraphQLID), description: 'Opaque: identifies the asset in its locale.' },
    assetId: { type: nonNull(GraphQLString), description: 'The bare id, as REST has it.' },
    name: { type: nonNull(GraphQLString) },
    address: { type: nonNull(GraphQLString), description: 'Where the file is, on the service.' },
    mediaType: { type: nonNull(GraphQLString) },
    size: { type: nonNull(GraphQLInt), description: 'Bytes.' },
    width: { type: GraphQLInt, description: 'Pixels.' },
    height: { type: GraphQLInt, description: 'Pixels.' },
    alt: { type: GraphQLString, description: 'The alternative text in the locale.' },
    title: { type: GraphQLString, description: 'The title in the locale.' },
    caption: { type: GraphQLString, description: 'The caption in the locale.' },
  }),
})

/** The source of fields: an entry, or a block or group inside one, which reads in the same way. */
export type Holder = Pick<ReadEntry, 'row' | 'edition' | 'values'>

/** A block, or an element of a repeated group, while a query runs. */
export interface ReadBlock extends Holder {
  readonly id: string
  readonly block?: string
}

interface NestedValues {
  readonly id: string
  readonly block?: string
  readonly values: Record<string, unknown>
}

/** A rich text while a query runs: resolved when one of its forms is read. */
interface ReadText {
  readonly document: RichText
  readonly holder: Holder
}

type ContentField = GraphQLFieldConfig<Holder, Reading>

/**
 * Makes the GraphQL fields of owners of fields. Objects of the model's types and blocks are looked up lazily, since they refer to
 * one another.
 */
export function contentTypes(
  model: Model,
  objects: ReadonlyMap<string, GraphQLObjectType>,
  blocks: ReadonlyMap<string, GraphQLObjectType>,
  entryInterface: GraphQLInterfaceType,
): (owner: FieldOwner, ownerName: string) => GraphQLFieldConfigMap<Holder, Reading> {
  const unions = new Map<string, GraphQLUnionType>()
  const unionOf = (
    name: string,
    types: readonly GraphQLObjectType[],
    resolveType: (value: never) => string,
  ): GraphQLOutputType => {
    if (types.length === 1) return types[0]!
    const existing =
      unions.get(name) ?? new GraphQLUnionType({ name, types, resolveType: resolveType as (value: unknown) => string })
    unions.set(name, existing)
    return existing
  }
  const named = new Map<string, GraphQLObjectType>()
  const once = (name: string, make: () => GraphQLObjectType): GraphQLObjectType => {
    const type = named.get(name) ?? make()
    named.set(name, type)
    return type
  }
  const richText = richTextType(entryInterface)

  const fieldsOf = (
    owner: FieldOwner,
    ownerName: string,
    groups: readonly Field[] = [],
    root = owner,
  ): GraphQLFieldConfigMap<Holder, Reading> =>
    Object.fromEntries(
      owner.fields.flatMap((field) => {
        const built = fieldOf(field, ownerName, groups, root)
        const { resolve } = built
        const as = (name: string): ContentField => ({
          ...built,
          extensions: { covered: { is: 'content', field, root: root.id, name } },
          description,
          resolve: (source, args, reading, info) => {
            reading.noteField(root.id, field.id, name)
            return resolve(source, args, reading, info)
          },
        })
        const says = field.help ?? field.label
        const description = field.required ? `${says.replace(/\.?$/, '.')} Required to publish.` : says
        const old = (field.aliases ?? []).map((alias): [string, ContentField] => [
          alias,
          { ...as(alias), deprecationReason: `Renamed to \`${field.name}\`.` },
        ])
        const labels = labelFieldName(field.name)
        const label: [string, ContentField][] =
          field.kind === 'choice' && !fieldNamed(owner, labels) ? [[labels, labelField(field, root)]] : []
        return [[field.name, as(field.name)] as [string, ContentField], ...label, ...old]
      }),
    )

  const labelField = (field: Field, root: FieldOwner): ContentField => {
    const shape = shapeOf(field)
    const options = shape.is === 'choice' ? shape.options : []
    return {
      type: field.many ? nonNull(new GraphQLList(nonNull(GraphQLString))) : GraphQLString,
      description: `The label of \`${field.name}\` in the locale.`,
      resolve: ({ values, row }, _, reading) => {
        reading.noteField(root.id, field.id, field.name)
        const locales = chainOf(reading.site.settings, row.locale)
        const value = values[field.name] ?? (field.many ? [] : null)
        const labelOf = (item: unknown): string => labelOfChoice(options, item as string, locales)
        return field.many ? (value as unknown[]).map(labelOf) : value === null ? null : labelOf(value)
      },
    }
  }

  const fieldOf = (
    field: Field,
    ownerName: string,
    groups: readonly Field[],
    root: FieldOwner,
  ): Required<Pick<ContentField, 'type' | 'resolve'>> => {
    const shape = shapeOf(field)
    const unionName = itemTypeName(groups.length > 0 ? groupTypeName(ownerName, groups) : ownerName, field)
    const many = (of: GraphQLOutputType) => (isListForReaders(field) ? nonNull(new GraphQLList(nonNull(of))) : of)
    const stored = (source: Holder): unknown => source.values[field.name] ?? (field.many ? [] : null)
    const items = (source: Holder): unknown[] => {
      const document = stored(source)
      return field.many ? (document as unknown[]) : document === null ? [] : [document]
    }
    const each = <Result>(source: Holder, make: (item: never) => Result): Result | Result[] | null => {
      const results = items(source).map((other) => make(other as never))
      return field.many ? results : (results[0] ?? null)
    }
    const loaded = async <Result>(
      source: Holder,
      load: (item: never) => Promise<Result | undefined>,
    ): Promise<Result | Result[] | null> => {
      const loaded = (await Promise.all(items(source).map((other) => load(other as never)))).filter(
        (item) => item !== undefined,
      )
      return field.many ? loaded : (loaded[0] ?? null)
    }
    switch (shape.is) {
      case 'scalar':
        return { type: many(scalars[shape.scalar]), resolve: stored }
      case 'choice': {
        const owners = groups.length > 0 ? groupTypeName(ownerName, groups) : ownerName
        const type = choiceType(model, field, choiceTypeName(owners, field))
        const known = new Set(shape.options.map(({ value }) => value))
        // A removed option has no name here.
        const keep = (value: unknown): unknown => (known.has(value as string) ? value : null)
        return {
          type: many(type),
          resolve: (source) =>
            field.many ? (stored(source) as unknown[]).filter((value) => keep(value) !== null) : keep(stored(source)),
        }
      }
      case 'json':
        return { type: many(jsonScalar), resolve: stored }
      case 'object':
        return {
          type: many(once(shape.name, () => objectType(shape))),
          resolve: (source) => each(source, (item: object) => ({ ...item, locale: source.row.locale })),
        }
      case 'asset':
        return {
          type: many(assetType),
          resolve: (source, _, reading) =>
            loaded(source, async ({ id }: { id: string }) => {
              const { locale } = source.row
              const asset = await reading.loadAsset(locale, id)
              return asset && localAsset(asset, locale)
            }),
        }
      case 'richText':
        return {
          type: many(richText),
          resolve: (source) => each(source, (document: RichText): ReadText => ({ document, holder: source })),
        }
      case 'group': {
        const group = insideGroup(field)!
        const path = [...groups, field]
        const name = groupTypeName(ownerName, path)
        const type = once(
          name,
          () =>
            new GraphQLObjectType<Holder, Reading>({
              name,
              description: field.help ?? field.label,
              fields: () => ({
                ...(field.many ? (itemIdFields as GraphQLFieldConfigMap<Holder, Reading>) : {}),
                ...fieldsOf(group, ownerName, path, root),
              }),
            }),
        )
        return {
          type: many(type),
          resolve: (source) =>
            field.many
              ? each(source, (item: NestedValues): ReadBlock => ({ ...item, row: source.row, edition: source.edition }))
              : {
                  values: (source.values[field.name] ?? {}) as Record<string, unknown>,
                  row: source.row,
                  edition: source.edition,
                },
        }
      }
      case 'blocks': {
        const of = unionOf(
          unionName,
          shape.of.map((name) => blocks.get(blockTypeNamed(model, name)!.name)!),
          (block: ReadBlock) => blockTypeNamed(model, block.block!)!.graphql.type,
        )
        return {
          type: many(of),
          resolve: (source) =>
            each(source, (item: NestedValues): ReadBlock => ({ ...item, row: source.row, edition: source.edition })),
        }
      }
      case 'reference': {
        const of = unionOf(
          unionName,
          shape.to.map((name) => objects.get(typeNamed(model, name)!.name)!),
          (entry: ReadEntry) => typeNamed(model, entry.type.name)!.graphql.type,
        )
        if (shape.filled)
          return {
            type: many(of),
            resolve: (source, _, reading) => {
              const listing = source.values[field.name] as Listing | null | undefined
              return listing ? reading.listed(source.edition, source.row.locale, listing) : []
            },
          }
        return {
          type: many(of),
          resolve: (source, _, reading) =>
            loaded(source, ({ id }: { id: string }) => reading.load(source.edition, source.row.locale, id)),
        }
      }
    }
  }
  return (owner, ownerName) => fieldsOf(owner, ownerName)
}

const choiceTypes = new WeakMap<Model, Map<string, GraphQLEnumType>>()

/** The values of a choice as an enum, each with its label as its description. */
export function choiceType(model: Model, field: Field, name: string): GraphQLEnumType {
  const types = choiceTypes.get(model) ?? new Map<string, GraphQLEnumType>()
  choiceTypes.set(model, types)
  const shape = shapeOf(field)
  const options = shape.is === 'choice' ? shape.options : []
  const names = choiceNames(field)
  const type =
    types.get(name) ??
    new GraphQLEnumType({
      name,
      description: `What \`${field.name}\` may be.`,
      // The current name is written after an old one, and so replaces it.
      values: Object.fromEntries([
        ...options.flatMap(({ value, was }) =>
          (was ?? []).map((earlier) => [
            names.get(earlier)!,
            { value, deprecationReason: `Renamed to \`${names.get(value)}\`.` },
          ]),
        ),
        ...options.map(({ value, label }) => [names.get(value)!, { value, description: label }]),
      ]) as Record<string, { value: string }>,
    })
  types.set(name, type)
  return type
}

/** A kind's own object: `Location`, `Metadata`. */
function objectType(shape: ObjectShape): GraphQLObjectType {
  return new GraphQLObjectType<Record<string, unknown> & { readonly locale: string }, Reading>({
    name: shape.name,
    fields: Object.fromEntries(
      Object.entries(shape.members).map(([name, { shape: member, always, says }]) => {
        const type = member.is === 'asset' ? assetType : scalars[member.scalar]
        return [
          name,
          {
            type: always ? nonNull(type) : type,
            description: says,
            ...(member.is === 'asset' ? {} : { extensions: { covered: { is: 'member', name } } }),
            ...(member.is === 'asset'
              ? {
                  resolve: async (source, _, reading) => {
                    const reference = source[name] as { id: string } | null
                    const asset = reference && (await reading.loadAsset(source.locale, reference.id))
                    return asset ? localAsset(asset, source.locale) : null
                  },
                }
              : {}),
          } satisfies GraphQLFieldConfig<Record<string, unknown> & { readonly locale: string }, Reading>,
        ]
      }),
    ),
  })
}

/** Rich text in each of its forms, with the entries it refers to. */
function richTextType(entryInterface: GraphQLInterfaceType): GraphQLObjectType<ReadText, Reading> {
  const printed =
    (form: RichTextForm) =>
    async ({ document, holder }: ReadText, _: unknown, reading: Reading) => {
      const { locale } = holder.row
      const references = referencesIn(document)
      const entries = new Map(
        await Promise.all(
          references.entries.map(async (id) => [id, await reading.load(holder.edition, locale, id)] as const),
        ),
      )
      const assets = new Map<string, ReadAsset>()
      for (const id of references.assets) {
        const asset = await reading.loadAsset(locale, id)
        if (asset) assets.set(id, asset)
      }
      const links: Links = {
        entry: (id) => {
          const entry = entries.get(id)
          return entry && { address: entry.row.path, title: entry.row.title }
        },
        asset: assetLinks(assets),
      }
      return resolveRichText(document, {
        typeOf: (id) => entries.get(id)?.type.name,
        asset: (id) => assets.get(id),
        richText: form,
        links,
      })
    }
  return new GraphQLObjectType<ReadText, Reading>({
    name: 'RichText',
    description: 'A structured text, in the form that is asked for.',
    fields: {
      document: {
        type: nonNull(jsonScalar),
        description: 'As a Markdown syntax tree (mdast); its JSON Schema is in the reference.',
        extensions: { covered: { is: 'text', form: 'document' } },
        resolve: printed('document'),
      },
      html: {
        type: nonNull(GraphQLString),
        description: 'HTML of known elements; all words are escaped.',
        extensions: { covered: { is: 'text', form: 'html' } },
        resolve: printed('html'),
      },
      markdown: {
        type: nonNull(GraphQLString),
        description: 'CommonMark.',
        extensions: { covered: { is: 'text', form: 'markdown' } },
        resolve: printed('markdown'),
      },
      text: {
        type: nonNull(GraphQLString),
        description: 'The words alone.',
        extensions: { covered: { is: 'text', form: 'text' } },
        resolve: ({ document }) => plainText(document),
      },
      entries: {
        type: nonNull(new GraphQLList(nonNull(entryInterface))),
        description: 'The entries that it refers to.',
        resolve: async ({ document, holder }, _, reading) =>
          (
            await Promise.all(
              referencesIn(document).entries.map((id) => reading.load(holder.edition, holder.row.locale, id)),
            )
          ).filter((entry) => entry !== undefined),
      },
    },
  })
}
