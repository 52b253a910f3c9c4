import { describe, expect, it } from 'vitest'
import { documentOf, shapedModel, shapedType, tours } from '../../../../e2e/support/shaped.js'
import { printValues } from './names.js'
import { fieldsEver, documentWithoutLocale } from './forgetting.js'

const tour = shapedType('tour')
const fields = fieldsEver(shapedModel, [])
const forgotten = (values: unknown) =>
  printValues(shapedModel, tour, documentWithoutLocale(fields, documentOf('tour', values), 'nl'))

describe('a document without a locale', () => {
  it('has none of its values, at any depth, and all others', () => {
    expect(
      forgotten({
        title: { en: 'Walk', nl: 'Wandeling' },
        mail: { nl: 'a@b.example' },
        code: 'SH-1',
        venue: { seats: 4, room: { en: 'Lamp room', nl: 'Lampkamer' } },
        sessions: [{ id: 's1', values: { weekday: 'monday', seats: 9, note: { nl: 'Neem mee' } } }],
        body: [
          {
            id: 'b1',
            block: 'box',
            values: { inside: [{ id: 'b2', block: 'words', values: { text: { en: 'x', nl: 'y' } } }] },
          },
        ],
        tags: { nl: [{ id: 't1', value: 'donker' }], en: [{ id: 't1', value: 'dark' }] },
      }),
    ).toEqual({
      title: { en: 'Walk' },
      code: 'SH-1',
      venue: { seats: 4, room: { en: 'Lamp room' } },
      sessions: [{ id: 's1', values: { weekday: 'monday', seats: 9 } }],
      body: [
        { id: 'b1', block: 'box', values: { inside: [{ id: 'b2', block: 'words', values: { text: { en: 'x' } } }] } },
      ],
      tags: { en: [{ id: 't1', value: 'dark' }] },
    })
  })
  it('is the same document where it has none', () => {
    for (const { type, values } of tours) {
      const document = documentOf(type, values)
      expect(documentWithoutLocale(fields, document, 'fr')).toBe(document)
    }
  })
  it('has none of them in fields that only an earlier model had', () => {
    const title = tour.fields.find(({ name }) => name === 'title')!
    const types = shapedModel.types.map((type) =>
      type === tour ? { ...tour, fields: tour.fields.filter((field) => field !== title) } : type,
    )
    const document = documentOf('tour', { title: { nl: 'Wandeling' }, code: 'SH-1' })
    const now = { ...shapedModel, types }
    expect(documentWithoutLocale(fieldsEver(now, [shapedModel]), document, 'nl')).not.toHaveProperty(title.id)
    expect(documentWithoutLocale(fieldsEver(now, []), document, 'nl')).toHaveProperty(title.id)
  })
})
