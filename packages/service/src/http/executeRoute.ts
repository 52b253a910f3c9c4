import type { IncomingHttpHeaders } from 'node:http'
import type { Readable } from 'node:stream'
import { WisteriaError } from '@wisteria/core'
import type { Site, Transaction } from '@wisteria/store'
import { asksForDryRun, tryOut } from '../kernel/dryRun.js'
import { once, rememberedAs } from './idempotency.js'
import type { Kernel } from '../kernel/kernel.js'
import { permissionOf, requirePermission } from '../kernel/permission.js'
import { readBody, readQuery } from '../kernel/problems.js'
import type { Answer, Route, SiteRequest } from '../kernel/route.js'
import type { Identified } from '../access/memberships.js'
import { attemptsOf } from '../access/attempts.js'

/** A request, from Express or from the front. */
export interface Incoming {
  readonly method: string
  /** Path and query. */
  readonly url: string
  readonly params: Readonly<Record<string, string>>
  readonly query: Readonly<Record<string, unknown>>
  readonly headers: IncomingHttpHeaders
  /** Reads the body, after access is decided: nobody else's body is parsed. */
  readonly body: () => unknown
  readonly file: Readable
  /** The network address that it came from. */
  readonly address: string
}

/**
 * Executes one request of one route: checks access and form, then handles it.
 * @param site undefined where the route has one that does not exist.
 */
export async function executeRoute(
  kernel: Kernel,
  route: Route,
  incoming: Incoming,
  site: Site | undefined,
  { caller, actor }: Identified,
): Promise<Answer> {
  const { params, headers, method, url } = incoming
  if (route.path.includes('{site}') && !site)
    throw new WisteriaError('notFound', `There is no site \`${params['site']!.slice(0, 60)}\`.`)
  // A caller without access does not learn how the request would have been read.
  requirePermission(caller, permissionOf(route, route.permission === 'edition' ? incoming.query : {}), site)
  const isDryRun = asksForDryRun(route, headers['dry-run'])
  const query = readQuery(route.query, incoming.query)
  const sent = route.body ? await incoming.body() : undefined
  if (
    route.body &&
    sent === undefined &&
    headers['content-type'] !== undefined &&
    Number(headers['content-length'] ?? 1) > 0
  )
    throw new WisteriaError(
      'unsupportedMediaType',
      `Send ${(route.bodyTypes ?? ['application/json']).join(' or ')}, not ${String(headers['content-type']).slice(0, 80)}.`,
    )
  const body: unknown = route.body ? readBody(route.body, sent) : undefined
  const key = headers['idempotency-key']
  const remembered = route.idempotent
    ? rememberedAs(typeof key === 'string' ? key : undefined, actor, method, url, body)
    : undefined
  const request: SiteRequest = {
    kernel,
    caller,
    actor,
    site: site!,
    params,
    query,
    body,
    headers,
    file: incoming.file,
    address: incoming.address,
    method,
    url,
    write: (work) =>
      isDryRun
        ? tryOut(kernel, work)
        : kernel.write((transaction: Transaction) => once(kernel, transaction, remembered, () => work(transaction))),
  }
  const handle = () => route.handle(request as SiteRequest<never, never>)
  return route.guarded
    ? attemptsOf(kernel).guard(incoming.address, route.guarded(body as never, caller), handle)
    : handle()
}
