import { LRUCache } from 'lru-cache'
import { WisteriaError, type Model } from '@wisteria/core'
import {
  execute,
  getOperationAST,
  GraphQLError,
  Kind,
  parse,
  type DocumentNode,
  type ExecutionArgs,
  type ExecutionResult,
  type FragmentDefinitionNode,
  type GraphQLSchema,
} from 'graphql'
import { createHandler } from 'graphql-http'
import type { Edition } from '@wisteria/store'
import type { Answer, SiteRequest } from '../../kernel/route.js'
import { readAnswer } from '../answers.js'
import { decidingVariables, planFast, runFast, type FastPlan } from './fastPath.js'
import { costOf, graphqlLimits, withinLimits } from './limits.js'
import { Reading } from './reading.js'
import { buildGraphqlSchema } from './schema.js'

/** A document that was parsed and validated, with everything derived from it. */
interface CheckedQuery {
  readonly document: DocumentNode
  readonly deciding: readonly string[]
  /** By operation and the values that decide its content; undefined where the query is not covered. */
  readonly plans: Map<string, FastPlan | undefined>
  readonly costs: Map<string, number>
}

interface BuiltSchema {
  readonly schema: GraphQLSchema
  readonly queries: LRUCache<string, CheckedQuery>
}

const schemas = new WeakMap<Model, BuiltSchema>()
const maxQueries = 300
/** Longer texts are parsed each time, so that the cache stays small. */
const maxKeptLength = 20_000
const maxPlans = 20

function madeOf(model: Model): BuiltSchema {
  const cached = schemas.get(model) ?? {
    schema: buildGraphqlSchema(model),
    queries: new LRUCache<string, CheckedQuery>({ max: maxQueries }),
  }
  schemas.set(model, cached)
  return cached
}

/** The GraphQL schema of a model, made once. */
export const schemaOf = (model: Model): GraphQLSchema => madeOf(model).schema

type Context = Reading & Record<PropertyKey, unknown>

const handler = createHandler<SiteRequest, Reading, Context>({
  schema: ({ raw }) => schemaOf(raw.site.model),
  context: ({ context }) => context as Context,
  parse: (source, options) => parse(source, { ...options, maxTokens: graphqlLimits.tokens }),
  // Beside those of the specification.
  validationRules: [withinLimits],
  // A query that was validated before is not parsed again; its arguments have all that executing it needs.
  onSubscribe: ({ raw, context }, params) => {
    const { schema, queries } = madeOf(raw.site.model)
    const cached = queries.get(params.query)
    if (!cached) return undefined
    const { operationName, variables: variableValues } = params
    if (!getOperationAST(cached.document, operationName)) return undefined
    return {
      schema,
      document: cached.document,
      operationName: operationName ?? null,
      variableValues: variableValues ?? null,
      contextValue: context as Context,
    }
  },
  execute: (args) => answerQuery(args),
  onOperation: ({ raw, context }, args, result) => {
    keep(raw.site.model, args, raw)
    context.cost = costIn(raw.site.model, args)
    context.failed = 'errors' in result && (result.errors ?? []).length > 0
    for (const error of 'errors' in result ? (result.errors ?? []) : [])
      if (isUnforeseen(error)) raw.kernel.logger.error({ err: error.originalError }, 'a GraphQL field failed')
  },
  formatError: (error) => {
    if (!(error instanceof GraphQLError)) return error
    const { originalError: original } = error
    const place = { nodes: error.nodes ?? null, path: error.path ?? null }
    if (original instanceof WisteriaError) {
      const extensions = {
        code: original.code,
        ...(original.problems.length > 0 ? { problems: original.problems } : {}),
      }
      return new GraphQLError(original.message, { ...place, extensions })
    }
    return isUnforeseen(error) ? new GraphQLError('Something went wrong on our side.', place) : error
  },
})

const isUnforeseen = ({ originalError }: GraphQLError): boolean =>
  originalError !== undefined && !(originalError instanceof WisteriaError) && !(originalError instanceof GraphQLError)

const kept = new WeakSet<DocumentNode>()

/** Remembers a document that was found valid, by its text. */
function keep(model: Model, { document }: ExecutionArgs, { method, body, query }: SiteRequest): void {
  if (kept.has(document)) return
  const text = textIn(method, body, query)
  const { queries } = madeOf(model)
  if (text === undefined || text.length > maxKeptLength || queries.has(text)) return
  queries.set(text, knownOf(document))
  kept.add(document)
}

