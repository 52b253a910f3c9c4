import { keyScopes, makeItemId, makeId, WisteriaError } from '@wisteria/core'
import { insertKey, keyOnSite, keysOf, revokeKey, type AccessKey } from '@wisteria/store'
import { z } from 'zod'
import { route, type Route } from '../kernel/route.js'
import { keyMark } from './callers.js'
import { digest, makeSecret } from './secrets.js'

const base = '/edit/v1/sites/{site}/keys'

const keyView = ({ id, label, scope, prefix, createdAt, createdBy, lastUsedAt, revokedAt }: AccessKey) => ({
  id,
  label,
  scope,
  prefix,
  createdAt,
  createdBy,
  lastUsedAt,
  revokedAt,
})

export const keyRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: base,
    summary: 'The access keys of a site: their scopes and when each was last used, to the hour. Never their secrets.',
    permission: 'integration.manage',
    handle: async ({ kernel, site }) => ({ body: { keys: (await keysOf(kernel.database, site.id)).map(keyView) } }),
  }),
  route({
    method: 'POST',
    path: base,
    summary: 'Makes an access key. Its `secret` is in this answer and nowhere else, ever.',
    permission: 'integration.manage',
    body: z.strictObject({ label: z.string().trim().min(1, 'must not be empty').max(120), scope: z.enum(keyScopes) }),
    handle: (request) =>
      request.write(async (transaction) => {
        const prefix = keyMark + makeItemId(request.kernel.environment)
        const secret = `${prefix}_${makeSecret()}`
        const key: AccessKey = {
          id: makeId(request.kernel.environment),
          site: request.site.id,
          ...request.body,
          prefix,
          hash: digest(secret),
          createdAt: request.kernel.at,
          createdBy: request.actor,
          lastUsedAt: null,
          revokedAt: null,
        }
        await insertKey(transaction, key)
        return { status: 201, body: { ...keyView(key), secret } }
      }),
  }),
  route({
    method: 'DELETE',
    path: `${base}/{key}`,
    summary: 'Revokes an access key at once. It cannot be restored.',
    permission: 'integration.manage',
    handle: (request) =>
      request.write(async (transaction) => {
        const id = request.params['key']!
        if (!(await keyOnSite(transaction, request.site.id, id)))
          throw new WisteriaError('notFound', `There is no access key \`${id.slice(0, 60)}\`.`)
        await revokeKey(transaction, id, request.kernel.at)
        return { status: 204 }
      }),
  }),
]
