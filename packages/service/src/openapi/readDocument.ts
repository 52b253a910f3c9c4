import { entrySchemas, localeTags, maxDepth, typeWithId, type ContentType } from '@wisteria/core'
import { firstPublicRow, type EditionTableRow, type Site } from '@wisteria/store'
import { printEntries } from '../read/entryText.js'
import type { Kernel } from '../kernel/kernel.js'
import type { Route } from '../kernel/route.js'
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

/** What the parameters of reads mean; examples are of the site's own where there are some. */
function parameterSays(
  site: Site,
  type: ContentType | undefined,
  example: Example | undefined,
): Record<string, Schema> {
  const locales = localeTags(site.settings)
  const field = type?.fields.find(({ kind }) => kind === 'text')?.name
  const choice = type?.fields.find(({ kind, many }) => kind === 'choice' && !many)
  const option = (choice?.options['options'] as { value: string }[] | undefined)?.[0]?.value
  const condition = option ? `${choice!.name} = ${JSON.stringify(option)}` : field ? `${field} has value` : undefined
  return {
    where: {
      description: 'A condition that the entries meet.',
      ...(condition ? { examples: { one: { value: condition } } } : {}),
    },
    search: { description: 'Words that the entries hold, by their beginnings or their stems.' },
    sort: {
      description: 'Fields to sort by, also through references (`museum.name`); a minus before one sorts downwards.',
      ...(field ? { examples: { one: { value: `-${field}` } } } : {}),
    },
    limit: { description: 'How many at most.', schema: { type: 'integer', minimum: 1, maximum: 100, default: 20 } },
    after: { description: '`next` of the page before.' },
    count: { description: 'Whether the answer says how many there are in all.', schema: { type: 'boolean' } },
    pick: {
      description:
        'What is wanted of each entry: fields, with what is inside them in parentheses: `title, museum(name, town), body(as: html), cover(w: 640, address)`. `values` then has only that.',
      ...(field ? { examples: { one: { value: field } } } : {}),
    },
    depth: {
      description: 'How far references are followed, where `pick` does not say it. 0 leaves them as id and type.',
      schema: { type: 'integer', minimum: 0, maximum: maxDepth, default: 0 },
    },
    locale: {
      description: `The site's default when left out. \`auto\` takes the one that \`Accept-Language\` likes best.`,
      schema: { type: 'string', enum: [...locales, 'auto'] },
    },
    locales: { description: 'Every locale at once: each entry has its locales in `locales`.' },
    edition: { description: 'Working copies need a key that may read them.' },
    richText: { description: 'The form of structured text where `pick` does not say it.' },
    generation: { description: 'As an event carries it: the answer is no older.' },
    path: { description: 'The path of a page.', ...(example?.path ? { example: example.path } : {}) },
    id: { description: 'The id of an entry.', ...(example ? { example: example.id } : {}) },
    type: {
      description: 'The name of a type.',
      schema: { type: 'string', enum: site.model.types.map(({ name }) => name) },
    },
    since: { description: 'The position of the last answer.', schema: { type: 'integer', minimum: 0 } },
  }
}

interface Example {
  readonly id: string
  readonly path: string | null
  readonly entry: unknown
}

/** The first public entry of each type, as readers get it. */
async function examplesOf(kernel: Kernel, site: Site): Promise<Map<string, Example>> {
  const { defaultLocale } = site.settings
  const rows: EditionTableRow[] = []
  for (const type of site.model.types) {
    const row = await firstPublicRow(kernel.database, site, type.id, defaultLocale)
    if (row) rows.push(row)
  }
  const { texts } = await printEntries(kernel, site, 'published', defaultLocale, rows)
  return new Map(
    rows.map((row, index) => [
      typeWithId(site.model, row.type)!.name,
      { id: row.entry, path: row.path, entry: JSON.parse(texts[index]!) as unknown },
    ]),
  )
}

const ref = (name: string): Schema => ({ $ref: `#/components/schemas/${name}` })
const json = (schema: Schema, example?: unknown): Schema => ({
  'application/json': { schema, ...(example === undefined ? {} : { example }) },
})
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

/** What an answer has: the entry, or, with `locales=every`, the entry in every locale. */
const entryOr = (name: string, more = ''): Schema => ({
  anyOf: [ref(`${name}${more}`), { ...ref(`${name}Everywhere${more}`) }],
})

