import { statSync } from 'node:fs'
import { join } from 'node:path'
import { Service, type Editor } from '@wisteria/client'
import { OptionError, readOptions, startService } from '@wisteria/service'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { refusal } from './support/models.js'
import { eventually, startSmall, type SmallSite } from './support/running.js'

let small: SmallSite
let owner: Editor
let read: string
beforeAll(async () => {
  small = await startSmall({ trustProxy: '127.0.0.1' })
  owner = small.owner
  read = `${small.service.baseUrl}/read/v1/marram`
})
afterAll(() => small.service.end())

const send = async (path: string, body: string, headers: Record<string, string> = {}, method = 'POST') => {
  const answer = await fetch(`${small.service.baseUrl}${path}`, {
    method,
    body,
    headers: { 'Content-Type': 'application/json', ...headers },
  })
  return {
    status: answer.status,
    head: answer.headers,
    body: (await answer.json()) as { code: string; detail: string; problems?: unknown[]; moreProblems?: number },
  }
}
const asOwner = () => ({ Authorization: `Bearer ${small.token}` })

describe('streams of changes', () => {
  it.each(['a key that is revoked', 'a session that is ended'])('end at once for %s', async (what) => {
    const { id, secret } = await small.owner.createKey({ label: 'Listener', scope: 'published' })
    const email = `listener-${what.length}@marram.example`
    const password = 'a long password'
    await small.owner.addMember({ email, name: 'Listener', role: 'viewer', password })
    const { token } = await new Service({ baseUrl: small.service.baseUrl }).signIn({ email, password, as: 'token' })
    const isKey = what.includes('key')
    const answer = await fetch(`${small.service.baseUrl}/read/v1/marram/changes`, {
      headers: { Accept: 'text/event-stream', Authorization: `Bearer ${isKey ? secret : token}` },
    })
    const reading = answer.text()
    await (isKey
      ? small.owner.revokeKey(id)
      : new Service({ baseUrl: small.service.baseUrl, token: token! }).signOutEverywhere())
    const { id: page } = await small.owner.create({ type: 'page', values: { title: { en: `Not for ${what}` } } })
    await small.owner.publish(page)
    expect(await reading).not.toContain(page)
  })
  it('take no reader their turn, however many are open', async () => {
    const key = (await owner.createKey({ label: 'Streams', scope: 'published' })).secret
    const ends = new AbortController()
    const open = ({ signal } = ends) =>
      fetch(`${read}/changes`, {
        headers: { Accept: 'text/event-stream', Authorization: `Bearer ${key}` },
        signal,
      })
    const streams = await Promise.all(Array.from({ length: 32 }, () => open()))
    expect(streams.every(({ status }) => status === 200)).toBe(true)
    // Requested for the first time: nothing of it is cached.
    const answer = await fetch(`${read}/entries/museum?where=town%20%3D%20%22x%22`, {
      headers: { Authorization: `Bearer ${key}` },
    })
    expect(answer.status).toBe(200)
    const more = await open()
    expect([more.status, ((await more.json()) as { code: string }).code]).toEqual([429, 'tooMany'])
    ends.abort()
    // A closed connection frees its place at once.
    const again = await eventually(
      () => open(new AbortController()),
      ({ status }) => status === 200,
    )
    await again.body!.cancel()
  })
  it('begin with GET alone', async () => {
    const answer = await fetch(`${read}/changes`, {
      method: 'HEAD',
      headers: { Accept: 'text/event-stream', ...asOwner() },
    })
    expect([answer.status, answer.headers.get('content-type'), await answer.text()]).toEqual([
      200,
      'text/event-stream; charset=utf-8',
      '',
    ])
  })
})

