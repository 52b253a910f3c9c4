import { compareDocuments, type Document } from '@wisteria/core'
import { describe, expect, it } from 'vitest'
import { block, doc, locales, model, type } from '../../../../e2e/support/models.js'
import { inWords, wordsOf } from '../editor/inWords'
import { groupsOf, howOfItem } from './groups'

const activity = type('activity')
const heading = (handle: string, en: string, nl: string) => block('heading', handle, { text: { en, nl } })
const body = [heading('h1', 'Bring', 'Neem mee'), heading('h2', 'Wear', 'Trek aan'), heading('h3', 'Leave', 'Laat')]
const document = (items: readonly unknown[], title = 'Night Walk') =>
  doc('activity', { title: { en: title }, body: items })
const groups = (before: Document, after: Document) =>
  groupsOf(compareDocuments(model, activity, before, after, locales)).map(({ labels, locale, place, differences }) => [
    labels.join(' › '),
    locale,
    place,
    differences.map(howOfItem),
  ])

describe('differences in groups', () => {
  it('stand together by the field that is put back, items with the list they are in', () => {
    expect(groups(document(body), document([body[2], body[0], heading('h4', 'Read', 'Lees')], 'Dawn Walk'))).toEqual([
      ['Title', 'en', { at: ['title'], locale: 'en' }, ['changed']],
      ['Body', null, { at: ['body'] }, ['removed from 2', 'moved from 3 to 1', 'added as 3']],
    ])
  })
  it('keep what changed inside a block apart, in each locale', () => {
    expect(groups(document(body), document([heading('h1', 'Take', 'Pak'), body[1], body[2]]))).toEqual([
      ['Body › Heading › Text', 'en', { at: ['body', 'h1', 'text'], locale: 'en' }, ['changed']],
      ['Body › Heading › Text', 'nl', { at: ['body', 'h1', 'text'], locale: 'nl' }, ['changed']],
    ])
  })
  it('are none where nothing differs', () => expect(groups(document(body), document(body))).toEqual([]))
})

describe('a value in words', () => {
  it.each([
    ['nothing', null, 'text', '—'],
    ['a yes', true, 'boolean', 'Yes'],
    ['an entry by its name', 'e1', 'entry', 'The Lighthouse'],
    ['an entry that is gone by its id', 'e2', 'entry', 'e2'],
    ['a list of entries', [{ handle: 'a', value: 'e1' }, { handle: 'b', value: 'e2' }], 'entry', 'The Lighthouse, e2'],
    ['blocks by their types', [{ handle: 'a', block: 'quote', values: {} }], 'block', 'quote'],
    ['a number', 9.5, 'number', '9.5'],
    ['what else there is as it is', { latitude: 1 }, 'location', '{"latitude":1}'],
  ])('is %s', (_, content, kind, said) => expect(inWords(content, kind, { e1: 'The Lighthouse' })).toBe(said)) // prettier-ignore
  it('has running text only where its kind has', () => {
    expect([wordsOf('Sea', 'text'), wordsOf(null, 'text'), wordsOf(9, 'number'), wordsOf([], 'text')]).toEqual([
      'Sea',
      '',
      undefined,
      undefined,
    ])
  })
})
