import type { Schema } from '../parts.js'
import { errors } from '../parts.js'
import { operation, pathIn, routeAt, type Paths, type ReadDocument } from './operation.js'
import { cursor, instant, json, object, ref, text } from './schemas.js'

/** Operations over all types: paths, redirects, slugs, changes, schemas. */
export function pagePaths(of: ReadDocument): Paths {
  const paths: Record<string, Schema> = {}
  const anyEntry = {
    oneOf: of.site.model.types.flatMap(({ graphql: { type } }) => [ref(type), ref(`${type}Everywhere`)]),
  }
  const somewhere = [...of.examples.values()].find(({ path }) => path !== null)
  const simple = (
    end: string,
    operationId: string,
    tag: string,
    schema: Schema,
    description: string,
    example?: unknown,
  ): void => {
    const route = routeAt(of, end)
    paths[pathIn(route)] = {
      get: operation(of, route, undefined, somewhere, {
        operationId,
        tags: [tag],
        responses: {
          200: { description, content: json(schema, example) },
          ...(end === '/at' || end === '/changes' ? errors('gone') : {}),
        },
      }),
    }
  }
  simple(
    '/at',
    'getAtPath',
    'Pages',
    {
      oneOf: [object({ entry: anyEntry }), object({ moved: object({ path: text, permanent: { type: 'boolean' } }) })],
    },
    'The entry at the path, or where it is now.',
    somewhere && { entry: somewhere.entry },
  )
  simple(
    '/search',
    'search',
    'Search',
    object({
      results: {
        type: 'array',
        items: object({
          entry: { oneOf: of.site.model.types.map(({ graphql: { type } }) => ref(type)) },
          highlights: {
            type: 'array',
            items: object({
              field: text,
              text,
              marks: { type: 'array', items: { type: 'array', items: { type: 'integer' }, minItems: 2, maxItems: 2 } },
            }),
          },
        }),
      },
    }),
    'Entries, best first, with pieces of their texts. `marks` are the places of the words in `text`: start and end.',
  )
  simple(
    '/paths',
    'listPaths',
    'Pages',
    object({
      paths: {
        type: 'array',
        items: object(
          {
            path: text,
            locale: text,
            contentLocale: text,
            hidden: { type: 'boolean' },
            type: text,
            id: text,
            updatedAt: instant,
          },
          { region: text },
        ),
      },
      next: cursor,
    }),
    'Paths that can be read now.',
  )
  simple(
    '/redirects',
    'listRedirects',
    'Pages',
    object({
      redirects: {
        type: 'array',
        items: object({
          from: text,
          to: text,
          locale: text,
          type: text,
          id: text,
          permanent: { const: true },
          since: instant,
        }),
      },
      next: cursor,
    }),
    'Paths that lead elsewhere now.',
  )
  simple(
    '/slugs/{type}',
    'listSlugs',
    'Pages',
    object({
      slugs: { type: 'array', items: object({ slug: text, id: text, updatedAt: instant }) },
      next: cursor,
    }),
    'Slugs that can be read now.',
  )
  simple(
    '/changes',
    'listChanges',
    'Changes',
    object({
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
    }),
    'Changes since the position.',
  )
  simple('/schema/{file}', 'getSchema', 'Descriptions', { type: 'object' }, 'JSON Schema (2020-12).')
  return paths
}
