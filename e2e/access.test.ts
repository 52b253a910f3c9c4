import { Service } from '@wisteria/client'
import { keyScopes, roles, type Caller } from '@wisteria/core'
import { routes, type Route } from '@wisteria/service'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { asFiles, files, refusal } from './support/models.js'
import { routesByCaller } from './support/routesByCaller.js'
import { startSmall, type SmallSite } from './support/running.js'

let small: SmallSite
/** Every kind of caller, with the token it sends. */
const tokens = new Map<string, { caller: Caller; token: string | undefined }>()

const asMember = (role: (typeof roles)[number] | undefined, operator = false): Caller => ({
  is: 'member',
  account: '',
  operator,
  role,
})

beforeAll(async () => {
  small = await startSmall()
  const { owner, service } = small
  tokens.set('nobody', { caller: { is: 'nobody' }, token: undefined })
  tokens.set('the first owner', { caller: asMember('owner', true), token: small.token })
  for (const role of roles) {
    const email = `${role}@marram.example`
    await owner.addMember({ email, name: role, password: 'a long password', role })
    const { token } = await new Service({ baseUrl: service.baseUrl }).signIn({
      email,
      password: 'a long password',
      as: 'token',
    })
    tokens.set(role, { caller: asMember(role), token })
  }
  await owner.addMember({ email: 'left@marram.example', name: 'Left', password: 'a long password', role: 'viewer' })
  const stranger = await new Service({ baseUrl: service.baseUrl }).signIn({
    email: 'left@marram.example',
    password: 'a long password',
    as: 'token',
  })
  await owner.removeMember(
    (await owner.members()).members.find((member) => member.email === 'left@marram.example')!.account,
  )
  tokens.set('a stranger', { caller: asMember(undefined), token: stranger.token })
  for (const scope of keyScopes)
    tokens.set(`a key: ${scope}`, {
      caller: { is: 'key', key: '', scope },
      token: (await owner.createKey({ label: scope, scope })).secret,
    })
})
afterAll(() => small.service.end())

/** An address of a route with an id that does not exist, so that an admitted caller gets 404, and nothing changes. */
function addressOf(route: Route, query = ''): string {
  const path = route.path.replaceAll(/\{(\w+)\}/g, (_, name: string) =>
    name === 'site' ? 'marram' : name === 'type' ? 'museum' : '00000000000000000000',
  )
  return small.service.baseUrl + path + query
}

const send = (route: Route, token: string | undefined, query = '') =>
  fetch(addressOf(route, query), {
    method: route.method,
    // A body that no schema accepts: a caller whose body is read was admitted.
    ...(route.body
      ? {
          body: '"nothing"',
          headers: { 'Content-Type': 'application/json', ...(token ? { Authorization: `Bearer ${token}` } : {}) },
        }
      : { headers: token ? { Authorization: `Bearer ${token}` } : {} }),
  })

/** Signing out would end the tokens that the routes after it are tried with: it is tried on its own. */
const isEnding = ({ method, path }: Route) =>
  ['DELETE /edit/v1/session', 'POST /edit/v1/account/sign-out'].includes(`${method} ${path}`)

/** The list's entries, route by route and edition by edition. */
const allowed = new Map(
  routesByCaller.flatMap(({ letsIn, routes: routes }) => routes.map((name) => [name, letsIn] as const)),
)
const namesOf = ({ method, path, permission }: Route): string[] =>
  permission === 'edition'
    ? ['published', 'draft'].map((edition) => `${method} ${path}?edition=${edition}`)
    : [`${method} ${path}`]

