import { dryRunHeader, hasDryRun } from '../kernel/dryRun.js'
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

/** Example bodies of the most common operations. */
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

/** The areas of the document, by the part of the path that decides; in their order. */
const areas: readonly (readonly [name: string, says: string, parts: readonly string[]])[] = [
  ['Entries', 'Working copies: find, read, change, publish and withdraw them.', ['entries', 'search', 'tree']],
  ['Regions', 'Regions, and the counterparts of entries in them.', ['regions', 'counterparts']],
  ['Copies', 'Content of another site, copied.', ['copies']],
  ['Translations', 'How far translations are, and the texts of each.', ['translations']],
  ['Imports', 'Tables whose rows become entries, and entries as tables.', ['imports', 'import-mappings', 'export']],
  ['Bin', 'Deleted entries, which can be restored.', ['bin']],
  ['Schedules', 'Scheduled publishing and withdrawing.', ['schedules']],
  ['Saved views', 'Lists of entries with a name.', ['views']],
  ['Assets', 'Files, their texts and their revisions.', ['assets']],
  ['Model', 'Content types: read, compare, adopt.', ['model']],
  ['Jobs', 'Long work: adoptions and bulk actions.', ['jobs']],
  [
    'Site',
    'Settings, locales, events, and making a site.',
    ['sites', 'open', 'rebuild', 'locales', 'events', 'archive'],
  ],
  ['Front ends', 'Where entries are previewed, and from where browsers may read.', ['front-ends', 'grants']],
  ['Webhooks', 'Where changes are told, and their deliveries.', ['webhooks']],
  ['Automations', 'Repeated work, and its runs.', ['automations', 'automation-runs', 'inbound']],
  ['Members', 'The members of a site, and invitations.', ['members', 'invitations', 'invitation']],
  ['Access keys', 'Keys for programs.', ['keys']],
  ['Accounts', 'Sessions, passwords and accounts.', ['session', 'account', 'accounts']],
  ['Service', 'The first start, and what the API is, for programs.', ['service', 'openapi.json']],
]

/** The area of a path. @throws Error where a new route has none: it would be in no list. */
function areaOf(path: string): string {
  const [first = '', ...rest] = path
    .replace('/edit/v1/', '')
    .split('/')
    .filter((part) => !part.startsWith('{'))
  const part = first === 'sites' && rest.length > 0 ? rest[0]! : first
  const area = areas.find(([, , parts]) => parts.includes(part))
  if (!area) throw new Error(`No area of the Edit API has \`${part}\`.`)
  return area[0]
}

function operationId({ method, path }: Route): string {
  const words = path
    .replace('/edit/v1/', '')
    .split('/')
    .flatMap((part) => part.replace(/[{}]/g, '').split(/[^A-Za-z0-9]+/))
    .filter(Boolean)
  return [method.toLowerCase(), ...words.map((word) => word[0]!.toUpperCase() + word.slice(1))].join('')
}

/** Operations on an entry that need the version that was read. */
const guardedByETag =
  /^(PATCH|DELETE|POST) \/edit\/v1\/sites\/\{site\}\/entries\/\{id\}(\/(publish|withdraw|archive|reactivate|restore|revisions|place|edits|duplicate|schedule|source))?$/
/** Settings are guarded by their version. */
const settings = ['/edit/v1/sites/{site}/locales', '/edit/v1/sites/{site}/regions']
const region = '/edit/v1/sites/{site}/entries/{id}/region'

const etagHeader: Schema = {
  ETag: { description: 'The version that was read, for `If-Match`.', schema: { type: 'string' } },
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

const dryRun: Schema = {
  name: dryRunHeader,
  in: 'header',
  schema: { type: 'string', enum: ['true', 'false'] },
  description: '`true`: nothing is changed, and the answer is what it would be. Ids and secrets in it are not stored.',
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
    const isGuarded =
      guardedByETag.test(`${method} ${path}`) || (method === 'PUT' && [...settings, region].includes(path))
    const hasETag =
      path === '/edit/v1/sites/{site}/entries/{id}' || settings.includes(path) || (isGuarded && method !== 'PUT')
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
        tags: [areaOf(path)],
        parameters: [
          ...parametersOf(path, route.query),
          ...(route.idempotent ? [idempotencyKey] : []),
          ...(hasDryRun(route) ? [dryRun] : []),
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
  const tags = areas.map(([name, description]) => ({ name, description }))
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
