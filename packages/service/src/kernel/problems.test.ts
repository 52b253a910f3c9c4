import { WisteriaError } from '@wisteria/core'
import { describe, expect, it } from 'vitest'
import { z } from 'zod'
import { problemDetails, readBody, readQuery } from './problems.js'

const thrown = (work: () => unknown): WisteriaError => {
  try {
    work()
  } catch (error) {
    return error as WisteriaError
  }
  throw new Error('it was not refused')
}

describe('requests', () => {
  const query = z.object({
    where: z.string().optional(),
    first: z.coerce.number('must be a number').max(100).optional(),
  })
  it.each([
    [{ wher: 'x' }, /`wher` is not a parameter here\. Did you mean `where`\? Known: where, first\./],
    [{ first: 'x' }, /`first` must be a number\./],
    [{ first: '101' }, /`first` must be at most 100\./],
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
