import { accessRoutes } from './access/routes.js'
import { archiveRoutes } from './archives/routes.js'
import { assetRoutes } from './assets/routes.js'
import { copyRoutes } from './copying/routes.js'
import { counterpartRoutes } from './counterparts/routes.js'
import { entryRoutes } from './entries/routes.js'
import { jobRoutes } from './jobs/routes.js'
import type { Route } from './kernel/route.js'
import { listRoutes } from './lists/routes.js'
import { modelRoutes } from './model/routes.js'
import { editDocumentRoutes, readDocumentRoutes } from './openapi/routes.js'
import { frontEndRoutes } from './previews/routes.js'
import { connectorRoutes } from './ordering/connectorRoutes.js'
import { orderRoutes } from './ordering/orderRoutes.js'
import { scheduleRoutes } from './publishing/schedules.js'
import { readRoutes as described } from './read/routes.js'
import { siteRoutes } from './sites/routes.js'
import { importRoutes } from './imports/routes.js'
import { translationFileRoutes } from './translations/fileRoutes.js'
import { translationHelpRoutes } from './translations/helpRoutes.js'
import { translationRoutes } from './translations/routes.js'
import { automationRoutes } from './automations/routes.js'
import { webhookRoutes } from './webhooks/routes.js'

/** The routes that front ends read by: answered ahead of Express. */
export const readRoutes: readonly Route[] = [
  ...described,
  ...readDocumentRoutes([...described, ...frontEndRoutes.filter(({ path }) => path.startsWith('/read/'))]),
]

/** Every route of both APIs, room by room. */
export const routes: readonly Route[] = [
  ...siteRoutes,
  ...archiveRoutes,
  ...accessRoutes,
  ...modelRoutes,
  ...jobRoutes,
  ...listRoutes,
  ...entryRoutes,
  ...scheduleRoutes,
  ...translationRoutes,
  ...importRoutes,
  ...translationFileRoutes,
  ...translationHelpRoutes,
  ...connectorRoutes,
  ...orderRoutes,
  ...copyRoutes,
  ...counterpartRoutes,
  ...assetRoutes,
  ...frontEndRoutes,
  ...webhookRoutes,
  ...automationRoutes,
  ...readRoutes,
  ...editDocumentRoutes(() => routes),
]