const planned = new WeakMap<DocumentNode, CheckedQuery>()

function knownOf(document: DocumentNode): CheckedQuery {
  const query = planned.get(document) ?? {
    document,
    deciding: decidingVariables(document),
    plans: new Map<string, FastPlan | undefined>(),
    costs: new Map<string, number>(),
  }
  planned.set(document, query)
  return query
}

function textIn(method: string, body: unknown, query: unknown): string | undefined {
  if (method === 'GET') return (query as { query?: string }).query
  try {
    return (JSON.parse(body as string) as { query?: string }).query
  } catch {
    return undefined
  }
}

/** The plan of an operation, made once for each set of values that decide its content. */
export function planOf({ schema, document, operationName, variableValues }: ExecutionArgs): FastPlan | undefined {
  const operation = getOperationAST(document, operationName)
  if (operation?.operation !== 'query') return undefined
  const { deciding, plans } = knownOf(document)
  const key = JSON.stringify([operationName, ...deciding.map((name) => variableValues?.[name] ?? null)])
  if (plans.has(key)) return plans.get(key)
  const defaults = Object.fromEntries(
    (operation.variableDefinitions ?? []).flatMap(({ variable, defaultValue }) =>
      defaultValue?.kind === Kind.BOOLEAN ? [[variable.name.value, defaultValue.value]] : [],
    ),
  )
  const plan = planFast(schema, document, operation, { ...defaults, ...variableValues })
  if (plans.size >= maxPlans) plans.clear()
  plans.set(key, plan)
  return plan
}

/** Answers by the plan where there is one; by the reference executor otherwise, or where the plan fails. */
export async function answerQuery(args: ExecutionArgs): Promise<ExecutionResult> {
  const reading = args.contextValue as Reading
  const plan = planOf(args)
  const answered = plan && (await runFast(args.schema, plan, reading, args.variableValues ?? {}))
  if (answered) return answered
  reading.connections = 0
  return execute(args)
}

function costIn(model: Model, { document, operationName }: ExecutionArgs): number {
  const operation = getOperationAST(document, operationName)
  if (!operation) return 0
  const { costs } = knownOf(document)
  const cost =
    costs.get(operationName ?? '') ??
    costOf(
      schemaOf(model),
      operation,
      new Map(
        document.definitions.flatMap((definition): [string, FragmentDefinitionNode][] =>
          definition.kind === Kind.FRAGMENT_DEFINITION ? [[definition.name.value, definition]] : [],
        ),
      ),
    )
  costs.set(operationName ?? '', cost)
  return cost
}

/** Requests that the protocol refuses without a message. */
const refusals: Readonly<Record<number, WisteriaError>> = {
  405: new WisteriaError('methodNotAllowed', 'A query is asked by GET or by POST.'),
  406: new WisteriaError(
    'notAcceptable',
    'An answer is `application/graphql-response+json` or `application/json`: let `Accept` name one of them.',
  ),
  415: new WisteriaError('unsupportedMediaType', 'Send the query as `application/json`: `{ "query": "…" }`.'),
}

/** Answers a GraphQL request. */
export async function answer(request: SiteRequest<unknown, unknown>): Promise<Answer> {
  const { kernel, site, caller } = request
  if (site.model.types.length === 0)
    throw new WisteriaError('notFound', `${site.settings.label} has no model yet. Adopt one: \`wisteria model adopt\`.`)
  const reading = new Reading(kernel, site, caller, request.query as { edition?: Edition; exactLocale?: boolean })
  const [text, init] = await handler({
    method: request.method,
    url: request.url,
    headers: request.headers,
    body: (request.body as string | undefined) ?? null,
    raw: request,
    context: reading,
  })
  const { status, headers = {} } = init
  if (text === null) throw refusals[status] ?? new WisteriaError('badRequest', 'The query cannot be read.')
  if (status !== 200) return { status, text, headers: { ...headers } }
  return readAnswer(site, {
    text,
    type: headers['content-type'] ?? 'application/json; charset=utf-8',
    edition: reading.drafts ? 'draft' : 'published',
    depends: reading.depends,
    // An answer with errors is only for its caller: errors depend on rights.
    until: reading.failed ? 0 : reading.until,
    vary: ['Accept'],
    cost: reading.cost,
  })
}
