import { spawn, spawnSync, type ChildProcess } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Editor } from '@wisteria/client'
import { startDemo, type DemoWorld } from './support/running.js'

/* The recipes for caches, run as they are in the docs, with other ports and folders. They need Debian's packages. */

const recipes = readFileSync(new URL('../docs/recipes/caches.md', import.meta.url), 'utf8')
const recipe = (language: string): string => new RegExp('```' + language + '\\n([^]*?)```').exec(recipes)![1]!
const has = (command: string): boolean => spawnSync('sh', ['-c', `command -v ${command}`]).status === 0

let demo: DemoWorld
let owner: Editor
let folder: string
const running: ChildProcess[] = []

beforeAll(async () => {
  demo = await startDemo()
  owner = await demo.as('maren@marram.example')
  await owner.setOpen(true)
  folder = mkdtempSync(join(tmpdir(), 'wisteria-caches-'))
})
afterAll(async () => {
  for (const child of running) child.kill('SIGTERM')
  await demo.service.end()
  rmSync(folder, { recursive: true, force: true })
})

async function freePort(): Promise<number> {
  const probe = createServer().listen(0, '127.0.0.1')
  await new Promise((resolve) => probe.once('listening', resolve))
  const { port } = probe.address() as AddressInfo
  await new Promise((resolve) => probe.close(resolve))
  return port
}

const upstream = (): string => new URL(demo.service.baseUrl).port

/** Publishes another town of a museum. @returns the event's groups and generation. */
async function change(town: string): Promise<{ groups: string[]; generation: string }> {
  const { entries } = await owner.entries({ type: 'museum', where: 'slug = "boatyard"' })
  const { id } = entries[0]!
  const { version } = await owner.entry(id)
  const saved = await owner.patch(id, version, { town })
  await owner.publish(id, { version: saved.version })
  const answer = await fetch(`${demo.service.baseUrl}/read/v1/marram/changes?since=0&first=500`)
  const { changes } = (await answer.json()) as { changes: { groups: string[]; generation: string }[] }
  return changes.at(-1)!
}

const path = '/read/v1/marram/entries/museum?sort=name&pick=town'
const read = async (base: string) => {
  const answer = await fetch(base + path)
  return {
    text: await answer.text(),
    cached: answer.headers.get('x-cache-hits') ?? answer.headers.get('x-cache-status'),
  }
}

describe.skipIf(!has('varnishd'))('Varnish', () => {
  it('caches answers, and drops those that a change affects', async () => {
    const port = await freePort()
    const file = join(folder, 'wisteria.vcl')
    writeFileSync(file, recipe('vcl').replace('"4080"', `"${upstream()}"`))
    running.push(
      spawn('varnishd', ['-F', '-j', 'none', '-f', file, '-a', `127.0.0.1:${port}`, '-n', join(folder, 'varnish')], {
        stdio: 'ignore',
      }),
    )
    const base = `http://127.0.0.1:${port}`
    await expect
      .poll(
        () =>
          read(base).then(
            ({ text }) => text.slice(0, 11),
            () => '',
          ),
        { timeout: 20_000 },
      )
      .toBe('{"entries":')
    await read(base)
    const before = await read(base)
    expect(Number(before.cached)).toBeGreaterThan(0)
    const { groups } = await change('Varnished')
    expect((await read(base)).text).toBe(before.text)
    const dropped = await fetch(base + '/', {
      method: 'BAN',
      headers: { 'Wisteria-Groups': groups.map((group) => `"${group}"`).join('|') },
    })
    expect(dropped.status).toBe(200)
    const after = await read(base)
    expect([after.cached, after.text.includes('Varnished')]).toEqual(['0', true])
  })
})

describe.skipIf(!has('nginx'))('nginx', () => {
  it('caches answers, and sends none that is older than its generation', async () => {
    const port = await freePort()
    const generation = join(folder, 'generation.conf')
    const tell = (value: string) => writeFileSync(generation, `set $wisteria_generation "${value}";\n`)
    tell('first')
    const config = recipe('nginx')
      .replace('127.0.0.1:4080', `127.0.0.1:${upstream()}`)
      .replace('127.0.0.1:8480', `127.0.0.1:${port}`)
      .replace('/tmp/wisteria-generation.conf', generation)
      .replace('/tmp/wisteria-nginx', join(folder, 'nginx-cache'))
    const file = join(folder, 'nginx.conf')
    writeFileSync(
      file,
      `daemon off; user root; pid ${folder}/nginx.pid; error_log stderr;\nevents {}\nhttp {\naccess_log off;\n${config}\n}\n`,
    )
    const nginx = spawn('nginx', ['-c', file, '-p', folder], { stdio: 'ignore' })
    running.push(nginx)
    const base = `http://127.0.0.1:${port}`
    await expect
      .poll(
        () =>
          read(base).then(
            ({ text }) => text.slice(0, 11),
            () => '',
          ),
        { timeout: 20_000 },
      )
      .toBe('{"entries":')
    const before = await read(base)
    expect(before.cached).toBe('HIT')
    const told = await change('Behind nginx')
    expect((await read(base)).text).toBe(before.text)
    tell(told.generation)
    nginx.kill('SIGHUP')
    await expect
      .poll(() => read(base).then(({ text }) => text.includes('Behind nginx')), { timeout: 10_000 })
      .toBe(true)
    expect((await read(base)).cached).toBe('HIT')
  })
})
