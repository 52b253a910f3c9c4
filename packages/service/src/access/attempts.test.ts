import { WisteriaError } from '@wisteria/core'
import { beforeEach, describe, expect, it } from 'vitest'
import { Attempts } from './attempts.js'

let now = 0
let attempts: Attempts
const wrong = () => Promise.reject(new WisteriaError('unauthenticated', 'wrong'))
const right = () => Promise.resolve('in')
const attempt = (work: () => Promise<string>, what = 'ilse', address = '192.0.2.1') =>
  attempts.guard(address, what, work).catch((error: WisteriaError) => error.code)

beforeEach(() => {
  now = 0
  attempts = new Attempts(() => now)
})

describe('wrong attempts', () => {
  it('are answered by growing pauses', async () => {
    for (let count = 0; count < 5; count++) expect(await attempt(wrong)).toBe('unauthenticated')
    expect(await attempt(right)).toBe('tooMany')
    now += 2001
    expect(await attempt(wrong)).toBe('unauthenticated')
    now += 2001
    expect(await attempt(right)).toBe('tooMany')
    now += 2001
    expect(await attempt(right)).toBe('in')
    expect(await attempt(wrong)).toBe('unauthenticated')
  })
  it('keep nobody else out: not another account, and not the same one from elsewhere', async () => {
    for (let count = 0; count < 6; count++) await attempt(wrong)
    expect(await attempt(right)).toBe('tooMany')
    expect(await attempt(right, 'teun')).toBe('in')
    expect(await attempt(right, 'ilse', '192.0.2.2')).toBe('in')
  })
  it('of one address at many accounts are counted too', async () => {
    for (let count = 0; count < 100; count++) await attempt(wrong, `name ${count}`)
    expect(await attempt(right, 'teun')).toBe('tooMany')
    expect(await attempt(right, 'teun', '192.0.2.2')).toBe('in')
  })
  it('are counted when many come at once', async () => {
    const codes = await Promise.all(Array.from({ length: 50 }, () => attempt(wrong)))
    expect(codes.filter((code) => code === 'unauthenticated').length).toBe(5)
  })
  it('are no wrong ones where something else went wrong', async () => {
    for (let count = 0; count < 20; count++)
      await attempt(() => Promise.reject(new WisteriaError('unavailable', 'busy')))
    expect(await attempt(right)).toBe('in')
  })
})
