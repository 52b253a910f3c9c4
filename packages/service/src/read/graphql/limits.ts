import {
  getNamedType,
  getNullableType,
  GraphQLError,
  isCompositeType,
  isListType,
  isObjectType,
  Kind,
  typeFromAST,
  type FieldNode,
  type FragmentDefinitionNode,
  type GraphQLField,
  type GraphQLNamedType,
  type GraphQLSchema,
  type OperationDefinitionNode,
  type SelectionSetNode,
  type ValidationContext,
  type ValidationRule,
} from 'graphql'
import { defaultFirst, maxFirst } from '../listQuery.js'

/** The limits of a query; each refusal has the limit and the value. */
export const graphqlLimits = {
  /** Levels of fields. */
  depth: 12,
  /** Fields in all, those of fragments as often as they are used. */
  fields: 1_500,
  /** Fields in one selection. */
  breadth: 200,
  /** Fields with an alias. */
  aliases: 100,
  /** Fields of the answer, as many as there may be: see `costOf`. */
  cost: 30_000,
  /** Words and signs of the query's text. */
  tokens: 10_000,
} as const

/** The assumed length of a list of references, for the estimate. */
const guessedLength = 5

interface Measured {
  depth: number
  fields: number
  breadth: number
  aliases: number
  cost: number
}

/**
 * The cost of an operation: each field counts one, times the most entries that the lists around it may have. A list has its number
 * in `first`; where that is a variable, the maximum counts.
 */
function measure(
  schema: GraphQLSchema,
  operation: OperationDefinitionNode,
  fragment: (name: string) => FragmentDefinitionNode | null | undefined,
): Measured {
  const measured: Measured = { depth: 0, fields: 0, breadth: 0, aliases: 0, cost: 0 }
  const walk = (
    set: SelectionSetNode,
    type: GraphQLNamedType | undefined,
    depth: number,
    times: number,
    inside: readonly string[],
  ): void => {
    measured.breadth = Math.max(measured.breadth, set.selections.length)
    for (const selection of set.selections) {
      if (measured.fields > graphqlLimits.fields) return
      if (selection.kind === Kind.FIELD) {
        const name = selection.name.value
        measured.fields++
        measured.cost = Math.min(measured.cost + times, 1e12)
        if (selection.alias && selection.alias.value !== name) measured.aliases++
        // The schema describes itself in circles of its own; introspection is bounded by its fields alone.
        const isOwn = name.startsWith('__')
        measured.depth = Math.max(measured.depth, depth)
        const definition =
          type && 'getFields' in type ? (type.getFields()[name] as GraphQLField<unknown, unknown>) : undefined
        const below = definition && getNamedType(definition.type)
        if (selection.selectionSet && measured.depth <= graphqlLimits.depth)
          walk(selection.selectionSet, below, isOwn ? -1e6 : depth + 1, times * lengthOf(definition, selection), inside)
      } else if (selection.kind === Kind.INLINE_FRAGMENT) {
        const on = selection.typeCondition && typeFromAST(schema, selection.typeCondition)
        walk(selection.selectionSet, isCompositeType(on) ? on : type, depth, times, inside)
      } else {
        const named = selection.name.value
        const inner = inside.includes(named) ? undefined : fragment(named)
        const on = inner && typeFromAST(schema, inner.typeCondition)
        if (inner) walk(inner.selectionSet, isCompositeType(on) ? on : type, depth, times, [...inside, named])
      }
    }
  }
  walk(operation.selectionSet, schema.getQueryType() ?? undefined, 1, 1, [])
  return measured
}

function lengthOf(definition: GraphQLField<unknown, unknown> | undefined, node: FieldNode): number {
  if (!definition) return 1
  const first = definition.args.some(({ name }) => name === 'first')
  if (first) {
    const said = node.arguments?.find(({ name }) => name.value === 'first')?.value
    if (!said) return defaultFirst
    return said.kind === Kind.INT ? Math.min(Math.max(Number(said.value), 1), maxFirst) : maxFirst
  }
  const type = getNullableType(definition.type)
  // The content of a connection was counted with the connection.
  if (!isListType(type) || definition.name === 'nodes' || definition.name === 'edges') return 1
  return isObjectType(getNamedType(type)) || isCompositeType(getNamedType(type)) ? guessedLength : 1
}

/** The cost of an operation of a valid document. */
export const costOf = (
  schema: GraphQLSchema,
  operation: OperationDefinitionNode,
  fragments: ReadonlyMap<string, FragmentDefinitionNode>,
): number => measure(schema, operation, (name) => fragments.get(name)).cost

const wording: Readonly<Record<keyof Measured, (limit: number, asked: number) => string>> = {
  depth: (limit) => `The query is more than ${limit} levels deep.`,
  fields: (limit) => `The query asks for more than ${limit} fields.`,
  breadth: (limit, asked) => `The query asks for ${asked} fields at one level; ${limit} are allowed.`,
  aliases: (limit, asked) => `The query has ${asked} aliases; ${limit} are allowed.`,
  cost: (limit, asked) =>
    `The query costs ${asked}, the fields of its answer when all lists are full; ${limit} are allowed. Ask for fewer entries with \`first\`, or for less of each.`,
}

/** Refuses queries that are deeper, wider or larger than the limits. */
export const withinLimits: ValidationRule = (context: ValidationContext) => ({
  OperationDefinition(operation) {
    const asked = measure(context.getSchema(), operation, (name) => context.getFragment(name))
    const over = (Object.keys(wording) as (keyof Measured)[]).find((name) => asked[name] > graphqlLimits[name])
    if (over)
      context.reportError(
        new GraphQLError(wording[over](graphqlLimits[over], asked[over]), {
          nodes: [operation],
          extensions: { code: 'tooCostly', limit: graphqlLimits[over], asked: asked[over] },
        }),
      )
  },
})
