import { existsSync } from 'node:fs'
import { statfs } from 'node:fs/promises'
import { resolve } from 'node:path'
import { fileURLToPath } from 'node:url'
import { makeId, WisteriaError } from '@wisteria/core'
import { siteNamed } from '@wisteria/store'
import express, { type ErrorRequestHandler, type Express, type Request as ExpressRequest, type Response } from 'express'
import { pinoHttp } from 'pino-http'
import { addressOf } from '../kernel/addresses.js'
import { metricsOf } from './metrics.js'
import { watchWebhooks } from './webhookMetrics.js'
import { fileIn } from './bodies.js'
import { requireShallow } from '../kernel/nesting.js'
import type { Kernel } from '../kernel/kernel.js'
import type { Answer, Route } from '../kernel/route.js'
import { bytesOf, guardHeaders, sendError, sendStream, statusOf } from './sending.js'
import { executeRoute } from './executeRoute.js'
import { answerAssistant, assistantPath } from './assistantEndpoint.js'
import { identify } from '../access/callers.js'
import { version } from '../kernel/version.js'

const bodyLimit = '10mb'
/** With less room than this on its disk, in bytes, the service cannot be relied on to save. */
const roomNeeded = 5_000_000
/** Routes that are open to everybody. */
const openBodyLimit = '16kb'

/** Where the built console lies beside this package. */
const consoleFolder = fileURLToPath(new URL('../../../console/dist', import.meta.url))

/**
 * The HTTP interface: the table of routes, the console, and everything around them.
 * @param readRoutes those that are answered before.
 */
