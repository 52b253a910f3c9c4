import { WisteriaError } from '@wisteria/core'
import { describe, expect, it } from 'vitest'
import { z } from 'zod'
import { isPrivateAddress, publicLookup, refuseAddress } from './hooks/addresses.js'
import { pauseAfter } from './hooks/dispatcher.js'
import { makeWebhookSecret, signedHeaders } from './hooks/signing.js'
import { rememberedAs } from './idempotency.js'
import { flagOf, OptionError, readOptions, serviceOptions, variableOf } from './options.js'
import { problemDetails, readBody, readQuery } from './problems.js'
import { digest, hashPassword, isPassword, sameDigest } from './sessions/secrets.js'
import { readCookie } from './sessions/callers.js'

const thrown = (work: () => unknown): WisteriaError => {
  try {
    work()
  } catch (error) {
    return error as WisteriaError
  }
  throw new Error('it was not refused')
}

describe('options', () => {
  it('come from flags, then the environment, then defaults', () => {
    expect(readOptions({}, {})).toEqual({
      data: './data/main',
      host: '127.0.0.1',
      port: 4080,
      baseUrl: '',
      logLevel: 'info',
      allowPrivateAddresses: false,
    })
    expect(readOptions({ port: '1' }, { WISTERIA_PORT: '2', WISTERIA_HOST: '0.0.0.0' })).toMatchObject({
      port: 1,
      host: '0.0.0.0',
    })
    expect(readOptions({}, { WISTERIA_ALLOW_PRIVATE_ADDRESSES: 'yes' }).allowPrivateAddresses).toBe(true)
    expect(readOptions({}, { WISTERIA_PORT: '' }).port).toBe(4080)
  })
  it.each([
    [{ port: 'x' }, {}, '--port must be a number, not “x”.'],
    [{ port: '1.5' }, {}, '--port must be a whole number, not “1.5”.'],
    [{ port: '-1' }, {}, '--port must be at least 0, not “-1”.'],
    [
      {},
      { WISTERIA_LOG_LEVEL: 'loud' },
      'WISTERIA_LOG_LEVEL must be one of trace, debug, info, warn, error, silent, not “loud”.',
    ],
    [{ baseUrl: 'here' }, {}, '--base-url must be an address such as https://content.example, not “here”.'],
    [
      {},
      { WISTERIA_ALLOW_PRIVATE_ADDRESSES: 'perhaps' },
      'WISTERIA_ALLOW_PRIVATE_ADDRESSES must be yes or no, not “perhaps”.',
    ],
  ])('with a bad value are refused by name: %j %j', (flags, environment, message) => {
    const error = thrown(() => readOptions(flags, environment))
    expect([error instanceof OptionError, error.message]).toEqual([true, message])
  })
  it('are named alike everywhere', () => {
    for (const name of Object.keys(serviceOptions))
      expect(variableOf(name)).toBe('WISTERIA_' + flagOf(name).slice(2).replaceAll('-', '_').toUpperCase())
  })
})

describe('addresses of webhooks', () => {
  it.each([
    '127.0.0.1',
    '10.1.2.3',
    '172.16.0.1',
    '172.31.255.255',
    '192.168.0.1',
    '169.254.169.254',
    '100.64.0.1',
    '0.0.0.0',
    '224.0.0.1',
    '255.255.255.255',
    '::1',
    '::',
    'fc00::1',
    'fd12::1',
    'fe80::1',
    'ff02::1',
    '::ffff:10.0.0.1',
    '64:ff9b::a00:1',
  ])('%s is private', (address) => expect(isPrivateAddress(address)).toBe(true))
  it.each(['1.1.1.1', '172.32.0.1', '192.169.0.1', '100.128.0.1', '2606:4700::1', '::ffff:1.1.1.1'])(
    '%s is not',
    (address) => expect(isPrivateAddress(address)).toBe(false),
  )
  it('are refused in every way of writing them', () => {
    for (const host of [
      '127.0.0.1',
      '127.1',
      '2130706433',
      '0x7f.1',
      '[::1]',
      '[::ffff:7f00:1]',
      'localhost',
      'a.localhost',
    ])
      expect(refuseAddress(`http://${host}/`, false), host).toMatch(/private network/)
    expect(refuseAddress('http://127.0.0.1/', true)).toBeUndefined()
    expect(refuseAddress('https://museums.example/hooks', false)).toBeUndefined()
  })
  it('are looked at again where the connection is made, whatever the name says', async () => {
    const error = await new Promise<Error | null>((resolve) => publicLookup('localhost', {}, (found) => resolve(found)))
    expect(error?.message).toMatch(/is on a private network/)
  })
})

describe('deliveries', () => {
  it('pause longer each time, up to six hours and a half more by chance', () => {
    expect([1, 2, 3, 10].map((attempts) => pauseAfter(attempts, 0))).toEqual([1000, 2000, 4000, 512_000])
    expect(pauseAfter(1, 1)).toBe(1500)
    expect(pauseAfter(60, 0)).toBe(21_600_000)
    expect(pauseAfter(1000, 0.5)).toBe(27_000_000)
  })
  it('are signed as Standard Webhooks says', () => {
    // The worked example of the specification, computed with another implementation of HMAC-SHA256.
    const secret = 'whsec_MfKQ9r8GKYqrTwjUPD8ILPZIo2LaLaSw'
    const headers = signedHeaders(secret, 'msg_p5jXN8AQM9LWM0D4loKWxJek', 1614265330, '{"test": 2432232314}')
    expect(headers['webhook-signature']).toBe('v1,g0hM9SsE+OTPJTGt/tmIKtSyZlE3uFJELVlNIOLJ1OE=')
    expect(Buffer.from(makeWebhookSecret((bytes) => new Uint8Array(bytes)).slice(6), 'base64')).toHaveLength(32)
  })
})

