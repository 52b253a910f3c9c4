import { compareDocuments, type Document } from '@wisteria/core'
import { describe, expect, it } from 'vitest'
import { block, doc, locales, model, type } from '../../../../e2e/support/models.js'
import { inWords, wordsOf } from '../editor/inWords'
import { groupsOf, howOfItem } from './groups'

const activity = type('activity')
const heading = (id: string, en: string, nl: string) => block('heading', id, { text: { en, nl } })
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
  it('stand together by the field that is restored, items with the list they are in', () => {
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
    ['an entry that is gone, and never its id', 'e2', 'entry', 'Broken reference to an entry'],
    [
      'a list of entries',
      [
        { id: 'a', value: 'e1' },
        { id: 'b', value: 'e2' },
      ],
      'entry',
      'The Lighthouse, Broken reference to an entry',
    ],
    ['blocks by their types', [{ id: 'a', block: 'quote', values: {} }], 'block', 'Quote'],
    ['a number', 9.5, 'number', '9.5'],
    ['a place', { latitude: 1, longitude: 2.5 }, 'location', '1, 2.5'],
    ['a day', '2031-05-04', 'date', '4 May 2031'],
    ['a time in the zone of the site', '2031-01-04T19:30:00Z', 'dateTime', expect.stringMatching(/^4 Jan 2031, 20:30/)],
    ['a time in its own zone', '2031-01-04T19:30:00+09:00[Asia/Tokyo]', 'dateTime', '4 Jan 2031, 19:30 (Asia/Tokyo)'],
    ['a length of time', 'PT1H30M', 'timeSpan', '1 h 30 min'],
    [
      'metadata',
      { title: 'Sea', image: 'e1', hidden: true },
      'metadata',
      'Title: Sea; Image: The Lighthouse; Hidden from search engines',
    ],
    [
      'a list that fills itself',
      { type: 'activity', first: 3, where: 'price > 3', sort: '-starts' },
      'listing',
      '3 of Activity, where price > 3, sorted by starts, descending',
    ],
    ['a block by what it is called', [{ id: 'a', block: 'quote', values: {} }], 'block', 'Quote'],
  ])('is %s', (_, content, kind, said) =>
    expect(inWords(content, kind, { model, timeZone: 'Europe/Amsterdam', names: { e1: 'The Lighthouse' } })).toEqual(
      said,
    ),
  )
  it('has running text only where its kind has', () => {
    expect([wordsOf('Sea', 'text'), wordsOf(null, 'text'), wordsOf(9, 'number'), wordsOf([], 'text')]).toEqual([
      'Sea',
      '',
      undefined,
      undefined,
    ])
  })
})
