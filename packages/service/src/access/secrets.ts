import { createHash, randomBytes, scrypt, timingSafeEqual } from 'node:crypto'
import { promisify } from 'node:util'
import { FairQueue } from '../kernel/fairQueue.js'

const deriveAtOnce = promisify<string, Buffer, number, { N: number; r: number; p: number; maxmem: number }, Buffer>(
  scrypt,
)

/** Each hash takes one of the few threads that the database uses too. */
const hashing = new FairQueue(2, 500)
const derive: typeof deriveAtOnce = (...given) => hashing.run('', () => deriveAtOnce(...given))

const cost = { exponent: 15, r: 8, p: 1 }

const options = (exponent: number, r: number, p: number) => ({
  N: 2 ** exponent,
  r,
  p,
  maxmem: 256 * 2 ** exponent * r,
})

/** A password as it is kept: scrypt (RFC 7914), with its parameters and salt beside it. */
export async function hashPassword(password: string): Promise<string> {
  const salt = randomBytes(16)
  const hash = await derive(password.normalize('NFKC'), salt, 32, options(cost.exponent, cost.r, cost.p))
  return ['scrypt', cost.exponent, cost.r, cost.p, salt.toString('base64url'), hash.toString('base64url')].join('$')
}

export async function isPassword(password: string, kept: string): Promise<boolean> {
  const [, exponent, r, p, salt, hash] = kept.split('$') as [string, string, string, string, string, string]
  const expected = Buffer.from(hash, 'base64url')
  const derived = await derive(
    password.normalize('NFKC'),
    Buffer.from(salt, 'base64url'),
    expected.length,
    options(Number(exponent), Number(r), Number(p)),
  )
  return timingSafeEqual(derived, expected)
}

/** 256 random bits as text. */
export const makeSecret = (): string => randomBytes(32).toString('base64url')

/** Secrets that are long and random are kept as their SHA-256 alone. */
export const digest = (secret: string): string => createHash('sha256').update(secret).digest('base64url')

export const sameDigest = (a: string, b: string): boolean =>
  a.length === b.length && timingSafeEqual(Buffer.from(a), Buffer.from(b))