const pageSchema = (type: ContentType, item: string): Schema => ({
  title: `A page of ${type.name}`,
  type: 'object',
  properties: {
    entries: { type: 'array', items: ref(item) },
    next: { type: ['string', 'null'], description: 'Give it as `after` for the next page; null at the end.' },
    partial: {
      const: true,
      description: 'There where so much was looked at that the page ended before it was full: go on with `next`.',
    },
    count: { type: 'integer', description: 'With `count=true`: how many there are in all.' },
  },
  required: ['entries', 'next'],
  additionalProperties: false,
})

const common = errors('badRequest', 'unauthenticated', 'forbidden', 'notFound', 'tooMany')

/** OpenAPI 3.1 of a site's Read API: its types by name, with examples that are real entries. */
export async function readDocument(kernel: Kernel, site: Site, routes: readonly Route[]): Promise<Schema> {
  const examples = await examplesOf(kernel, site)
  const routeAt = (end: string): Route => routes.find(({ path, method }) => path.endsWith(end) && method === 'GET')!
  const list = routeAt('/entries/{type}')
  const one = routeAt('/entries/{type}/{id}')
  const paths: Record<string, Schema> = {}
  const schemas: Record<string, Schema> = { ...entrySchemas(site.model), Problem: problemSchema }
  const own = (path: string): string => path.replace('/read/v1/{site}', '')
  const operation = (
    route: Route,
    type: ContentType | undefined,
    example: Example | undefined,
    more: Schema,
  ): Schema => ({
    summary: route.summary.split(/[.:]/)[0],
    description: route.summary,
    parameters: parametersOf(own(route.path), route.query, {
      ...parameterSays(site, type, example),
      ...(route.path.endsWith('/paths')
        ? {
            locale: {
              description: 'Lists only the paths of this locale. Without it, the paths of all locales.',
              schema: { type: 'string', enum: localeTags(site.settings) },
            },
          }
        : {}),
    }).filter(({ name, in: place }) => !(place === 'path' && name === 'type' && type)),
    ...more,
    responses: { ...common, ...(more['responses'] as Schema) },
  })
  for (const type of site.model.types) {
    const name = type.graphql.type
    const example = examples.get(type.name)
    const tags = [type.label]
    if (type.cardinality === 'one') {
      paths[`/entries/${type.name}`] = {
        get: operation({ ...list, query: one.query! }, type, example, {
          operationId: `get${name}`,
          summary: `${type.label}, the only entry of its type`,
          tags,
          responses: { 200: { description: 'The entry.', content: json(entryOr(name), example?.entry) } },
        }),
      }
      continue
    }
    schemas[`${name}Page`] = pageSchema(type, name)
    schemas[`${name}EverywherePage`] = pageSchema(type, `${name}Everywhere`)
    paths[`/entries/${type.name}`] = {
      get: operation(list, type, example, {
        operationId: `list${name}`,
        summary: `A page of ${type.label.toLowerCase()}`,
        tags,
        responses: {
          200: {
            description: 'A page of entries.',
            headers: { Link: { description: 'The next and the first page (RFC 8288).', schema: { type: 'string' } } },
            content: json(entryOr(name, 'Page'), example ? { entries: [example.entry], next: null } : undefined),
          },
        },
      }),
    }
    paths[`/entries/${type.name}/{id}`] = {
      get: operation(one, type, example, {
        operationId: `get${name}`,
        summary: `One ${type.label.toLowerCase()} by its id`,
        tags,
        responses: { 200: { description: 'The entry.', content: json(entryOr(name), example?.entry) } },
      }),
    }
  }
  const anyEntry = {
    oneOf: site.model.types.flatMap(({ graphql: { type } }) => [ref(type), ref(`${type}Everywhere`)]),
  }
  const somewhere = [...examples.values()].find(({ path }) => path !== null)
  const simple = (
    end: string,
    operationId: string,
    tag: string,
    schema: Schema,
    description: string,
    example?: unknown,
  ): void => {
    const route = routeAt(end)
    paths[own(route.path)] = {
      get: operation(route, undefined, somewhere, {
        operationId,
        tags: [tag],
        responses: {
          200: { description, content: json(schema, example) },
          ...(end === '/at' || end === '/changes' ? errors('gone') : {}),
        },
      }),
    }
  }
  const object = (properties: Record<string, Schema>): Schema => ({
    type: 'object',
    properties,
    required: Object.keys(properties),
  })
  const text = { type: 'string' }
  const instant = { type: 'string', format: 'date-time' }
  const cursor = { type: ['string', 'null'] }
  simple('/at', 'getAtPath', 'Pages', {
    oneOf: [
      object({ entry: anyEntry }),
      object({ moved: object({ path: text, permanent: { type: 'boolean' } }) }),
    ],
  }, 'The entry at the path, or where it is now.', somewhere && { entry: somewhere.entry }) // prettier-ignore
  simple('/paths', 'listPaths', 'Pages', object({
    paths: { type: 'array', items: object({ path: text, locale: text, contentLocale: text, hidden: { type: 'boolean' }, type: text, id: text, updatedAt: instant }) },
    next: cursor,
  }), 'Paths that can be read now.') // prettier-ignore
  simple('/slugs/{type}', 'listSlugs', 'Pages', object({
    slugs: { type: 'array', items: object({ slug: text, id: text, updatedAt: instant }) },
    next: cursor,
  }), 'Slugs that can be read now.') // prettier-ignore
  simple('/changes', 'listChanges', 'Changes', object({
    changes: {
      type: 'array',
      items: {
        type: 'object',
        properties: {
          position: { type: 'integer' },
          time: instant,
          change: { type: 'string', enum: ['changed', 'removed', 'everything'] },
          entry: object({ id: text, type: text }),
          asset: object({ id: text }),
          locales: { type: 'array', items: text },
          paths: { type: 'object', additionalProperties: object({ from: cursor, to: cursor }) },
          groups: { type: 'array', items: text },
          generation: text,
        },
        required: ['position', 'time', 'change', 'groups', 'generation'],
      },
    },
    position: { type: 'integer' },
    more: { type: 'boolean' },
  }), 'Changes since the position.') // prettier-ignore
  simple('/schema/{file}', 'getSchema', 'Descriptions', { type: 'object' }, 'JSON Schema (2020-12).')
  const graphqlAnswer = {
    200: {
      description: 'The answer, with `data` and `errors` as GraphQL has them.',
      content: json(graphqlSchema),
    },
    400: {
      description: 'A request that is no GraphQL request, told as GraphQL does it; or a wrong parameter.',
      content: { ...json(graphqlSchema), 'application/problem+json': { schema: ref('Problem') } },
    },
  }
  const graphql = routeAt('/graphql')
  paths['/graphql'] = {
    get: operation(graphql, undefined, undefined, {
      operationId: 'askGraphql',
      tags: ['GraphQL'],
      responses: graphqlAnswer,
    }),
    post: operation(graphql, undefined, undefined, {
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
  }
  const grants = routes.find(({ path }) => path.endsWith('/grants'))!
  paths['/grants'] = {
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
  }
  paths['/openapi.json'] = {
    get: {
      operationId: 'getOpenApi',
      summary: 'This document',
      description: 'OpenAPI 3.1 of the Read API of this site, from its model.',
      tags: ['Descriptions'],
      responses: { 200: { description: 'This document.', content: json({ type: 'object' }) }, ...common },
    },
  }
  const tags = [
    ...site.model.types.map((type) => ({
      name: type.label,
      description: type.help ?? `Entries of the type \`${type.name}\`.`,
    })),
    { name: 'Pages', description: 'What stands at which path.' },
    { name: 'Changes', description: 'What changed in public.' },
    { name: 'Previews', description: 'The right to read drafts for a while.' },
    { name: 'GraphQL', description: 'All of it in one question.' },
    { name: 'Descriptions', description: 'What the API is, for programs.' },
  ]
  const unique = [...new Map(tags.map((tag) => [tag.name, tag])).values()]
  return document(
    `${site.settings.label}: reading`,
    `The Read API of ${site.settings.label}. Made from version ${site.model.version} of its model.`,
    `${kernel.baseUrl}/read/v1/${site.name}`,
    {
      ...(site.isOpen ? { security: [{ accessKey: [] }, {}] } : {}),
      tags: unique,
      paths,
      components: { securitySchemes: { accessKey }, responses: errorResponses, schemas },
    },
  )
}
