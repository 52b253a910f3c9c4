import { decide, regionOf, WisteriaError, type Caller, type Permission, type Resource } from '@wisteria/core'
import type { Site, WorkingCopy } from '@wisteria/store'
import type { Route } from './route.js'

/** The permission that a request of a route needs: with `edition` it depends on the edition in the request. */
export const permissionOf = (route: Route, query: unknown): Permission =>
  route.permission !== 'edition'
    ? route.permission
    : (query as { edition?: string }).edition === 'draft'
      ? 'draft.read'
      : 'published.read'

/** @throws WisteriaError `unauthenticated` or `forbidden`, saying why. */
export function requirePermission(caller: Caller, permission: Permission, site: Site | undefined): void {
  requireMay(caller, permission, { siteIsOpen: site?.isOpen })
}

/** @throws WisteriaError `unauthenticated` or `forbidden`, where a caller may not do that to this. */
export function requireMay(caller: Caller, permission: Permission, resource: Resource): void {
  const decision = decide(caller, permission, resource)
  if (!decision.allowed)
    throw new WisteriaError(caller.is === 'nobody' ? 'unauthenticated' : 'forbidden', decision.because!)
}

/** An entry as the resource of a permission. */
export const onEntry = ({ type, region }: Pick<WorkingCopy, 'type' | 'region'>): Resource => ({
  type: type.name,
  region: regionOf(type, region),
})