describe('every route', () => {
  it('stands in the list of who gets through to it, and nothing else does', () =>
    expect([...allowed.keys()].sort()).toEqual(routes.flatMap(namesOf).sort()))

  it.each(
    routes.filter((route) => !isEnding(route)).flatMap((route) => namesOf(route).map((name) => [name, route] as const)),
  )('%s lets in whom it should, and nobody else', async (name, route) => {
    for (const [who, { token }] of tokens) {
      const response = await send(route, token, name.includes('?') ? `?${name.split('?')[1]}` : '')
      await response.arrayBuffer()
      const isRefused = response.status === 401 || response.status === 403
      // The rights of some routes depend on the body: a role cannot give out more than it has.
      expect([who, isRefused], String(response.status)).toEqual([who, !allowed.get(name)!.includes(who)])
      expect(response.status, who).toBeLessThan(500)
      if (isRefused) expect(response.status, who).toBe(who === 'nobody' ? 401 : 403)
    }
  })

  it.each(routes.filter(isEnding).map((route) => [`${route.method} ${route.path}`, route] as const))(
    '%s lets in who is signed in',
    async (name, route) => {
      const who = { email: `leaver-${route.method}@marram.example`.toLowerCase(), password: 'a long password' }
      await small.owner.addMember({ ...who, name: 'A leaver', role: 'viewer' })
      const { token } = await new Service({ baseUrl: small.service.baseUrl }).signIn({ ...who, as: 'token' })
      expect((await send(route, token)).status).toBe(204)
      expect((await send(route, token)).status).toBe(401)
      for (const [other, { caller, token: theirs }] of tokens)
        if (caller.is !== 'member')
          expect([other, (await send(route, theirs)).status]).toEqual([other, theirs ? 403 : 401])
      const members = [...tokens].flatMap(([token, { caller }]) => (caller.is === 'member' ? [token] : []))
      expect([...allowed.get(name)!].sort()).toEqual(members.sort())
    },
  )

  it('says what it is for and what it needs', () => {
    for (const route of routes) {
      expect(route.summary, route.path).toMatch(/^[A-Z].*[.]$/)
      expect(route.permission, route.path).toBeTruthy()
    }
    const names = routes.map((route) => `${route.method} ${route.path}`)
    expect(new Set(names).size).toBe(names.length)
  })

  it('is one that was declared: nothing else answers', async () => {
    for (const path of [
      '/edit/v1',
      '/edit/v1/invitations',
      '/edit/v1/sites/marram/nothing',
      '/read/v1/marram',
      '/metrics',
      '/edit/v1/sites/marram/entries/x/y/z',
    ]) {
      const response = await fetch(small.service.baseUrl + path, {
        headers: { Authorization: `Bearer ${small.token}` },
      })
      expect([path, [404, 405].includes(response.status)]).toEqual([path, true])
    }
  })
})

describe('keys', () => {
  it('are shown once, stored as a digest, and revoked at once', async () => {
    const created = await small.owner.createKey({ label: 'Once', scope: 'published' })
    expect(created.secret).toMatch(/^wk_[0-9a-z]{8}_[\w-]{43}$/)
    expect(JSON.stringify(await small.owner.keys())).not.toContain(created.secret)
    const read = () =>
      fetch(`${small.service.baseUrl}/read/v1/marram/entries/museum`, {
        headers: { Authorization: `Bearer ${created.secret}` },
      })
    expect((await read()).status).toBe(200)
    await small.owner.revokeKey(created.id)
    expect((await read()).status).toBe(401)
  })
  it('are never what a session’s random token looks like', () => {
    expect(small.token).toMatch(/^ws_[\w-]{43}$/)
  })
  it('that are nearly right are wrong', async () => {
    const { secret } = await small.owner.createKey({ label: 'Near', scope: 'edit' })
    for (const near of [
      secret.slice(0, -1),
      secret + 'a',
      secret.slice(0, 12) + 'A'.repeat(43),
      'wk_',
      'wk_x',
      secret.toUpperCase(),
    ]) {
      const response = await fetch(`${small.service.baseUrl}/read/v1/marram/entries/museum`, {
        headers: { Authorization: `Bearer ${near}` },
      })
      expect([near.length, response.status]).toEqual([near.length, 401])
    }
  })
  it('belong to one site', async () => {
    const service = new Service({ baseUrl: small.service.baseUrl, token: small.token })
    const {
      name: _,
      open: __,
      modelVersion: ___,
      sequence: ____,
      publicGeneration: _____,
      ...settings
    } = await small.owner.settings()
    await service.createSite({ ...settings, name: 'other' })
    const { secret } = await small.owner.createKey({ label: 'Mine', scope: 'edit' })
    const error = await refusal(() =>
      new Service({ baseUrl: small.service.baseUrl, token: secret }).site('other').model(),
    )
    expect(error.message).toBe('This access key belongs to another site.')
  })
})

