import { validate, type Problem } from '@wisteria/core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { makeModel, settings } from '../../../../e2e/support/models.js'
import { formMessage, i18n, kindLabel, problemMessage, speak } from '.'
import { forms, kinds, problems } from './nl/problems'

const problem = (code: string, parameters: Problem['parameters'], more: Partial<Problem> = {}): Problem => ({
  code,
  message: 'In English.',
  parameters: { field: 'Title', label: 'Title', ...parameters },
  ...more,
})

describe('problems in Dutch', () => {
  beforeAll(() => speak('nl'))
  afterAll(() => speak('en'))

  it.each<[Problem, string]>([
    [problem('required', {}), 'Title is leeg. Vul het in.'],
    [problem('required', {}, { locale: 'nl' }), 'Title is leeg in nl. Schrijf een waarde, of laat nl weg.'],
    [problem('tooLong', { size: 9, max: 5 }, { locale: 'nl' }), 'Title in nl heeft 9 tekens, hoogstens 5 passen.'],
    [
      problem('tooLong', {
        field: 'Text of block 2 (Quote)',
        label: 'Text',
        inBlock: 'Quote',
        inNumber: 2,
        size: 9,
        max: 5,
      }),
      'Text van blok 2 (Quote) heeft 9 tekens, hoogstens 5 passen.',
    ],
    [problem('required', { label: 'Phone', inGroup: 'Contact' }), 'Phone van Contact is leeg. Vul het in.'],
    [problem('required', { label: 'Day', inGroup: 'Hours', inNumber: 3 }), 'Day van Hours 3 is leeg. Vul het in.'],
    [problem('tooMany', { count: 3, max: 2, block: 'Heading' }), 'Title heeft 3 × Heading, hoogstens 2 mogen.'],
    [problem('tooMany', { count: 3, max: 2 }), 'Title heeft er 3, hoogstens 2 mogen.'],
    [problem('wrongForm', { kind: 'date' }), 'Title moet een dag zijn, zoals 2031-05-04.'],
    [problem('pattern', { said: 'must look like SH-104' }), 'Title: must look like SH-104.'],
    [
      problem('checkFailed', { owner: 'Exhibition', check: 'ends >= starts' }),
      'Exhibition: ends >= starts klopt niet.',
    ],
    // The words of the model itself.
    [problem('checkFailed', { said: 'It ends before it starts.' }, { locale: 'nl' }), 'In English.'],
    [
      problem('pathTaken', { path: '/x', entry: 'Night' }, { locale: 'en' }),
      '/x is al van “Night”. Kies een andere slug.',
    ],
    // Without a text of its own, as for a kind of values that only programs write.
    [problem('wrongForm', { kind: 'json' }), 'In English.'],
    [problem('wrongType', {}), 'In English.'],
  ])('%j', (given, text) => expect(problemMessage(given)).toBe(text))

  it('have what Dutch needs, as core tells them', () => {
    const model = makeModel({
      thing:
        'type: thing\nfields:\n  name: { kind: text, required: true, localized: true, length: { max: 5 } }\n  parts: { kind: block, many: true, accepts: [part] }\n',
      part: 'block: part\nlabel: Part\nfields:\n  word: { kind: text, required: true }\n',
    })
    const [type] = model.types
    const [name, parts] = type!.fields
    const document = {
      [name!.id]: { en: 'Too long' },
      [parts!.id]: [{ id: 'a', block: model.blockTypes[0]!.id, values: {} }],
    }
    const problems = validate(model, type!, { shared: document, locales: { en: document } }, settings)
    expect(problems.map(problemMessage)).toEqual([
      'Name in en heeft 8 tekens, hoogstens 5 passen.',
      'Word van blok 1 (Part) is leeg. Vul het in.',
    ])
  })
  it('can be printed, every text of them', () => {
    const parameters = new Proxy({}, { get: () => '…', has: () => true })
    const texts = Object.entries({ problems, forms, kinds }).flatMap(([room, texts]) =>
      Object.keys(texts).map((name) => i18n.global.t(`${room}.${name}`, parameters)),
    )
    expect(texts.length).toBeGreaterThan(50)
    expect(texts.filter((text) => text === '' || /[{}|]/.test(text))).toEqual([])
  })
  it('and the names of kinds', () => {
    expect([kindLabel({ name: 'date', label: 'Date' }), kindLabel({ name: 'later', label: 'Later' })]).toEqual([
      'Datum',
      'Later',
    ])
    expect([formMessage('email', 'must be'), formMessage('json', 'must be')]).toEqual([
      'moet een e-mailadres zijn, zoals ask@marram.example',
      'must be',
    ])
  })
})
