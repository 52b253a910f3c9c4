import type { Fact } from '@wisteria/core'
import { id } from './models.js'

/** An entry as conditions read it, before its references are loaded. */
export interface SampleEntry {
  readonly id: string
  readonly type: 'activity' | 'person' | 'museum'
  readonly state: string
  readonly updated: string
  readonly published: string | null
  readonly facts: Readonly<Record<string, Fact | Fact[]>>
}

const make = (
  typeName: SampleEntry['type'],
  key: string,
  values: Record<string, Fact | Fact[]>,
  more: Partial<SampleEntry> = {},
): SampleEntry => ({
  id: `${key}${'0'.repeat(20 - key.length)}`,
  type: typeName,
  state: 'public',
  updated: '2031-01-01T10:00:00.000Z',
  published: '2030-06-01T10:00:00.000Z',
  facts: Object.fromEntries(Object.entries(values).map(([name, value]) => [id(typeName, name), value])),
  ...more,
})

const ref = (key: string): string => `${key}${'0'.repeat(20 - key.length)}`

/** The moment of every case: a spring evening in Amsterdam, already the next day in UTC+3. */
export const moment = { now: Date.parse('2031-05-04T21:30:00Z'), timeZone: 'Europe/Amsterdam' }

export const samples: readonly SampleEntry[] = [
  make('museum', 'light', { name: 'lighthouse', town: 'sanderling head' }),
  make('museum', 'boat', { name: 'boatyard', town: 'oyster creek' }),
  make('museum', 'salt', { name: 'saltworks' }),
  make('person', 'anna', { name: 'anna', born: '1990-02-01', home: ref('boat') }),
  make('person', 'bert', { name: 'bert', home: ref('light') }),
  make('person', 'coen', { name: 'coen' }),
  make('activity', 'walk', {
    title: 'night walk',
    format: 'walk',
    price: 9,
    free: 0,
    starts: '2031-05-04T20:00:00.000Z',
    day: '2031-05-04',
    museum: ref('light'),
    speakers: [ref('anna'), ref('bert')],
    tags: ['dark', 'outside'],
  }),
  make(
    'activity',
    'talk',
    {
      title: 'cafe talk',
      format: 'talk',
      price: 0,
      free: 1,
      starts: '2031-05-05T18:00:00.000Z',
      day: '2031-05-05',
      museum: ref('boat'),
      speakers: [ref('coen')],
      tags: [],
    },
    { state: 'edited', updated: '2031-05-01T10:00:00.000Z' },
  ),
  make(
    'activity',
    'song',
    {
      title: 'songs',
      format: 'concert',
      price: 15,
      starts: '2031-05-03T22:00:00.000Z',
      museum: ref('salt'),
      speakers: [],
      tags: ['inside'],
    },
    { state: 'new', published: null },
  ),
  make('activity', 'bare', { title: 'bare' }),
  make(
    'activity',
    'gone',
    { title: 'reference broken', museum: ref('nowhere'), speakers: [ref('nobody')], tags: ['dark'] },
    { state: 'withdrawn' },
  ),
  make('activity', 'tiny', { title: 'tiny', price: 0.5, day: '2031-05-11', free: 0 }),
]

