import { describe, expect, it } from 'vitest'
import { readCookie } from './callers.js'
import { digest, hashPassword, isPassword, sameDigest } from './secrets.js'

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
