import type { Route } from '../kernel/route.js'
import { changeRoutes } from './changes.js'
import { graphqlRoutes } from './graphql/route.js'
import { pathRoutes } from './paths.js'
import { restRoutes } from './rest.js'
import { searchRoutes } from './search.js'

/** The Read API: entries, search, paths, changes and GraphQL. */
export const readRoutes: readonly Route[] = [
  ...restRoutes,
  ...searchRoutes,
  ...pathRoutes,
  ...changeRoutes,
  ...graphqlRoutes,
]
