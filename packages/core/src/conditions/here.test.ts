import { describe, expect, it } from 'vitest'
import { locales, makeModel, randomBytes, settings } from '../../../../e2e/support/models.js'
import { readValues } from '../documents/names.js'
import { project } from '../documents/project.js'
import { chainOf } from '../locales/settings.js'
import { typeNamed } from '../model/model.js'
import { faultOfListing } from './listings.js'

const model = makeModel({
  walk: `
type: walk
fields:
  title: { kind: text, localized: true }
  level: { kind: choice, options: [easy, hard] }
  length: { kind: number }
  day: { kind: date }
  starts: { kind: dateTime }
  takes: { kind: timeSpan }
  open: { kind: boolean }
  tags: { kind: text, many: true }
  guide: { kind: entry, accepts: [person] }
  venue: { kind: group, fields: { town: { kind: text } } }
  more: { kind: listing, accepts: [walk] }
  body: { kind: block, accepts: [list], many: true }
`,
  person: 'type: person\nfields:\n  name: { kind: text }\n  walks: { kind: listing, accepts: [walk] }\n',
  list: 'block: list\nfields:\n  entries: { kind: listing, accepts: [walk] }\n',
})
const walk = typeNamed(model, 'walk')!
const guide = 'g'.repeat(20)
const id = 'w'.repeat(20)
const values = {
  title: { en: 'Dunes', nl: 'Duinen' },
  level: 'easy',
  length: 7,
  day: '2031-05-04',
  starts: '2031-05-04T10:00:00Z',
  takes: 'PT90M',
  open: true,
  tags: ['sea', 'salt'],
  guide,
  venue: { town: 'Marram' },
}
const listed = (where: string, more: Record<string, unknown> = values, locale = 'en') => {
  const listing = { type: 'walk', where, first: 3 }
  const sent = { ...more, more: listing, body: [{ block: 'list', values: { entries: listing } }] }
  const { document, problems } = readValues(model, walk, sent, locales, randomBytes())
  expect(problems).toEqual([])
  const printed = project(model, walk, document, chainOf(settings, locale), id).values as {
    more: { where: string }
    body: { values: { entries: { where: string } } }[]
  }
  expect(printed.body[0]!.values.entries).toEqual(printed.more)
  return printed.more.where
}

describe('`here` in a list that fills itself', () => {
  it.each([
    ['guide = here.guide', `guide in ["${guide}"]`],
    ['guide = here.guide and entry.id != here', `guide in ["${guide}"] and not entry.id in ["${id}"]`],
    ['level = here.level or length > here.length', 'level in ["easy"] or length > 7'],
    ['day >= here.day', 'day >= 2031-05-04'],
    ['starts < here.starts and open = here.open', 'starts < 2031-05-04T10:00:00.000Z and open in [true]'],
    ['takes <= here.takes', 'takes <= "PT1H30M"'],
    ['tags = here.tags', 'tags in ["sea", "salt"]'],
    ['venue.town = here.venue.town', 'venue.town in ["marram"]'],
    ['title != "here"', 'title != "here"'],
  ])('%s', (where, expected) => expect(listed(where)).toBe(expected))

  it('is the entry in the locale of its reader', () =>
    expect(listed('title = here.title', values, 'nl')).toBe('title in ["duinen"]'))

  it('meets nothing where the entry has no value', () => {
    expect(listed('guide = here.guide', {})).toBe('guide in []')
    expect(listed('length > here.length', {})).toBe('length in []')
    // `!=` is `not =`.
    expect(listed('guide != here.guide', {})).toBe('not guide in []')
  })

  it('is checked against the type that the list stands in', () => {
    const fault = (where: string, here?: string) =>
      faultOfListing(
        model,
        'UTC',
        { type: 'walk', where, first: 3 },
        here === undefined ? undefined : typeNamed(model, here),
      )
    expect(fault('guide = here', 'person')).toBeUndefined()
    expect(fault('guide = here.guide', 'walk')).toBeUndefined()
    expect(fault('guide = here.guide', 'person')).toMatch(/`guide` is not a field of person/)
    expect(fault('title = here.length', 'walk')).toMatch(/is not compared with `length`, which is of kind number/)
    expect(fault('title = here', 'walk')).toMatch(/`here` is an entry/)
    expect(fault('guide = here.guide')).toMatch(/this condition is not one of a list/)
    expect(fault('title = Dunes', 'walk')).toMatch(/Write texts in double quotes: `"Dunes"`/)
  })
})