describe('members', () => {
  const editorOf = async (email: string) => {
    const { token } = await new Service({ baseUrl: small.service.baseUrl }).signIn({
      email,
      password: 'a long password',
      as: 'token',
    })
    return new Service({ baseUrl: small.service.baseUrl, token: token! }).site('marram')
  }
  it('who translate write words of locales, and nothing that all share', async () => {
    const translator = await editorOf('translator@marram.example')
    const entry = await small.owner.create({ type: 'museum', values: { name: { en: 'Mill' } } })
    expect(
      (await translator.edit(entry.id, 1, [{ do: 'set', at: ['name'], locale: 'nl', value: 'Molen' }])).version,
    ).toBe(2)
    expect((await refusal(() => translator.edit(entry.id, 2, [{ do: 'set', at: ['town'], value: 'x' }]))).message).toBe(
      'This changes values that all locales share.',
    )
    expect((await refusal(() => translator.patch(entry.id, 2, { town: 'x' }))).message).toBe(
      'This changes values that all locales share.',
    )
    expect((await refusal(() => translator.publish(entry.id))).message).toMatch(
      /The role translator does not include this/,
    )
  })
  it('who are limited keep to their locales', async () => {
    await small.owner.addMember({
      email: 'nl@marram.example',
      name: 'Nel',
      password: 'a long password',
      role: 'editor',
      locales: ['nl'],
    })
    const limited = await editorOf('nl@marram.example')
    const entry = await small.owner.create({
      type: 'museum',
      values: { name: { en: 'Mill', nl: 'Molen' }, slug: { en: 'mill-2', nl: 'molen-2' } },
    })
    expect((await refusal(() => limited.publish(entry.id, { locales: ['nl'] }))).message).toMatch(
      /Shared values have changed/,
    )
    await small.owner.publish(entry.id, { locales: ['en'] })
    const edited = await limited.edit(entry.id, 2, [{ do: 'set', at: ['name'], locale: 'nl', value: 'De Molen' }])
    expect((await refusal(() => limited.publish(entry.id, { locales: ['en', 'nl'] }))).message).toMatch(
      /You are limited to nl; this touches en/,
    )
    expect((await limited.publish(entry.id, { locales: ['nl'], version: edited.version })).states['nl']).toBe('public')
    expect(
      (await refusal(() => limited.edit(entry.id, 4, [{ do: 'set', at: ['name'], locale: 'ar', value: 'x' }]))).message,
    ).toMatch(/limited to nl/)
  })
  it('who are limited are held to it at every door', async () => {
    const limited = await editorOf('nl@marram.example')
    const { owner } = small
    const file = new Blob(['<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"/>'])
    const asset = await owner.uploadAsset('mark.svg', file)
    const make = async (name: string) => owner.create({ type: 'museum', values: { name: { en: name, nl: name } } })
    const [open, away, binned, shown] = [
      await make('Open'),
      await make('Away'),
      await make('Binned'),
      await make('Shown'),
    ]
    await owner.archive(away.id)
    await owner.delete(binned.id)
    await owner.publish(shown.id)
    const at = new Date(Date.now() + 86_400_000).toISOString()
    const planned = await owner.schedule(shown.id, { does: 'publish', at, locales: ['en'] })
    const ownSchedule = await owner.schedule(shown.id, { does: 'publish', at, locales: ['nl'] })
    const [above, below] = await Promise.all(
      ['Above', 'Below'].map((title) => owner.create({ type: 'page', values: { title: { en: title } } })),
    )
    await owner.edit(shown.id, 2, [{ do: 'set', at: ['name'], locale: 'en', value: 'Shown differently' }])
    const bulk = await owner.waitFor(await owner.bulk({ do: 'archive', ids: [above!.id] }))
    const refused: Record<string, () => Promise<unknown>> = {
      'put a page below another': () => limited.place(below!.id, { parent: above!.id, after: null }),
      'restore a revision of another locale': () => limited.restore(shown.id, { from: 'public' }),
      create: () => limited.create({ type: 'museum', values: { name: { nl: 'Nieuw' } } }),
      duplicate: () => limited.duplicate(open.id),
      archive: () => limited.archive(open.id),
      reactivate: () => limited.reactivate(away.id),
      delete: () => limited.delete(open.id),
      restore: () => limited.restoreFromBin(binned.id),
      'delete permanently': () => limited.deletePermanently(binned.id),
      'publish all': () => limited.publish(shown.id),
      'withdraw all': () => limited.withdraw(shown.id),
      'schedule all': () => limited.schedule(shown.id, { does: 'publish', at }),
      'schedule another locale': () => limited.schedule(shown.id, { does: 'withdraw', at, locales: ['en'] }),
      'move another schedule': () => limited.reschedule(planned.id, { at, locales: ['nl'] }),
      'move a schedule to another locale': () => limited.reschedule(ownSchedule.id, { at, locales: ['en'] }),
      'cancel another schedule': () => limited.cancelSchedule(planned.id),
      'change a shared value': () => limited.patch(open.id, 1, { town: 'x' }),
      'name a file': () => limited.changeAsset(asset.id, { name: 'other.svg' }),
      'move a focal point': () => limited.changeAsset(asset.id, { focalPoint: { x: 0, y: 0 } }),
      'describe a file in another locale': () => limited.changeAsset(asset.id, { alt: { nl: 'Merk', en: 'Mark' } }),
      'replace a file': () => limited.replaceAsset(asset.id, file),
      'delete a file': () => limited.deleteAsset(asset.id),
    }
    for (const [what, work] of Object.entries(refused)) {
      const error = await refusal<{ status?: number; message: string }>(work)
      expect([what, error.status], error.message).toEqual([what, 403])
    }
    for (const does of ['archive', 'delete', 'duplicate'] as const) {
      const job = await limited.waitFor(await limited.bulk({ do: does, ids: [open.id] }))
      expect([does, job.state, (await limited.bulkItems(job.id)).items[0]?.state]).toEqual([does, 'done', 'refused'])
    }
    const undone = await limited.waitFor(await limited.undoJob(bulk.id))
    expect((await limited.bulkItems(undone.id)).items.map(({ state }) => state)).toEqual(['refused'])
    expect((await limited.changeAsset(asset.id, { alt: { nl: 'Merk' } })).alt).toEqual({ nl: 'Merk' })
    const edited = await limited.edit(shown.id, (await owner.entry(shown.id)).version, [
      { do: 'set', at: ['name'], locale: 'nl', value: 'Getoond' },
    ])
    expect((await limited.publish(shown.id, { locales: ['nl'], version: edited.version })).states['nl']).toBe('public')
    await limited.cancelSchedule(ownSchedule.id)
  })
  it('who are limited save their own locale of a type without drafts', async () => {
    const { owner } = small
    const notice =
      'type: notice\ndrafts: false\nfields:\n  text: { kind: text, localized: true }\n  until: { kind: date }\n'
    await owner.adoptModel((await owner.compareModel(asFiles({ ...files, notice }))).id)
    const { id, version } = await owner.create({ type: 'notice', values: { text: { en: 'Closed', nl: 'Dicht' } } })
    const limited = await editorOf('nl@marram.example')
    const saved = await limited.edit(id, version, [{ do: 'set', at: ['text'], locale: 'nl', value: 'Gesloten' }])
    expect([saved.states['nl'], saved.states['en']]).toEqual(['public', 'public'])
    expect((await refusal(() => limited.patch(id, saved.version, { until: '2031-01-01' }))).message).toMatch(
      /limited to nl/,
    )
  })
  it('leave a site with an owner, always', async () => {
    const { members } = await small.owner.members()
    const owners = members.filter((member) => member.role === 'owner')
    await small.owner.changeMember(owners[1]!.account, { role: 'viewer' })
    expect((await refusal(() => small.owner.changeMember(owners[0]!.account, { role: 'viewer' }))).message).toMatch(
      /at least one owner/,
    )
    expect((await refusal(() => small.owner.removeMember(owners[0]!.account))).message).toMatch(/at least one owner/)
    expect((await small.owner.members()).members.find((member) => member.account === owners[0]!.account)?.role).toBe(
      'owner',
    )
  })
  it('are told what is wrong with a new one', async () => {
    const tries: [Parameters<typeof small.owner.addMember>[0], RegExp][] = [
      [{ email: 'not an e-mail', role: 'viewer' }, /e-mail address/],
      [{ email: 'new@marram.example', role: 'viewer' }, /send `name` and `password`/],
      [{ email: 'new@marram.example', name: 'New', password: 'short', role: 'viewer' }, /at least 12 characters/],
      [
        { email: 'new@marram.example', name: 'New', password: 'a long password', role: 'king' as never },
        /must be one of owner, developer/,
      ],
      [
        { email: 'new@marram.example', name: 'New', password: 'a long password', role: 'viewer', locales: ['fr'] },
        /`fr` is not a locale/,
      ],
      [{ email: 'viewer@marram.example', role: 'viewer' }, /is a member already/],
    ]
    for (const [member, message] of tries)
      expect((await refusal(() => small.owner.addMember(member))).message).toMatch(message)
  })
})

