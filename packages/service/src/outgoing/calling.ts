import { request as httpRequest } from 'node:http'
import { request as httpsRequest } from 'node:https'
import type { Kernel } from '../kernel/kernel.js'
import { publicLookup, refuseAddress } from './addresses.js'
import { signedHeaders } from './signing.js'

/** A call of an address of somebody else. */
export interface OutgoingCall {
  readonly address: string
  readonly method: 'GET' | 'POST' | 'DELETE'
  /** That it is signed with, each by itself; with none it is not signed. */
  readonly secrets: readonly string[]
  /** Further headers, by name. */
  readonly headers?: Readonly<Record<string, string>>
  /** The same for each attempt to say the same, so that a receiver can tell that it has it already. */
  readonly id: string
  /** The media type of the body. */
  readonly type?: string
  readonly body?: string
  /** The most characters of the answer that are kept; the rest is not read. */
  readonly answerKept: number
}

/** The result of a call. */
export interface CallOutcome {
  /** Of the answer; null where there was none. */
  readonly status: number | null
  readonly answer: string
  /** Whether the answer was longer than what was kept of it. */
  readonly isCut: boolean
  /** Why there was no answer. */
  readonly error: string | null
  /** Milliseconds. */
  readonly took: number
  /** The headers that were sent, without the values of further ones. */
  readonly sent: Readonly<Record<string, string>>
}

/** Shown in place of the value of a secret header. */
export const hiddenValue = '(hidden)'

const timeoutMilliseconds = 15_000
const longestPause = 6 * 3_600_000

/** The pause before the next attempt, in milliseconds: doubling from a second, with up to half of it at random, so that many do not come at once. */
export const pauseAfter = (attempts: number, chance: number): number =>
  Math.round(Math.min(1000 * 2 ** Math.min(attempts - 1, 30), longestPause) * (1 + chance / 2))

/** The host and port of an address; the address itself where it is none. */
export const hostOf = (address: string): string => (URL.canParse(address) ? new URL(address).host : address)

/** Calls an address, and follows no redirect. It never rejects. */
export function callOut(kernel: Pick<Kernel, 'options' | 'now'>, call: OutgoingCall): Promise<CallOutcome> {
  const began = performance.now()
  const allowPrivate = kernel.options.allowPrivateAddresses
  const { address, method, body = '', answerKept } = call
  return new Promise((resolve) => {
    const finish = (status: number | null, answer: string, error: string | null) =>
      resolve({
        status,
        answer: answer.slice(0, answerKept),
        isCut: answer.length > answerKept,
        error,
        took: Math.round(performance.now() - began),
        sent: { ...headers, ...Object.fromEntries(Object.keys(call.headers ?? {}).map((name) => [name, hiddenValue])) },
      })
    const headers = {
      ...(call.type === undefined ? {} : { 'content-type': call.type }),
      'content-length': String(Buffer.byteLength(body)),
      'user-agent': 'Wisteria',
      ...(call.secrets.length > 0
        ? signedHeaders(call.secrets, call.id, Math.floor(kernel.now / 1000), body)
        : { 'idempotency-key': call.id }),
    }
    const refused = refuseAddress(address, allowPrivate)
    if (refused) return finish(null, '', `The address ${refused}.`)
    const url = new URL(address)
    const send = url.protocol === 'https:' ? httpsRequest : httpRequest
    const request = send(
      url,
      {
        method,
        headers: { ...call.headers, ...headers },
        timeout: timeoutMilliseconds,
        ...(allowPrivate ? {} : { lookup: publicLookup }),
      },
      (response) => {
        let answer = ''
        response.setEncoding('utf8')
        response.on('data', (chunk: string) => {
          if (answer.length <= answerKept) answer += chunk
        })
        response.on('end', () => finish(response.statusCode ?? null, answer, null))
        response.on('error', (error) => finish(null, answer, error.message))
      },
    )
    const limit = setTimeout(
      () => request.destroy(new Error(`no answer within ${timeoutMilliseconds / 1000} s`)),
      timeoutMilliseconds,
    )
    request.on('close', () => clearTimeout(limit))
    request.on('error', (error) => finish(null, '', error.message))
    request.end(body)
  })
}
