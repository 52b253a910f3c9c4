import type { Editor } from '@wisteria/client'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { eventually, startDemo, startSite, type DemoWorld } from './support/running.js'

let demo: DemoWorld
let site: Awaited<ReturnType<typeof startSite>>
let editor: Editor
let webhook = ''

beforeAll(async () => {
  demo = await startDemo()
  site = await startSite(demo, '127.0.0.1')
  webhook = site.webhook
  editor = await demo.as('ilse@marram.example')
})
afterAll(async () => {
  await site.stop()
  await demo.service.end()
})

interface Got {
  readonly status: number
  readonly text: string
  readonly cache: string | null
  readonly headers: Headers
}
const get = async (path: string, cookie?: string): Promise<Got> => {
  const response = await fetch(site.address + path, { redirect: 'manual', headers: cookie ? { Cookie: cookie } : {} })
  return {
    status: response.status,
    text: await response.text(),
    cache: response.headers.get('x-page-cache'),
    headers: response.headers,
  }
}
const find = async (type: string, title: string) =>
  (
    await editor.entries({
      type,
      where: `${type === 'person' || type === 'museum' ? 'name' : 'title'} = ${JSON.stringify(title)}`,
    })
  ).entries[0]!.id
const change = async (id: string, values: Record<string, unknown>) =>
  editor.patch(id, (await editor.entry(id)).version, values)
/** Waits until all deliveries of the webhook have been accepted. */
const settled = () =>
  eventually(
    async () => (await (await demo.as('maren@marram.example')).webhooks.deliveries(webhook)).deliveries,
    (all) => all.every((delivery) => delivery.status === 'delivered'),
  )

describe('the sample front end', () => {
  it('shows pictures from the service, and facts with one separator between two', async () => {
    const walk = (await get('/activities/night-walk')).text.replace(/<[^>]+>/g, '')
    expect(walk).toMatch(/90 minutes · €9\.00 · The Lighthouse/)
    expect(walk).not.toMatch(/·\s*·/)
    const { text } = await get('/exhibitions/nine-thousand-nights')
    const [, address] = /<figure>\s*<img\s+src="([^"]+)"\s+alt="A drawing of a tower in a storm at night\."/.exec(text)!
    expect((await fetch(address!)).headers.get('content-type')).toBe('image/webp')
  })
  it.each([
    ['/', 'en', 'ltr', 'Three museums on a windy coast'],
    ['/nl', 'nl', 'ltr', 'Drie musea aan een winderige kust'],
    ['/nl-be', 'nl-BE', 'ltr', 'in goede handen'],
    ['/ar', 'ar', 'rtl', 'ثلاثة متاحف على ساحل عاصف'],
    ['/nl/agenda/nachtwandeling', 'nl', 'ltr', 'Maartje Duinhof'],
    ['/exhibitions/nine-thousand-nights', 'en', 'ltr', 'Come and read them'],
    ['/visit/tickets', 'en', 'ltr', 'Plan your visit'],
    ['/people/idris-benhalima', 'en', 'ltr', 'Driftwood Strings'],
    ['/ar/museums/%D9%85%D9%86%D8%A7%D8%B1%D8%A9', 'ar', 'rtl', 'منارة رأس ساندرلينغ'],
  ])('shows %s in %s', async (path, locale, direction, words) => {
    const page = await get(path)
    expect([page.status, page.text.includes(`<html lang="${locale}" dir="${direction}">`)]).toEqual([200, true])
    expect(page.text).toContain(words)
  })
  it('has a page for what is not there, in its language', async () => {
    const page = await get('/nl/agenda/niets')
    expect([page.status, page.text.includes('Hier is alleen wind')]).toEqual([404, true])
    expect((await get('/ar/%D8%B4')).text).toContain('dir="rtl"')
    expect((await get('/exhibitions/moving-sands')).status).toBe(404)
  })
  it('shows nothing that is not public', async () => {
    expect((await get('/activities/bread-without-salt')).status).toBe(404)
    expect((await get('/museums/saltworks')).text).toContain('and the birds never left')
  })
})