describe('files that are made to be slow', () => {
  it.each([
    ['comments before nothing', '<!---->'.repeat(40)],
    ['many comments', `${'<!---->'.repeat(20_000)}<svg xmlns="http://www.w3.org/2000/svg"/>`],
    ['tags that never end', '<svg '.repeat(200_000)],
    ['values that never end', `<svg xmlns="http://www.w3.org/2000/svg"><rect fill="${'url('.repeat(100_000)}"/></svg>`],
    ['entities of its own', '<!DOCTYPE svg [<!ENTITY a "aaaa">]><svg xmlns="http://www.w3.org/2000/svg">&a;</svg>'],
  ])('are read to their end: %s', async (_, text) => {
    const outcome = await owner.uploadAsset('x.svg', new Blob([text])).then(
      () => 201,
      (error: { status: number }) => error.status,
    )
    expect([201, 415]).toContain(outcome)
  })
  it('are shown in other forms, or refused, whatever size they say they have', async () => {
    const sizes = ['', 'width="99999999px" height="99999999px"', 'width="10" height="20"', 'viewBox="0 0 0 0"']
    for (const size of sizes) {
      const svg = `<svg xmlns="http://www.w3.org/2000/svg" ${size}><rect width="9" height="9"/></svg>`
      const { address } = await owner.uploadAsset('y.svg', new Blob([svg]))
      expect((await fetch(`${address}?w=64`)).status, size).toBeLessThan(500)
    }
    const sound = await owner.uploadAsset(
      'z.svg',
      new Blob(['<svg xmlns="http://www.w3.org/2000/svg"><rect width="9" height="9"/></svg>']),
    )
    expect((await fetch(`${sound.address}?w=64`)).status).toBe(200)
  })
  it('fetch nothing, however it is spelled', async () => {
    const values = [
      'u\\72l(http://evil.example/a)',
      'image-set("http://evil.example/b" 1x)',
      'URL( "http://evil.example/c" )',
      'url(#a) src(http://evil.example/d)',
      "url('http://evil.example/e#f')",
    ]
    const svg = `<svg xmlns="http://www.w3.org/2000/svg">${values.map((value) => `<rect style="fill:${value.replaceAll('"', '&quot;')}" width="9"/>`).join('')}<path fill="url(#own)" d="M0 0"/></svg>`
    const { address } = await owner.uploadAsset('w.svg', new Blob([svg]))
    const text = await (await fetch(address)).text()
    expect(text).not.toContain('evil')
    expect(text).toContain('url(#own)')
    const utf16 = new Blob([
      Buffer.from('\ufeff<svg xmlns="http://www.w3.org/2000/svg" onload="alert(1)"/>', 'utf16le'),
    ])
    expect((await refusal<{ status: number }>(() => owner.uploadAsset('v.svg', utf16))).status).toBe(415)
  })
})

describe('bodies', () => {
  const nested = (levels: number) => '['.repeat(levels) + ']'.repeat(levels)
  it('are read from nobody who is not known', async () => {
    const { status, body } = await send('/edit/v1/sites/marram/entries', nested(500_000))
    expect([status, body.code]).toEqual([401, 'unauthenticated'])
  })
  it('are small where anybody may send them', async () => {
    const members = Object.fromEntries(Array.from({ length: 20_000 }, (_, index) => [`m${index}`, 1]))
    const { status, body } = await send('/edit/v1/session', JSON.stringify(members))
    expect([status, body.detail]).toEqual([413, 'The body of this request has at most 16 kB.'])
  })
  it('nest so deep and no deeper', async () => {
    for (const text of [nested(5000), `{"type":"activity","values":{"summary":${nested(5000)}}}`]) {
      const { status, body } = await send('/edit/v1/sites/marram/entries', text, asOwner())
      expect([status, body.detail]).toEqual([400, expect.stringMatching(/nest at most 100 deep: line 1, column \d+\./)])
    }
  })
  it('name the first wrong members, and how many more there are', async () => {
    const values = Object.fromEntries(Array.from({ length: 100_000 }, (_, index) => [`wrong${index}`, 1]))
    const { status, body } = await send(
      '/edit/v1/sites/marram/entries',
      JSON.stringify({ type: 'activity', values }),
      asOwner(),
    )
    expect([status, body.problems?.length]).toEqual([422, 50])
  })
})