describe('secrets', () => {
  it('are kept so that they can be checked and not read', async () => {
    const kept = await hashPassword('wind-from-the-west')
    expect(kept).toMatch(/^scrypt\$15\$8\$1\$[\w-]{22}\$[\w-]{43}$/)
    expect(await isPassword('wind-from-the-west', kept)).toBe(true)
    expect(await isPassword('wind-from-the-east', kept)).toBe(false)
    expect(await hashPassword('wind-from-the-west')).not.toBe(kept)
    expect(await isPassword('ﬁsh and more ﬁsh', await hashPassword('fish and more fish'))).toBe(true)
  })
  it('are compared by digest', () => {
    expect(sameDigest(digest('a'), digest('a'))).toBe(true)
    expect(sameDigest(digest('a'), digest('b'))).toBe(false)
    expect(sameDigest(digest('a'), 'short')).toBe(false)
  })
  it('are found among other cookies', () => {
    expect(readCookie('a=1; session=x=y; b=2', 'session')).toBe('x=y')
    expect(readCookie('mysession=1', 'session')).toBeUndefined()
    expect(readCookie(undefined, 'session')).toBeUndefined()
  })
})

describe('requests', () => {
  const query = z.object({
    where: z.string().optional(),
    limit: z.coerce.number('must be a number').max(100).optional(),
  })
  it.each([
    [{ wher: 'x' }, /`wher` is not a parameter here\. Did you mean `where`\? Known: where, limit\./],
    [{ limit: 'x' }, /`limit` must be a number\./],
    [{ limit: '101' }, /`limit` must be at most 100\./],
    [{ where: ['a', 'b'] }, /`where` is given more than once\./],
  ])('with bad parameters are told which: %j', (given, message) =>
    expect(thrown(() => readQuery(query, given)).message).toMatch(message),
  )
  it('to addresses that take none are told that', () =>
    expect(thrown(() => readQuery(undefined, { x: '1' })).message).toMatch(/This address takes none/))

  const body = z.strictObject({
    name: z.string().min(1),
    code: z.string().min(4).max(6).optional(),
    kind: z.enum(['a', 'b']).optional(),
    of: z.union([z.string(), z.number()]).optional(),
  })
  it.each([
    [{}, '/name', /is missing/],
    [{ name: '' }, '/name', /must not be empty/],
    [{ name: 'x', code: 'abc' }, '/code', /at least 4 characters/],
    [{ name: 'x', code: 'abcdefg' }, '/code', /at most 6 characters/],
    [{ name: 'x', kind: 'c' }, '/kind', /one of a, b/],
    [{ name: 'x', of: [] }, '/of', /wrong form/],
    [{ name: 'x', nme: 1 }, '/nme', /does not belong here\. Did you mean `name`\?/],
    [null, '', /must be an object/],
  ])('with a bad body are told where: %j', (given, pointer, message) => {
    const [problem] = thrown(() => readBody(body, given)).problems
    expect([problem?.pointer, problem?.message]).toEqual([pointer, expect.stringMatching(message)])
  })

  it('are remembered by caller, key and what was asked', () => {
    const one = rememberedAs('k', 'account:a', 'POST', '/x', { a: 1 })
    expect(one).toEqual(rememberedAs('k', 'account:a', 'POST', '/x', { a: 1 }))
    for (const other of [
      rememberedAs('k', 'account:a', 'POST', '/x', { a: 2 }),
      rememberedAs('k', 'account:a', 'POST', '/y', { a: 1 }),
    ])
      expect(other?.request).not.toBe(one?.request)
    expect(rememberedAs(undefined, 'a', 'POST', '/', {})).toBeUndefined()
    for (const bad of ['', 'a b', 'ü', 'x'.repeat(201)])
      expect(thrown(() => rememberedAs(bad, 'a', 'POST', '/', {})).code).toBe('badRequest')
  })
})

describe('problem details', () => {
  it('say what, where and which request', () => {
    const error = new WisteriaError('invalid', 'Title is empty.', {
      problems: [{ code: 'required', pointer: '/values/title', message: 'Title is empty.' }],
      extra: { version: 3 },
    })
    expect(problemDetails(error, 'r1')).toEqual({
      status: 422,
      body: {
        type: 'urn:wisteria:error:invalid',
        title: 'Some values are missing or wrong',
        status: 422,
        detail: 'Title is empty.',
        code: 'invalid',
        requestId: 'r1',
        problems: error.problems,
        version: 3,
      },
    })
  })
  it('tell nothing of what we did not foresee', () => {
    const { status, body } = problemDetails(new TypeError('secret of the house'), 'r2')
    expect([status, JSON.stringify(body).includes('secret')]).toEqual([500, false])
    expect(body['detail']).toBe('Quote request r2 when you report it.')
  })
})