describe('sessions', () => {
  const signIn = (body: object, headers: Record<string, string> = {}) =>
    fetch(`${small.service.baseUrl}/edit/v1/session`, {
      method: 'POST',
      body: JSON.stringify(body),
      headers: { 'Content-Type': 'application/json', ...headers },
    })
  const who = { email: 'Viewer@Marram.Example', password: 'a long password' }

  it('are a cookie that no script sees, for browsers', async () => {
    const response = await signIn(who)
    expect(response.status).toBe(201)
    expect(response.headers.get('set-cookie')).toMatch(
      /^wisteria_session=ws_[\w-]{43}; Max-Age=1209600; Path=\/; HttpOnly; SameSite=Lax$/,
    )
    expect(await response.json()).not.toHaveProperty('token')
  })
  it('have ids of hexadecimal digits, which no command takes for an option', async () => {
    const cookie = (await signIn(who)).headers.get('set-cookie')!.split(';')[0]!
    const answer = await fetch(`${small.service.baseUrl}/edit/v1/account/sessions`, { headers: { Cookie: cookie } })
    for (const { id } of ((await answer.json()) as { sessions: { id: string }[] }).sessions) {
      expect(id).toMatch(/^[0-9a-f]{20}$/)
    }
  })
  it('change nothing for a page of somebody else’s', async () => {
    const cookie = (await signIn(who)).headers.get('set-cookie')!.split(';')[0]!
    const seal = (headers: Record<string, string>) =>
      fetch(`${small.service.baseUrl}/edit/v1/session`, { method: 'DELETE', headers: { Cookie: cookie, ...headers } })
    expect((await seal({ 'Sec-Fetch-Site': 'cross-site' })).status).toBe(403)
    expect((await seal({ 'Sec-Fetch-Site': 'same-site' })).status).toBe(403)
    expect((await seal({ Origin: 'https://elsewhere.example' })).status).toBe(403)
    expect((await seal({ 'Sec-Fetch-Site': 'same-origin' })).status).toBe(204)
    expect((await fetch(`${small.service.baseUrl}/edit/v1/session`, { headers: { Cookie: cookie } })).status).toBe(401)
  })
  it('are not opened with a wrong password, and many tries are held back', async () => {
    const wrong = await signIn({ ...who, password: 'a wrong password' })
    const unknown = await signIn({ email: 'nobody@marram.example', password: 'a wrong password' })
    expect([wrong.status, unknown.status]).toEqual([401, 401])
    const [first, two] = [(await wrong.json()) as { detail: string }, (await unknown.json()) as { detail: string }]
    expect(first.detail).toBe(two.detail)
    const statuses: number[] = []
    for (let tries = 0; tries < 22; tries++) statuses.push((await signIn({ email: 'a', password: 'b' })).status)
    expect(statuses.at(-1)).toBe(429)
  })
  it('need no owner twice', async () => {
    const response = await fetch(`${small.service.baseUrl}/edit/v1/service/set-up`, {
      method: 'POST',
      body: '{}',
      headers: { 'Content-Type': 'application/json' },
    })
    expect([400, 429]).toContain(response.status)
    expect(await new Service({ baseUrl: small.service.baseUrl }).state()).toEqual({ waitsForOwner: false })
  })
})
