import type { Kernel } from '../kernel.js'
import type { Route } from '../route.js'
import {
  accessKey,
  document,
  errorResponses,
  errors,
  parametersOf,
  problemSchema,
  schemaOf,
  type Schema,
} from './parts.js'

/** Bodies as they may be sent, for the operations that people begin with. */
const bodyExamples: Readonly<Record<string, unknown>> = {
  'POST /edit/v1/sites/{site}/entries': {
    type: 'museum',
    values: { name: { en: 'The Lighthouse at Sanderling Head' } },
  },
  'POST /edit/v1/sites/{site}/entries/{id}/publish': { locales: ['en', 'nl'] },
  'POST /edit/v1/sites/{site}/keys': { label: 'The museum site', scope: 'published' },
  'POST /edit/v1/session': { email: 'maren@marram.example', password: 'wind-from-the-west', as: 'token' },
  'PUT /edit/v1/sites/{site}/front-ends/{name}': {
    label: 'The museum site',
    origins: ['https://site.example'],
    enter: { '*': 'https://site.example/preview?path={path}&grant={grant}' },
  },
}

const group = (path: string): string => {
  const [first = 'service', ...rest] = path
    .replace('/edit/v1/', '')
    .split('/')
    .filter((part) => !part.startsWith('{'))
  return first === 'sites' && rest.length > 0 ? rest[0]! : first
}

function operationId({ method, path }: Route): string {
  const words = path
    .replace('/edit/v1/', '')
    .split('/')
    .flatMap((part) => part.replace(/[{}]/g, '').split(/[^A-Za-z0-9]+/))
    .filter(Boolean)
  return [method.toLowerCase(), ...words.map((word) => word[0]!.toUpperCase() + word.slice(1))].join('')
}

/** OpenAPI 3.1 of the Edit API, from the table of routes. */
export function editDocument(kernel: Kernel, routes: readonly Route[]): Schema {
  const paths: Record<string, Record<string, Schema>> = {}
  const own = routes.filter(({ path }) => path.startsWith('/edit/'))
  for (const route of own) {
    const { method, path, summary, permission, body, isFile } = route
    const example = bodyExamples[`${method} ${path}`]
    const types = route.bodyTypes ?? ['application/json']
    const sent = body ? schemaOf(body) : { type: 'string', format: 'binary' }
    const success = method === 'DELETE' ? '204' : method === 'POST' && !/\/(publish|unpublish|archive|session)$/.test(path) ? '2XX' : '200' // prettier-ignore
    paths[path] = {
      ...paths[path],
      [method.toLowerCase()]: {
        operationId: operationId(route),
        summary: summary.split(/[.:;]/)[0],
        description: `${summary} Needs \`${permission}\`.`,
        tags: [group(path)],
        parameters: [
          ...parametersOf(path, route.query),
          ...(route.idempotent
            ? [{ name: 'Idempotency-Key', in: 'header', schema: { type: 'string' }, description: 'Done once, however often it is sent within 24 hours.' }]
            : []),
        ], // prettier-ignore
        ...(body || isFile
          ? {
              requestBody: {
                required: true,
                content: Object.fromEntries(
                  (isFile ? ['application/octet-stream'] : types).map((type) => [
                    type,
                    { schema: sent, ...(example === undefined ? {} : { example }) },
                  ]),
                ),
              },
            }
          : {}),
        ...(permission === 'anyone' ? { security: [{}] } : {}),
        responses: {
          [success]:
            success === '204'
              ? { description: 'Done.' }
              : { description: 'Done.', content: { 'application/json': { schema: {} } } },
          ...errors('badRequest', 'unauthenticated', 'forbidden', 'notFound', 'conflict', 'invalid'),
        },
      },
    }
  }
  const tags = [...new Set(own.map(({ path }) => group(path)))].map((name) => ({
    name,
    description: `Everything about ${name}.`,
  }))
  return document('Editing', 'The Edit API: models, entries, publishing, members, keys.', kernel.baseUrl, {
    tags,
    paths,
    components: { securitySchemes: { accessKey }, responses: errorResponses, schemas: { Problem: problemSchema } },
  })
}
