import { addressOf, type Question } from './question'
import { t } from '../messages'

/** An answer of the Read API, with its headers of interest. */
export interface Told {
  readonly status: number
  readonly isGood: boolean
  readonly text: string
  /** Milliseconds until all of it was here. */
  readonly took: number
  /** Milliseconds that the service took; undefined where the answer came from a cache. */
  readonly served: number | undefined
  /** How the service's own cache had it: `hit`, `stored`, `bypass`. */
  readonly cache: string
  readonly cost: string | null
  readonly bytes: number
  readonly groups: string
}

/** Runs a query with the user's session, or with a key. */
export async function run(question: Question, base: string, key: string): Promise<Told> {
  const began = performance.now()
  const headers: Record<string, string> = key === '' ? {} : { Authorization: `Bearer ${key}` }
  const response = await fetch(base + addressOf(question), {
    headers: { Accept: 'application/json', ...headers },
    credentials: key === '' ? 'same-origin' : 'omit',
    cache: 'no-store',
  })
  const text = await response.text()
  const status = response.headers.get('cache-status') ?? ''
  const served = /dur=([\d.]+)/.exec(response.headers.get('server-timing') ?? '')?.[1]
  return {
    status: response.status,
    isGood: response.ok,
    text: pretty(text),
    took: performance.now() - began,
    served: served === undefined ? undefined : Number(served),
    cache: status.includes('hit')
      ? t('query.cache.hit')
      : status.includes('stored')
        ? t('query.cache.kept')
        : t('query.cache.notKept'),
    cost: response.headers.get('wisteria-cost'),
    bytes: new Blob([text]).size,
    groups: (response.headers.get('cache-groups') ?? '').replaceAll('"', ''),
  }
}

function pretty(text: string): string {
  try {
    return JSON.stringify(JSON.parse(text), null, 2)
  } catch {
    return text
  }
}
