import type { Route } from '../kernel/route.js'
import { accountRoutes } from './accountRoutes.js'
import { invitationRoutes } from './invitationRoutes.js'
import { keyRoutes } from './keyRoutes.js'
import { memberRoutes } from './memberRoutes.js'
import { sessionRoutes } from './sessionRoutes.js'

/** Routes of signing in, accounts, members, invitations and keys. */
export const accessRoutes: readonly Route[] = [
  ...sessionRoutes,
  ...accountRoutes,
  ...memberRoutes,
  ...invitationRoutes,
  ...keyRoutes,
]
