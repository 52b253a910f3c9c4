import type { IncomingMessage, ServerResponse } from 'node:http'
import { WisteriaError } from '@wisteria/core'
import helmet from 'helmet'
import type { Kernel } from '../kernel/kernel.js'
import { problemDetails } from '../kernel/problems.js'
import { errorHeaders } from '../read/reading.js'
import type { Answer } from '../kernel/route.js'

/** Security headers of every answer. */
export const guardHeaders = helmet({
  strictTransportSecurity: false,
  crossOriginResourcePolicy: { policy: 'cross-origin' },
  contentSecurityPolicy: {
    directives: {
      defaultSrc: ["'self'"],
      styleSrc: ["'self'", "'unsafe-inline'"],
      imgSrc: ["'self'", 'data:'],
      fontSrc: ["'self'", 'data:'],
      frameSrc: ['http:', 'https:'],
      frameAncestors: ["'none'"],
      upgradeInsecureRequests: null,
    },
  },
})

/** The headers for data; the others are for pages, and reads have none. */
const aboutData = ['Content-Security-Policy', 'Cross-Origin-Resource-Policy', 'X-Content-Type-Options']

/** The same for answers of data, as a flat list of names and values: they are sent without Express. */
export const dataHead: readonly string[] = (() => {
  const said: string[] = []
  const response = {
    setHeader: (name: string, value: string) => void (aboutData.includes(name) && said.push(name, value)),
    removeHeader: () => undefined,
  }
  guardHeaders({} as IncomingMessage, response as unknown as ServerResponse, () => undefined)
  return said
})()

/** The status of an answer that does not set one. */
export const statusOf = ({ status, body, text, path, stream }: Answer): number =>
  status ?? (body === undefined && text === undefined && path === undefined && stream === undefined ? 204 : 200)

/** The bytes of an answer that is printed. */
export const bytesOf = ({ text, body }: Answer): Buffer =>
  Buffer.isBuffer(text) ? text : Buffer.from(text ?? (body === undefined ? '' : JSON.stringify(body)))

/** Sends pieces as they come, until the end or until the receiver is gone. */
export async function sendStream(response: ServerResponse, stream: NonNullable<Answer['stream']>): Promise<void> {
  const gone = new AbortController()
  response.once('close', () => gone.abort())
  response.flushHeaders()
  for await (const piece of stream(gone.signal)) {
    if (response.destroyed) break
    if (!response.write(piece)) await new Promise((resolve) => response.once('drain', resolve).once('close', resolve))
  }
  response.end()
}

/** An error as it is sent: the status, its headers as names and values in turn, and the body. */
export interface SentError {
  readonly status: number
  readonly head: readonly string[]
  readonly text: string
}

/** Sends an error as problem details; an unexpected one is logged. */
export function errorAnswer(kernel: Kernel, id: string, error: unknown): SentError {
  if (!(error instanceof WisteriaError) || error.code === 'internal')
    kernel.logger.error({ err: error, requestId: id }, 'a request failed')
  const { status, body } = problemDetails(error, id)
  const allowed = error instanceof WisteriaError && (error.extra['allow'] as readonly string[] | undefined)
  const retryAfter = error instanceof WisteriaError ? (error.extra['retryAfter'] as number | undefined) : undefined
  const carried = error instanceof WisteriaError ? (errorHeaders.get(error) ?? {}) : {}
  return {
    status,
    head: [
      ...(status === 401 ? ['WWW-Authenticate', 'Bearer realm="wisteria"'] : []),
      ...(allowed ? ['Allow', allowed.join(', ')] : []),
      ...(retryAfter === undefined ? [] : ['Retry-After', String(retryAfter)]),
      ...Object.entries(carried).flat(),
      ...('Cache-Control' in carried ? [] : ['Cache-Control', 'no-store']),
      'Content-Type',
      'application/problem+json; charset=utf-8',
    ],
    text: JSON.stringify(body),
  }
}

export function sendError(kernel: Kernel, response: ServerResponse, id: string, error: unknown): void {
  const { status, head, text } = errorAnswer(kernel, id, error)
  if (response.headersSent) return void response.destroy()
  for (let index = 0; index < head.length; index += 2) response.setHeader(head[index]!, head[index + 1]!)
  response.statusCode = status
  response.end(text)
}
