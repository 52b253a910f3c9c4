import { describe, expect, it } from 'vitest'
import { documentOf, shapedModel, shapedType, tours } from '../../../../e2e/support/shaped.js'
import { localesOfValues, withoutFallbacks } from './fallbacks.js'
import { project } from './project.js'

const read = (type: string, values: unknown, ...chain: string[]) =>
  project(shapedModel, shapedType(type), documentOf(type, values), chain)

describe('values of another locale', () => {
  it.each(tours.filter(({ type }) => type === 'tour').map((tour) => [tour.id, tour] as const))(
    'are known by their place, so that %s can be read without them',
    (_, { type, values }) => {
      const exact = read(type, values, 'nl-BE').values
      const { values: printed, fallbacks } = read(type, values, 'nl-BE', 'nl', 'en')
      const without = withoutFallbacks(printed, fallbacks)
      // Ids that were left out are made anew each time.
      const bare = (of: unknown): unknown =>
        JSON.parse(JSON.stringify(of).replaceAll(/"id":"[^"]*"/g, '""'.concat(':0')))
      expect(bare(without)).toEqual(bare(exact))
    },
  )

  it('are named with their locale: in groups, elements and blocks, and part by part in metadata', () => {
    const values = {
      title: { en: 'Night walk', nl: 'Nachtwandeling' },
      mail: { en: 'walk@marram.example' },
      venue: { room: { en: 'Lamp room' } },
      sessions: [{ values: { weekday: 'monday', seats: 9, note: { en: 'Bring a lamp' } } }],
      body: [
        { block: 'words', values: { text: { en: 'x', nl: 'y' } } },
        { block: 'words', values: { text: { en: 'z' } } },
      ],
      lead2: [{ block: 'words', values: { text: { en: 'w' } } }],
    }
    expect(localesOfValues(read('tour', values, 'nl', 'en').fallbacks)).toEqual({
      '/mail': 'en',
      '/venue/room': 'en',
      '/sessions/0/values/note': 'en',
      '/body/1/values/text': 'en',
      '/lead2/values/text': 'en',
    })
    const arabic = read('tour', values, 'ar', 'nl', 'en')
    expect(localesOfValues(arabic.fallbacks)).toMatchObject({ '/title': 'nl', '/meta/title': 'nl', '/mail': 'en' })
    expect(withoutFallbacks(arabic.values, arabic.fallbacks)).toMatchObject({ title: null, meta: { title: null } })
  })

  it('are none in the locale itself, nor where a value is empty on purpose', () => {
    expect(read('tour', { title: { en: 'Night walk' } }, 'en').fallbacks).toEqual({})
    expect(read('tour', { title: { en: 'Night walk', nl: null } }, 'nl', 'en').fallbacks).toEqual({})
  })
})