describe('requests that are nearly right', () => {
  const post = (path: string, body: unknown, headers: Record<string, string> = {}) =>
    send(`/edit/v1/sites/marram${path}`, JSON.stringify(body), { ...asOwner(), ...headers })
  it('are refused with a sentence, and never an error of ours', async () => {
    const { id } = await owner.create({
      type: 'activity',
      values: {
        title: { en: 'A' },
        body: [
          { id: 'h1', block: 'heading', values: {} },
          { id: 'h2', block: 'heading', values: {} },
        ],
      },
    })
    for (const at of ['2030-13-45T00:00', '2030-02-30T10:00', '2030-01-01T25:00'])
      expect([at, (await post(`/entries/${id}/schedule`, { does: 'publish', at })).status]).toEqual([at, 422])
    const odd = await post('/entries', { type: 'activity', values: { body: [{ block: { toString: 1 } }] } })
    expect([odd.status, odd.body.detail]).toEqual([422, expect.stringMatching(/takes heading, quote/)])
    for (const path of [
      '/edit/v1/sites/marram/entries/%00',
      '/read/v1/marram/entries/museum/%00',
      '/assets/marram/x/%00',
    ])
      expect([path, (await fetch(small.service.baseUrl + path, { headers: asOwner() })).status]).toEqual([path, 404])
    const dots = await refusal<{ status: number }>(() => owner.uploadAsset('..', new Blob(['words'])))
    expect(dots.status).toBe(400)
    const match = await fetch(`${small.service.baseUrl}/edit/v1/sites/marram/entries/${id}`, {
      method: 'PATCH',
      body: '{"values":{}}',
      headers: { ...asOwner(), 'Content-Type': 'application/json', 'If-Match': '2' },
    })
    expect([match.status, ((await match.json()) as { detail: string }).detail]).toEqual([
      400,
      '`If-Match` names ETags in quotes: it is "v1" now, not `2`.',
    ])
    // Somebody removed the item that another was to follow.
    await owner.edit(id, 1, [{ do: 'remove', at: ['body', 'h1'] }])
    const moved = await refusal<{ code: string }>(() =>
      owner.edit(id, 1, [{ do: 'move', at: ['body', 'h2'], after: 'h1' }]),
    )
    expect(moved.code).toBe('editConflict')
  })
  it('find nobody and nothing by a name that no text can hold', async () => {
    const { id } = await owner.create({ type: 'museum', values: { name: { en: 'Mill' } } })
    expect((await post(`/entries/${id}/preview`, { frontEnd: '\u0000' })).status).toBe(404)
    const signIn = await send(
      '/edit/v1/session',
      JSON.stringify({ email: 'a\u0000@b.example', password: 'a long password' }),
    )
    expect(signIn.status).toBe(401)
    expect((await post('/entries', { type: 'museum', values: null })).status).toBe(422)
  })
  it('for a part of a file that it does not have say so', async () => {
    const { address } = await owner.uploadAsset('notes.txt', new Blob(['notes']))
    expect((await fetch(address, { headers: { Range: 'bytes=100-200' } })).status).toBe(416)
  })
  it('are answered in the language that is asked for, however that is written', async () => {
    const { id } = await owner.create({ type: 'museum', values: { name: { en: 'Mill', nl: 'Molen' } } })
    await owner.publish(id)
    const asked = async (language: string) => {
      const answer = await fetch(`${read}/entries/museum/${id}?locale=%61uto`, {
        headers: { ...asOwner(), 'Accept-Language': language },
      })
      return ((await answer.json()) as { values: { name: string } }).values.name
    }
    expect([await asked('en'), await asked('nl'), await asked('en')]).toEqual(['Mill', 'Molen', 'Mill'])
    expect(
      (await fetch(`${read}/entries/museum/00000000000000000000`, { headers: asOwner() })).headers.get('vary'),
    ).toContain('Authorization')
  })
})

describe('one data folder', () => {
  it('is one service’s alone', async () => {
    const options = readOptions({ data: small.service.folder, port: 0, logLevel: 'silent' }, {})
    const error = await refusal(() => startService(options))
    expect(error).toBeInstanceOf(OptionError)
    expect(error.message).toMatch(/cannot be used: another service is running on it\.$/)
    expect((await fetch(`${small.service.baseUrl}/ready`)).status).toBe(200)
  })
  it('can be read by nobody else on the machine', () => {
    for (const file of ['wisteria.db', 'wisteria.db-wal', 'wisteria.lock'])
      expect((statSync(join(small.service.folder, file)).mode & 0o777).toString(8), file).toBe('600')
  })
})

describe('wrong passwords', () => {
  const signIn = (password: string, from: string, email = 'owner@marram.example') =>
    send('/edit/v1/session', JSON.stringify({ email, password, as: 'token' }), { 'X-Forwarded-For': from })
  it('lock out nobody behind the same proxy', async () => {
    for (let count = 0; count < 6; count++) await signIn('wrong', '192.0.2.9')
    const refused = await signIn('wrong', '192.0.2.9')
    expect([refused.status, Number(refused.head.get('retry-after')) > 0]).toEqual([429, true])
    expect((await signIn('wrong', '192.0.2.10')).status).toBe(401)
    expect((await signIn('wrong', '192.0.2.9', 'other@marram.example')).status).toBe(401)
  })
  it('are counted by the nearest address where no proxy is trusted', async () => {
    const careful = await startSmall()
    try {
      const attempt = async (from: string) => {
        const answer = await fetch(`${careful.service.baseUrl}/edit/v1/session`, {
          method: 'POST',
          body: JSON.stringify({ email: 'a@marram.example', password: 'x' }),
          headers: { 'Content-Type': 'application/json', 'X-Forwarded-For': from },
        })
        return answer.status
      }
      for (let count = 0; count < 6; count++) await attempt(`192.0.2.${count}`)
      expect(await attempt('192.0.2.99')).toBe(429)
    } finally {
      await careful.service.end()
    }
  })
  it('keep no reader waiting while they are looked at', async () => {
    const tries = Array.from({ length: 40 }, (_, index) =>
      signIn('wrong', `198.51.100.${index}`, `a${index}@marram.example`),
    )
    expect((await new Service({ baseUrl: small.service.baseUrl }).state()).waitsForOwner).toBe(false)
    expect((await Promise.all(tries)).every(({ status }) => status === 401)).toBe(true)
  })
})
