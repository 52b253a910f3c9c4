import { describe, expect, it } from 'vitest'
import { doc, id, makeModel, type } from '../../../../e2e/support/models.js'
import { duplicateOf } from './duplicate.js'

const activity = type('activity')

describe('a copy of an entry', () => {
  it('holds what the entry holds, with a number at each slug', () => {
    const document = doc('activity', {
      title: { en: 'Night Walk' },
      slug: { en: 'night-walk', nl: 'nachtwandeling' },
      price: 9,
    })
    expect(duplicateOf(activity, document, 2)).toEqual({
      ...document,
      [id('activity', 'slug')]: { en: 'night-walk-2', nl: 'nachtwandeling-2' },
    })
  })
  it('keeps a number that is there, and leaves a slug that is empty on purpose', () => {
    const document = doc('activity', { slug: { en: 'night-walk-2', nl: null, ar: 'x'.repeat(96) } })
    const copied = duplicateOf(activity, document, 3)[id('activity', 'slug')] as Record<string, string>
    expect([copied['en'], copied['nl']]).toEqual(['night-walk-2-3', null])
    expect(copied['ar']!.length).toBeLessThanOrEqual(96)
  })
  it('leaves out other values that no two may have', () => {
    const [ship] = makeModel({
      ship: 'type: ship\nfields:\n  title: { kind: text }\n  number: { kind: text, unique: true }\n',
    }).types
    const [title, number] = ship!.fields
    expect(duplicateOf(ship!, { [title!.id]: 'Tern', [number!.id]: 'MC-7' }, 2)).toEqual({ [title!.id]: 'Tern' })
  })
})
