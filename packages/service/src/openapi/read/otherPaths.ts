import { schemaOf } from '../parts.js'
import { common, type Paths, type ReadDocument } from './operation.js'
import { instant, json, object, text } from './schemas.js'

/** Preview grants, and this document itself. */
export function otherPaths(of: ReadDocument): Paths {
  const grants = of.routes.find(({ path }) => path.endsWith('/grants'))!
  return {
    '/grants': {
      post: {
        operationId: 'exchangePreviewCode',
        summary: grants.summary.split(/[.:]/)[0],
        description: grants.summary,
        tags: ['Previews'],
        requestBody: { required: true, content: json(schemaOf(grants.body!)) },
        responses: {
          201: {
            description: 'The grant, to be sent as `Authorization: Bearer …`.',
            content: json(object({ grant: text, expiresAt: instant })),
          },
          ...common,
        },
      },
    },
    '/openapi.json': {
      get: {
        operationId: 'getOpenApi',
        summary: 'This document',
        description: 'OpenAPI 3.1 of the Read API of this site, from its model.',
        tags: ['Descriptions'],
        responses: { 200: { description: 'This document.', content: json({ type: 'object' }) }, ...common },
      },
    },
  }
}
