import type { Route } from '../kernel/route.js'
import { changeRoutes } from './changes.js'
import { graphqlRoutes } from './graphql/route.js'
import { pathRoutes } from './paths.js'
import { restRoutes } from './rest.js'

/** The Read API: entries, paths, changes and GraphQL. */
export const readRoutes: readonly Route[] = [...restRoutes, ...pathRoutes, ...changeRoutes, ...graphqlRoutes]
