import type { Route } from '../kernel/route.js'
import { bulkRoutes } from './bulk.js'
import { findingRoutes } from './finding.js'
import { treeRoutes } from './tree.js'
import { viewRoutes } from './views.js'

/** Lists of entries, bulk actions, saved views and the tree of pages. */
export const listRoutes: readonly Route[] = [...findingRoutes, ...bulkRoutes, ...viewRoutes, ...treeRoutes]
