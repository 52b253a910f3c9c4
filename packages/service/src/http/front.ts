import type { IncomingMessage, RequestListener, ServerResponse } from 'node:http'
import { performance } from 'node:perf_hooks'
import { parse as parseQuery } from 'node:querystring'
import { decide, makeId, WisteriaError } from '@wisteria/core'
import type { Kernel } from '../kernel/kernel.js'
import { meetsIfNoneMatch } from '../kernel/entityTags.js'
import { readVary, strongTag } from '../read/answers.js'
import { requireGeneration } from '../read/reading.js'
import type { Answer, Route } from '../kernel/route.js'
import { bytesOf, errorAnswer, dataHead, sendStream, statusOf } from './sending.js'
import { executeRoute } from './executeRoute.js'
import type { Identified } from '../access/memberships.js'
import { addressOf } from '../kernel/addresses.js'
import { readText } from './readBodies.js'
import { corsHead, preflightHead } from './cors.js'
import { compress, encodingFor, shortest, tagOf } from './encoding.js'
import type { Metrics } from './metrics.js'
import { RateLimiter } from '../kernel/rateLimiter.js'
import { ResponseCache, type CachedAnswer, type Form } from './responseCache.js'
import { Routing, type Matched } from './routing.js'
import { Snapshots, type SiteSnapshot } from './snapshots.js'
import { FairQueue } from '../kernel/fairQueue.js'
import { fieldReadsOf, type FieldReads } from '../read/fieldReads.js'
import { metricsOf } from './metrics.js'

const base = '/read/v1/'
/** More statements at once only make each of them slower. */
const atOnce = 16
const maxWaiting = 2_000
/** GraphQL by POST is cached by its text, if it is short enough to be sent again by a program. */
const longestKeptBody = 20_000

/** One request while it is answered. */
interface Reading {
  readonly request: IncomingMessage
  readonly response: ServerResponse
  readonly url: string
  readonly snapshot: SiteSnapshot | undefined
  readonly identified: Identified
  /** Headers of every answer to it: CORS, and the rest of the caller's quota. */
  readonly head: readonly string[]
}

/**
 * Answers reads before Express sees them: recent answers from memory, the rest by the same table of routes. Everything else is
 * passed to Express.
 */
export class Front {
  readonly #kernel: Kernel
  readonly #others: RequestListener
  readonly #routing: Routing
  readonly #snapshots: Snapshots
  readonly #cache: ResponseCache
  readonly #rateLimiter: RateLimiter
  readonly #queue = new FairQueue(atOnce, maxWaiting)
  readonly #metrics: Metrics
  readonly #fieldReads: FieldReads

  /** @param reads the routes that are answered here; the rest is `others`' business. */
  constructor(kernel: Kernel, reads: readonly Route[], others: RequestListener) {
    this.#kernel = kernel
    this.#others = others
    this.#routing = new Routing(reads)
    this.#snapshots = new Snapshots(kernel)
    this.#cache = new ResponseCache(kernel.options.responseCache * 1_000_000)
    this.#rateLimiter = new RateLimiter(kernel.options.readRate, () => kernel.now)
    this.#metrics = metricsOf(kernel)
    this.#fieldReads = fieldReadsOf(kernel)
    this.#metrics.watch('wisteria_response_cache_bytes', 'Bytes of cached answers.', () => this.#cache.bytes)
    this.#metrics.watch('wisteria_reads_waiting', 'Reads that wait for their turn.', () => this.#queue.waiting)
  }

  readonly listen: RequestListener = (request, response) => {
    if (request.url!.includes('%00')) return this.#refuse(request, response, [], nothingAt(request.url!))
    if (!request.url!.startsWith(base)) return this.#others(request, response)
    try {
      const name = siteIn(request.url!)
      const snapshot = this.#snapshots.site(name)
      if (snapshot instanceof Promise) return void this.#later(request, response, name, snapshot)
      const identified = this.#snapshots.caller(request.headers, request.method!, name, snapshot?.site)
      if (identified instanceof Promise)
        return void this.#later(request, response, name, Promise.resolve(snapshot), identified)
      this.#read(request, response, snapshot, identified)
    } catch (error) {
      this.#refuse(request, response, [], error)
    }
  }

