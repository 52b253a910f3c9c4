import {
  getVariableValues,
  Kind,
  type DocumentNode,
  type ExecutionResult,
  type GraphQLSchema,
  type OperationDefinitionNode,
  type SelectionSetNode,
} from 'graphql'
import { getArgumentValues } from 'graphql/execution/values.js'
import { Planner, type RootPlan } from './planner.js'
import { NotCovered } from './projecting.js'
import type { Reading } from './reading.js'

/*
 * Most queries ask for lists of entries with their references. Those are planned once by their text, the rows that they reach are
 * loaded level by level, and the answer is projected from the documents in one go. Everything that the plan does not cover, and
 * every error, is left to the reference executor, whose answer is the right one. A test compares both on random queries.
 */

/** A query that is covered whole. */
export interface FastPlan {
  readonly operation: OperationDefinitionNode
  readonly roots: readonly RootPlan[]
}

/** Plans a validated query; undefined where something in it is not covered. */
export function planFast(
  schema: GraphQLSchema,
  document: DocumentNode,
  operation: OperationDefinitionNode,
  variables: Record<string, unknown>,
): FastPlan | undefined {
  try {
    return { operation, roots: new Planner(schema, document, variables).roots(operation) }
  } catch (error) {
    if (error instanceof NotCovered) return undefined
    throw error
  }
}

/** Answers a planned query; undefined where the reference executor has to. */
export async function runFast(
  schema: GraphQLSchema,
  { operation, roots }: FastPlan,
  reading: Reading,
  given: Readonly<Record<string, unknown>>,
): Promise<ExecutionResult | undefined> {
  const { coerced } = getVariableValues(schema, operation.variableDefinitions ?? [], given)
  if (!coerced) return undefined
  try {
    const data: Record<string, unknown> = {}
    for (const { key, definition, node, fixed, run } of roots)
      data[key] = await run(reading, fixed ?? getArgumentValues(definition, node, coerced))
    return { data }
  } catch {
    // Errors have places and codes in the answer: the reference executor finds and words them.
    return undefined
  }
}

/** The names of variables that decide the content of a query: a plan is valid for their values. */
export function decidingVariables(document: DocumentNode): string[] {
  const names = new Set<string>()
  const walk = ({ selections }: SelectionSetNode): void => {
    for (const selection of selections) {
      for (const directive of selection.directives ?? [])
        for (const { value } of directive.arguments ?? []) if (value.kind === Kind.VARIABLE) names.add(value.name.value)
      if (selection.kind !== Kind.FRAGMENT_SPREAD && selection.selectionSet) walk(selection.selectionSet)
    }
  }
  for (const definition of document.definitions)
    if (definition.kind === Kind.OPERATION_DEFINITION || definition.kind === Kind.FRAGMENT_DEFINITION)
      walk(definition.selectionSet)
  return [...names].sort()
}
