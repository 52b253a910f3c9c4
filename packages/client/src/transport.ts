import { WisteriaProblem, WisteriaUnreachable } from './problem.js'

export interface Connection {
  /** Where the service is, e.g. `https://content.example`; empty for the page's own origin. */
  readonly baseUrl: string
  /** An access key, a session token or a preview grant. Left out, a browser's cookie counts. */
  readonly token?: string | undefined
  /** Milliseconds to wait for an answer; 30 seconds when left out. */
  readonly timeout?: number | undefined
  /**
   * How often a request is sent again after no answer, or after 429, 502, 503 or 504; twice when left out. Only requests that
   * change nothing are sent again.
   */
  readonly retries?: number | undefined
  /** Ends every call when it is aborted; the call then rejects with its reason. */
  readonly signal?: AbortSignal | undefined
  /**
   * Called when the service answers that nobody is signed in, as when a session has ended: the request is sent once more if it
   * resolves to true.
   */
  readonly signInAgain?: (() => Promise<boolean>) | undefined
  /** Called after each successful request that may have changed something; e.g. to log it. */
  readonly onChange?: ((asked: Call, reply: Reply<unknown>) => void) | undefined
  /** Whether all changes are dry runs: the answer is the one it would be, and nothing changes. */
  readonly isDryRun?: boolean | undefined
  /** Instead of the global one, e.g. in tests. */
  readonly fetch?: typeof fetch | undefined
}

export interface Call {
  readonly method?: 'GET' | 'POST' | 'PUT' | 'PATCH' | 'DELETE'
  readonly path: string
  readonly query?: Readonly<Record<string, string | number | boolean | undefined>>
  readonly body?: unknown
  /** A file that is sent as it is, instead of a body. */
  readonly file?: Blob
  readonly headers?: Readonly<Record<string, string>>
  /** Whether it changes nothing, though it is a POST. */
  readonly isQuestion?: boolean
  /** Work over all content of a site: waits for at least ten minutes; or a large file, for a day. */
  readonly isLong?: boolean | 'transfer'
}

/** The calls of a part of a client that sends and gets files. */
export interface FileCalls {
  readonly call: <Body>(request: Call) => Promise<Body>
  readonly download: (request: Call) => Promise<Response>
  /** The address of a request, for a link. */
  readonly address: (path: string, query: Readonly<Record<string, string | undefined>>) => string
}

export interface Reply<Body> {
  readonly status: number
  readonly body: Body
  readonly headers: Headers
  /** The cache groups that the answer depends on (RFC 9875). */
  readonly groups: readonly string[]
}

const worthAsking = [429, 502, 503, 504]
/** Milliseconds before the second attempt; each further one waits twice as long, with some randomness. */
const firstPause = 200
/** The longest `Retry-After` that is waited for, in milliseconds; a longer one is passed to the caller. */
const longestPause = 5_000

/**
 * One request. One that changes nothing is sent again where that may help.
 * @throws WisteriaProblem for any answer that is not a success, WisteriaUnreachable without an answer.
 */
export async function call<Body>(connection: Connection, asked: Call): Promise<Reply<Body>> {
  const { method = 'GET', isQuestion = method === 'GET' } = asked
  const attempts = isQuestion ? Math.max(0, connection.retries ?? 2) : 0
  let isSignedInAgain = false
  for (let attempt = 0; ; attempt++)
    try {
      const reply = await callOnce<Body>(connection, asked)
      if (!isQuestion) connection.onChange?.(asked, reply)
      return reply
    } catch (error) {
      if (error instanceof WisteriaProblem && error.status === 401 && !isSignedInAgain && connection.signInAgain) {
        isSignedInAgain = await connection.signInAgain()
        if (isSignedInAgain) {
          attempt--
          continue
        }
      }
      if (attempt >= attempts || !(error instanceof WisteriaProblem)) throw error
      const isWorth = error instanceof WisteriaUnreachable ? !error.timedOut : worthAsking.includes(error.status)
      const said = error.retryAfter === undefined ? undefined : error.retryAfter * 1000
      if (!isWorth || (said ?? 0) > longestPause) throw error
      const pause = said ?? firstPause * 2 ** attempt
      await new Promise((resolve) => setTimeout(resolve, pause * (1 + Math.random() / 2)))
    }
}

