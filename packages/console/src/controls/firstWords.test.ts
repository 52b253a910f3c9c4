import type { FieldOwner } from '@wisteria/core'
import { describe, expect, it } from 'vitest'
import { firstWords } from './firstWords'

const owner = (...fields: [name: string, kind: string][]) =>
  ({ fields: fields.map(([name, kind]) => ({ name, kind })) }) as unknown as FieldOwner
const picture = owner(['file', 'asset'], ['about', 'entry'], ['caption', 'text'])

describe('the first words of a block', () => {
  it.each([
    ['are never the id of a file or an entry', { file: '01m8mr3ejwy2xfayzzzz', about: '01m8' }, undefined, ''],
    ['are those of the first field that has some', { file: '01m8', caption: 'Eight rings' }, undefined, 'Eight rings'],
    ['are those of the locale', { caption: { en: 'Rings', nl: 'Ringen' } }, 'nl', 'Ringen'],
    ['are any where no locale is asked for', { caption: { nl: 'Ringen' } }, undefined, 'Ringen'],
    ['are none where there is nothing', undefined, undefined, ''],
  ])('%s', (_, values, locale, words) => expect(firstWords(picture, values, locale)).toBe(words))

  it('are found in lists, past the ids of their items', () => {
    const values = { lines: [{ id: 'a', block: 'text', value: 'First' }] }
    expect(firstWords(owner(['lines', 'group']), values)).toBe('First')
  })
})