export function buildApp(kernel: Kernel, routes: readonly Route[], readRoutes: readonly Route[]): Express {
  const app = express()
  app.disable('x-powered-by')
  app.disable('etag')
  app.set('query parser', 'simple')
  app.use(
    pinoHttp({
      logger: kernel.logger,
      genReqId: (_, response) => {
        const id = makeId(kernel.environment)
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
  app.use(guardHeaders)
  app.get('/health', (_, response) => void response.json({ status: 'alive' }))
  app.get('/ready', (_, response, next) => {
    Promise.all([kernel.database.probe(), statfs(kernel.options.data)])
      .then(([, { bavail, bsize }]) => {
        const isFull = bavail * bsize < roomNeeded
        response.status(isFull ? 503 : 200).json({ status: isFull ? 'the disk is full' : 'ready', version })
      })
      .catch(next)
  })
  if (kernel.options.metrics) {
    const metrics = metricsOf(kernel)
    metrics.watchProcess()
    watchWebhooks(kernel, metrics)
    app.get('/metrics', (_, response, next) => {
      metrics.registry
        .metrics()
        .then((text) => response.type(metrics.registry.contentType).send(text))
        .catch(next)
    })
  }
  const methods = new Map<string, string[]>()
  for (const route of routes) {
    // Reads are answered before Express.
    if (readRoutes.includes(route)) continue
    const path = route.path.replaceAll(/\{(\w+)\}/g, ':$1')
    methods.set(path, [...(methods.get(path) ?? []), route.method])
    const parse = parserOf(route)
    app[route.method.toLowerCase() as 'get'](path, (request: ExpressRequest, response: Response) => {
      // Errors while sending are logged too: an uncaught one would end the service.
      serve(kernel, route, request, () => parse(request, response))
        .then((answer) => send(kernel, response, request, answer))
        .catch((error: unknown) => sendError(kernel, response, idOf(request), fromExpress(error)))
    })
  }
  for (const [path, allowed] of methods)
    app.all(path, (request, response) => {
      response.setHeader('Allow', allowed.join(', '))
      sendError(
        kernel,
        response,
        idOf(request),
        new WisteriaError('methodNotAllowed', `${request.method} is not allowed here. Allowed: ${allowed.join(', ')}.`),
      )
    })
  app.post(assistantPath, (request, response, next) => {
    express.json({ limit: bodyLimit, verify: (_request, _response, bytes) => carried(() => requireShallow(bytes)) })(
      request,
      response,
      (error?: unknown) => {
        if (error) return next(error)
        answerAssistant(kernel, routes, request, response).catch((refused: unknown) =>
          sendError(kernel, response, idOf(request), fromExpress(refused)),
        )
      },
    )
  })
  app.all(assistantPath, (request, response) => {
    response.setHeader('Allow', 'POST')
    const message = `${request.method} is not allowed here: assistants send each message by POST.`
    sendError(kernel, response, idOf(request), new WisteriaError('methodNotAllowed', message))
  })
  serveConsole(app)
  app.use((request, response) =>
    sendError(
      kernel,
      response,
      idOf(request),
      new WisteriaError('notFound', `There is nothing at ${request.path.slice(0, 200)}.`),
    ),
  )
  const onError: ErrorRequestHandler = (error, request, response, _next) =>
    sendError(kernel, response, idOf(request), fromExpress(error))
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

/** Reads the body of a route's requests as JSON, with a small limit on routes that are open to everybody. */
function parserOf(route: Route): (request: ExpressRequest, response: Response) => Promise<unknown> {
  const read = express.json({
    limit: route.permission === 'anyone' ? openBodyLimit : bodyLimit,
    strict: false,
    type: [...(route.bodyTypes ?? ['application/json'])],
    verify: (_request, _response, bytes) => carried(() => requireShallow(bytes)),
  })
  return (request, response) =>
    new Promise((resolve, reject) =>
      read(request, response, (error?: Error) => (error ? reject(error) : resolve(request.body))),
    )
}

/** The parser writes a status on to whatever it is thrown, so that our errors travel inside another. */
function carried(work: () => void): void {
  try {
    work()
  } catch (cause) {
    throw new Error('refused', { cause })
  }
}

async function serve(
  kernel: Kernel,
  route: Route,
  express: ExpressRequest,
  body: () => Promise<unknown>,
): Promise<Answer> {
  const params = express.params as Record<string, string>
  const name = route.path.includes('{site}') ? params['site']! : undefined
  const site = name === undefined ? undefined : await siteNamed(kernel.database, name)
  const identified = await identify(kernel, express.headers, express.method, site)
  const { method, originalUrl: url, headers, query } = express
  const address = addressOf(express, kernel.trusted)
  const incoming = {
    method,
    url,
    headers,
    query,
    params,
    body,
    file: route.isFile ? fileIn(express) : express,
    address,
  }
  return executeRoute(kernel, route, incoming, site, identified)
}

function send(kernel: Kernel, response: Response, request: ExpressRequest, answer: Answer): void {
  for (const [name, value] of Object.entries(answer.headers ?? {})) response.setHeader(name, value)
  // Answers of the Edit API are for one caller, and change.
  if (!response.hasHeader('Cache-Control')) response.setHeader('Cache-Control', 'no-store')
  const status = statusOf(answer)
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
    // Express sends whole paths only; a data folder may be named from where the service was started.
    return void response.sendFile(resolve(answer.path), sent, (error) => {
      if (!error || response.headersSent) return
      const { status } = error as { status?: number }
      response.status(status === 416 ? 416 : 404).end()
    })
  }
  if (answer.stream && request.method !== 'HEAD')
    return void sendStream(response, answer.stream).catch((error: unknown) => {
      kernel.logger.error({ err: error, requestId: idOf(request) }, 'an answer broke off')
      response.destroy()
    })
  const bytes = bytesOf(answer)
  response.setHeader('Content-Length', bytes.length)
  response.end(request.method === 'HEAD' ? undefined : bytes)
}

const idOf = (request: ExpressRequest): string => String((request as ExpressRequest & { id?: unknown }).id ?? '')

/** Refusals of Express and its body parser, in our words. */
function fromExpress(error: unknown): unknown {
  if (error instanceof WisteriaError) return error
  if (error instanceof Error && error.cause instanceof WisteriaError) return error.cause
  const { type, status, message, body, limit } = error as {
    limit?: number
    type?: string
    status?: number
    message?: string
    body?: string
  }
  if (type === 'entity.too.large')
    return new WisteriaError(
      'tooLarge',
      `The body of this request has at most ${limit! < 1_000_000 ? `${limit! / 1024} kB` : `${limit! / 1024 / 1024} MB`}.`,
    )
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
