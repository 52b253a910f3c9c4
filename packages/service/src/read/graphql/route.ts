import { z } from 'zod'
import { route, type Answer, type Route, type SiteRequest } from '../../kernel/route.js'
import { extraParameters } from '../extras.js'
import { generationParameter } from '../rest.js'

/** GraphQL is loaded on first use: a start need not wait for it. */
const answer = async (request: SiteRequest<unknown, unknown>): Promise<Answer> =>
  (await import('./answer.js')).answer(request)

const path = '/read/v1/{site}/graphql'
const { exactLocale } = extraParameters
const editionParameter = z.enum(['published', 'draft'], 'must be published or draft').optional()

export const graphqlRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path,
    summary: 'GraphQL over HTTP, by query parameters: answers can be cached.',
    permission: 'published.read',
    query: z.object({
      query: z.string().optional(),
      variables: z.string().optional(),
      operationName: z.string().optional(),
      extensions: z.string().optional(),
      generation: generationParameter,
      edition: editionParameter,
      exactLocale,
    }),
    handle: (request) => answer(request),
  }),
  route({
    method: 'POST',
    path,
    summary:
      'GraphQL over HTTP. Drafts need the right to them: by `edition: DRAFT` of a field, or for the whole query by `edition=draft`. `exactLocale=true`: no entry and no value of another locale.',
    permission: 'published.read',
    body: z.unknown(),
    query: z.object({ generation: generationParameter, edition: editionParameter, exactLocale }),
    handle: (request) => answer(request),
  }),
]
