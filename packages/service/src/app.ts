import { existsSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { makeId, WisteriaError } from '@wisteria/core'
import { siteNamed, type Transaction } from '@wisteria/store'
import express, { type ErrorRequestHandler, type Express, type Request as ExpressRequest, type Response } from 'express'
import { rateLimit } from 'express-rate-limit'
import helmet from 'helmet'
import { pinoHttp } from 'pino-http'
import { once, rememberedAs } from './idempotency.js'
import type { Kernel } from './kernel.js'
import { permissionOf, requirePermission } from './permission.js'
import { problemDetails, readBody, readQuery } from './problems.js'
import { errorHeaders } from './read/reading.js'
import type { Answer, Route, SiteRequest } from './route.js'
import { routes } from './routes.js'
import { identify } from './sessions/callers.js'

export const version = '0.1.0'

const bodyLimit = '10mb'

/** Where the built console lies beside this package. */
const consoleFolder = fileURLToPath(new URL('../../console/dist', import.meta.url))

/** The HTTP interface: the table of routes, the console, and what stands around them. */
export function buildApp(kernel: Kernel): Express {
  const app = express()
  app.disable('x-powered-by')
  app.disable('etag')
  app.set('query parser', 'simple')
  app.use(
    pinoHttp({
      logger: kernel.logger,
      genReqId: (_, response) => {
        const id = makeId(kernel.surroundings)
        response.setHeader('Request-Id', id)
        return id
      },
      customLogLevel: (_, response, error) => (error || response.statusCode >= 500 ? 'error' : 'info'),
      serializers: {
        req: ({ id, method, url }: { id: string; method: string; url: string }) => ({
          id,
          method,
          path: url.split('?')[0],
        }),
        res: ({ statusCode }: { statusCode: number }) => ({ statusCode }),
      },
    }),
  )
  app.use(
    helmet({
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
    }),
  )
  app.get('/health', (_, response) => void response.json({ status: 'alive' }))
  app.get('/ready', (_, response, next) => {
    kernel.database
      .all('select 1')
      .then(() => response.json({ status: 'ready', version }))
      .catch(next)
  })
  /** One for each guarded route: wrong tries at one are not counted at another. */
  const guard = () =>
    rateLimit({
      windowMs: 60_000,
      limit: 20,
      skipSuccessfulRequests: true,
      standardHeaders: 'draft-8',
      legacyHeaders: false,
      handler: (request, response) =>
        sendError(kernel, request, response, new WisteriaError('tooMany', 'Too many wrong attempts. Wait a minute.')),
    })
  const methods = new Map<string, string[]>()
  for (const route of routes) {
    const path = route.path.replaceAll(/\{(\w+)\}/g, ':$1')
    methods.set(path, [...(methods.get(path) ?? []), route.method])
    const parse = express.json({
      limit: bodyLimit,
      strict: false,
      type: [...(route.bodyTypes ?? ['application/json'])],
    })
    app[route.method.toLowerCase() as 'get'](
      path,
      ...(route.guarded ? [guard()] : []),
      ...(route.body ? [parse] : []),
      (request: ExpressRequest, response: Response) => {
        serve(kernel, route, request).then(
          (answer) => send(response, request, answer),
          (error: unknown) => sendError(kernel, request, response, error),
        )
      },
    )
  }
  for (const [path, known] of methods)
    app.all(path, (request, response) => {
      response.setHeader('Allow', known.join(', '))
      sendError(
        kernel,
        request,
        response,
        new WisteriaError(
          'methodNotAllowed',
          `${request.method} does not go with this address; ${known.join(', ')} ${known.length > 1 ? 'do' : 'does'}.`,
        ),
      )
    })
  serveConsole(app)
  app.use((request, response) =>
    sendError(
      kernel,
      request,
      response,
      new WisteriaError('notFound', `There is nothing at ${request.path.slice(0, 200)}.`),
    ),
  )
  const onError: ErrorRequestHandler = (error, request, response, _next) =>
    sendError(kernel, request, response, fromExpress(error))
  app.use(onError)
  return app
}

function serveConsole(app: Express): void {
  if (!existsSync(consoleFolder)) return
  app.get('/', (_, response) => response.redirect(302, '/console/'))
  app.use('/console/assets', express.static(consoleFolder + '/assets', { immutable: true, maxAge: '1y', index: false }))
  app.use('/console', express.static(consoleFolder, { index: 'index.html' }))
  app.get('/console/{*path}', (_, response) => response.sendFile('index.html', { root: consoleFolder }))
}

/** One request of one route: who asks, for which site, whether they may, and what they sent. */
async function serve(kernel: Kernel, route: Route, express: ExpressRequest): Promise<Answer> {
  const params = express.params as Record<string, string>
  const name = route.path.includes('{site}') ? params['site']! : undefined
  const site = name === undefined ? undefined : await siteNamed(kernel.database, name)
  const { caller, actor } = await identify(kernel, express.headers, express.method, site)
  if (name !== undefined && !site) throw new WisteriaError('notFound', `There is no site \`${name.slice(0, 60)}\`.`)
  const isEdition = route.permission === 'edition'
  // Who may not be here learns nothing of what their request would have meant.
  if (!isEdition) requirePermission(caller, permissionOf(route, {}), site)
  else requirePermission(caller, permissionOf(route, express.query), site)
  if (
    route.body &&
    express.body === undefined &&
    express.headers['content-type'] !== undefined &&
    Number(express.headers['content-length'] ?? 1) > 0
  )
    throw new WisteriaError(
      'unsupportedMediaType',
      `Send ${(route.bodyTypes ?? ['application/json']).join(' or ')}, not ${String(express.headers['content-type']).slice(0, 80)}.`,
    )
  const query = readQuery(route.query, express.query)
  const body: unknown = route.body ? readBody(route.body, express.body) : undefined
  const remembered = route.idempotent
    ? rememberedAs(express.get('idempotency-key'), actor, express.method, express.originalUrl, body)
    : undefined
  const request: SiteRequest = {
    kernel,
    caller,
    actor,
    site: site!,
    params,
    query,
    body,
    headers: express.headers,
    file: express,
    method: express.method,
    url: express.originalUrl,
    write: (work) =>
      kernel.write((transaction: Transaction) => once(kernel, transaction, remembered, () => work(transaction))),
  }
  return route.handle(request as SiteRequest<never, never>)
}

function send(response: Response, request: ExpressRequest, answer: Answer): void {
  for (const [name, value] of Object.entries(answer.headers ?? {})) response.setHeader(name, value)
  // What the Edit API says is for one person, now.
  if (!response.hasHeader('Cache-Control')) response.setHeader('Cache-Control', 'no-store')
  const status =
    answer.status ?? (answer.body === undefined && answer.text === undefined && answer.path === undefined ? 204 : 200)
  response.status(status)
  if (status === 204 || status === 304) return void response.end()
  if (!response.hasHeader('Content-Type')) response.setHeader('Content-Type', 'application/json; charset=utf-8')
  if (answer.path !== undefined) {
    const sent = {
      acceptRanges: true,
      cacheControl: false,
      etag: false,
      lastModified: false,
      dotfiles: 'allow' as const,
    }
    return void response.sendFile(answer.path, sent, (error) => {
      if (error && !response.headersSent) response.status(404).end()
    })
  }
  const text = answer.text ?? JSON.stringify(answer.body)
  if (request.method === 'HEAD') {
    response.setHeader('Content-Length', Buffer.byteLength(text))
    return void response.end()
  }
  response.end(text)
}

function sendError(kernel: Kernel, request: ExpressRequest, response: Response, error: unknown): void {
  const id = String((request as ExpressRequest & { id?: unknown }).id ?? '')
  if (!(error instanceof WisteriaError) || error.code === 'internal')
    kernel.logger.error({ err: error, requestId: id }, 'a request failed')
  if (response.headersSent) return void response.destroy()
  const { status, body } = problemDetails(error, id)
  if (status === 401) response.setHeader('WWW-Authenticate', 'Bearer realm="wisteria"')
  if (error instanceof WisteriaError)
    for (const [name, value] of Object.entries(errorHeaders.get(error) ?? {})) response.setHeader(name, value)
  response.setHeader('Cache-Control', 'no-store')
  response.status(status).setHeader('Content-Type', 'application/problem+json; charset=utf-8')
  response.end(JSON.stringify(body))
}

/** What Express and its body parser refuse, in our words. */
function fromExpress(error: unknown): unknown {
  if (error instanceof WisteriaError) return error
  const { type, status, message, body } = error as { type?: string; status?: number; message?: string; body?: string }
  if (type === 'entity.too.large')
    return new WisteriaError('tooLarge', `A body has at most ${bodyLimit.replace('mb', ' MB')}.`)
  if (type === 'entity.parse.failed') return malformedJson(message ?? '', body ?? '')
  if (type === 'charset.unsupported' || type === 'encoding.unsupported')
    return new WisteriaError('unsupportedMediaType', 'Send the body as UTF-8, plain or gzip.')
  if (status !== undefined && status >= 400 && status < 500)
    return new WisteriaError('badRequest', 'The request cannot be read.')
  return error
}

function malformedJson(message: string, body: string): WisteriaError {
  const at = /position (\d+)/.exec(message)?.[1]
  const offset = at === undefined ? body.length : Number(at)
  const before = body.slice(0, offset)
  const line = before.split('\n').length
  const column = offset - before.lastIndexOf('\n')
  const detail = `The body is not JSON: line ${line}, column ${column}.`
  return new WisteriaError('badRequest', detail, { problems: [{ code: 'badJson', line, column, message: detail }] })
}