/** The specification of conditions: on activities, with the matches of each. */
export const cases: readonly (readonly [condition: string, meeting: string])[] = [
  // comparisons
  ['format = "walk"', 'walk'],
  ['format != "walk"', 'talk song bare gone tiny'],
  ['price > 9', 'song'],
  ['price >= 9', 'walk song'],
  ['price < 9', 'talk tiny'],
  ['price <= 0', 'talk'],
  ['price = 0', 'talk'],
  ['price = 0.5', 'tiny'],
  ['price = -1', ''],
  ['free = true', 'talk'],
  ['free = false', 'walk tiny'],
  ['free != true', 'walk song bare gone tiny'],
  // text is folded, on both sides
  ['title = "CAFÉ TALK"', 'talk'],
  ['title contains "WALK"', 'walk'],
  ['title contains ""', 'walk talk song bare gone tiny'],
  ['title starts with "Ti"', 'tiny'],
  ['title starts with ""', 'walk talk song bare gone tiny'],
  ['title > "s"', 'song tiny'],
  ['title < "c"', 'bare'],
  // missing values
  ['price has value', 'walk talk song tiny'],
  ['price has no value', 'bare gone'],
  ['not price > 9', 'walk talk bare gone tiny'],
  ['not (price > 9)', 'walk talk bare gone tiny'],
  ['not price has value', 'bare gone'],
  ['not not price > 9', 'song'],
  ['price > 9 or price <= 9', 'walk talk song tiny'],
  ['not (price > 9 or price <= 9)', 'bare gone'],
  ['not (price > 9 and format = "concert")', 'walk talk bare gone tiny'],
  // in
  ['format in ["walk", "talk"]', 'walk talk'],
  ['format in []', ''],
  ['not format in ["walk", "talk"]', 'song bare gone tiny'],
  ['price in [0, 9, 15]', 'walk talk song'],
  ['day in [2031-05-04, 2031-05-05]', 'walk talk'],
  // and, or, parentheses
  ['format = "walk" and price = 9', 'walk'],
  ['format = "walk" or format = "talk" and price = 9', 'walk'],
  ['(format = "walk" or format = "talk") and price = 0', 'talk'],
  ['not format = "walk" and price has value', 'talk song tiny'],
  // many-valued paths: one match is enough
  ['tags = "dark"', 'walk gone'],
  ['tags != "dark"', 'talk song bare tiny'],
  ['tags contains "side"', 'walk song'],
  ['not tags contains "side"', 'talk bare gone tiny'],
  ['tags has value', 'walk song gone'],
  ['tags has no value', 'talk bare tiny'],
  ['tags in ["inside", "outside"]', 'walk song'],
  ['tags = "dark" and tags = "outside"', 'walk'],
  // references, and through them; hidden entries are missing
  [`museum = "${ref('light')}"`, 'walk'],
  [`museum != "${ref('light')}"`, 'talk song bare gone tiny'],
  [`museum in ["${ref('light')}", "${ref('boat')}"]`, 'walk talk'],
  ['museum has value', 'walk talk song'],
  ['museum has no value', 'bare gone tiny'],
  ['museum.name contains "boat"', 'talk'],
  ['not museum.name contains "boat"', 'walk song bare gone tiny'],
  ['museum.town has value', 'walk talk'],
  ['museum.town has no value', 'song bare gone tiny'],
  [`museum = "${ref('nowhere')}"`, ''],
  ['speakers has value', 'walk talk'],
  ['speakers.name = "Anna"', 'walk'],
  ['speakers.name != "Anna"', 'talk song bare gone tiny'],
  ['speakers.home.name = "Boatyard"', 'walk'],
  ['not speakers.home.name = "Boatyard"', 'talk song bare gone tiny'],
  ['speakers.home has value', 'walk'],
  // any binds one element; a path does not
  ['speakers.name = "Bert" and speakers.home.name = "Boatyard"', 'walk'],
  ['any speakers (name = "Bert" and home.name = "Boatyard")', ''],
  ['any speakers (name = "Anna" and home.name = "Boatyard")', 'walk'],
  ['any speakers (not home has value)', 'talk'],
  ['not any speakers (name = "Anna")', 'talk song bare gone tiny'],
  ['any speakers (born < 2000-01-01)', 'walk'],
  ['any museum (name = "Lighthouse")', 'walk'],
  // time: the day begins at 22:00Z in Amsterdam
  ['starts >= now', 'talk'],
  ['starts < now', 'walk song'],
  ['starts >= today', 'walk talk song'],
  ['starts >= today and starts < today + 1 day', 'walk song'],
  ['starts >= now - 2 hours', 'walk talk'],
  ['starts > now - 90 minutes', 'talk'],
  ['starts <= now + 1 week', 'walk talk song'],
  ['starts >= 2031-05-05', 'talk'],
  ['starts = 2031-05-04', 'song'],
  ['starts = 2031-05-04T22:00:00+02:00', 'walk'],
  ['day = today', 'walk'],
  ['day >= today + 7 days', 'tiny'],
  ['day < today -1 days', ''],
  ['day <= 2031-05-05', 'walk talk'],
  // facts of the system
  [`entry.id = "${ref('walk')}"`, 'walk'],
  [`entry.id != "${ref('walk')}" and format = "talk"`, 'talk'],
  [`entry.id in ["${ref('walk')}", "${ref('song')}", "${ref('nowhere')}"]`, 'walk song'],
  [`museum.entry.id = "${ref('light')}"`, 'walk'],
  ['entry.id has value', 'walk talk song bare gone tiny'],
  ['entry.state = "new"', 'song'],
  ['entry.state in ["edited", "withdrawn"]', 'talk gone'],
  ['entry.state != "public"', 'talk song gone'],
  ['entry.type = "activity"', 'walk talk song bare gone tiny'],
  ['entry.type = "museum"', ''],
  ['museum.entry.type = "museum"', 'walk talk song'],
  ['entry.updated > 2031-04-01', 'talk'],
  ['entry.published has value', 'walk talk bare gone tiny'],
  ['entry.published has no value', 'song'],
  ['entry.published < now - 52 weeks', ''],
]
