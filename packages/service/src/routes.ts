import { accountRoutes } from './accounts/routes.js'
import { assetRoutes } from './assets/routes.js'
import { binRoutes } from './edit/bin.js'
import { bulkRoutes } from './edit/bulk.js'
import { entryRoutes } from './edit/entries.js'
import { findingRoutes } from './edit/finding.js'
import { historyRoutes } from './edit/history.js'
import { frontEndRoutes } from './edit/frontEnds.js'
import { localeRoutes } from './edit/locales.js'
import { keyRoutes } from './edit/keys.js'
import { memberRoutes } from './edit/members.js'
import { modelRoutes } from './edit/model.js'
import { scheduleRoutes } from './edit/schedules.js'
import { siteRoutes } from './edit/sites.js'
import { treeRoutes } from './edit/tree.js'
import { viewRoutes } from './edit/views.js'
import { webhookRoutes } from './edit/webhooks.js'
import { jobRoutes } from './jobs/routes.js'
import { graphqlRoutes } from './read/graphql/route.js'
import { editDocumentRoutes, readDocumentRoutes } from './openapi/routes.js'
import { changeRoutes } from './read/changes.js'
import { pathRoutes } from './read/paths.js'
import { restRoutes } from './read/rest.js'
import type { Route } from './route.js'
import { sessionRoutes } from './sessions/routes.js'

/** The routes that front ends read by: answered ahead of Express. */
const described: readonly Route[] = [...restRoutes, ...pathRoutes, ...changeRoutes, ...graphqlRoutes]
export const readRoutes: readonly Route[] = [
  ...described,
  ...readDocumentRoutes([...described, ...frontEndRoutes.filter(({ path }) => path.startsWith('/read/'))]),
]

/** Every route of both APIs. */
export const routes: readonly Route[] = [
  ...sessionRoutes,
  ...accountRoutes,
  ...siteRoutes,
  ...localeRoutes,
  ...modelRoutes,
  ...jobRoutes,
  ...findingRoutes,
  ...bulkRoutes,
  ...entryRoutes,
  ...scheduleRoutes,
  ...binRoutes,
  ...viewRoutes,
  ...treeRoutes,
  ...historyRoutes,
  ...assetRoutes,
  ...memberRoutes,
  ...keyRoutes,
  ...frontEndRoutes,
  ...webhookRoutes,
  ...readRoutes,
  ...editDocumentRoutes(() => routes),
]
