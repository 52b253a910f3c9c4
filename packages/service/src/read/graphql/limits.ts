import {
  GraphQLError,
  Kind,
  type FragmentDefinitionNode,
  type SelectionSetNode,
  type ValidationContext,
  type ValidationRule,
} from 'graphql'

export const maxDepth = 12
export const maxFields = 1500

/** Refuses queries that are deeper or wider than anybody needs; fragments count as often as they are used. */
export const withinLimits: ValidationRule = (context: ValidationContext) => ({
  OperationDefinition(operation) {
    let fields = 0
    const walk = (selections: SelectionSetNode, depth: number, inside: readonly FragmentDefinitionNode[]): void => {
      for (const selection of selections.selections) {
        if (fields > maxFields) return
        if (selection.kind === Kind.FIELD) {
          fields++
          if (depth > maxDepth) {
            context.reportError(
              new GraphQLError(`The query is more than ${maxDepth} levels deep.`, { nodes: [selection] }),
            )
            fields = maxFields + 2
            return
          }
          // The schema describes itself in circles of its own; introspection is bounded by its fields alone.
          if (selection.selectionSet)
            walk(selection.selectionSet, selection.name.value.startsWith('__') ? -maxDepth : depth + 1, inside)
        } else if (selection.kind === Kind.INLINE_FRAGMENT) walk(selection.selectionSet, depth, inside)
        else {
          const fragment = context.getFragment(selection.name.value)
          if (fragment && !inside.includes(fragment)) walk(fragment.selectionSet, depth, [...inside, fragment])
        }
      }
    }
    walk(operation.selectionSet, 1, [])
    if (fields === maxFields + 1)
      context.reportError(new GraphQLError(`The query asks for more than ${maxFields} fields.`, { nodes: [operation] }))
  },
})