  async #later(
    request: IncomingMessage,
    response: ServerResponse,
    name: string,
    coming: Promise<SiteSnapshot | undefined>,
    who?: Promise<Identified>,
  ): Promise<void> {
    let head: readonly string[] = []
    try {
      const snapshot = await coming
      head = corsHead(request, snapshot)
      const identified = await (who ?? this.#snapshots.caller(request.headers, request.method!, name, snapshot?.site))
      this.#read(request, response, snapshot, identified)
    } catch (error) {
      this.#refuse(request, response, head, error)
    }
  }

  #read(
    request: IncomingMessage,
    response: ServerResponse,
    snapshot: SiteSnapshot | undefined,
    identified: Identified,
  ): void {
    const url = request.url!
    const cors = corsHead(request, snapshot)
    if (request.method === 'OPTIONS' && request.headers['access-control-request-method'] !== undefined)
      return void response.writeHead(204, [...dataHead, ...cors, ...preflightHead] as string[]).end()
    const who = whoAsks(addressOf(request, this.#kernel.trusted), identified)
    const quota = this.#rateLimiter.take(who)
    const head = quota ? [...cors, ...quota.head] : cors
    const reading: Reading = { request, response, url, snapshot, identified, head }
    if (quota?.isOver) {
      const error = new WisteriaError(
        'tooMany',
        `This is more than ${this.#kernel.options.readRate} requests a minute.`,
      )
      return this.#refuse(request, response, [...head, 'Retry-After', String(quota.seconds)], error)
    }
    const isPlain = request.method === 'GET' || request.method === 'HEAD'
    if (isPlain && snapshot && mayRead(identified, snapshot)) {
      const name = nameOf(snapshot, request, url)
      const cached = this.#cache.get(name)
      if (cached && cached.until > this.#kernel.now) return this.#sendCached(reading, name, cached, 'wisteria; hit')
    }
    void this.#answer(reading, who)
  }

  async #answer(reading: Reading, who: string): Promise<void> {
    const { request, response, url, head } = reading
    try {
      const matched = this.#routing.match(request.method!, url)
      if (!matched) {
        // Requests that are no reads, such as exchanging a preview code, are served by Express; pages of front ends may send them
        // too.
        for (let index = 0; index < head.length; index += 2) response.setHeader(head[index]!, head[index + 1]!)
        return this.#others(request, response)
      }
      const text = matched.route.body ? await readText(request) : undefined
      const { snapshot, identified } = reading
      const names = snapshot ? namesOf(snapshot, request, url, text) : []
      if (text !== undefined && snapshot && mayRead(identified, snapshot)) {
        const cached = names.length > 0 ? this.#cache.get(names[0]!) : undefined
        if (cached && cached.until > this.#kernel.now)
          return this.#sendCached(reading, names[0], cached, 'wisteria; hit')
      }
      const stream = await this.#queue.run(who, () => this.#fresh(reading, matched, text, names))
      // A stream lasts for minutes, so it takes no place in the queue.
      if (stream) await sendStream(response, stream)
    } catch (error) {
      this.#refuse(request, response, head, error)
    }
  }

  async #fresh(
    reading: Reading,
    { route, params, path }: Matched,
    text: string | undefined,
    names: readonly string[],
  ): Promise<Answer['stream']> {
    const began = performance.now()
    const { request, response, url, snapshot, identified, head } = reading
    const query = parseQuery(url.slice(path.length + 1)) as Record<string, unknown>
    if (snapshot) requireGeneration(snapshot.site, query['generation'])
    const { 'if-none-match': _, ...headers } = request.headers
    // An object for this request alone, so that its reads are kept apart.
    const caller = { ...identified.caller }
    const reads = this.#fieldReads.record(caller)
    const { method } = request
    const incoming = {
      method: method === 'HEAD' ? 'GET' : method!,
      url,
      params,
      query,
      headers,
      body: () => text,
      file: request,
      address: addressOf(request, this.#kernel.trusted),
    }
    const answer = await executeRoute(this.#kernel, route, incoming, snapshot?.site, { ...identified, caller })
    const took = performance.now() - began
    this.#metrics.took(took)
    this.#kernel.logger.debug({ method, path, took }, 'read')
    const headPairs = [...dataHead, ...Object.entries(answer.headers ?? {}).flat()]
    const sent = [...head, 'Server-Timing', `read;dur=${took.toFixed(2)}`]
    if (answer.stream) {
      response.writeHead(200, [...headPairs, ...sent, 'Cache-Control', 'no-store', ...this.#requestId()] as string[])
      if (method !== 'HEAD') return answer.stream
      response.end()
      return undefined
    }
    const bytes = bytesOf(answer)
    const status = statusOf(answer)
    const tag = status === 200 ? (answer.headers?.['ETag'] ?? strongTag(bytes.toString())) : undefined
    if (!answer.headers?.['Cache-Control']) headPairs.push('Cache-Control', 'no-store')
    if (!answer.headers?.['Content-Type'] && bytes.length > 0)
      headPairs.push('Content-Type', 'application/json; charset=utf-8')
    if (tag === undefined) {
      response.writeHead(status, [
        ...headPairs,
        ...sent,
        'Content-Length',
        String(bytes.length),
        ...this.#requestId(),
      ] as string[])
      response.end(method === 'HEAD' ? undefined : bytes)
      return undefined
    }
    const form = cachedForm(headPairs, bytes, tag, answer, reads)
    const isKept = form.until > this.#kernel.now && this.#cache.set(names, form)
    const how = isKept ? 'wisteria; fwd=uri-miss; stored' : 'wisteria; fwd=bypass'
    this.#sendCached({ ...reading, head: sent }, isKept ? names[0] : undefined, form, how)
    return undefined
  }

  #sendCached(reading: Reading, name: string | undefined, cached: CachedAnswer, status: string): void {
    const { request, identified } = reading
    if (name !== undefined) this.#note(cached, reading, identified)
    const encoding = cached.plain.body.length < shortest ? undefined : encodingFor(request.headers['accept-encoding'])
    if (!encoding) return this.#send(reading, cached, cached.plain, status)
    const form = cached.encoded.get(encoding)
    if (form) return this.#send(reading, cached, form, status)
    void compress(encoding, cached.plain.body).then(
      (body) => {
        const tag = tagOf(cached.plain.tag, encoding)
        const form = formOf([...bareHead(cached.plain.head), 'Content-Encoding', encoding], body, tag)
        if (name !== undefined) this.#cache.addForm(name, encoding, form)
        this.#send(reading, cached, form, status)
      },
      (error: unknown) => this.#refuse(reading.request, reading.response, reading.head, error),
    )
  }

  #send({ request, response, head }: Reading, cached: CachedAnswer, form: Form, status: string): void {
    const tags = request.headers['if-none-match']
    if (tags !== undefined && (meetsIfNoneMatch(tags, form.tag) || meetsIfNoneMatch(tags, cached.plain.tag))) {
      this.#metrics.notModified.inc()
      response.writeHead(304, [...cached.notModified, 'ETag', form.tag, ...head, 'Cache-Status', status])
      return void response.end()
    }
    if (status === 'wisteria; hit') this.#metrics.hit.inc()
    // `concat` would take seven times as long.
    response.writeHead(200, [...form.head, ...head, 'Cache-Status', status])
    response.end(request.method === 'HEAD' ? undefined : form.body)
  }

  /** Notes the fields that a cached answer reads, once a minute for each key, as for an answer that is not cached. */
  #note(cached: CachedAnswer, { snapshot }: Reading, { caller }: Identified): void {
    if (caller.is !== 'key' || cached.reads.length === 0) return
    const minute = Math.floor(this.#kernel.now / 60_000)
    if (cached.noted.get(caller.key) === minute) return
    cached.noted.set(caller.key, minute)
    for (const { type, field, name } of cached.reads) this.#fieldReads.note(snapshot!.site, caller, type, field, name)
  }

  #refuse(request: IncomingMessage, response: ServerResponse, head: readonly string[], error: unknown): void {
    this.#metrics.refused.inc()
    const [, id] = this.#requestId() as [string, string]
    const { status, head: errorHead, text } = errorAnswer(this.#kernel, id, error)
    if (response.headersSent) return void response.destroy()
    const length = String(Buffer.byteLength(text))
    response.writeHead(status, [
      ...dataHead,
      ...errorHead,
      'Vary',
      readVary,
      ...head,
      'Content-Length',
      length,
      'Request-Id',
      id,
    ])
    response.end(request.method === 'HEAD' ? undefined : text)
  }

  readonly #requestId = (): readonly string[] => ['Request-Id', makeId(this.#kernel.environment)]
}

/** No name and no value has a null character in it. */
const nothingAt = (url: string): WisteriaError =>
  new WisteriaError('notFound', `There is nothing at ${url.split('?')[0]!.slice(0, 200)}.`)

/** The name of the site in an address of the Read API. */
function siteIn(url: string): string {
  const end = url.indexOf('/', base.length)
  const name = end < 0 ? url.slice(base.length).split('?')[0]! : url.slice(base.length, end)
  return name.includes('%') ? decode(name) : name
}

function decode(text: string): string {
  try {
    return decodeURIComponent(text)
  } catch {
    return text
  }
}

const whoAsks = (address: string, { caller, actor }: Identified): string =>
  caller.is === 'nobody' ? `address:${address}` : actor

const mayRead = ({ caller }: Identified, { site }: SiteSnapshot): boolean =>
  decide(caller, 'published.read', { siteIsOpen: site.isOpen }).allowed

/** The cache key of a request: everything that the bytes of its answer depend on. */
function nameOf({ stamp }: SiteSnapshot, { headers }: IncomingMessage, url: string): string {
  const key = `${stamp} ${url}`
  if (negotiates(url)) return `${key} ${headers['accept-language'] ?? ''}`
  return url.includes('/graphql') ? `${key} ${headers.accept ?? ''}` : key
}

/** Whether the address has `locale=auto`, also with escaped letters (`%61` is an a). */
const negotiates = (url: string): boolean =>
  url.includes('locale=auto') || (/%[67]/.test(url) && decode(url).includes('locale=auto'))

/** All keys of an answer: the request as it was sent, and the one form that other spellings of it share. */
function namesOf(snapshot: SiteSnapshot, request: IncomingMessage, url: string, text: string | undefined): string[] {
  if (text !== undefined)
    return text.length > longestKeptBody
      ? []
      : [`${nameOf(snapshot, request, url)} ${request.headers['content-type'] ?? ''} ${text}`]
  const [path, query] = url.split('?') as [string, string?]
  if (query === undefined) return [nameOf(snapshot, request, url)]
  const parameters = new URLSearchParams(query)
  parameters.delete('generation')
  parameters.sort()
  const canonical = parameters.size === 0 ? path : `${path}?${parameters}`
  return [...new Set([nameOf(snapshot, request, url), nameOf(snapshot, request, canonical)])]
}

const formOf = (head: readonly string[], body: Buffer, tag: string): Form => ({
  head: [...head, 'ETag', tag, 'Content-Length', String(body.length)],
  body,
  tag,
})

/** Headers of a form without those about its bytes. */
const bareHead = (head: readonly string[]): readonly string[] => head.slice(0, -4)

function cachedForm(
  head: readonly string[],
  body: Buffer,
  tag: string,
  answer: Answer,
  reads: CachedAnswer['reads'],
): CachedAnswer {
  const lines: string[] = []
  for (let index = 0; index < head.length; index += 2)
    if (head[index] !== 'ETag') lines.push(head[index]!, head[index + 1]!)
  const kept = ['Cache-Control', 'Expires', 'Cache-Groups', 'Vary', 'Content-Language', 'Wisteria-Generation']
  return {
    plain: formOf(lines, body, tag),
    notModified: kept.flatMap((name) => (answer.headers?.[name] === undefined ? [] : [name, answer.headers[name]])),
    until: answer.keptUntil ?? 0,
    encoded: new Map(),
    reads,
    noted: new Map(),
  }
}
