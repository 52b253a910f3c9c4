import { describe, expect, it } from 'vitest'
import { model } from '../../../../e2e/support/models.js'
import { readCondition, readSelection, typeNamed, type WisteriaError } from '@wisteria/core'
import { examplesFor } from './examples'
import { addressOf, codeOf, curlOf, emptyGraphql, emptyRest, packed, unpacked, type RestQuestion } from './question'

const list: RestQuestion = { ...emptyRest, type: 'activity', where: 'title = "it\'s"', pick: 'title', first: '5' }
const base = 'http://localhost:4080/read/v1/marram'

describe('a question', () => {
  it('is an address', () => {
    expect(addressOf(list)).toBe('/entries/activity?where=title+%3D+%22it%27s%22&first=5&pick=title')
    expect(addressOf({ ...list, ask: 'at', path: '/x', edition: 'draft' })).toBe(
      '/at?path=%2Fx&pick=title&edition=draft',
    )
    expect(addressOf({ ...emptyRest, type: 'museum' })).toBe('/entries/museum')
    expect(addressOf({ ...emptyGraphql, query: '{ a }', variables: '{"n":1}' })).toBe(
      '/graphql?query=%7B+a+%7D&variables=%7B%22n%22%3A1%7D',
    )
  })
  it('is a command that a shell takes as it is meant', () => {
    expect(curlOf(list, base)).toContain(`'${base}/entries/activity?where=title+%3D+%22it%27s%22&first=5&pick=title'`)
    const query = curlOf({ ...emptyGraphql, query: `{ a(b: "it's") }` }, base)
    expect(query).toContain(String.raw`--data '{"query":"{ a(b: \"it'\''s\") }"}'`)
  })
  it('is code with the SDK', () => {
    expect(codeOf(list, 'http://localhost:4080', 'marram')).toContain(
      "reader.entries('activity', {\n  where: 'title = \"it\\'s\"',\n  pick: 'title',\n  first: 5,\n})",
    )
    expect(codeOf({ ...list, ask: 'at', path: '/x', edition: 'draft' }, '', 'm')).toMatch(
      /edition: 'draft'[^]*reader\.at\('\/x'/,
    )
    const graphql = { ...emptyGraphql, query: '{ a `$x` }', variables: '{ "n": 1 }' }
    expect(codeOf(graphql, '', 'm')).toContain('reader.graphql(`{ a \\`\\$x\\` }`, {"n":1})')
  })
  it('comes back from the address of the page as it was, and nothing else does', () => {
    expect(unpacked(packed(list))).toEqual(list)
    for (const other of [undefined, '', '{', '[]', '{"api":"soap"}', '5']) expect(unpacked(other)).toBeUndefined()
  })
})

describe('the questions to begin with', () => {
  it('fit the model that they are made of', () => {
    const examples = examplesFor(model, '/museums/boatyard')
    expect(examples.length).toBeGreaterThan(4)
    for (const { question } of examples) {
      if (question.api !== 'rest' || question.ask === 'at') continue
      const owner = typeNamed(model, question.type)!
      const read = (check: () => unknown): string => {
        try {
          check()
          return ''
        } catch (error) {
          return (error as WisteriaError).message
        }
      }
      if (question.pick) expect(read(() => readSelection(question.pick, model, [owner]))).toBe('')
      if (question.where)
        expect(
          read(() =>
            readCondition(question.where, { model, owners: [owner], systemFacts: ['updated'], timeZone: 'UTC' }),
          ),
        ).toBe('')
    }
  })
  it('are none where there is nothing to ask about', () => {
    expect(examplesFor({ ...model, types: [] }, undefined)).toEqual([])
  })
})
