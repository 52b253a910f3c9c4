import { readFileSync } from 'node:fs'
import type { Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { fileURLToPath } from 'node:url'
import { exchangePreviewCode, previewCookie, Reader, verifyWebhook, WisteriaProblem } from '@wisteria/client'
import express, { type Express, type Request, type Response } from 'express'
import { PageCache, type CachedPage } from './pageCache.js'
import { listQueries, menuQuery, pageQueries } from './queries.js'
import type { Card, Lists, Notice, Page, VisitorInfo } from './answers.js'
import { renderNothing, renderPage, renderTrouble, type Frame } from './render.js'
import { homes, localeOfPath } from './words.js'

export interface FrontEndOptions {
  /** Where the content service is. */
  readonly baseUrl: string
  readonly site: string
  /** An access key that reads the published edition. */
  readonly key: string
  /** The secret that webhooks are signed with. */
  readonly webhookSecret: () => string
  readonly port: number
  readonly host: string
}

export interface RunningFrontEnd {
  readonly address: string
  stop(): Promise<void>
}

const grantCookie = 'marram_preview'
const assets = fileURLToPath(new URL('../../pictures/', import.meta.url))
const styles = readFileSync(fileURLToPath(new URL('../../site/site.css', import.meta.url)))
const previewScript = readFileSync(fileURLToPath(new URL('../../site/preview.js', import.meta.url)))

/** A server-rendered site that caches its pages and uses only the SDK. */
export async function startFrontEnd(options: FrontEndOptions): Promise<RunningFrontEnd> {
  const server = await listen(buildFrontEnd(options), options)
  const { port } = server.address() as AddressInfo
  return {
    address: `http://${options.host}:${port}`,
    stop: () =>
      new Promise((resolve) => {
        server.close(() => resolve())
        server.closeAllConnections()
      }),
  }
}

function listen(app: Express, { port, host }: FrontEndOptions): Promise<Server> {
  return new Promise((resolve, reject) => {
    const server = app.listen(port, host, (error?: Error) => (error ? reject(error) : resolve(server)))
  })
}

function buildFrontEnd(options: FrontEndOptions): Express {
  const app = express()
  app.disable('x-powered-by')
  const cache = new PageCache()

  app.use('/pictures', express.static(assets, { maxAge: '1h' }))
  app.get('/site.css', (_, response) => void response.type('css').send(styles))
  app.get('/preview.js', (_, response) => void response.type('js').send(previewScript))

  app.post('/hooks/wisteria', express.text({ type: () => true, limit: '1mb' }), (request, response) => {
    verifyWebhook(options.webhookSecret(), request.headers, String(request.body)).then(
      (event) => void response.json({ dropped: cache.drop(event) }),
      (error: Error) => void response.status(400).json({ error: error.message }),
    )
  })

  // Entering a preview: the code is exchanged here, and the grant stays in a cookie that no script sees.
  app.get('/preview/enter', (request, response, next) => {
    const to = localPath(request.query['to'])
    const code = String(request.query['code'] ?? '')
    exchangePreviewCode({ baseUrl: options.baseUrl, site: options.site, token: options.key }, code)
      .then((grant) => response.setHeader('Set-Cookie', previewCookie({ name: grantCookie, grant })).redirect(303, to))
      .catch((error: unknown) => {
        if (!(error instanceof WisteriaProblem) || error.status >= 500 || error.status === 0) return next(error)
        response.status(403).type('text').send(error.message)
      })
  })
  app.post('/preview/leave', express.urlencoded({ extended: false }), (request, response) => {
    response
      .setHeader('Set-Cookie', previewCookie({ name: grantCookie }))
      .redirect(303, localPath((request.body as { to?: unknown }).to))
  })

  app.get('/{*path}', (request, response, next) => {
    answer(options, cache, request, response).catch(next)
  })
  app.use((error: unknown, _request: Request, response: Response, _next: (error: unknown) => void) => {
    console.error('sample front end:', error instanceof Error ? error.message : error)
    response.status(503).type('html').send(renderTrouble())
  })
  return app
}

async function answer(options: FrontEndOptions, cache: PageCache, request: Request, response: Response): Promise<void> {
  const grant = readCookie(request.headers.cookie, grantCookie)
  const path = decodeURI(request.path)
  if (grant) {
    try {
      return send(response, await makePage(options, path, grant), 'preview')
    } catch (error) {
      // The grant has ended: show the published page, and delete the cookie.
      if (!(error instanceof WisteriaProblem) || error.status !== 401) throw error
      response.setHeader('Set-Cookie', previewCookie({ name: grantCookie }))
    }
  }
  const cached = cache.get(path)
  if (cached) return send(response, cached, 'hit')
  const begunAt = cache.generation
  const page = await makePage(options, path, undefined)
  cache.keep(path, page, begunAt)
  send(response, page, 'miss')
}

function send(response: Response, page: CachedPage, how: 'hit' | 'miss' | 'preview'): void {
  for (const [name, value] of Object.entries(page.headers)) response.setHeader(name, value)
  response.setHeader('Cache-Control', how === 'preview' ? 'no-store' : 'no-cache')
  response.setHeader('X-Page-Cache', how)
  response.status(page.status).type('html').send(page.body)
}

/** Renders a path. One reader for all reads of the page, so that its groups are the page's groups. */
async function makePage(options: FrontEndOptions, path: string, grant: string | undefined): Promise<CachedPage> {
  const reader = new Reader({
    baseUrl: options.baseUrl,
    site: options.site,
    token: grant ?? options.key,
    edition: grant ? 'draft' : 'published',
  })
  const answer = await reader.at(path)
  if (answer && 'moved' in answer)
    return {
      status: answer.moved.permanent ? 301 : 302,
      headers: { Location: encodeURI(answer.moved.path) },
      body: '',
      groups: reader.groups,
    }
  const locale = answer?.entry.locale ?? localeOfPath(path)
  const place = { locale, edition: grant ? 'DRAFT' : 'PUBLISHED' }
  const menu = await reader.graphql<{
    pages: { nodes: Card[] }
    notices: { nodes: Notice[] }
    visitorInfo: VisitorInfo | null
  }>(menuQuery, place)
  const frame: Frame = {
    locale,
    menu: menu.pages.nodes.filter((page) => page.path !== null),
    paths: Object.entries(homes).map(([tag, home]) => ({ locale: tag, path: home, contentLocale: tag })),
    visitorInfo: menu.visitorInfo,
    notices: menu.notices.nodes,
    ...(grant ? { preview: { leave: path, console: new URL(options.baseUrl).origin } } : {}),
  }
  const query = answer ? pageQueries[answer.entry.type] : undefined
  const data =
    answer && query
      ? await reader.graphql<Lists & { entry: Page | null }>(query, { ...place, id: answer.entry.id })
      : undefined
  if (!data?.entry) return { status: 404, headers: {}, body: renderNothing(frame), groups: reader.groups }
  const { entry, ...related } = data
  const listed =
    entry.shows && listQueries[entry.shows] ? await reader.graphql<Lists>(listQueries[entry.shows]!, place) : {}
  return {
    status: 200,
    headers: {},
    body: renderPage(
      entry,
      { ...related, ...listed },
      { ...frame, contentLocale: entry.contentLocale, paths: entry.paths },
    ),
    groups: reader.groups,
  }
}

/** A path on this site, and nothing that leads elsewhere. */
function localPath(value: unknown): string {
  return typeof value === 'string' && /^\/(?![/\\])/.test(value) ? encodeURI(decodeURI(value)) : '/'
}

function readCookie(header: string | undefined, name: string): string | undefined {
  return (
    header
      ?.split(';')
      .map((part) => part.trim())
      .find((part) => part.startsWith(name + '='))
      ?.slice(name.length + 1) || undefined
  )
}
