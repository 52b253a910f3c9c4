import { describe, expect, it } from 'vitest'
import { headersFrom, headersToSend } from './headers'

describe('the headers of a webhook in its form', () => {
  const stored = ['x-build', 'authorization']

  it('stay when nothing is typed', () => expect(headersToSend(stored, headersFrom(stored))).toBeUndefined())

  it('are set, added and removed', () =>
    expect(
      headersToSend(stored, [
        { name: 'X-Build', value: 'two' },
        { name: ' x-new ', value: '' },
        { name: '', value: 'lost' },
      ]),
    ).toEqual({ authorization: null, 'X-Build': 'two', 'x-new': '' }))
})
