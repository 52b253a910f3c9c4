import type { Kernel } from '../kernel/kernel.js'
import type { Route } from '../kernel/route.js'
import { editAnswers, fileAnswers } from './editAnswers.js'
import {
  accessKey,
  answerSchemaOf,
  document,
  errorResponses,
  errors,
  parametersOf,
  problemSchema,
  schemaOf,
  type Schema,
} from './parts.js'
import { writtenSchemas } from './writtenValues.js'

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
    enter: { '*': 'https://site.example/preview?path={path}&grant={code}' },
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

/** Operations on an entry that go by the version that was read. */
const guardedByETag =
  /^(PATCH|DELETE|POST) \/edit\/v1\/sites\/\{site\}\/entries\/\{id\}(\/(publish|withdraw|archive|reactivate|restore|revisions|place|edits|duplicate|schedule))?$/
const locales = '/edit/v1/sites/{site}/locales'

const etagHeader: Schema = {
  ETag: { description: 'The version of what was read, for `If-Match`.', schema: { type: 'string' } },
}

const ifMatch: Schema = {
  name: 'If-Match',
  in: 'header',
  schema: { type: 'string' },
  description: 'The `ETag` that you read, such as `"v3"`. 412 when somebody has changed it since.',
}

const idempotencyKey: Schema = {
  name: 'Idempotency-Key',
  in: 'header',
  schema: { type: 'string' },
  description: 'Done once, however often it is sent within 24 hours.',
}

/** A body whose values are described by `WrittenValue`. */
function valuesDescribed(schema: Schema): Schema {
  const properties = schema['properties'] as Record<string, Schema> | undefined
  if (!properties || !('values' in properties)) return schema
  const values = {
    type: 'object',
    description: 'By the names of fields.',
    additionalProperties: { $ref: '#/components/schemas/WrittenValue' },
  }
  return { ...schema, properties: { ...properties, values } }
}

/** OpenAPI 3.1 of the Edit API, from the table of routes. */
export function editDocument(kernel: Kernel, routes: readonly Route[]): Schema {
  const paths: Record<string, Record<string, Schema>> = {}
  const schemas: Record<string, Schema> = {}
  const editRoutes = routes.filter(({ path }) => path.startsWith('/edit/'))
  for (const route of editRoutes) {
    const { method, path, summary, permission, body, isFile } = route
    const example = bodyExamples[`${method} ${path}`]
    const types = route.bodyTypes ?? ['application/json']
    const sent = body ? valuesDescribed(schemaOf(body)) : { type: 'string', format: 'binary' }
    const answer = editAnswers[`${method} ${path}`]
    const isFileAnswered = fileAnswers.includes(`${method} ${path}`)
    const isGuarded = guardedByETag.test(`${method} ${path}`) || (method === 'PUT' && path === locales)
    const hasETag = path === '/edit/v1/sites/{site}/entries/{id}' || path === locales || (isGuarded && method !== 'PUT')
    const success = answer
      ? {
          description: 'Done.',
          ...(hasETag ? { headers: etagHeader } : {}),
          content: { 'application/json': { schema: answerSchemaOf(answer, schemas) } },
        }
      : isFileAnswered
        ? { description: 'The file.', content: { '*/*': { schema: { type: 'string', format: 'binary' } } } }
        : { description: 'Done. There is no body.' }
    paths[path] = {
      ...paths[path],
      [method.toLowerCase()]: {
        operationId: operationId(route),
        summary: summary.split(/[.:;]/)[0],
        description: `${summary} Needs \`${permission}\`.`,
        tags: [group(path)],
        parameters: [
          ...parametersOf(path, route.query),
          ...(route.idempotent ? [idempotencyKey] : []),
          ...(isGuarded ? [{ ...ifMatch, required: method === 'PATCH' }] : []),
        ],
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
          [answer ? '2XX' : isFileAnswered ? '200' : '204']: success,
          ...errors(
            'badRequest',
            'unauthenticated',
            'forbidden',
            'notFound',
            'conflict',
            'invalid',
            'tooMany',
            'unavailable',
          ),
          ...(body || isFile ? errors('tooLarge', 'unsupportedMediaType') : {}),
          ...(isGuarded ? errors('stale') : {}),
          ...(isGuarded && method === 'PATCH' ? errors('preconditionRequired') : {}),
        },
      },
    }
  }
  const tags = [...new Set(editRoutes.map(({ path }) => group(path)))].map((name) => ({
    name,
    description: `Everything about ${name}.`,
  }))
  return document('Editing', 'The Edit API: models, entries, publishing, members, keys.', kernel.baseUrl, {
    tags,
    paths,
    components: {
      securitySchemes: { accessKey },
      responses: errorResponses,
      schemas: { Problem: problemSchema, ...writtenSchemas(), ...schemas },
    },
  })
}
