import { localeTags, type ContentType } from '@wisteria/core'
import type { Site } from '@wisteria/store'
import type { Route } from '../../kernel/route.js'
import { errors, parametersOf, type Schema } from '../parts.js'
import type { Example } from './examples.js'
import { parameterDescriptions } from './parameters.js'

/** The inputs of a site's document. */
export interface ReadDocument {
  readonly site: Site
  readonly routes: readonly Route[]
  /** By type, for types with a public entry. */
  readonly examples: ReadonlyMap<string, Example>
}

/** Paths of the document, with their operations by method. */
export type Paths = Readonly<Record<string, Schema>>

/** The GET route with this ending. */
export const routeAt = ({ routes }: ReadDocument, end: string): Route =>
  routes.find(({ path, method }) => path.endsWith(end) && method === 'GET')!

/** The path of a route in the document of one site. */
export const pathIn = ({ path }: Route): string => path.replace('/read/v1/{site}', '')

/** The errors that any operation may answer with. */
export const common = errors('badRequest', 'unauthenticated', 'forbidden', 'notFound', 'tooMany')

/** The operation of a route: its description, parameters and answers. */
export function operation(
  { site }: ReadDocument,
  route: Route,
  type: ContentType | undefined,
  example: Example | undefined,
  more: Schema,
): Schema {
  return {
    summary: route.summary.split(/[.:]/)[0],
    description: route.summary,
    parameters: parametersOf(pathIn(route), route.query, {
      ...parameterDescriptions(site, type, example),
      ...(/\/(paths|redirects)$/.test(route.path)
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
  }
}
