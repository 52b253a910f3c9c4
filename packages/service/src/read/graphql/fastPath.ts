import {
  plainText,
  referencesIn,
  settleRichText,
  type Field,
  type Links,
  type RichText,
  type RichTextForm,
} from '@wisteria/core'
import type { Edition } from '@wisteria/store'
import {
  getDirectiveValues,
  getNamedType,
  getNullableType,
  getVariableValues,
  GraphQLIncludeDirective,
  GraphQLSkipDirective,
  isAbstractType,
  isListType,
  isNonNullType,
  isObjectType,
  Kind,
  typeFromAST,
  type DocumentNode,
  type ExecutionResult,
  type FieldNode,
  type FragmentDefinitionNode,
  type GraphQLField,
  type GraphQLObjectType,
  type GraphQLOutputType,
  type GraphQLSchema,
  type OperationDefinitionNode,
  type SelectionSetNode,
  type ValueNode,
} from 'graphql'
import { getArgumentValues } from 'graphql/execution/values.js'
import { assetLinks, readAssets, type ReadAsset } from '../../assets/reading.js'
import type { FieldRead } from '../fieldReads.js'
import type { ReadEntry } from '../readEntry.js'
import type { Holder } from './contentTypes.js'
import type { Reading } from './reading.js'
import type { Connection } from './resolving.js'

/*
 * Most queries ask for lists of entries with what they refer to. Those are planned once by their text, the rows that they
 * reach are fetched level by level, and the answer is projected from the documents in one go. The plan covers what it
 * surely knows; whatever else there is in a query, and whatever goes wrong in one, is left to the reference executor, whose
 * answer is the measure. A test compares both on random queries.
 */

/** What a field of the schema is, for the plans; a field that does not say is not covered. */
export type Covered =
  /** Of an entry: known without its values. */
  | { readonly is: 'head'; readonly read: (entry: ReadEntry) => unknown }
  /** A content field; `root` is the internal id of what has it, `name` what it is asked by. */
  | { readonly is: 'content'; readonly field: Field; readonly root: string; readonly name: string }
  /** A handle of a block or an element of a group. */
  | { readonly is: 'handle' }
  /** A member of an object that is there as it is printed. */
  | { readonly is: 'member'; readonly name: string }
  | { readonly is: 'text'; readonly form: RichTextForm }
  /** At the root: how its entries are found. */
  | { readonly is: 'list'; readonly find: (reading: Reading, args: never) => Promise<Connection> }
  | { readonly is: 'entry'; readonly find: (reading: Reading, args: never) => Promise<ReadEntry | null> }
  | { readonly is: 'nodes' | 'edges' | 'pageInfo' }

declare module 'graphql' {
  interface GraphQLFieldExtensions<_TSource, _TContext, _TArgs> {
    covered?: Covered
  }
}

/** Thrown where a plan cannot go on: the reference executor does. */
class NotCovered extends Error {}
const uncovered = (): never => {
  throw new NotCovered()
}

/** What everything that a query reaches was found as. */
interface Found {
  readonly entries: Map<string, ReadEntry>
  readonly assets: Map<string, ReadAsset>
}

/** What a level of a query reaches. */
interface Reached {
  readonly entries: { readonly id: string; readonly plans: Plans }[]
  /** Entries that are only named, in rich text. */
  readonly named: Set<string>
  readonly assets: Set<string>
  readonly notes: Set<ObjectPlan>
}

interface FieldPlan {
  readonly key: string
  readonly note: FieldRead | undefined
  readonly reach: ((holder: Holder, reached: Reached) => void) | undefined
  readonly project: (holder: never, found: Found) => unknown
}

/** How objects of one type are projected. */
interface ObjectPlan {
  readonly fields: readonly FieldPlan[]
  readonly reaching: readonly FieldPlan[]
}

/** Plans by the name of the type that an object turns out to have. */
type Plans = (typeName: string) => ObjectPlan

interface RootPlan {
  readonly key: string
  readonly definition: GraphQLField<unknown, unknown>
  readonly node: FieldNode
  /** Arguments in which no variable stands: they are the same each time. */
  readonly fixed: Record<string, unknown> | undefined
  readonly run: (reading: Reading, args: Record<string, unknown>) => Promise<unknown>
}

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

/** The names of variables that decide what is in a query: a plan holds for their values. */
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

class Planner {
  readonly #schema: GraphQLSchema
  readonly #fragments: ReadonlyMap<string, FragmentDefinitionNode>
  readonly #variables: Record<string, unknown>

