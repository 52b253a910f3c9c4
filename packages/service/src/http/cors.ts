import type { IncomingMessage } from 'node:http'
import type { SiteSnapshot } from './snapshots.js'

/** Headers of answers that pages of front ends may read besides the simple ones. */
const exposed = [
  'Cache-Groups',
  'Cache-Status',
  'ETag',
  'Link',
  'RateLimit',
  'RateLimit-Policy',
  'Request-Id',
  'Retry-After',
  'Server-Timing',
  'Wisteria-Cost',
  'Wisteria-Generation',
].join(', ')

const none: readonly string[] = []

/** CORS headers of an answer: only pages of registered front ends may read it. */
export function corsHead({ headers }: IncomingMessage, snapshot: SiteSnapshot | undefined): readonly string[] {
  const { origin } = headers
  if (origin === undefined || !snapshot?.origins.has(origin)) return none
  return ['Access-Control-Allow-Origin', origin, 'Access-Control-Expose-Headers', exposed]
}

/** The answer to a preflight request; without the origin's header it allows nothing. */
export const preflightHead: readonly string[] = [
  'Access-Control-Allow-Methods', 'GET, HEAD, POST',
  'Access-Control-Allow-Headers', 'Authorization, Content-Type, If-None-Match, Last-Event-ID',
  'Access-Control-Max-Age', '600',
  'Vary', 'Origin, Access-Control-Request-Method, Access-Control-Request-Headers',
  'Cache-Control', 'no-store',
] // prettier-ignore
