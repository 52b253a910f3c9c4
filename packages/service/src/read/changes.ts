import { publicChangeOf, WisteriaError, type PublicChange } from '@wisteria/core'
import type { IncomingHttpHeaders } from 'node:http'
import { logBounds, publicEventsBetween, siteWithId, type Site } from '@wisteria/store'
import { z } from 'zod'
import type { Kernel } from '../kernel/kernel.js'
import { requirePermission } from '../kernel/permission.js'
import { route, type Answer, type Route, type SiteRequest } from '../kernel/route.js'
import { identify } from '../access/callers.js'
import { wholeNumber } from './listQuery.js'
import { readBase } from './rest.js'

const maxChanges = 500
/** Events read for one answer: most of them are about working copies, and are not public. */
const maxLookedAt = 20_000
/** Streams at a time: each reads the log after every commit. */
const maxStreams = 500
const maxStreamsOfOne = 32
const heartbeat = 15_000
/** A stream ends after a while, since proxies and phones drop connections silently; clients connect again. */
const longestStream = 300_000

interface Changes {
  readonly changes: readonly PublicChange[]
  /** Where to ask on from. */
  readonly position: number
  readonly more: boolean
}

/** @throws WisteriaError `gone` where the position is older than the event log. */
async function changesSince(kernel: Kernel, site: string, since: number, first: number): Promise<Changes> {
  const { newest, oldest, next } = await logBounds(kernel.database, site, since)
  if (since > newest)
    throw new WisteriaError('badRequest', `\`since\`: position ${since} has not been reached; the newest is ${newest}.`)
  if (since + 1 < (oldest ?? 1))
    throw new WisteriaError(
      'gone',
      `Changes since position ${since} are no longer kept. Read everything again, and continue from ${newest}.`,
    )
  // Numbers leap where the data was restored from a copy.
  const end = Math.min(newest, (next ?? since) + maxLookedAt)
  const events = await publicEventsBetween(kernel.database, site, since, end, first + 1)
  const changes = events.slice(0, first).map(publicChangeOf)
  const isCut = events.length > first
  return { changes, position: isCut ? changes.at(-1)!.position : end, more: isCut || end < newest }
}

/** How many streams each caller has open. */
const streams = new Map<string, number>()
const openStreams = (): number => [...streams.values()].reduce((sum, count) => sum + count, 0)

/** Changes as server-sent events (WHATWG HTML): those since the position, then new ones. */
async function* follow(
  kernel: Kernel,
  site: Site,
  since: number,
  who: string,
  mayStill: () => Promise<boolean>,
  gone: AbortSignal,
): AsyncGenerator<string> {
  const signal = AbortSignal.any([kernel.ending.signal, gone])
  streams.set(who, (streams.get(who) ?? 0) + 1)
  const ends = kernel.now + longestStream
  let position = since
  let isNews = true
  let wake = (): void => undefined
  const woken = (): void => {
    isNews = true
    wake()
  }
  const forget = kernel.onCommitted(woken)
  signal.addEventListener('abort', woken, { once: true })
  try {
    yield 'retry: 3000\n\n'
    while (!signal.aborted && kernel.now < ends) {
      if (isNews) {
        isNews = false
        // Whatever changed may be the right to hear of it.
        if (!(await mayStill())) return
        const changes = await changesSince(kernel, site.id, position, maxChanges)
        position = changes.position
        isNews ||= changes.more
        const told = changes.changes.map(
          (change) => `id: ${change.position}\nevent: ${change.change}\ndata: ${JSON.stringify(change)}\n\n`,
        )
        if (told.length > 0) yield told.join('')
        continue
      }
      const waited = await new Promise<boolean>((resolve) => {
        const timer = setTimeout(() => resolve(true), heartbeat)
        wake = () => {
          clearTimeout(timer)
          resolve(false)
        }
      })
      // An empty event keeps the connection open, and gives the next position.
      if (waited) yield `: ${position}\n\n`
    }
  } finally {
    const left = (streams.get(who) ?? 1) - 1
    if (left > 0) streams.set(who, left)
    else streams.delete(who)
    forget()
    signal.removeEventListener('abort', woken)
  }
}

/** Whether the sender of some headers may read the published edition of a site now. */
async function mayRead(kernel: Kernel, id: string, headers: IncomingHttpHeaders): Promise<boolean> {
  try {
    const site = await siteWithId(kernel.database, id)
    const { caller } = await identify(kernel, headers, 'GET', site)
    requirePermission(caller, 'published.read', site)
    return true
  } catch (error) {
    if (error instanceof WisteriaError) return false
    throw error
  }
}

function startStream(request: SiteRequest<unknown, unknown>, since: number | undefined): Answer {
  const { kernel, site, headers, caller, actor, address } = request
  const who = caller.is === 'nobody' ? address : actor
  if ((streams.get(who) ?? 0) >= maxStreamsOfOne)
    throw new WisteriaError(
      'tooMany',
      `You have ${maxStreamsOfOne} streams open already. Close one, or ask without a stream.`,
    )
  if (openStreams() >= maxStreams)
    throw new WisteriaError('unavailable', `${maxStreams} streams are open already: ask now and then instead.`)
  const last = headers['last-event-id']
  const from = typeof last === 'string' && /^\d{1,12}$/.test(last) ? Number(last) : (since ?? site.sequence)
  return {
    stream: (gone) => follow(kernel, site, from, who, () => mayRead(kernel, site.id, headers), gone),
    headers: { 'Content-Type': 'text/event-stream; charset=utf-8', 'X-Accel-Buffering': 'no' },
  }
}

export const changeRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: `${readBase}/changes`,
    summary:
      'Public changes `since` a position, and the next position; without `since`, only that. As server-sent events when `Accept` says `text/event-stream`. 410 when the position is older than the event log.',
    permission: 'published.read',
    query: z.object({
      since: wholeNumber(0, 999_999_999_999).optional(),
      first: wholeNumber(1, maxChanges).default(100),
    }),
    handle: async (request) => {
      const { kernel, site, query, headers } = request
      if (/\btext\/event-stream\b/i.test(headers.accept ?? '')) {
        // An impossible position is refused before the stream begins.
        if (query.since !== undefined) await changesSince(kernel, site.id, query.since, 1)
        return startStream(request, query.since)
      }
      const since = query.since ?? site.sequence
      return { body: await changesSince(kernel, site.id, since, query.first) }
    },
  }),
]
