import type { WisteriaError } from '@wisteria/core'
import { describe, expect, it } from 'vitest'
import { refusal } from '../../../../e2e/support/models.js'
import { rememberedAs } from './idempotency.js'

describe('requests', () => {
  it('are remembered by caller, key and what was asked', async () => {
    const remembered = rememberedAs('k', 'account:a', 'POST', '/x', { a: 1 })
    expect(remembered).toEqual(rememberedAs('k', 'account:a', 'POST', '/x', { a: 1 }))
    for (const other of [
      rememberedAs('k', 'account:a', 'POST', '/x', { a: 2 }),
      rememberedAs('k', 'account:a', 'POST', '/y', { a: 1 }),
    ])
      expect(other?.request).not.toBe(remembered?.request)
    expect(rememberedAs(undefined, 'a', 'POST', '/', {})).toBeUndefined()
    for (const bad of ['', 'a b', 'ü', 'x'.repeat(201)])
      expect((await refusal<WisteriaError>(() => rememberedAs(bad, 'a', 'POST', '/', {}))).code).toBe('badRequest')
  })
})
