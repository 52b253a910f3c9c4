import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Editor, Service, type WisteriaProblem } from '@wisteria/client'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { runIn } from './support/commands.js'
import { refusal, settings } from './support/models.js'
import { ownerOf, startSmall, type SmallSite } from './support/running.js'

/** That a dry run of every operation stores nothing is tested in e2e/editAnswers. */
const folder = mkdtempSync(join(tmpdir(), 'wisteria-dry-run-'))
let small: SmallSite
let owner: Editor

const run = (args: string[], environment?: Record<string, string>, input?: string) =>
  runIn(folder, args, environment, input)
const send = (path: string, header: string) =>
  fetch(`${small.service.baseUrl}/edit/v1${path}`, {
    method: 'POST',
    headers: { Authorization: `Bearer ${small.token}`, 'Dry-Run': header, 'Content-Type': 'application/json' },
    body: '{}',
  })

beforeAll(async () => {
  small = await startSmall()
  owner = small.owner
  const { baseUrl } = small.service
  const connected = await run(['connect', baseUrl, '--email', ownerOf.email], { WISTERIA_PASSWORD: ownerOf.password })
  expect([connected.code, connected.err]).toEqual([0, ''])
})
afterAll(async () => {
  await small.service.end()
  rmSync(folder, { recursive: true, force: true })
})

describe('a dry run over HTTP', () => {
  it('is refused where there is none, so that nothing is done that was only to be tried', async () => {
    for (const [path, told] of [
      ['/account/sign-out', /has no dry run, so nothing was done\. Send it without `Dry-Run`\./],
      ['/sites/marram/entries/bulk', /so nothing was done\. Send `dryRun: true` in its body\./],
      ['/sites/marram/model/proposals', /so nothing was done\. It puts no model in force\./],
    ] as const) {
      const answer = await send(path, 'true')
      expect([path, answer.status, await answer.text()]).toEqual([path, 400, expect.stringMatching(told) as string])
    }
    // The session is still there.
    expect((await owner.settings()).name).toBe('marram')
    const wrong = await send('/sites/marram/rebuild', 'yes')
    expect([wrong.status, await wrong.text()]).toEqual([400, expect.stringContaining('`true` or `false`') as string])
  })
  it('takes the rights that the act takes', async () => {
    const { secret } = await owner.createKey({ label: 'Reading', scope: 'published' })
    const reading = new Editor({ baseUrl: small.service.baseUrl, site: 'marram', token: secret, isDryRun: true })
    expect((await refusal<WisteriaProblem>(() => reading.setOpen(true))).status).toBe(403)
  })
  it('is had by the SDK, which waits for no job that was only tried', async () => {
    const service = new Service({ baseUrl: small.service.baseUrl, token: small.token, isDryRun: true })
    const trying = service.site('marram')
    const museum = await owner.create({ type: 'museum', values: { name: { en: 'The Quay' } } })
    await owner.publish(museum.id)
    const locales = [...settings.locales, { tag: 'de', label: 'Deutsch', fallback: ['en'] }]
    expect((await trying.setLocales({ ...settings, locales })).locales.map(({ tag }) => tag)).toContain('de')
    expect((await owner.locales()).settings.locales.map(({ tag }) => tag)).not.toContain('de')
    expect((await trying.withdraw(museum.id)).states['en']).toBe('withdrawn')
    expect((await owner.entry(museum.id)).states['en']).toBe('public')
  })
})

describe('--dry-run', () => {
  it('shows what would come of an act, and changes nothing', async () => {
    const file = join(folder, 'museum.yaml')
    writeFileSync(file, 'name: { en: The Ropery }\n')
    const found = async () => (await run(['entry', 'find', 'Ropery'])).out
    const created = await run(['entry', 'create', 'museum', '--file', file, '--dry-run'])
    expect([created.code, created.out, created.err]).toEqual([
      0,
      expect.stringMatching(/^Created: The Ropery/) as string,
      expect.stringMatching(/^Dry run: nothing is changed/) as string,
    ])
    expect(await found()).toBe('None.\n')
    // The next command is none again.
    const { id } = (await run(['entry', 'create', 'museum', '--file', file, '--json'])).json<{ id: string }>()
    expect((await run(['entry', 'delete', id, '--dry-run'])).code).toBe(0)
    expect(await found()).toMatch(/The Ropery/)
    const key = await run(['key', 'create', '--label', 'Tried', '--scope', 'published', '--dry-run'])
    expect(key.code).toBe(0)
    expect((await run(['key', 'list'])).out).not.toMatch(/Tried/)
    expect((await run(['asset', 'add', 'demo/pictures/lens.webp', '--alt', 'en=A lens', '--dry-run'])).code).toBe(0)
    expect((await owner.assets()).assets).toEqual([])
    const locales = [...settings.locales, { tag: 'de', label: 'Deutsch', fallback: ['en'] }]
    const set = await run(['locale', 'set', '--file', '-', '--dry-run'], {}, JSON.stringify({ ...settings, locales }))
    expect([set.code, set.out]).toEqual([0, expect.stringMatching(/de/) as string])
    expect((await run(['locale', 'list'])).out).not.toMatch(/Deutsch/)
  })
  it('is refused as the act would be: a pipeline learns it by the same exit code', async () => {
    const { id } = await owner.create({ type: 'museum', values: { name: { en: 'The Sail Loft' } } })
    expect((await run(['entry', 'change', id, '--file', '-', '--dry-run'], {}, 'nam: Loft')).code).toBe(3)
    await owner.publish(id)
    expect((await run(['entry', 'delete', id, '--dry-run'])).code).toBe(6)
    expect((await run(['member', 'remove', 'nobody@marram.example', '--dry-run'])).code).toBe(2)
  })
})
