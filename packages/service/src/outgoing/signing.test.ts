import { describe, expect, it } from 'vitest'
import { pauseAfter } from './calling.js'
import { makeWebhookSecret, signedHeaders } from './signing.js'

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
    const headers = signedHeaders([secret], 'msg_p5jXN8AQM9LWM0D4loKWxJek', 1614265330, '{"test": 2432232314}')
    expect(headers['webhook-signature']).toBe('v1,g0hM9SsE+OTPJTGt/tmIKtSyZlE3uFJELVlNIOLJ1OE=')
    expect(Buffer.from(makeWebhookSecret((bytes) => new Uint8Array(bytes)).slice(6), 'base64')).toHaveLength(32)
  })
})
