import type { Route } from '../kernel/route.js'
import { binRoutes } from './bin.js'
import { entryRoutes as ownRoutes } from './entryRoutes.js'
import { historyRoutes } from './history.js'

/** One entry: its working copy, its history, the bin. */
export const entryRoutes: readonly Route[] = [...ownRoutes, ...historyRoutes, ...binRoutes]
