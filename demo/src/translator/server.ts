import { createHmac, randomBytes, timingSafeEqual } from 'node:crypto'
import { createServer, type IncomingMessage, type ServerResponse } from 'node:http'
import type { AddressInfo } from 'node:net'
import { translateWords, type Term } from './words.js'

/*
 * A simulated machine that translates, to try out connectors with: it speaks what docs/reference/translation-connectors.md describes, knows
 * a few words, and is slow or fails when it is told to. It shares no code with the service.
 */

export interface TranslatorOptions {
  /** 0 for any that is free. */
  readonly port: number
  /** How long it works on each request. At once when 0. */
  readonly seconds?: number
  /** How many times it answers each request with an error before it takes it. */
  readonly failures?: number
  /** Whether it calls back when a translation is there. */
  readonly callsBack?: boolean
  /** The secret of the connector, once it is known; it answers nobody before. */
  readonly secret?: string
}

export interface RunningTranslator {
  readonly address: string
  setSecret(secret: string): void
  /** Requests that it was sent so far, with repeated ones. */
  readonly received: number
  stop(): Promise<void>
}

interface TranslationRequest {
  readonly request: string
  readonly to: string
  readonly texts: readonly { readonly id: string; readonly text: string }[]
  readonly terms: readonly Term[]
  readonly callback: string
}

interface Work {
  readonly asked: TranslationRequest
  readonly readyAt: number
}

const maxBody = 20_000_000

export async function startTranslator({
  port,
  seconds = 0,
  failures = 0,
  callsBack = false,
  secret: given = '',
}: TranslatorOptions): Promise<RunningTranslator> {
  let secret = given
  let received = 0
  const attempts = new Map<string, number>()
  const works = new Map<string, Work>()
  const timers = new Set<NodeJS.Timeout>()

  const sign = (id: string, sentAt: string, body: string): string =>
    'v1,' +
    createHmac('sha256', Buffer.from(secret.replace(/^whsec_/, ''), 'base64'))
      .update(`${id}.${sentAt}.${body}`)
      .digest('base64')
  const isSigned = ({ headers }: IncomingMessage, body: string): boolean => {
    const text = (name: string): string => String(headers[name] ?? '')
    const sentAt = text('webhook-timestamp')
    if (secret === '' || Math.abs(Date.now() / 1000 - Number(sentAt)) > 300) return false
    const expected = Buffer.from(sign(text('webhook-id'), sentAt, body))
    const signature = Buffer.from(text('webhook-signature'))
    return signature.length === expected.length && timingSafeEqual(signature, expected)
  }

  const callBack = async (work: Work): Promise<void> => {
    const id = randomBytes(12).toString('base64url')
    const sentAt = String(Math.floor(Date.now() / 1000))
    await fetch(work.asked.callback, {
      method: 'POST',
      headers: { 'webhook-id': id, 'webhook-timestamp': sentAt, 'webhook-signature': sign(id, sentAt, '') },
    }).catch(() => undefined)
  }

  const answerTo = ({ asked, readyAt }: Work) =>
    Date.now() < readyAt
      ? { state: 'working', retryAfter: Math.max(1, Math.ceil((readyAt - Date.now()) / 1000)) }
      : {
          state: 'done',
          texts: asked.texts.map(({ id, text }) => ({ id, text: translateWords(text, asked.to, asked.terms) })),
        }

  function take(asked: TranslationRequest): [status: number, body: unknown] {
    received++
    const before = attempts.get(asked.request) ?? 0
    if (before < failures) {
      attempts.set(asked.request, before + 1)
      return [503, { state: 'failed', message: `Told to fail ${failures} times.` }]
    }
    const known = works.get(asked.request)
    const work = known ?? { asked, readyAt: Date.now() + seconds * 1000 }
    works.set(asked.request, work)
    if (callsBack && !known) {
      const timer = setTimeout(
        () => {
          timers.delete(timer)
          void callBack(work)
        },
        seconds * 1000 + 20,
      )
      timers.add(timer)
    }
    // One that calls back is asked again much later.
    if (callsBack) return [202, { state: 'working', retryAfter: 3600 }]
    const answer = answerTo(work)
    return [answer.state === 'done' ? 200 : 202, answer]
  }

  async function handle(request: IncomingMessage, response: ServerResponse): Promise<void> {
    const send = (status: number, body?: unknown): void => {
      response.writeHead(status, { 'content-type': 'application/json; charset=utf-8' })
      response.end(body === undefined ? '' : JSON.stringify(body))
    }
    let body = ''
    request.setEncoding('utf8')
    for await (const chunk of request) {
      body += String(chunk)
      if (body.length > maxBody) return send(413, { state: 'failed', message: 'The request is too large.' })
    }
    if (!isSigned(request, body)) return send(401, { state: 'failed', message: 'The signature is wrong.' })
    const [, id] = /^\/translate\/([a-z0-9]{1,40})$/.exec(request.url ?? '') ?? []
    if (request.method === 'POST' && request.url === '/translate') {
      const [status, answer] = take(JSON.parse(body) as TranslationRequest)
      return send(status, answer)
    }
    const work = id === undefined ? undefined : works.get(id)
    if (!work) return send(404, { state: 'failed', message: 'There is no such request.' })
    if (request.method === 'GET') return send(200, answerTo(work))
    if (request.method !== 'DELETE') return send(405, { state: 'failed', message: 'Use GET or DELETE.' })
    works.delete(id!)
    return send(204)
  }

  const server = createServer((request, response) => {
    handle(request, response).catch((error: unknown) => {
      response.writeHead(400, { 'content-type': 'application/json; charset=utf-8' })
      response.end(JSON.stringify({ state: 'failed', message: String(error) }))
    })
  })
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject)
    server.listen(port, '127.0.0.1', resolve)
  })
  return {
    address: `http://127.0.0.1:${(server.address() as AddressInfo).port}/translate`,
    setSecret: (now) => void (secret = now),
    get received() {
      return received
    },
    stop: () => {
      for (const timer of timers) clearTimeout(timer)
      server.closeAllConnections()
      return new Promise((resolve) => server.close(() => resolve()))
    },
  }
}
