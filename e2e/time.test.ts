import { join } from 'node:path'
import { exchangePreviewCode, Reader, type Editor, type WisteriaProblem } from '@wisteria/client'
import { Database, forgetOlder } from '@wisteria/store'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { refusal } from './support/models.js'
import { startSmall, type SmallSite } from './support/running.js'

const minute = 60_000
const hour = 60 * minute
let now = Date.parse('2031-05-04T10:00:00Z')
let small: SmallSite
let owner: Editor

beforeAll(async () => {
  small = await startSmall({}, () => now)
  owner = small.owner
  await owner.setFrontEnd('site', {
    label: 'Site',
    origins: ['http://site.example'],
    enter: { '*': 'http://site.example/in?c={code}&p={path}' },
  })
})
afterAll(() => small.service.end())

const make = (name: string) => owner.create({ type: 'museum', values: { name: { en: name } } })

describe('as time goes by', () => {
  it('a sitting ends after ten quiet minutes', async () => {
    const { id } = await make('Sitting')
    now += 9 * minute
    await owner.patch(id, 1, { town: 'a' })
    now += 9 * minute
    await owner.patch(id, 2, { town: 'b' })
    expect((await owner.revisions(id)).revisions).toHaveLength(1)
    now += 10 * minute
    await owner.patch(id, 3, { town: 'c' })
    const { revisions } = await owner.revisions(id)
    expect(revisions.map((revision) => [revision.number, revision.sealedAt !== null])).toEqual([
      [2, false],
      [1, true],
    ])
  })

  it('what is public says since when, and when its bytes last changed', async () => {
    const { id } = await make('Since')
    const first = new Date(now).toISOString()
    await owner.publish(id)
    now += hour
    await owner.patch(id, 2, { town: 'x' })
    await owner.publish(id)
    const second = new Date(now).toISOString()
    now += hour
    await owner.publish(id)
    const { secret } = await owner.createKey({ label: 'r', scope: 'published' })
    const reader = new Reader({ baseUrl: small.service.baseUrl, site: 'marram', token: secret })
    expect(await reader.entry('museum', id)).toMatchObject({ publishedAt: first, updatedAt: second })
    const recent = async (where: string) => (await reader.entries('museum', { where, count: true })).count
    expect([
      await recent('entry.updated > now - 90 minutes'),
      await recent('entry.updated > now - 30 minutes'),
    ]).toEqual([1, 0])
  })

  it('edits are merged as far back as they are kept, and no further', async () => {
    const { id } = await make('Kept')
    await owner.patch(id, 1, { town: 'x' })
    await owner.patch(id, 2, { town: 'y' })
    const edit = { do: 'set' as const, at: ['name'], locale: 'nl', value: 'Bewaard' }
    expect((await owner.edit(id, 1, [edit])).merged).toBe(true)
    const database = await Database.open({ file: join(small.service.folder, 'wisteria.db') })
    await database.write((transaction) => forgetOlder(transaction, 'saves', new Date(now + 1).toISOString(), 500))
    await database.close()
    const error = await refusal<WisteriaProblem>(() => owner.edit(id, 1, [{ ...edit, value: 'Te laat' }]))
    expect([error.status, error.message]).toEqual([
      412,
      'Version 1 is too old to merge with. Read the entry again; it is at version 4.',
    ])
    expect((await owner.edit(id, 4, [{ ...edit, value: 'Op tijd' }])).version).toBe(5)
  })

  it('a preview code is good for a minute, and once', async () => {
    const { id } = await make('Code')
    const { secret } = await owner.createKey({ label: 'p', scope: 'published' })
    const site = { baseUrl: small.service.baseUrl, site: 'marram', token: secret }
    const code = async () => new URL((await owner.preview(id, 'site')).address).searchParams.get('c')!
    const late = await code()
    now += minute + 1
    expect((await refusal<WisteriaProblem>(() => exchangePreviewCode(site, late))).status).toBe(403)
    const good = await code()
    const { grant } = await exchangePreviewCode(site, good)
    expect((await refusal<WisteriaProblem>(() => exchangePreviewCode(site, good))).status).toBe(403)
    const reader = new Reader({ ...site, token: grant, edition: 'draft' })
    expect((await reader.entry('museum', id))?.id).toBe(id)
    now += 13 * hour
    expect((await refusal<WisteriaProblem>(() => reader.entry('museum', id))).status).toBe(401)
  })

  it('a preview grant is not to be forged', async () => {
    const [header, , signature] = ['eyJhbGciOiJIUzI1NiJ9', '', 'AAAA']
    const none = Buffer.from('{"alg":"none"}').toString('base64url')
    const payload = Buffer.from(JSON.stringify({ jti: 'x', aud: 'marram', exp: 4_000_000_000 })).toString('base64url')
    for (const token of [`${header}.${payload}.${signature}`, `${none}.${payload}.`, 'a.b.c']) {
      const reader = new Reader({ baseUrl: small.service.baseUrl, site: 'marram', token, edition: 'draft' })
      expect((await refusal<WisteriaProblem>(() => reader.entries('museum'))).status).toBe(401)
    }
  })

  it('an idempotency key is forgotten after a day', async () => {
    const entry = { type: 'person', values: { name: 'Daily' } }
    const first = await owner.create(entry, 'daily')
    now += 23 * hour
    expect((await owner.create(entry, 'daily')).id).toBe(first.id)
    now += 2 * hour
    expect((await owner.create(entry, 'daily')).id).not.toBe(first.id)
  })

  it('a session ends', async () => {
    now += 15 * 24 * hour
    expect((await refusal<WisteriaProblem>(() => owner.entries({ type: 'museum' }))).message).toBe(
      'This session has ended. Sign in again.',
    )
  })
})
