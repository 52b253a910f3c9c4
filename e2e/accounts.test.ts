import { chmodSync, existsSync, mkdirSync, mkdtempSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { exchangePreviewCode, Reader, Service, type Editor, type WisteriaProblem } from '@wisteria/client'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { runIn } from './support/commands.js'
import { refusal, settings } from './support/models.js'
import { ownerOf, start, startSmall, type SmallSite } from './support/running.js'

let small: SmallSite
let now = Date.parse('2031-03-12T09:00:00Z')
const secret = 'a password of some length'
const problem = (work: () => unknown) => refusal<WisteriaProblem>(work)
const service = (token?: string) => new Service({ baseUrl: small.service.baseUrl, ...(token ? { token } : {}) })
const signIn = async (email: string, password = secret) =>
  (await service().signIn({ email, password, as: 'token' })).token!
const codeIn = (address: string) => new URL(address).hash.slice(1)

let people = 0
/** A signed-in member of the site. */
async function person(role: 'owner' | 'editor' = 'editor', site: Editor = small.owner) {
  const email = `person-${++people}@marram.example`
  const { account } = await site.addMember({ email, name: `Person ${people}`, role, password: secret })
  return { email, account, token: await signIn(email) }
}
const isIn = async (token: string) =>
  await service(token)
    .session()
    .then(
      () => true,
      () => false,
    )

beforeAll(async () => {
  small = await startSmall({}, () => now)
})
afterAll(() => small.service.end())

describe('a password', () => {
  it('is changed by who knows the one before; every other session ends', async () => {
    const { email, token } = await person()
    const other = await signIn(email)
    expect(
      (await problem(() => service(token).changePassword({ current: 'not this one', password: 'something else' })))
        .message,
    ).toBe('The current password is wrong.')
    expect(
      (await problem(() => service(token).changePassword({ current: secret, password: 'short' }))).problems[0]?.message,
    ).toMatch(/12 characters/)
    expect(await isIn(other)).toBe(true)
    await service(token).changePassword({ current: secret, password: 'another one, as long' })
    expect([await isIn(token), await isIn(other)]).toEqual([true, false])
    expect((await problem(() => signIn(email))).message).toBe('E-mail or password is wrong.')
    await signIn(email, 'another one, as long')
  })
  it('is not guessed from within a session either', async () => {
    const { token } = await person()
    const tries = []
    for (let count = 0; count < 7; count++)
      tries.push(
        (await problem(() => service(token).changePassword({ current: `guess ${count}`, password: 'irrelevant now' })))
          .status,
      )
    expect(tries).toEqual([403, 403, 403, 403, 403, 429, 429])
  })
  it('is set anew by a link of an owner, once, within a day', async () => {
    const { email, account, token } = await person()
    const first = await service(small.token).makePasswordLink(account)
    const { address } = await service(small.token).makePasswordLink(account)
    expect(address).toMatch(/\/console\/password#[\w-]{43}$/)
    // The newest one counts.
    expect(
      (await problem(() => service().usePasswordLink({ code: codeIn(first.address), password: 'long enough too' })))
        .status,
    ).toBe(403)
    // A password that is too short does not use it up.
    expect((await problem(() => service().usePasswordLink({ code: codeIn(address), password: 'short' }))).status).toBe(
      400,
    )
    const signedIn = await service().usePasswordLink({
      code: codeIn(address),
      password: 'long enough too',
      as: 'token',
    })
    expect([signedIn.account.email, await isIn(signedIn.token!), await isIn(token)]).toEqual([email, true, false])
    expect(
      (await problem(() => service().usePasswordLink({ code: codeIn(address), password: 'and once more' }))).message,
    ).toMatch(/was used/)
    const late = await service(small.token).makePasswordLink(account)
    now += 25 * 3_600_000
    expect(
      (await problem(() => service().usePasswordLink({ code: codeIn(late.address), password: 'long enough too' })))
        .status,
    ).toBe(403)
  })
})

describe('signing out everywhere', () => {
  it('ends every session and preview grant at once, and nobody else’s', async () => {
    const { email, token } = await person()
    const [second, other] = [await signIn(email), await person()]
    await small.owner.setFrontEnd('site', {
      label: 'Site',
      origins: ['http://127.0.0.1:9'],
      enter: { '*': 'http://127.0.0.1:9/enter?code={code}&to={path}' },
    })
    const { id } = await small.owner.create({ type: 'page', values: { title: { en: `Page ${people}` } } })
    const { address } = await service(token).site('marram').preview(id, 'site')
    const code = new URL(address).searchParams.get('code')!
    const { secret: key } = await small.owner.createKey({ label: 'Site', scope: 'published' })
    const { grant } = await exchangePreviewCode({ baseUrl: small.service.baseUrl, site: 'marram', token: key }, code)
    const draft = new Reader({ baseUrl: small.service.baseUrl, site: 'marram', token: grant, edition: 'draft' })
    expect((await draft.entry('page', id))?.id).toBe(id)
    await service(token).signOutEverywhere()
    expect([await isIn(token), await isIn(second), await isIn(other.token)]).toEqual([false, false, true])
    expect((await problem(() => draft.entry('page', id))).status).toBe(401)
  })
})

describe('a disabled account', () => {
  it('is out at once, cannot sign in, does nothing that it scheduled, and is enabled again', async () => {
    const { email, account, token } = await person()
    const { id } = await small.owner.create({ type: 'page', values: { title: { en: `Page ${people}` } } })
    await service(token).site('marram').schedule(id, { does: 'publish', at: '2031-03-20T09:00' })
    expect(await service(small.token).setAccountDisabled(account, true)).toMatchObject({
      email,
      disabledAt: expect.any(String) as string,
    })
    expect(await isIn(token)).toBe(false)
    expect((await problem(() => signIn(email))).message).toMatch(/This account is disabled/)
    expect((await problem(() => signIn(email, 'a wrong password'))).message).toBe('E-mail or password is wrong.')
    expect((await problem(() => service(small.token).makePasswordLink(account))).message).toMatch(/is disabled/)
    now = Date.parse('2031-03-20T09:00:30Z')
    await expect
      .poll(
        async () =>
          (await small.owner.schedules({ ended: true })).schedules.find((schedule) => schedule.entry === id)?.state,
        { timeout: 20_000 },
      )
      .toBe('failed')
    expect((await small.owner.entry(id)).state).toBe('new')
    await service(small.token).setAccountDisabled(account, false)
    await signIn(email)
  })
  it('is never one’s own', async () => {
    const { account } = await service(small.token).session()
    expect((await problem(() => service(small.token).setAccountDisabled(account.id, true))).status).toBe(409)
  })
})

describe('an owner', () => {
  it('manages only accounts of sites that are all theirs', async () => {
    const mine = await person('owner')
    const colleague = await person()
    const another = await service(small.token).createSite({ name: `other-${people}`, ...settings })
    const elsewhere = service(small.token).site(another.name)
    const both = await person()
    await elsewhere.addMember({ email: both.email, role: 'viewer' })
    const theirs = await person('editor', elsewhere)
    const as = service(mine.token)
    await as.makePasswordLink(colleague.account)
    const { account: operator } = await service(small.token).session()
    for (const account of [both.account, theirs.account, operator.id]) {
      expect((await problem(() => as.makePasswordLink(account))).status).toBe(403)
      expect((await problem(() => as.setAccountDisabled(account, true))).status).toBe(403)
    }
    const listed = (await as.accounts()).accounts.map(({ id }) => id)
    expect(listed).toContain(colleague.account)
    for (const account of [both.account, theirs.account, operator.id]) expect(listed).not.toContain(account)
    // A link that was made before an account joined another owner's site stops working.
    const { address } = await as.makePasswordLink(colleague.account)
    await elsewhere.addMember({ email: colleague.email, role: 'viewer' })
    expect(
      (await problem(() => service().usePasswordLink({ code: codeIn(address), password: 'taken over, perhaps' })))
        .status,
    ).toBe(403)
    // Nobody else manages accounts.
    expect((await service(colleague.token).accounts()).accounts).toEqual([])
    expect((await problem(() => service(colleague.token).makePasswordLink(mine.account))).status).toBe(403)
    // An operator manages all.
    expect((await service(small.token).accounts()).accounts.map(({ id }) => id)).toContain(theirs.account)
  })
})

describe('the command line', () => {
  const at = () => ({ WISTERIA_URL: small.service.baseUrl, WISTERIA_SITE: 'marram', WISTERIA_TOKEN: small.token })
  const run = (args: readonly string[], more: Record<string, string> = {}) =>
    runIn(small.service.folder, ['account', ...args], { ...at(), ...more })

  it('changes, links and disables as who is signed in', async () => {
    const { email, token } = await person()
    const changed = await run(['password'], {
      WISTERIA_TOKEN: token,
      WISTERIA_PASSWORD: secret,
      WISTERIA_NEW_PASSWORD: 'changed by command',
    })
    expect([changed.code, changed.out]).toEqual([0, 'Your password is changed. Your other sessions have ended.\n'])
    expect((await run(['link', email])).out).toMatch(/^http\S+\/console\/password#\S+\nIt works once, until /)
    expect((await run(['link', 'nobody@marram.example'])).err).toMatch(/You do not manage an account/)
    expect((await run(['disable', email])).out).toMatch(/is disabled\.\n$/)
    expect((await run(['list'])).out).toMatch(new RegExp(`${email}.*disabled`))
    expect((await run(['enable', email])).code).toBe(0)
    expect((await run(['sign-out', email])).code).toBe(2)
    expect((await run(['sign-out'], { WISTERIA_TOKEN: await signIn(email, 'changed by command') })).code).toBe(0)
  })
  it('reaches a running service through a socket that only its own user may open', async () => {
    const { email, token } = await person()
    const folder = small.service.folder
    expect(statSync(join(folder, 'operator.sock')).mode & 0o777).toBe(0o600)
    const nobody = { WISTERIA_TOKEN: '', WISTERIA_URL: '', WISTERIA_SITE: '' }
    expect(
      (await run(['reset', email, '--data', folder], { ...nobody, WISTERIA_NEW_PASSWORD: 'set by an operator' })).out,
    ).toMatch(/password of Person \d+ is changed/)
    expect(await isIn(token)).toBe(false)
    const again = await signIn(email, 'set by an operator')
    const link = await run(['link', email, '--data', folder], nobody)
    expect(link.out.startsWith(`${small.service.baseUrl}/console/password#`)).toBe(true)
    expect((await run(['disable', email, '--data', folder], nobody)).code).toBe(0)
    expect(await isIn(again)).toBe(false)
    expect((await run(['list', '--data', folder, '--json'], nobody)).out).toContain(email)
    const short = await run(['reset', email, '--data', folder], { ...nobody, WISTERIA_NEW_PASSWORD: 'short' })
    expect([short.code, short.err]).toEqual([2, '`/password` must have at least 12 characters.\n'])
    const unknown = await run(['disable', 'nobody@marram.example', '--data', folder], nobody)
    expect([unknown.code, unknown.err]).toEqual([5, 'There is no account `nobody@marram.example`.\n'])
  })
  it('works on a folder whose service does not run, and whose last one crashed', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'wisteria-accounts-'))
    try {
      const first = await start({}, folder)
      const code = codeIn(first.setUpAddress!)
      await new Service({ baseUrl: first.baseUrl }).setUp({ code, ...ownerOf, site: { name: 'marram', ...settings } })
      await first.stop()
      expect(existsSync(join(folder, 'operator.sock'))).toBe(false)
      writeFileSync(join(folder, 'operator.sock'), '')
      const reset = await run(['reset', ownerOf.email, '--data', folder], {
        WISTERIA_NEW_PASSWORD: 'set while it was down',
      })
      expect([reset.code, reset.err]).toEqual([0, ''])
      const second = await start({}, folder)
      await new Service({ baseUrl: second.baseUrl }).signIn({ email: ownerOf.email, password: 'set while it was down' })
      await second.stop()
      const nothing = await run(['list', '--data', join(folder, 'nothing')])
      expect([nothing.code, nothing.err]).toEqual([2, expect.stringMatching(/holds no database of a service/)])
    } finally {
      rmSync(folder, { recursive: true, force: true })
    }
  })
  it('says so where the folder’s path is too long for a socket', async () => {
    const base = mkdtempSync(join(tmpdir(), 'wisteria-accounts-'))
    const folder = join(base, 'deep'.repeat(30))
    mkdirSync(folder)
    chmodSync(folder, 0o700)
    const service = await start({}, folder)
    try {
      const { code, err } = await run(['list', '--data', folder])
      expect([code, err]).toEqual([2, expect.stringMatching(/another service is running on it/)])
    } finally {
      await service.stop()
      rmSync(base, { recursive: true, force: true })
    }
  })
})
