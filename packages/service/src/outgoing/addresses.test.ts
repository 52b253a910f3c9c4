import { describe, expect, it } from 'vitest'
import { isPrivateAddress, publicLookup, refuseAddress } from './addresses.js'

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
    '2002:a00:1::',
    '64:ff9b:1::a00:1',
    'fec0::1',
    '2001:db8::1',
    '192.0.2.1',
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
    const error = await new Promise<Error | null>((resolve) => publicLookup('localhost', {}, (error) => resolve(error)))
    expect(error?.message).toMatch(/is on a private network/)
  })
})
