import { referencesIn, type RichText } from '@wisteria/core'
import {
  getDirectiveValues,
  getNamedType,
  getNullableType,
  GraphQLIncludeDirective,
  GraphQLSkipDirective,
  isAbstractType,
  isEnumType,
  isListType,
  isNonNullType,
  isObjectType,
  Kind,
  typeFromAST,
  type DocumentNode,
  type FieldNode,
  type FragmentDefinitionNode,
  type GraphQLEnumType,
  type GraphQLField,
  type GraphQLObjectType,
  type GraphQLOutputType,
  type GraphQLSchema,
  type OperationDefinitionNode,
  type SelectionSetNode,
  type ValueNode,
} from 'graphql'
import { getArgumentValues } from 'graphql/execution/values.js'
import type { FieldRead } from '../fieldReads.js'
import type { ReadEntry } from '../readEntry.js'
import { localAsset, opaqueItemId, type Holder, type ReadBlock } from './contentTypes.js'
import type { Covered } from './covered.js'
import {
  nothing,
  printed,
  projectEntries,
  projectObject,
  reachObject,
  uncovered,
  type FieldPlan,
  type Loaded,
  type ObjectPlan,
  type Plans,
} from './projecting.js'
import type { Reading } from './reading.js'
import type { Connection } from './resolving.js'

/** A field at the root of a query. */
export interface RootPlan {
  readonly key: string
  readonly definition: GraphQLField<unknown, unknown>
  readonly node: FieldNode
  /** Arguments without variables: they are the same each time. */
  readonly fixed: Record<string, unknown> | undefined
  readonly run: (reading: Reading, args: Record<string, unknown>) => Promise<unknown>
}

/** Plans a query against a schema, for the values of the variables that decide its content. */
export class Planner {
  readonly #schema: GraphQLSchema
  readonly #fragments: ReadonlyMap<string, FragmentDefinitionNode>
  readonly #variables: Record<string, unknown>

