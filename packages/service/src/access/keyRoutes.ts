import { keyScopes, makeHandle, makeId, WisteriaError } from '@wisteria/core'
import type { AccessKeyRow } from '@wisteria/store'
import { z } from 'zod'
import { route, type Route } from '../kernel/route.js'
import { keyMark } from './callers.js'
import { digest, makeSecret } from './secrets.js'

const base = '/edit/v1/sites/{site}/keys'

const keyView = (row: AccessKeyRow) => ({
  id: row.id, label: row.label, scope: row.scope, prefix: row.prefix, createdAt: row.created_at, createdBy: row.created_by, lastUsedAt: row.last_used_at, revokedAt: row.revoked_at,
}) // prettier-ignore

export const keyRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: base,
    summary: 'The access keys of a site: their scopes and when each was last used, to the hour. Never their secrets.',
    permission: 'integration.manage',
    handle: async ({ kernel, site }) => {
      const rows = await kernel.database.all<AccessKeyRow>(
        'select * from access_keys where site = ? order by created_at, id',
        [site.id],
      )
      return { body: { keys: rows.map(keyView) } }
    },
  }),
  route({
    method: 'POST',
    path: base,
    summary: 'Makes an access key. Its `secret` is in this answer and nowhere else, ever.',
    permission: 'integration.manage',
    body: z.strictObject({ label: z.string().trim().min(1, 'must not be empty').max(120), scope: z.enum(keyScopes) }),
    handle: (request) =>
      request.write(async ({ tables }) => {
        const prefix = keyMark + makeHandle(request.kernel.environment)
        const secret = `${prefix}_${makeSecret()}`
        const row: AccessKeyRow = {
          id: makeId(request.kernel.environment), site: request.site.id, ...request.body, prefix, hash: digest(secret),
          created_at: request.kernel.at, created_by: request.actor, last_used_at: null, revoked_at: null,
        } // prettier-ignore
        await tables.access_keys.create(row)
        return { status: 201, body: { ...keyView(row), secret } }
      }),
  }),
  route({
    method: 'DELETE',
    path: `${base}/{key}`,
    summary: 'Revokes an access key, at once and for good.',
    permission: 'integration.manage',
    handle: (request) =>
      request.write(async (transaction) => {
        const id = request.params['key']!
        const rows = await transaction.all('select 1 from access_keys where site = ? and id = ?', [request.site.id, id])
        if (rows.length === 0) throw new WisteriaError('notFound', `There is no access key \`${id.slice(0, 60)}\`.`)
        await transaction.run('update access_keys set revoked_at = coalesce(revoked_at, ?) where id = ?', [
          request.kernel.at,
          id,
        ])
        return { status: 204 }
      }),
  }),
]
