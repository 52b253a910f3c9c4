import { shapeOf, type ContentType, type WrittenCondition, type Field, type Model } from '@wisteria/core'
import {
  GraphQLEnumType,
  GraphQLNonNull,
  GraphQLObjectType,
  type GraphQLFieldConfig,
  type GraphQLFieldConfigArgumentMap,
  type GraphQLFieldConfigMap,
  type GraphQLOutputType,
} from 'graphql'
import type { ReadEntry } from '../readEntry.js'
import type { Reading } from './reading.js'
import { given, manyEntries, type ManyArguments } from './resolving.js'

interface ListField {
  readonly type: GraphQLOutputType
  readonly description: string
  readonly args: GraphQLFieldConfigArgumentMap
}

/**
 * The entries that refer to entries of a type: for each referring type, a list like any other, narrowed to those entries. `by`
 * names the field, where several are possible. References inside blocks are not counted: no list can filter by them.
 */
export function usedByField(
  model: Model,
  type: ContentType,
  listOf: (source: ContentType) => ListField,
): GraphQLFieldConfigMap<ReadEntry, Reading> {
  const sources = model.types.flatMap((source) => {
    const fields = source.cardinality === 'many' ? source.fields.filter((field) => accepts(field, type)) : []
    return fields.length > 0 ? [{ source, fields }] : []
  })
  if (sources.length === 0) return {}
  const name = `${type.graphql.type}UsedBy`
  const fields = sources.map(({ source, fields: sourceFields }): [string, GraphQLFieldConfig<ReadEntry, Reading>] => {
    const list = listOf(source)
    const by = new GraphQLEnumType({
      name: `${name}${source.graphql.type}Field`,
      description: `The fields of ${source.name} that may refer to ${type.name}.`,
      values: Object.fromEntries(
        sourceFields.map((field) => [field.name, { value: field.name, description: field.label }]),
      ),
    })
    return [
      source.graphql.many,
      {
        ...list,
        description: `Entries of ${source.name} that refer to it.`,
        args: { by: { type: by, description: 'Through this field; through any when left out.' }, ...list.args },
        resolve: (entry, { by: asked, ...args }: { by?: string | null }, reading) => {
          const narrowed = asked ? [asked] : sourceFields.map((field) => field.name)
          const { locale, region } = entry.row
          const place = { edition: entry.edition, locale }
          return manyEntries(reading, source, {
            ...given({ ...(region === null ? {} : { region }), ...(args as ManyArguments), ...place }, reading),
            also: refersTo(narrowed, entry.row.entry),
          })
        },
      },
    ]
  })
  const object = new GraphQLObjectType<ReadEntry, Reading>({
    name,
    description: `Where an entry of ${type.name} is referred to.`,
    fields: Object.fromEntries(fields),
  })
  return {
    usedBy: { type: new GraphQLNonNull(object), description: 'Where it is referred to.', resolve: (entry) => entry },
  }
}

function accepts(field: Field, type: ContentType): boolean {
  if (field.kind !== 'entry') return false
  const shape = shapeOf(field)
  return shape.is === 'reference' && shape.to.some((name) => name === type.name || type.aliases?.includes(name))
}

function refersTo(fields: readonly string[], id: string): WrittenCondition {
  const tests = fields.map((name): WrittenCondition => ({
    is: 'test',
    path: { names: [name], at: 0 },
    operator: '=',
    operand: { is: 'text', value: id, at: 0 },
    at: 0,
  }))
  return tests.length === 1 ? tests[0]! : { is: 'or', of: tests }
}
