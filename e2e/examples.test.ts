import { execFile, spawn, type ChildProcess } from 'node:child_process'
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { promisify } from 'node:util'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { startDemo, type DemoWorld } from './support/running.js'

const run = promisify(execFile)
const root = fileURLToPath(new URL('..', import.meta.url))
let demo: DemoWorld
let environment: NodeJS.ProcessEnv
const folder = mkdtempSync(join(tmpdir(), 'wisteria-examples-'))

beforeAll(async () => {
  demo = await startDemo()
  environment = {
    ...process.env,
    WISTERIA_URL: demo.service.baseUrl,
    WISTERIA_SITE: 'marram',
    WISTERIA_TOKEN: demo.seeded.keys.published,
  }
})
afterAll(async () => {
  await demo.service.end()
  rmSync(folder, { recursive: true, force: true })
})

describe('the static build', () => {
  it('writes every public page, and a site map', async () => {
    const { stdout } = await run(process.execPath, ['examples/static-build/build.mjs', folder], {
      cwd: root,
      env: environment,
    })
    const count = Number(/^(\d+) pages/.exec(stdout)![1])
    expect(count).toBeGreaterThan(40)
    expect(readFileSync(join(folder, 'activities/night-walk/index.html'), 'utf8')).toContain('<h1>Night Walk</h1>')
    expect(existsSync(join(folder, 'nl/index.html'))).toBe(true)
    const map = readFileSync(join(folder, 'sitemap.xml'), 'utf8')
    // Pages that fall back to another locale are written, and are not in the site map.
    const paths = []
    for await (const path of demo.reader().paths())
      if (path.contentLocale === path.locale && !path.hidden) paths.push(path.path)
    expect(paths.length).toBeLessThan(count)
    expect(
      [...map.matchAll(/<loc>https:\/\/site\.example([^<]*)/g)].map(([, path]) => decodeURI(path!)).sort(),
    ).toEqual(paths.sort())
  })
})

describe('the server that renders', () => {
  let server: ChildProcess
  let address: string
  let hook: string
  afterAll(() => server.kill())

  it('keeps pages until a webhook says that they are stale', async () => {
    const owner = await demo.as('maren@marram.example')
    // The secret exists once the webhook is made, and the webhook needs an address: a free port is taken first.
    const probe: Server = createServer().listen(0, '127.0.0.1')
    await new Promise((resolve) => probe.once('listening', resolve))
    const { port } = probe.address() as AddressInfo
    await new Promise((resolve) => probe.close(resolve))
    const { id, secret } = await owner.webhooks.create({
      label: 'Example',
      address: `http://127.0.0.1:${port}/webhook`,
      events: ['entry.published'],
    })
    hook = id
    server = spawn(process.execPath, ['examples/server-rendered/server.mjs'], {
      cwd: root,
      env: { ...environment, WISTERIA_WEBHOOK_SECRET: secret, PORT: String(port) },
      stdio: ['ignore', 'pipe', 'inherit'],
    })
    address = await new Promise<string>((resolve) =>
      server.stdout!.once('data', (text: Buffer) => resolve(text.toString().trim())),
    )
    const page = async (path: string) => (await fetch(address + path.slice(1), { redirect: 'manual' })).text()
    expect(await page('/museums/boatyard')).toContain('Boatyard')
    expect((await fetch(address + 'nowhere')).status).toBe(404)
    expect((await fetch(address + 'webhook', { method: 'POST', body: '{}' })).status).toBe(400)
    const { entries } = await owner.entries({ type: 'museum', where: 'slug = "boatyard"' })
    const { version } = await owner.entry(entries[0]!.id)
    const saved = await owner.patch(entries[0]!.id, version, { name: { en: 'The Slipway' } })
    expect(await page('/museums/boatyard')).not.toContain('The Slipway')
    await owner.publish(entries[0]!.id, { version: saved.version })
    await expect.poll(() => page('/museums/boatyard'), { timeout: 15_000 }).toContain('<h1>The Slipway</h1>')
    await owner.webhooks.remove(hook)
  })
})

describe('what the guide shows', () => {
  const text = readFileSync(join(root, 'docs/guides/reading-content.md'), 'utf8')
  const blocks = (language: string) =>
    [...text.matchAll(new RegExp('```' + language + '\\n([^]*?)```', 'g'))].map(
      ([, block], index): [string, string] => [`${index + 1}: ${block!.trim().split('\n')[0]!}`, block!],
    )

  it.each(blocks('js'))('runs as it stands, %s', async (_, block) => {
    const file = join(folder, `block-${Math.abs(hash(block))}.mjs`)
    const client = new URL('../packages/client/dist/index.js', import.meta.url).href
    writeFileSync(file, block.replaceAll("'@wisteria/client'", `'${client}'`))
    const { stdout } = await run(process.execPath, [file], { env: environment })
    expect(stdout).not.toBe('')
  })

  it.each(blocks('sh'))('answers as it stands, %s', async (_, block) => {
    const { stdout } = await run('sh', ['-ec', block], { env: environment, cwd: folder })
    for (const answer of stdout.trim().split('\n'))
      expect(answer).toMatch(/^\{"(entries|entry|id|data|paths|slugs|redirects|results|changes)"/)
  })
})

const hash = (text: string): number => [...text].reduce((sum, letter) => (sum * 31 + letter.charCodeAt(0)) | 0, 7)
