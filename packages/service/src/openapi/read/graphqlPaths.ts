import type { Schema } from '../parts.js'
import { operation, routeAt, type Paths, type ReadDocument } from './operation.js'
import { json, ref, text } from './schemas.js'

/** An answer as GraphQL has it: `data` is not there where the query could not be run at all. */
const graphqlSchema: Schema = {
  type: 'object',
  properties: {
    data: { type: ['object', 'null'] },
    errors: {
      type: 'array',
      minItems: 1,
      items: {
        type: 'object',
        properties: {
          message: { type: 'string' },
          locations: {
            type: 'array',
            items: { type: 'object', properties: { line: { type: 'integer' }, column: { type: 'integer' } } },
          },
          path: { type: 'array', items: { type: ['string', 'integer'] } },
          extensions: { type: 'object' },
        },
        required: ['message'],
      },
    },
    extensions: { type: 'object' },
  },
  anyOf: [{ required: ['data'] }, { required: ['errors'] }],
}

export function graphqlPaths(of: ReadDocument): Paths {
  const graphqlAnswer = {
    200: {
      description: 'The answer, with `data` and `errors` as GraphQL has them.',
      content: json(graphqlSchema),
    },
    400: {
      description: 'Not a GraphQL request, answered as GraphQL does; or a wrong parameter.',
      content: { ...json(graphqlSchema), 'application/problem+json': { schema: ref('Problem') } },
    },
  }
  const graphql = routeAt(of, '/graphql')
  return {
    '/graphql': {
      get: operation(of, graphql, undefined, undefined, {
        operationId: 'askGraphql',
        tags: ['GraphQL'],
        responses: graphqlAnswer,
      }),
      post: operation(of, graphql, undefined, undefined, {
        operationId: 'postGraphql',
        tags: ['GraphQL'],
        description: 'GraphQL over HTTP. Drafts need the right to them, by `edition: DRAFT`.',
        parameters: [],
        requestBody: {
          required: true,
          content: json(
            {
              type: 'object',
              properties: { query: text, variables: { type: 'object' }, operationName: { type: ['string', 'null'] } },
              required: ['query'],
            },
            { query: '{ __typename }' },
          ),
        },
        responses: graphqlAnswer,
      }),
    },
  }
}
