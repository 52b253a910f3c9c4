import type { Route } from '../kernel/route.js'
import { localeRoutes } from './localeRoutes.js'
import { regionRoutes } from './regionRoutes.js'
import { setUpRoutes } from './setUp.js'
import { siteRoutes as ownRoutes } from './siteRoutes.js'

/** The set-up of a service, its sites, their locales and regions. */
export const siteRoutes: readonly Route[] = [...setUpRoutes, ...ownRoutes, ...localeRoutes, ...regionRoutes]
