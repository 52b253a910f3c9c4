import { Service, type WisteriaProblem } from '@wisteria/client'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { asFiles, files, refusal } from './support/models.js'
import { startSmall, type SmallSite } from './support/running.js'

let small: SmallSite
let now = Date.parse('2031-03-12T09:00:00Z')
const password = 'a password of some length'
const problem = (work: () => unknown) => refusal<WisteriaProblem>(work)
const service = (token?: string) => new Service({ baseUrl: small.service.baseUrl, ...(token ? { token } : {}) })
const codeIn = (address: string) => new URL(address).hash.slice(1)
const invite = async (email: string, more: object = {}) =>
  codeIn((await small.owner.invite({ email, role: 'editor', ...more })).address)
const accept = (code: string, more: object = {}, token?: string) =>
  service(token).acceptInvitation({ code, as: 'token', ...more })

beforeAll(async () => {
  small = await startSmall({}, () => now)
})
afterAll(() => small.service.end())

describe('an invitation', () => {
  it('makes an account and a member by its link, once', async () => {
    const { address, id } = await small.owner.invite({
      email: 'Ines@marram.example',
      role: 'translator',
      locales: ['nl'],
    })
    expect(address).toMatch(/\/console\/invitation#[\w-]{43}$/)
    expect((await small.owner.invitations()).invitations).toMatchObject([
      { id, email: 'ines@marram.example', role: 'translator', locales: ['nl'], expiresAt: '2031-03-19T09:00:00.000Z' },
    ])
    const code = codeIn(address)
    expect(await service().invitation(code)).toMatchObject({
      email: 'ines@marram.example',
      role: 'translator',
      site: { name: 'marram' },
      hasAccount: false,
    })
    const signedIn = await accept(code, { name: 'Ines', password })
    expect(signedIn).toMatchObject({
      account: { name: 'Ines', email: 'ines@marram.example', operator: false },
      sites: [{ name: 'marram', role: 'translator', locales: ['nl'] }],
    })
    expect((await small.owner.invitations()).invitations).toEqual([])
    expect((await problem(() => accept(code, { name: 'Ines', password }))).message).toMatch(/was used or revoked/)
    await service().signIn({ email: 'ines@marram.example', password })
  })

  it('asks for a name and a good password, and is not used up by one that is not', async () => {
    const code = await invite('joris@marram.example')
    expect((await problem(() => accept(code))).problems.map(({ pointer }) => pointer)).toEqual(['/name', '/password'])
    const short = await problem(() => accept(code, { name: 'Joris', password: 'short' }))
    expect([short.status, short.problems[0]?.message]).toEqual([422, '`password` must have at least 12 characters.'])
    expect((await accept(code, { name: 'Joris', password })).account.name).toBe('Joris')
  })

  it('takes who has an account by its password, or by their session', async () => {
    const other = await service(small.token).createSite({
      name: 'flats',
      label: 'Greyflats',
      defaultLocale: 'en',
      locales: [{ tag: 'en', label: 'English', fallback: [] }],
      timeZone: 'UTC',
    })
    const flats = service(small.token).site(other.name)
    const joris = { email: 'joris@marram.example', role: 'viewer' } as const
    const code = codeIn((await flats.invite(joris)).address)
    expect((await service().invitation(code)).hasAccount).toBe(true)
    expect((await problem(() => accept(code, { password: 'not this one at all' }))).message).toMatch(
      /send its password/,
    )
    const { token, sites } = await accept(code, { password })
    expect(sites.map(({ name, role }) => `${name} ${role}`)).toEqual(['flats viewer', 'marram editor'])
    await flats.removeMember((await flats.members()).members.find(({ email }) => email === joris.email)!.account)
    const again = codeIn((await flats.invite(joris)).address)
    expect((await accept(again, {}, token)).sites).toHaveLength(2)
    // Sessions of other accounts are not found.
    await flats.removeMember((await flats.members()).members.find(({ email }) => email === joris.email)!.account)
    const third = codeIn((await flats.invite(joris)).address)
    expect((await problem(() => accept(third, {}, small.token))).status).toBe(403)
  })

  it('is replaced by a newer one, ends when it is revoked or old, and is shown as expired', async () => {
    const first = await invite('tess@marram.example')
    const second = await invite('tess@marram.example', { role: 'viewer' })
    expect((await problem(() => service().invitation(first))).status).toBe(403)
    expect((await service().invitation(second)).role).toBe('viewer')
    const listed = (await small.owner.invitations()).invitations.filter(({ email }) => email === 'tess@marram.example')
    expect(listed).toHaveLength(1)
    await small.owner.revokeInvitation(listed[0]!.id)
    expect((await problem(() => service().invitation(second))).status).toBe(403)
    expect((await problem(() => small.owner.revokeInvitation(listed[0]!.id))).status).toBe(404)
    const third = await invite('tess@marram.example')
    now += 8 * 86_400_000
    expect((await problem(() => accept(third, { name: 'Tess', password }))).message).toMatch(/older than 7 days/)
    expect((await small.owner.invitations()).invitations.map(({ email }) => email)).toEqual(['tess@marram.example'])
  })

  it('is refused for who is a member, a role that one cannot give, and a locale that is none', async () => {
    const member = await problem(() => small.owner.invite({ email: 'ines@marram.example', role: 'editor' }))
    expect([member.status, member.message]).toEqual([409, 'ines@marram.example is a member already.'])
    const refused = (invited: object) =>
      problem(() => small.owner.invite(invited as never)).then(({ message }) => message)
    expect(await refused({ email: 'x', role: 'editor' })).toMatch(/e-mail address/)
    expect(await refused({ email: 'x@marram.example', role: 'king' })).toMatch(/role/)
    expect(await refused({ email: 'x@marram.example', role: 'editor', locales: ['xx'] })).toMatch(
      /`xx` is not a locale/,
    )
  })

  it('lets only one come when its link is used twice at once', async () => {
    const code = await invite('wim@marram.example')
    const tries = await Promise.allSettled([1, 2].map(() => accept(code, { name: 'Wim', password })))
    expect(tries.filter(({ status }) => status === 'fulfilled')).toHaveLength(1)
    expect((await small.owner.members()).members.filter(({ email }) => email === 'wim@marram.example')).toHaveLength(1)
  })
})

describe('an account', () => {
  it('says what its name, language and time zone are', async () => {
    const { token } = await service().signIn({ email: 'joris@marram.example', password, as: 'token' })
    const change = { name: 'Joris Takelaar', language: 'nl', timeZone: 'Europe/Amsterdam' }
    expect((await service(token).changeAccount(change)).account).toMatchObject(change)
    expect((await service(token).session()).account).toMatchObject(change)
    const wrong = (more: object) => problem(() => service(token).changeAccount({ ...change, ...more }))
    expect((await wrong({ timeZone: 'Mars/Olympus' })).message).toMatch(/time zone such as/)
    expect((await wrong({ language: 'Dutch!' })).message).toMatch(/language tag/)
    expect((await wrong({ name: ' ' })).status).toBe(400)
  })

  it('sees where it is signed in, and ends one session alone', async () => {
    const sign = async () => (await service().signIn({ email: 'ines@marram.example', password, as: 'token' })).token!
    const [here, there] = [await sign(), await sign()]
    const { sessions } = await service(here).sessions()
    expect(sessions.filter(({ current }) => current)).toHaveLength(1)
    expect(sessions[0]!.agent).toMatch(/node/i)
    const theirs = (await service(there).sessions()).sessions.find(({ current }) => current)!
    await service(here).endSession(theirs.id)
    expect((await problem(() => service(there).session())).status).toBe(401)
    expect((await service(here).session()).account.name).toBe('Ines')
    expect((await problem(() => service(here).endSession(theirs.id))).status).toBe(404)
    // A session of another account is not found.
    const foreign = (await service(small.token).sessions()).sessions[0]!
    expect((await problem(() => service(here).endSession(foreign.id))).status).toBe(404)
  })
})

describe('an access key for models', () => {
  it('compares and adopts, and does nothing else', async () => {
    const { secret } = await small.owner.createKey({ label: 'Pipeline', scope: 'model' })
    const pipeline = service(secret).site('marram')
    const changed = { ...files, museum: files.museum.replace('town:', 'opening: { kind: text }\n  town:') }
    const { id, canBeAdopted } = await pipeline.compareModel(asFiles(changed))
    expect(canBeAdopted).toBe(true)
    const { version } = await pipeline.adoptModel(id)
    expect((await pipeline.model()).version).toBe(version)
    expect((await pipeline.modelHistory()).models[0]!.adoptedBy).toMatch(/^key:/)
    expect((await problem(() => pipeline.entries({}))).status).toBe(403)
    const { settings } = await small.owner.locales()
    expect((await problem(() => pipeline.setLocales(settings))).message).toMatch(/scope model does not include this/)
  })
})