  constructor(schema: GraphQLSchema, document: DocumentNode, variables: Record<string, unknown>) {
    this.#schema = schema
    this.#variables = variables
    this.#fragments = new Map(
      document.definitions.flatMap((one) => (one.kind === Kind.FRAGMENT_DEFINITION ? [[one.name.value, one]] : [])),
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

  /** A page of entries: its parts are few and known, so they are put together here. */
  #connection(type: GraphQLObjectType, nodes: readonly FieldNode[]) {
    const parts = [...this.#collect(type, sets(nodes))].map(([key, [first, ...more]]) => {
      const name = first!.name.value
      if (name === '__typename') return { key, is: 'typename' as const }
      const definition = type.getFields()[name]!
      const { covered } = definition.extensions
      const own = getNamedType(definition.type) as GraphQLObjectType
      if (covered?.is === 'nodes') return { key, is: covered.is, plans: this.#plans(own, [first!, ...more]) }
      if (covered?.is === 'pageInfo') return { key, is: covered.is, plan: this.#object(own, sets([first!, ...more])) }
      if (covered?.is !== 'edges') return uncovered()
      const edges = [...this.#collect(own, sets([first!, ...more]))].map(([edgeKey, edgeNodes]) => {
        const edgeName = edgeNodes[0]!.name.value
        const plans = edgeName === 'node' ? this.#plans(own.getFields()['node']!.type, edgeNodes) : undefined
        return { key: edgeKey, name: edgeName, plans }
      })
      return { key, is: covered.is, edges, typeName: own.name }
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
            const made: Record<string, unknown>[] = entries.map(() => ({}))
            for (const { key, name, plans } of part.edges) {
              const nodesOf = plans && (await projectEntries(reading, entries, plans))
              for (const [index, edge] of made.entries())
                edge[key] = nodesOf?.[index] ?? (name === 'cursor' ? connection.edges[index]!.cursor : part.typeName)
            }
            printed[part.key] = made
          }
        }
      return printed
    }
  }

  #plans(type: GraphQLOutputType, nodes: readonly FieldNode[]): Plans {
    const named = getNamedType(type)
    const possible = isAbstractType(named) ? this.#schema.getPossibleTypes(named) : [named as GraphQLObjectType]
    const made = new Map(possible.map((one) => [one.name, this.#object(one, sets(nodes))]))
    return (typeName) => made.get(typeName) ?? uncovered()
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
      case 'handle':
        return plain(({ handle }: { handle?: string }) => handle ?? uncovered())
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
      const held = stored(holder)
      return field.many ? (held as unknown[]) : held === null ? [] : [held]
    }
    const each = (project: (one: never, holder: Holder, found: Found) => unknown): FieldPlan['project'] =>
      field.many
        ? (holder: Holder, found) => items(holder).map((one) => project(one as never, holder, found))
        : (holder: Holder, found) => {
            const held = stored(holder)
            return held === null ? null : project(held as never, holder, found)
          }
    const made = (project: FieldPlan['project'], reach?: FieldPlan['reach']): FieldPlan => ({
      key,
      note,
      reach,
      project,
    })
    const named = getNamedType(type)
    switch (field.kind) {
      case 'entry': {
        const plans = this.#plans(type, nodes)
        const project = (one: { id: string }, _: Holder, found: Found): unknown => {
          const entry = found.entries.get(one.id)
          return entry && projectObject(plans(entry.type.graphql.type), entry as never, found)
        }
        return made(
          // What leads nowhere drops out of lists.
          field.many
            ? (holder: Holder, found) => items(holder).flatMap((one) => project(one as never, holder, found) ?? [])
            : (holder: Holder, found) =>
                items(holder)[0] ? (project(items(holder)[0] as never, holder, found) ?? null) : null,
          (holder, reached) => {
            for (const { id } of items(holder) as { id: string }[]) reached.entries.push({ id, plans })
          },
        )
      }
      case 'listing':
        return uncovered()
      case 'asset': {
        const plan = this.#object(named as GraphQLObjectType, sets(nodes))
        const project = (one: { id: string }, found: Found): unknown => {
          const asset = found.assets.get(one.id)
          return asset && projectObject(plan, asset as never, found)
        }
        return made(
          field.many
            ? (holder: Holder, found) => items(holder).flatMap((one) => project(one as never, found) ?? [])
            : (holder: Holder, found) =>
                items(holder)[0] ? (project(items(holder)[0] as never, found) ?? null) : null,
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
        return made(
          each((document: RichText, _, found) =>
            Object.fromEntries(
              forms.map(({ key: formKey, form }) => [formKey, form ? printed(document, form, found) : named.name]),
            ),
          ),
          needsLinks
            ? (holder, reached) => {
                for (const document of items(holder) as RichText[]) {
                  const held = referencesIn(document)
                  for (const id of held.entries) reached.named.add(id)
                  for (const id of held.assets) reached.assets.add(id)
                }
              }
            : undefined,
        )
      }
      case 'group': {
        const plan = this.#object(named as GraphQLObjectType, sets(nodes))
        const inside = (held: unknown, { row, edition }: Holder): Holder =>
          field.many
            ? { ...(held as { values: Record<string, unknown> }), row, edition }
            : { values: (held ?? {}) as Record<string, unknown>, row, edition }
        return made(
          field.many
            ? each((held, holder, found) => projectObject(plan, inside(held, holder) as never, found))
            : (holder: Holder, found) => projectObject(plan, inside(holder.values[field.name], holder) as never, found),
          (holder, reached) => {
            const all = field.many ? items(holder) : [holder.values[field.name]]
            for (const held of all) reachObject(plan, inside(held, holder), reached)
          },
        )
      }
      case 'block': {
        const plans = this.#plans(type, nodes)
        const typeNames = blockTypeNames(named, this.#schema)
        const planOf = (held: { block: string }): ObjectPlan => plans(typeNames.get(held.block) ?? uncovered())
        const inside = (held: object, { row, edition }: Holder) => ({ ...held, row, edition }) as unknown as Holder
        return made(
          each((held: { block: string }, holder, found) =>
            projectObject(planOf(held), inside(held, holder) as never, found),
          ),
          (holder, reached) => {
            for (const held of items(holder) as { block: string }[])
              reachObject(planOf(held), inside(held, holder), reached)
          },
        )
      }
      default: {
        if (isObjectType(named)) {
          const plan = this.#object(named, sets(nodes))
          return made(each((held: object, _, found) => projectObject(plan, held as never, found)))
        }
        const complete = leaf(type)
        return made((holder: Holder) => complete(stored(holder)))
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

/** Checks a value against a scalar type, or a list of one: anything else than what is surely right is not covered. */
function leaf(type: GraphQLOutputType): (value: unknown) => unknown {
  if (isNonNullType(type)) {
    const inner = leaf(type.ofType)
    return (value) => (value === null || value === undefined ? uncovered() : inner(value))
  }
  if (isListType(type)) {
    const inner = leaf(type.ofType as GraphQLOutputType)
    return (value) => (value === null ? null : Array.isArray(value) ? value.map(inner) : uncovered())
  }
  const { name } = getNamedType(getNullableType(type))
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

function printed(document: RichText, form: RichTextForm, { entries, assets }: Found): unknown {
  if (form === 'text') return plainText(document)
  const links: Links = {
    entry: (id) => {
      const row = entries.get(id)?.row
      return row && { address: row.path, title: row.title }
    },
    asset: assetLinks(assets),
  }
  return settleRichText(document, {
    typeOf: (id) => entries.get(id)?.type.name,
    asset: (id) => assets.get(id),
    richText: form,
    links,
  })
}

const nothing: Found = { entries: new Map(), assets: new Map() }

function projectObject({ fields }: ObjectPlan, holder: never, found: Found): Record<string, unknown> {
  const printed: Record<string, unknown> = {}
  for (const { key, project } of fields) printed[key] = project(holder, found)
  return printed
}

function reachObject(plan: ObjectPlan, holder: Holder, reached: Reached): void {
  reached.notes.add(plan)
  for (const { reach } of plan.reaching) reach!(holder, reached)
}

/** So many entries may be followed to in one query. */
const maxFollowed = 5_000

/** Projects entries that all are of one edition and locale, once everything that they reach is there. */
async function projectEntries(
  reading: Reading,
  entries: readonly ReadEntry[],
  plans: Plans,
): Promise<Record<string, unknown>[]> {
  const [first] = entries
  if (!first) return []
  const { edition } = first
  const { locale } = first.row
  const planOf = (entry: ReadEntry): ObjectPlan => plans(entry.type.graphql.type)
  const found = await gather(reading, edition, locale, entries.map((entry) => ({ entry, plan: planOf(entry) }))) // prettier-ignore
  return entries.map((entry) => projectObject(planOf(entry), entry as never, found))
}

async function gather(
  reading: Reading,
  edition: Edition,
  locale: string,
  beginnings: readonly { readonly entry: ReadEntry; readonly plan: ObjectPlan }[],
): Promise<Found> {
  const found: Found = { entries: new Map(), assets: new Map() }
  const named = new Set<string>()
  const assets = new Set<string>()
  const notes = new Set<ObjectPlan>()
  const asked = new Set<string>()
  const done = new Map<string, Set<ObjectPlan>>()
  const load = async (ids: Iterable<string>): Promise<void> => {
    const missing = [...new Set(ids)].filter((id) => !asked.has(id))
    if (missing.length === 0) return
    for (const id of missing) asked.add(id)
    if (asked.size > maxFollowed) uncovered()
    const loaded = await reading.loadMany(edition, locale, missing)
    for (const entry of loaded) if (entry) found.entries.set(entry.row.entry, entry)
  }
  let level = beginnings
  while (level.length > 0) {
    const reached: Reached = { entries: [], named, assets, notes }
    for (const { entry, plan } of level) reachObject(plan, entry, reached)
    await load(reached.entries.map(({ id }) => id))
    level = reached.entries.flatMap(({ id, plans }) => {
      const entry = found.entries.get(id)
      if (!entry) return []
      const plan = plans(entry.type.graphql.type)
      const known = done.get(id) ?? new Set()
      done.set(id, known)
      if (known.has(plan)) return []
      known.add(plan)
      return [{ entry, plan }]
    })
  }
  await load(named)
  if (assets.size > 0) {
    const { kernel, site } = reading
    for (const [id, asset] of await readAssets(kernel.database, kernel, site, locale, [...assets]))
      found.assets.set(id, asset)
  }
  for (const plan of notes) for (const { note } of plan.fields) if (note) reading.noteKept(note)
  return found
}
