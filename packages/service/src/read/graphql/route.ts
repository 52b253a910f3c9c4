import { WisteriaError, type Model } from '@wisteria/core'
import { GraphQLError, specifiedRules, type GraphQLSchema } from 'graphql'
import { createHandler } from 'graphql-http'
import { z } from 'zod'
import { route, type Answer, type Route, type SiteRequest } from '../../route.js'
import { readAnswer } from '../answers.js'
import { withinLimits } from './limits.js'
import { Reading } from './reading.js'
import { buildGraphqlSchema } from './schema.js'

const schemas = new WeakMap<Model, GraphQLSchema>()

function schemaOf(model: Model): GraphQLSchema {
  const schema = schemas.get(model) ?? buildGraphqlSchema(model)
  schemas.set(model, schema)
  return schema
}

const handler = createHandler<SiteRequest, Reading, Reading & Record<PropertyKey, unknown>>({
  schema: ({ raw }) => schemaOf(raw.site.model),
  context: ({ context }) => context as Reading & Record<PropertyKey, unknown>,
  validationRules: [...specifiedRules, withinLimits],
  onOperation: ({ raw }, _, result) => {
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

async function answer(request: SiteRequest<{ query?: string | undefined }, unknown>): Promise<Answer> {
  const { kernel, site, caller } = request
  if (site.model.types.length === 0)
    throw new WisteriaError('notFound', `${site.settings.label} has no model yet. Adopt one: \`wisteria model adopt\`.`)
  const reading = new Reading(kernel, site, caller)
  const [text, init] = await handler({
    method: request.method,
    url: request.url,
    headers: request.headers as Record<string, string>,
    body: (request.body as string | undefined) ?? null,
    raw: request as SiteRequest,
    context: reading,
  })
  const { status, headers = {} } = init
  if (text === null || status !== 200) return { status, ...(text === null ? {} : { text }), headers: { ...headers } }
  return readAnswer(site, {
    text,
    type: headers['content-type'] ?? 'application/json; charset=utf-8',
    edition: reading.drafts ? 'draft' : 'published',
    depends: reading.depends,
    types: [...reading.types],
    onSite: reading.onSite,
    time: reading.time,
    vary: ['Accept'],
  })
}

const path = '/read/v1/{site}/graphql'

export const graphqlRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path,
    summary: 'GraphQL over HTTP, by query parameters.',
    permission: 'published.read',
    query: z.object({
      query: z.string().optional(),
      variables: z.string().optional(),
      operationName: z.string().optional(),
      extensions: z.string().optional(),
    }),
    handle: (request) => answer(request),
  }),
  route({
    method: 'POST',
    path,
    summary: 'GraphQL over HTTP. Drafts need the right to them, by `edition: DRAFT`.',
    permission: 'published.read',
    body: z.unknown(),
    handle: (request) => answer(request),
  }),
]