describe('its cache', () => {
  it('keeps pages, and drops with a publish just those that it reaches', async () => {
    const pages = [
      '/activities/night-walk',
      '/people/maartje-duinhof',
      '/exhibitions/white-harvest',
      '/museums/lighthouse',
    ]
    for (const page of pages) await get(page)
    for (const page of pages) expect((await get(page)).cache).toBe('hit')
    const id = await find('person', 'Maartje Duinhof')
    await change(id, { role: { en: 'Lamplighter' } })
    expect((await get('/activities/night-walk')).cache).toBe('hit')
    await editor.publish(id)
    const page = await eventually(
      () => get('/activities/night-walk'),
      ({ text }) => text.includes('Lamplighter'),
    )
    expect(page.status).toBe(200)
    await settled()
    expect((await get('/people/maartje-duinhof')).text).toContain('Lamplighter')
    expect((await get('/exhibitions/white-harvest')).cache).toBe('hit')
  })
  it('learns that a page has come to be where there was none', async () => {
    expect((await get('/people/wout-zilt')).status).toBe(404)
    expect((await get('/people/wout-zilt')).cache).toBe('hit')
    await editor.publish(await find('person', 'Wout Zilt'))
    expect(
      (
        await eventually(
          () => get('/people/wout-zilt'),
          ({ status }) => status === 200,
        )
      ).text,
    ).toContain('Cook at the Saltworks')
  })
  it('follows a page that moved', async () => {
    await get('/activities/tar-day')
    const id = await find('activity', 'Tar Day')
    await change(id, { slug: { en: 'the-yearly-tarring' } })
    await editor.publish(id)
    const moved = await eventually(
      () => get('/activities/tar-day'),
      ({ status }) => status === 301,
    )
    expect(moved.headers.get('location')).toBe('/activities/the-yearly-tarring')
    expect((await get('/activities/the-yearly-tarring')).status).toBe(200)
  })
  it('believes only what is signed', async () => {
    const response = await fetch(`${site.address}/hooks/wisteria`, {
      method: 'POST',
      body: '{}',
      headers: {
        'webhook-id': 'x',
        'webhook-timestamp': String(Math.floor(Date.now() / 1000)),
        'webhook-signature': 'v1,AAAA',
      },
    })
    expect(response.status).toBe(400)
  })
})

describe('its preview', () => {
  const enter = async (title: string, locale = 'en') => {
    const { address, path } = await editor.preview(await find('museum', title), 'site', locale)
    return { address, path, response: await fetch(address, { redirect: 'manual' }) }
  }
  it('is entered with a code that is good once, and leaves in one click', async () => {
    const { address, path, response } = await enter('The Saltworks at Greyflats')
    expect([response.status, response.headers.get('location')]).toEqual([303, path])
    const set = response.headers.get('set-cookie')!
    expect(set).toMatch(
      /^marram_preview=[\w-]+\.[\w-]+\.[\w-]+; Path=\/; Max-Age=\d+; HttpOnly; Secure; SameSite=None; Partitioned$/,
    )
    const cookie = set.split(';')[0]!
    const page = await get(path!, cookie)
    expect(page.text).toContain('and since this year on Wednesdays too')
    expect(page.text).toContain('You see drafts.')
    expect([page.cache, page.headers.get('cache-control')]).toEqual(['preview', 'no-store'])
    expect((await get(path!)).text).not.toContain('Wednesdays')
    expect((await get('/activities/bread-without-salt', cookie)).status).toBe(200)
    expect((await fetch(address, { redirect: 'manual' })).status).toBe(403)
    const left = await fetch(`${site.address}/preview/leave`, {
      method: 'POST',
      body: new URLSearchParams({ to: path! }),
      headers: { Cookie: cookie },
      redirect: 'manual',
    })
    expect([left.status, left.headers.get('location'), left.headers.get('set-cookie')]).toEqual([
      303,
      path,
      expect.stringMatching(/^marram_preview=; .*Max-Age=0/),
    ])
  })
  it('ends with the rights of who gave it, and shows what is public then', async () => {
    const { path, response } = await enter('The Saltworks at Greyflats')
    const cookie = response.headers.get('set-cookie')!.split(';')[0]!
    const owner = await demo.as('maren@marram.example')
    const ilse = (await owner.members()).members.find((member) => member.email.startsWith('ilse'))!
    await owner.removeMember(ilse.account)
    const page = await get(path!, cookie)
    expect([page.status, page.text.includes('Wednesdays')]).toEqual([200, false])
    expect(page.headers.get('set-cookie')).toMatch(/Max-Age=0/)
    await owner.addMember({ email: ilse.email, role: 'editor' })
    expect((await get(path!, cookie)).text).toContain('Wednesdays')
  })
  it('redirects nowhere else, whatever it is told', async () => {
    for (const to of ['https://elsewhere.example', '//elsewhere.example', '/\\elsewhere.example', 'javascript:1']) {
      const left = await fetch(`${site.address}/preview/leave`, {
        method: 'POST',
        body: new URLSearchParams({ to }),
        redirect: 'manual',
      })
      expect(left.headers.get('location')).toBe('/')
    }
    expect((await get('/preview/enter?code=nothing&to=/')).status).toBe(403)
    expect((await get('/', 'marram_preview=not.a.grant')).status).toBe(200)
  })
})
