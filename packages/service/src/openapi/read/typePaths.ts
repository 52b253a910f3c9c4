import type { ContentType } from '@wisteria/core'
import type { Schema } from '../parts.js'
import { operation, routeAt, type Paths, type ReadDocument } from './operation.js'
import { json, ref } from './schemas.js'

/** The answer: the entry, or, with `locales=every`, the entry in every locale. */
const entryOr = (name: string, more = ''): Schema => ({
  anyOf: [ref(`${name}${more}`), { ...ref(`${name}Everywhere${more}`) }],
})

const pageSchema = (type: ContentType, item: string): Schema => ({
  title: `Page of ${type.name}`,
  type: 'object',
  properties: {
    entries: { type: 'array', items: ref(item) },
    next: { type: ['string', 'null'], description: 'Give it as `after` for the next page; null at the end.' },
    partial: {
      const: true,
      description: 'There where so much was looked at that the page ended before it was full: go on with `next`.',
    },
    count: { type: 'integer', description: 'With `count=true`: the total number of entries.' },
  },
  required: ['entries', 'next'],
  additionalProperties: false,
})

/** Operations on the entries of one type, with the schemas of their pages. */
export function typePaths(of: ReadDocument, type: ContentType): { paths: Paths; schemas: Record<string, Schema> } {
  const list = routeAt(of, '/entries/{type}')
  const route = routeAt(of, '/entries/{type}/{id}')
  const paths: Record<string, Schema> = {}
  const schemas: Record<string, Schema> = {}
  const name = type.graphql.type
  const example = of.examples.get(type.name)
  const tags = [type.label]
  if (type.cardinality === 'one') {
    paths[`/entries/${type.name}`] = {
      get: operation(of, { ...list, query: route.query! }, type, example, {
        operationId: `get${name}`,
        summary: `${type.label}, the only entry of its type`,
        tags,
        responses: { 200: { description: 'The entry.', content: json(entryOr(name), example?.entry) } },
      }),
    }
    return { paths, schemas }
  }
  schemas[`${name}Page`] = pageSchema(type, name)
  schemas[`${name}EverywherePage`] = pageSchema(type, `${name}Everywhere`)
  paths[`/entries/${type.name}`] = {
    get: operation(of, list, type, example, {
      operationId: `list${name}`,
      summary: `${type.label}: a page of entries`,
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
    get: operation(of, route, type, example, {
      operationId: `get${name}`,
      summary: `${type.label}: one entry by its id`,
      tags,
      responses: { 200: { description: 'The entry.', content: json(entryOr(name), example?.entry) } },
    }),
  }
  return { paths, schemas }
}
