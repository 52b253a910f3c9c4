import { createHash } from 'node:crypto'
import type { Dependences } from '@wisteria/core'
import type { Edition, Site } from '@wisteria/store'
import type { Answer } from '../kernel/route.js'

export interface ReadAnswer {
  readonly status?: number
  readonly text: string
  readonly edition: Edition
  readonly depends: Dependences
  /** When it may change with the time, in milliseconds since the epoch; 0 where that is unknown, Infinity where it does not. */
  readonly until?: number
  readonly type?: string
  /** Its cost: entries that were read, or fields as GraphQL counts them. */
  readonly cost?: number
  /** The locale that all of it is in. */
  readonly locale?: string | undefined
  /** Further headers of the request that it depends on. */
  readonly vary?: readonly string[]
  /** Relations to other addresses (RFC 8288), by name. */
  readonly links?: Readonly<Record<string, string | undefined>>
}

/** The headers of a request that every answer of the Read API depends on, refusals too. */
export const readVary = 'Authorization, Accept-Encoding, Origin'

/** An answer of the Read API, with everything that caches need: a strong ETag, its groups, its expiry. */
export function readAnswer(site: Site, answer: ReadAnswer): Answer {
  const { text, edition, depends, status = 200, until = Infinity } = answer
  const headers: Record<string, string> = { 'Content-Type': answer.type ?? 'application/json; charset=utf-8' }
  if (edition === 'draft') headers['Cache-Control'] = 'no-store'
  else {
    // Cached, but revalidated each time, and never longer than it is valid; not cached where that is unknown.
    headers['Cache-Control'] = until === 0 ? 'no-store' : `${site.isOpen ? 'public' : 'private'}, no-cache`
    if (until > 0 && until < Infinity) headers['Expires'] = new Date(Math.floor(until / 1000) * 1000).toUTCString()
    headers['Cache-Groups'] = groupHeader(depends.groups())
    headers['Wisteria-Generation'] = site.publicGeneration
  }
  headers['Vary'] = [readVary, ...(answer.vary ?? [])].join(', ')
  if (answer.locale !== undefined) headers['Content-Language'] = answer.locale
  if (answer.cost !== undefined) headers['Wisteria-Cost'] = String(answer.cost)
  const links = Object.entries(answer.links ?? {}).filter(([, address]) => address !== undefined)
  if (links.length > 0)
    headers['Link'] = links.map(([relation, address]) => `<${address}>; rel="${relation}"`).join(', ')
  if (status !== 200) return { status, text, headers }
  headers['ETag'] = strongTag(text)
  return { status, text, headers, ...(edition === 'published' ? { keptUntil: until } : {}) }
}

/** A strong ETag (RFC 9110) of some bytes. */
export const strongTag = (text: string): string =>
  `"${createHash('sha256').update(text).digest('base64url').slice(0, 27)}"`

/** RFC 9875: a structured list of strings. */
export const groupHeader = (names: readonly string[]): string => names.map((name) => `"${name}"`).join(', ')
