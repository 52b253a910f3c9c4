import { accountRoutes } from '../access/accountRoutes.js'
import { assetRoutes } from '../assets/routes.js'
import { binRoutes } from '../entries/bin.js'
import { bulkRoutes } from '../lists/bulk.js'
import { entryRoutes } from '../entries/routes.js'
import { findingRoutes } from '../lists/finding.js'
import { historyRoutes } from '../entries/history.js'
import { frontEndRoutes } from '../previews/routes.js'
import { localeRoutes } from '../sites/localeRoutes.js'
import { keyRoutes } from '../access/keyRoutes.js'
import { memberRoutes } from '../access/memberRoutes.js'
import { modelRoutes } from '../model/routes.js'
import { scheduleRoutes } from '../publishing/schedules.js'
import { setUpRoutes } from '../sites/setUp.js'
import { siteRoutes } from '../sites/routes.js'
import { treeRoutes } from '../lists/tree.js'
import { viewRoutes } from '../lists/views.js'
import { webhookRoutes } from '../webhooks/routes.js'
import { jobRoutes } from '../jobs/routes.js'
import { graphqlRoutes } from '../read/graphql/route.js'
import { editDocumentRoutes, readDocumentRoutes } from '../openapi/routes.js'
import { changeRoutes } from '../read/changes.js'
import { pathRoutes } from '../read/paths.js'
import { restRoutes } from '../read/rest.js'
import type { Route } from '../kernel/route.js'
import { sessionRoutes } from '../access/sessionRoutes.js'

/** The routes that front ends read by: answered ahead of Express. */
const described: readonly Route[] = [...restRoutes, ...pathRoutes, ...changeRoutes, ...graphqlRoutes]
export const readRoutes: readonly Route[] = [
  ...described,
  ...readDocumentRoutes([...described, ...frontEndRoutes.filter(({ path }) => path.startsWith('/read/'))]),
]

/** Every route of both APIs. */
export const routes: readonly Route[] = [
  ...setUpRoutes,
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
