import type { Route } from '../kernel/route.js'
import { localeRoutes } from './localeRoutes.js'
import { setUpRoutes } from './setUp.js'
import { siteRoutes as ownRoutes } from './siteRoutes.js'

/** The set-up of a service, its sites and their locales. */
export const siteRoutes: readonly Route[] = [...setUpRoutes, ...ownRoutes, ...localeRoutes]