  constructor(schema: GraphQLSchema, document: DocumentNode, variables: Record<string, unknown>) {
    this.#schema = schema
    this.#variables = variables
    this.#fragments = new Map(
      document.definitions.flatMap((definition) =>
        definition.kind === Kind.FRAGMENT_DEFINITION ? [[definition.name.value, definition]] : [],
      ),
    )
  }

  roots(operation: OperationDefinitionNode): RootPlan[] {
    const query = this.#schema.getQueryType()!
    return [...this.#collect(query, [operation.selectionSet])].map(([key, nodes]): RootPlan => {
      const definition = query.getFields()[nodes[0]!.name.value] as GraphQLField<unknown, unknown> | undefined
      const covered = definition?.extensions.covered
      if (covered?.is !== 'list' && covered?.is !== 'entry') return uncovered()
      const node = nodes[0]!
      const fixed = node.arguments?.some(({ value }) => hasVariable(value))
        ? undefined
        : getArgumentValues(definition!, node)
      const root = { key, definition: definition!, node, fixed }
      if (covered.is === 'list') {
        const project = this.#connection(getNamedType(definition!.type) as GraphQLObjectType, nodes)
        return { ...root, run: async (reading, args) => project(reading, await covered.find(reading, args as never)) }
      }
      const plans = this.#plans(definition!.type, nodes)
      return {
        ...root,
        run: async (reading, args) => {
          const entry = await covered.find(reading, args as never)
          return entry && (await projectEntries(reading, [entry], plans))[0]
        },
      }
    })
  }

  /** A page of entries: its parts are few and known, so they are composed here. */
  #connection(type: GraphQLObjectType, nodes: readonly FieldNode[]) {
    const parts = [...this.#collect(type, sets(nodes))].map(([key, [first, ...more]]) => {
      const name = first!.name.value
      if (name === '__typename') return { key, is: 'typename' as const }
      const definition = type.getFields()[name]!
      const { covered } = definition.extensions
      const typeNamed = getNamedType(definition.type) as GraphQLObjectType
      if (covered?.is === 'nodes') return { key, is: covered.is, plans: this.#plans(typeNamed, [first!, ...more]) }
      if (covered?.is === 'pageInfo')
        return { key, is: covered.is, plan: this.#object(typeNamed, sets([first!, ...more])) }
      if (covered?.is !== 'edges') return uncovered()
      const edges = [...this.#collect(typeNamed, sets([first!, ...more]))].map(([edgeKey, edgeNodes]) => {
        const edgeName = edgeNodes[0]!.name.value
        const plans = edgeName === 'node' ? this.#plans(typeNamed.getFields()['node']!.type, edgeNodes) : undefined
        return { key: edgeKey, name: edgeName, plans }
      })
      return { key, is: covered.is, edges, typeName: typeNamed.name }
    })
    return async (reading: Reading, connection: Connection): Promise<Record<string, unknown>> => {
      const entries = connection.edges.map(({ node }) => node)
      const printed: Record<string, unknown> = {}
      for (const part of parts)
        switch (part.is) {
          case 'typename':
            printed[part.key] = type.name
            break
          case 'nodes':
            printed[part.key] = await projectEntries(reading, entries, part.plans)
            break
          case 'pageInfo':
            printed[part.key] = projectObject(part.plan, connection.pageInfo as never, nothing)
            break
          case 'edges': {
            const edges: Record<string, unknown>[] = entries.map(() => ({}))
            for (const { key, name, plans } of part.edges) {
              const nodesOf = plans && (await projectEntries(reading, entries, plans))
              for (const [index, edge] of edges.entries())
                edge[key] = nodesOf?.[index] ?? (name === 'cursor' ? connection.edges[index]!.cursor : part.typeName)
            }
            printed[part.key] = edges
          }
        }
      return printed
    }
  }

  #plans(type: GraphQLOutputType, nodes: readonly FieldNode[]): Plans {
    const named = getNamedType(type)
    const possible = isAbstractType(named) ? this.#schema.getPossibleTypes(named) : [named as GraphQLObjectType]
    const planOf = new Map(possible.map((type) => [type.name, this.#object(type, sets(nodes))]))
    return (typeName) => planOf.get(typeName) ?? uncovered()
  }

  #object(type: GraphQLObjectType, selections: readonly SelectionSetNode[]): ObjectPlan {
    const fields = [...this.#collect(type, selections)].map(([key, nodes]) => this.#field(type, key, nodes))
    return { fields, reaching: fields.filter(({ reach }) => reach) }
  }

  #field(owner: GraphQLObjectType, key: string, nodes: readonly FieldNode[]): FieldPlan {
    const name = nodes[0]!.name.value
    const plain = (project: FieldPlan['project']): FieldPlan => ({ key, note: undefined, reach: undefined, project })
    if (name === '__typename') return plain(() => owner.name)
    const definition = owner.getFields()[name]!
    const { covered } = definition.extensions
    switch (covered?.is) {
      case 'head': {
        const complete = leaf(definition.type)
        return plain((entry: ReadEntry) => complete(covered.read(entry)))
      }
      case 'item':
        return plain((item: ReadBlock) => (covered.opaque ? opaqueItemId(item) : item.id))
      case 'member': {
        const complete = leaf(definition.type)
        return plain((object: Record<string, unknown>) => complete(object[covered.name] ?? null))
      }
      case 'content':
        return this.#content(key, definition, covered, nodes)
      default:
        return uncovered()
    }
  }

  #content(
    key: string,
    { type }: GraphQLField<unknown, unknown>,
    { field, root, name }: Covered & { is: 'content' },
    nodes: readonly FieldNode[],
  ): FieldPlan {
    const note: FieldRead = { type: root, field: field.id, name }
    const stored = (holder: Holder): unknown => holder.values[field.name] ?? (field.many ? [] : null)
    const items = (holder: Holder): unknown[] => {
      const document = stored(holder)
      return field.many ? (document as unknown[]) : document === null ? [] : [document]
    }
    const each = (project: (item: never, holder: Holder, reached: Loaded) => unknown): FieldPlan['project'] =>
      field.many
        ? (holder: Holder, reached) => items(holder).map((item) => project(item as never, holder, reached))
        : (holder: Holder, reached) => {
            const document = stored(holder)
            return document === null ? null : project(document as never, holder, reached)
          }
    const planned = (project: FieldPlan['project'], reach?: FieldPlan['reach']): FieldPlan => ({
      key,
      note,
      reach,
      project,
    })
    const named = getNamedType(type)
    switch (field.kind) {
      case 'entry': {
        const plans = this.#plans(type, nodes)
        const project = (reference: { id: string }, _: Holder, loaded: Loaded): unknown => {
          const entry = loaded.entries.get(reference.id)
          return entry && projectObject(plans(entry.type.graphql.type), entry as never, loaded)
        }
        return planned(
          // Broken references drop out of lists.
          field.many
            ? (holder: Holder, loaded) => items(holder).flatMap((item) => project(item as never, holder, loaded) ?? [])
            : (holder: Holder, loaded) =>
                items(holder)[0] ? (project(items(holder)[0] as never, holder, loaded) ?? null) : null,
          (holder, reached) => {
            for (const { id } of items(holder) as { id: string }[]) reached.entries.push({ id, plans })
          },
        )
      }
      case 'listing':
        return uncovered()
      case 'asset': {
        const plan = this.#object(named as GraphQLObjectType, sets(nodes))
        const project = (reference: { id: string }, { row }: Holder, loaded: Loaded): unknown => {
          const asset = loaded.assets.get(reference.id)
          return asset && projectObject(plan, localAsset(asset, row.locale) as never, loaded)
        }
        return planned(
          field.many
            ? (holder: Holder, loaded) => items(holder).flatMap((item) => project(item as never, holder, loaded) ?? [])
            : (holder: Holder, loaded) =>
                items(holder)[0] ? (project(items(holder)[0] as never, holder, loaded) ?? null) : null,
          (holder, reached) => {
            for (const { id } of items(holder) as { id: string }[]) reached.assets.add(id)
          },
        )
      }
      case 'richText': {
        const forms = [...this.#collect(named as GraphQLObjectType, sets(nodes))].map(([formKey, [node]]) => {
          if (node!.name.value === '__typename') return { key: formKey, form: undefined }
          const { covered } = (named as GraphQLObjectType).getFields()[node!.name.value]!.extensions
          return covered?.is === 'text' ? { key: formKey, form: covered.form } : uncovered()
        })
        const needsLinks = forms.some(({ form }) => form !== undefined && form !== 'text')
        return planned(
          each((document: RichText, _, loaded) =>
            Object.fromEntries(
              forms.map(({ key: formKey, form }) => [formKey, form ? printed(document, form, loaded) : named.name]),
            ),
          ),
          needsLinks
            ? (holder, reached) => {
                for (const document of items(holder) as RichText[]) {
                  const references = referencesIn(document)
                  for (const id of references.entries) reached.named.add(id)
                  for (const id of references.assets) reached.assets.add(id)
                }
              }
            : undefined,
        )
      }
      case 'group': {
        const plan = this.#object(named as GraphQLObjectType, sets(nodes))
        const inside = (content: unknown, { row, edition }: Holder): Holder =>
          field.many
            ? { ...(content as { values: Record<string, unknown> }), row, edition }
            : { values: (content ?? {}) as Record<string, unknown>, row, edition }
        return planned(
          field.many
            ? each((content, holder, loaded) => projectObject(plan, inside(content, holder) as never, loaded))
            : (holder: Holder, loaded) =>
                projectObject(plan, inside(holder.values[field.name], holder) as never, loaded),
          (holder, reached) => {
            const all = field.many ? items(holder) : [holder.values[field.name]]
            for (const content of all) reachObject(plan, inside(content, holder), reached)
          },
        )
      }
      case 'block': {
        const plans = this.#plans(type, nodes)
        const typeNames = blockTypeNames(named, this.#schema)
        const planOf = (block: { block: string }): ObjectPlan => plans(typeNames.get(block.block) ?? uncovered())
        const inside = (block: object, { row, edition }: Holder) => ({ ...block, row, edition }) as unknown as Holder
        return planned(
          each((block: { block: string }, holder, loaded) =>
            projectObject(planOf(block), inside(block, holder) as never, loaded),
          ),
          (holder, reached) => {
            for (const block of items(holder) as { block: string }[])
              reachObject(planOf(block), inside(block, holder), reached)
          },
        )
      }
      default: {
        if (isObjectType(named)) {
          const plan = this.#object(named, sets(nodes))
          return planned(each((content: object, _, loaded) => projectObject(plan, content as never, loaded)))
        }
        const complete = leaf(type)
        return planned((holder: Holder) => complete(stored(holder)))
      }
    }
  }

  /** The fields of a selection for objects of a type, by their keys in the answer (GraphQL, 6.3.2). */
  #collect(
    type: GraphQLObjectType,
    selections: readonly SelectionSetNode[],
    into = new Map<string, FieldNode[]>(),
    seen = new Set<string>(),
  ): Map<string, FieldNode[]> {
    for (const set of selections)
      for (const selection of set.selections) {
        if (!this.#isIncluded(selection)) continue
        if (selection.kind === Kind.FIELD) {
          const key = selection.alias?.value ?? selection.name.value
          into.set(key, [...(into.get(key) ?? []), selection])
          continue
        }
        let fragment: {
          selectionSet: SelectionSetNode
          typeCondition?: FragmentDefinitionNode['typeCondition'] | undefined
        }
        if (selection.kind === Kind.FRAGMENT_SPREAD) {
          if (seen.has(selection.name.value)) continue
          seen.add(selection.name.value)
          fragment = this.#fragments.get(selection.name.value)!
        } else fragment = selection
        if (this.#applies(fragment.typeCondition, type)) this.#collect(type, [fragment.selectionSet], into, seen)
      }
    return into
  }

  #isIncluded(selection: SelectionSetNode['selections'][number]): boolean {
    if (!selection.directives?.length) return true
    const skip = getDirectiveValues(GraphQLSkipDirective, selection, this.#variables)
    if (skip?.['if'] === true) return false
    return getDirectiveValues(GraphQLIncludeDirective, selection, this.#variables)?.['if'] !== false
  }

  #applies(condition: FragmentDefinitionNode['typeCondition'] | undefined, type: GraphQLObjectType): boolean {
    if (!condition) return true
    const named = typeFromAST(this.#schema, condition)
    return named === type || (isAbstractType(named) && this.#schema.isSubType(named, type))
  }
}

function hasVariable(value: ValueNode): boolean {
  if (value.kind === Kind.VARIABLE) return true
  if (value.kind === Kind.LIST) return value.values.some(hasVariable)
  return value.kind === Kind.OBJECT && value.fields.some((field) => hasVariable(field.value))
}

const sets = (nodes: readonly FieldNode[]): SelectionSetNode[] =>
  nodes.flatMap(({ selectionSet }) => selectionSet ?? [])

/** The types of blocks by the names that documents have of them. */
function blockTypeNames(named: ReturnType<typeof getNamedType>, schema: GraphQLSchema): ReadonlyMap<string, string> {
  const types = isAbstractType(named) ? schema.getPossibleTypes(named) : [named as GraphQLObjectType]
  return new Map(types.map((type) => [type.extensions['block'] as string, type.name]))
}

/** The name of a value of an enum. Any other value is left to the reference executor. */
function enumLeaf(type: GraphQLEnumType): (value: unknown) => unknown {
  const names = new Map(type.getValues().map(({ name, value }) => [value as unknown, name]))
  return (value) => (value === null || value === undefined ? null : (names.get(value) ?? uncovered()))
}

/** Checks a value against a scalar type, or a list of one. Values that are not certainly valid are not covered. */
function leaf(type: GraphQLOutputType): (value: unknown) => unknown {
  if (isNonNullType(type)) {
    const inner = leaf(type.ofType)
    return (value) => (value === null || value === undefined ? uncovered() : inner(value))
  }
  if (isListType(type)) {
    const inner = leaf(type.ofType)
    return (value) => (value === null ? null : Array.isArray(value) ? value.map(inner) : uncovered())
  }
  const named = getNamedType(getNullableType(type))
  if (isEnumType(named)) return enumLeaf(named)
  const { name } = named
  const is = {
    String: (value: unknown) => typeof value === 'string',
    ID: (value: unknown) => typeof value === 'string',
    Boolean: (value: unknown) => typeof value === 'boolean',
    Float: Number.isFinite,
    Int: (value: unknown) => Number.isInteger(value) && Math.abs(value as number) < 2 ** 31,
    Date: () => true,
    DateTime: () => true,
    JSON: () => true,
  }[name]
  if (!is) return uncovered()
  return (value) => (value === null || value === undefined ? null : is(value) ? value : uncovered())
}
