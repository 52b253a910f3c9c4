import { mkdtempSync, rmSync } from 'node:fs'
import { createServer, type IncomingHttpHeaders } from 'node:http'
import type { AddressInfo } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Reader, Service, type Editor } from '@wisteria/client'
import { demoPassword, demoSite, seedDemo, type Seeded, startFrontEnd, type RunningFrontEnd } from '@wisteria/demo'
import { readOptions, startService, type RunningService, type ServiceOptions } from '@wisteria/service'
import { asFiles, files, settings } from './models.js'

export interface Running extends RunningService {
  readonly folder: string
  /** Stops the service and removes its data. */
  end(): Promise<void>
}

/** A service on loopback with a data folder of its own. */
export async function start(
  more: Partial<ServiceOptions> = {},
  folder = mkdtempSync(join(tmpdir(), 'wisteria-')),
  now?: () => number,
): Promise<Running> {
  const options = {
    ...readOptions({ data: folder, port: 0, logLevel: 'silent', allowPrivateAddresses: true }, {}),
    ...more,
  }
  const service = await startService(options, now)
  return {
    ...service,
    folder,
    end: async () => {
      await service.stop()
      rmSync(folder, { recursive: true, force: true })
    },
  }
}

export const ownerOf = { email: 'maren@marram.example', name: 'Maren Aldous', password: 'wind-from-the-west' }

export interface SmallSite {
  readonly service: Running
  readonly owner: Editor
  readonly token: string
}

/** A service with the small test model and an owner. */
export async function startSmall(more: Partial<ServiceOptions> = {}, now?: () => number): Promise<SmallSite> {
  const service = await start(more, undefined, now)
  const code = new URL(service.setUpAddress!).hash.slice(1)
  const { token } = await new Service({ baseUrl: service.baseUrl }).setUp({
    code,
    ...ownerOf,
    site: { name: 'marram', ...settings },
    as: 'token',
  })
  const owner = new Service({ baseUrl: service.baseUrl, token: token! }).site('marram')
  await owner.adoptModel((await owner.compareModel(asFiles(files))).id)
  return { service, owner, token: token! }
}

/** A front end's reader of the published edition, with a key of its own. */
export async function publishedReader({ service, owner }: SmallSite): Promise<Reader> {
  const { secret } = await owner.createKey({ label: 'Website', scope: 'published' })
  return new Reader({ baseUrl: service.baseUrl, site: 'marram', token: secret })
}

export interface DemoWorld {
  readonly service: Running
  readonly seeded: Seeded
  reader(edition?: 'published' | 'draft'): Reader
  as(email: string): Promise<Editor>
}

/** A service with the demo world in it. */
export async function startDemo(): Promise<DemoWorld> {
  const service = await start()
  const seeded = await seedDemo({ baseUrl: service.baseUrl, setUpCode: new URL(service.setUpAddress!).hash.slice(1) })
  return {
    service,
    seeded,
    reader: (edition = 'published') =>
      new Reader({
        baseUrl: service.baseUrl,
        site: demoSite.name,
        token: edition === 'draft' ? seeded.keys.draft : seeded.keys.published,
        edition,
      }),
    as: (email) => signIn(service.baseUrl, email),
  }
}

/** The sample front end of a demo, registered and subscribed as the demo's command does it. */
export async function startSite(
  demo: DemoWorld,
  host: string,
): Promise<RunningFrontEnd & { readonly webhook: string }> {
  let secret = ''
  const site = await startFrontEnd({
    baseUrl: demo.service.baseUrl,
    site: demoSite.name,
    key: demo.seeded.keys.published,
    webhookSecret: () => secret,
    port: 0,
    host,
  })
  const owner = await demo.as('maren@marram.example')
  await owner.setFrontEnd('site', {
    label: 'Museum site',
    origins: [site.address],
    enter: { '*': `${site.address}/preview/enter?code={code}&to={path}` },
  })
  const received = await owner.webhooks.create({ label: 'Museum site', address: `${site.address}/hooks/wisteria` })
  secret = received.secret
  return { ...site, webhook: received.id }
}

export async function signIn(baseUrl: string, email: string): Promise<Editor> {
  const { token } = await new Service({ baseUrl }).signIn({ email, password: demoPassword, as: 'token' })
  return new Service({ baseUrl, token: token! }).site(demoSite.name)
}

export interface Received {
  readonly url: string
  readonly headers: IncomingHttpHeaders
  readonly body: string
}

/** A server that receives webhooks, with given answers. */
export async function startReceiver(
  answer: (received: Received, count: number) => number | Promise<number> = () => 204,
  at = 0,
) {
  const received: Received[] = []
  const waiting: { count: number; done: () => void }[] = []
  const server = createServer((request, response) => {
    let body = ''
    request.setEncoding('utf8')
    request.on('data', (chunk: string) => (body += chunk))
    request.on('end', () => {
      const webhook = { url: request.url ?? '', headers: request.headers, body }
      received.push(webhook)
      void Promise.resolve(answer(webhook, received.length)).then((status) => {
        response.writeHead(status).end(status === 204 ? undefined : 'answered')
        for (const wait of waiting) if (received.length >= wait.count) wait.done()
      })
    })
  })
  await new Promise<void>((resolve) => server.listen(at, '127.0.0.1', resolve))
  const port = (server.address() as AddressInfo).port
  return {
    address: `http://127.0.0.1:${port}/hooks`,
    port,
    received,
    /** Resolves after this many requests. */
    until: (count: number) =>
      new Promise<void>((done) => (received.length >= count ? done() : waiting.push({ count, done }))),
    stop: () =>
      new Promise<void>((resolve) => {
        server.close(() => resolve())
        server.closeAllConnections()
      }),
  }
}

/** Waits until a check holds; a test waits for a result and not for a time. */
export async function eventually<Value>(
  look: () => Promise<Value> | Value,
  holds: (value: Value) => boolean,
  seconds = 20,
): Promise<Value> {
  const until = Date.now() + seconds * 1000
  for (;;) {
    const value = await look()
    if (holds(value)) return value
    if (Date.now() > until) throw new Error(`it did not come to be: ${JSON.stringify(value)?.slice(0, 400)}`)
    await new Promise((resolve) => setTimeout(resolve, 20))
  }
}