/**
 * A request whose answer is a file, which is read while it arrives.
 * @throws WisteriaProblem for an answer that is not a success, WisteriaUnreachable without an answer.
 */
export async function download(connection: Connection, { path, query = {}, headers = {} }: Call): Promise<Response> {
  const send = connection.fetch ?? fetch
  let response: Response
  try {
    response = await send(addressOf(connection, path, query), {
      headers: { ...(connection.token ? { Authorization: `Bearer ${connection.token}` } : {}), ...headers },
      ...(connection.signal ? { signal: connection.signal } : {}),
    })
  } catch (error) {
    connection.signal?.throwIfAborted()
    throw new WisteriaUnreachable(connection.baseUrl || 'The service', error)
  }
  if (response.ok) return response
  const content = parse(await response.text())
  throw new WisteriaProblem(
    response.status,
    typeof content === 'object' && content !== null ? (content as Record<string, unknown>) : {},
  )
}

/** The address of a request with its query. */
export function addressOf(connection: Connection, path: string, query: NonNullable<Call['query']>): string {
  const parameters = new URLSearchParams()
  for (const [name, value] of Object.entries(query)) if (value !== undefined) parameters.set(name, String(value))
  const search = parameters.size > 0 ? `?${parameters}` : ''
  return connection.baseUrl.replace(/\/+$/, '') + path + search
}

async function callOnce<Body>(
  connection: Connection,
  { method = 'GET', path, query = {}, body, file, headers = {}, isLong = false, isQuestion = false }: Call,
): Promise<Reply<Body>> {
  const address = addressOf(connection, path, query)
  const send = connection.fetch ?? fetch
  const limit = AbortSignal.timeout(
    Math.max(connection.timeout ?? 30_000, isLong === 'transfer' ? 86_400_000 : isLong ? 600_000 : 0),
  )
  let response: Response
  let text: string
  try {
    response = await send(address, {
      method,
      headers: {
        Accept: 'application/json',
        ...(body === undefined ? {} : { 'Content-Type': 'application/json' }),
        ...(file ? { 'Content-Type': 'application/octet-stream' } : {}),
        ...(connection.token ? { Authorization: `Bearer ${connection.token}` } : {}),
        ...(connection.isDryRun && method !== 'GET' && !isQuestion ? { 'Dry-Run': 'true' } : {}),
        ...headers,
      },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
      ...(file ? { body: file } : {}),
      signal: connection.signal ? AbortSignal.any([limit, connection.signal]) : limit,
    })
    text = await response.text()
  } catch (error) {
    connection.signal?.throwIfAborted()
    throw new WisteriaUnreachable(connection.baseUrl || 'The service', error)
  }
  const groups = readGroups(response.headers.get('cache-groups'))
  const content = parse(text)
  if (!response.ok)
    throw new WisteriaProblem(
      response.status,
      typeof content === 'object' && content !== null ? (content as Record<string, unknown>) : {},
      groups,
      readRetryAfter(response.headers.get('retry-after')),
    )
  return { status: response.status, body: content as Body, headers: response.headers, groups }
}

function parse(text: string): unknown {
  try {
    return text === '' ? undefined : JSON.parse(text)
  } catch {
    return undefined
  }
}

/** Seconds to wait; undefined where the header has no number of seconds. */
const readRetryAfter = (header: string | null): number | undefined =>
  header !== null && /^\d{1,6}$/.test(header) ? Number(header) : undefined

/** The strings of a structured list: `"e.1", "t.page"`. */
const readGroups = (header: string | null): string[] =>
  [...(header ?? '').matchAll(/"([^"]*)"/g)].map((match) => match[1]!)

export const segment = (text: string): string => encodeURIComponent(text)
