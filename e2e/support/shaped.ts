import {
  chainOf,
  emptyModel,
  meets,
  project,
  readModelFiles,
  readValues,
  resolveModel,
  type Candidate,
  type Condition,
  type Element,
  type Model,
  type Moment,
  type Projection,
} from '@wisteria/core'
import { asFiles, locales, modelSite, randomBytes, richText, settings } from './models.js'

/** A model that uses every kind of field, groups in groups, sections and rules. */
export const shapedFiles = {
  tour: `
type: tour
help: A way through the museum.
sections:
  tickets: { label: Tickets, showIf: 'format != "talk"' }
  notes: { label: Notes, collapsed: true }
fields:
  title: { kind: text, required: true, localized: true, length: { max: 60 } }
  slug: { kind: slug, from: title, localized: true }
  code: { kind: text, unique: true, pattern: { matches: '[A-Z]{2}-\\d+', message: must look like SH-104 }, lockIf: 'entry.state != "new"', indexed: true }
  format: { kind: choice, options: [talk, walk, concert], required: true, default: walk }
  takes: { kind: timeSpan, range: { max: PT8H } }
  starts: { kind: dateTime }
  day: { kind: date, default: { expression: today + 7 days } }
  price: { kind: number, indexed: true, section: tickets, requireIf: 'format = "concert"' }
  forAll: { kind: boolean, section: tickets, default: { expression: price = 0 } }
  shade: { kind: colour }
  mail: { kind: email, localized: true }
  site: { kind: webAddress }
  place: { kind: location, showIf: 'format = "walk"', requireIf: 'format = "walk" and not (forAll = true)' }
  extra: { kind: json, schema: { type: object, properties: { seats: { type: integer } } } }
  story: { kind: richText, localized: true, accepts: [guide, tour] }
  tags: { kind: text, many: true, localized: true }
  themes: { kind: choice, many: true, options: [sea, salt, light] }
  guides: { kind: entry, accepts: [guide], many: true }
  lead: { kind: entry, accepts: [guide] }
  cover: { kind: asset, accepts: [image/*] }
  gallery: { kind: asset, many: true, accepts: [image/*] }
  venue:
    kind: group
    fields:
      room: { kind: text, localized: true }
      seats: { kind: number, integer: true, indexed: true }
      door: { kind: group, fields: { code: { kind: text, indexed: true }, keeper: { kind: entry, accepts: [guide] } } }
  sessions:
    kind: group
    many: true
    count: { max: 5 }
    fields:
      weekday: { kind: choice, options: [monday, friday, sunday], required: true }
      from: { kind: text, requireIf: 'weekday = "friday"' }
      seats: { kind: number }
      note: { kind: text, localized: true, showIf: 'seats > 5' }
      host: { kind: entry, accepts: [guide] }
      stops: { kind: group, many: true, fields: { name: { kind: text }, minutes: { kind: number } } }
  body: { kind: block, many: true, accepts: [words, box], each: { box: { max: 2 } } }
  lead2: { kind: block, accepts: [words], label: Opening }
  meta: { kind: metadata, localized: true, section: notes, from: { title: title, image: cover } }
`,
  guide: `
type: guide
namedBy: name
fields:
  name: { kind: text, required: true }
  speaks: { kind: choice, many: true, options: [en, nl, ar] }
  partner: { kind: entry, accepts: [guide] }
`,
  house: `
type: house
cardinality: one
namedBy: name
fields:
  name: { kind: text, required: true, localized: true }
  open: { kind: group, many: true, fields: { day: { kind: text }, tour: { kind: entry, accepts: [tour] } } }
`,
  words: `
block: words
fields:
  text: { kind: longText, required: true, localized: true }
  tone: { kind: choice, options: [plain, loud], default: plain }
  loudness: { kind: number, showIf: 'tone = "loud"', requireIf: 'tone = "loud"' }
`,
  box: `
block: box
fields:
  inside: { kind: block, many: true, accepts: [words, box] }
  guide: { kind: entry, accepts: [guide] }
`,
} as const

export const shapedModel: Model = resolveModel(readModelFiles(asFiles(shapedFiles)), emptyModel, modelSite)

export const shapedType = (name: string) => shapedModel.types.find((type) => type.name === name)!

/** Ids that are 20 characters long whatever they are called. */
export const ref = (key: string): string => `${key}${'0'.repeat(20 - key.length)}`

/** An entry by its named values, as a request has them. */
export interface Sent {
  readonly id: string
  readonly type: string
  readonly values: Readonly<Record<string, unknown>>
}

/** The document of named values; an error in them is one of the test. */
export function documentOf(type: string, values: unknown) {
  const { document, problems } = readValues(shapedModel, shapedType(type), values, locales, randomBytes())
  if (problems.length > 0) throw new Error(JSON.stringify(problems))
  return document
}

/** The facts of entries for readers of a locale, and for conditions. */
export const projected = (entries: readonly Sent[], locale = 'nl'): Map<string, Projection & { type: string }> =>
  new Map(
    entries.map((entry) => [
      entry.id,
      {
        ...project(
          shapedModel,
          shapedType(entry.type),
          documentOf(entry.type, entry.values),
          chainOf(settings, locale),
        ),
        type: entry.type,
      },
    ]),
  )

/** The entries of a type that match a condition, by the evaluator. */
export function evaluated(
  condition: Condition,
  type: string,
  projections: ReadonlyMap<string, Projection & { type: string }>,
  moment: Moment,
): string[] {
  const candidates = new Map<string, Candidate>()
  const elementOf = (element: Element): Candidate => ({
    id: '',
    facts: element as Candidate['facts'],
    system: {},
    follow: (field) => [(element[field] ?? []) as string | string[]].flat().flatMap((id) => candidates.get(id) ?? []),
    elements: (group) => ((element[`${group}e`] ?? []) as Element[]).map(elementOf),
  })
  for (const [id, { facts, elements, references }] of projections)
    candidates.set(id, {
      id,
      facts,
      system: {},
      follow: (field) =>
        references
          .filter((reference) => reference.direct && reference.field === field)
          .flatMap((reference) => candidates.get(reference.target) ?? []),
      elements: (group) => (elements[group] ?? []).map(elementOf),
    })
  return [...projections]
    .filter(([id, projection]) => projection.type === type && meets(condition, candidates.get(id)!, moment))
    .map(([id]) => id)
    .sort()
}

/** Entries for the table below. Conditions are evaluated in Dutch, which falls back to English. */
export const tours: readonly Sent[] = [
  { id: ref('anna'), type: 'guide', values: { name: 'Anna', speaks: ['en', 'nl'], partner: ref('bert') } },
  { id: ref('bert'), type: 'guide', values: { name: 'Bert', speaks: ['nl'] } },
  {
    id: ref('walk'),
    type: 'tour',
    values: {
      title: { en: 'Night walk', nl: 'Nachtwandeling' },
      code: 'SH-1',
      format: 'walk',
      takes: 'PT1H30M',
      place: { latitude: 52, longitude: 4 },
      shade: '#AABBCC',
      mail: { en: 'walk@marram.example' },
      story: { en: richText('The café at the end'), nl: richText('Het einde') },
      tags: { en: ['dark', 'outside'] },
      themes: ['sea', 'light'],
      guides: [ref('anna'), ref('bert')],
      lead: ref('anna'),
      venue: { room: { en: 'Lamp room' }, seats: 12, door: { code: 'A1', keeper: ref('bert') } },
      sessions: [
        {
          id: 's1',
          values: {
            weekday: 'monday',
            from: '20:00',
            seats: 4,
            host: ref('anna'),
            stops: [{ values: { name: 'Gate', minutes: 5 } }],
          },
        },
        {
          id: 's2',
          values: { weekday: 'friday', from: '21:00', seats: 10, note: { en: 'Bring a lamp' }, host: ref('bert') },
        },
      ],
      body: [{ block: 'words', values: { text: { en: 'x' } } }],
    },
  },
  {
    id: ref('talk'),
    type: 'tour',
    values: {
      title: { en: 'Talk', nl: null },
      format: 'talk',
      takes: 'PT45M',
      price: 5,
      place: { latitude: 1, longitude: 1 },
      tags: { nl: ['binnen'], en: ['inside'] },
      guides: [ref('bert')],
      venue: { seats: 40 },
      sessions: [
        {
          values: {
            weekday: 'friday',
            from: '10:00',
            seats: 40,
            stops: [{ values: { name: 'Desk', minutes: 30 } }, { values: { minutes: 1 } }],
          },
        },
      ],
    },
  },
  {
    id: ref('song'),
    type: 'tour',
    values: { title: { ar: 'غناء' }, format: 'concert', takes: 'P1D', price: 0, forAll: true, extra: { seats: 3 } },
  },
  { id: ref('bare'), type: 'tour', values: {} },
]

/** The specification of conditions on shaped content: on tours in Dutch, with the matches of each. */
export const shapedCases: readonly (readonly [condition: string, meeting: string])[] = [
  // single groups, to any depth
  ['venue.seats > 10', 'walk talk'],
  ['venue.seats <= 12', 'walk'],
  ['not venue.seats > 10', 'song bare'],
  ['venue.room = "lamp room"', 'walk'],
  ['venue.door.code = "a1"', 'walk'],
  ['venue.door.code has no value', 'talk song bare'],
  ['venue.door.keeper.name = "bert"', 'walk'],
  ['venue has value', 'walk talk'],
  // repeated groups: a path means any of the elements, `any` binds one
  ['sessions.weekday = "friday"', 'walk talk'],
  ['sessions.weekday = "monday" and sessions.seats > 9', 'walk'],
  ['any sessions (weekday = "monday" and seats > 9)', ''],
  ['any sessions (weekday = "friday" and seats > 9)', 'walk talk'],
  ['not any sessions (weekday = "friday")', 'song bare'],
  ['any sessions (not weekday = "friday")', 'walk'],
  ['any sessions (from starts with "2")', 'walk'],
  ['any sessions (note has value)', 'walk'],
  ['sessions.note contains "lamp"', 'walk'],
  ['sessions has value', 'walk talk'],
  ['sessions has no value', 'song bare'],
  ['sessions.seats in [4, 5]', 'walk'],
  ['not sessions.seats in [4, 5]', 'talk song bare'],
  // groups in groups, references in groups
  ['any sessions (any stops (minutes > 10))', 'talk'],
  ['any sessions (any stops (name has no value))', 'talk'],
  ['any sessions (stops.name = "gate" and seats = 4)', 'walk'],
  ['sessions.stops.minutes < 3', 'talk'],
  ['sessions.host.name = "anna"', 'walk'],
  ['any sessions (host.name = "bert" and seats = 10)', 'walk'],
  ['any sessions (host.name = "anna" and seats = 10)', ''],
  ['any sessions (host.partner.name = "bert")', 'walk'],
  ['any sessions (host has no value)', 'talk'],
  [`any sessions (host = "${ref('bert')}")`, 'walk'],
  ['any guides (speaks = "en" and partner has value)', 'walk'],
  ['guides.partner.speaks = "nl"', 'walk'],
  // lengths of time
  ['takes > "PT1H"', 'walk song'],
  ['takes <= "PT90M"', 'walk talk'],
  ['takes = "PT90M"', 'walk'],
  ['takes in ["PT45M", "PT24H"]', 'talk song'],
  ['takes has no value', 'bare'],
  // presence, and hidden values
  ['place has value', 'walk'],
  ['place has no value', 'talk song bare'],
  ['extra has value', 'song'],
  ['body has value', 'walk'],
  ['body has no value', 'talk song bare'],
  ['cover has value', ''],
  ['meta has value', ''],
  ['price has value', 'song'],
  ['price < 100', 'song'],
  // localized: after fallback; empty on purpose ends it
  ['title = "nachtwandeling"', 'walk'],
  ['title = "talk"', ''],
  ['title has no value', 'talk song bare'],
  ['mail contains "walk@"', 'walk'],
  ['story contains "einde"', 'walk'],
  ['story contains "cafe"', ''],
  ['tags = "dark"', 'walk'],
  ['tags = "inside"', ''],
  ['tags = "binnen"', 'talk'],
  ['themes = "salt"', ''],
  ['themes in ["sea", "salt"]', 'walk'],
  ['shade = "#aabbcc"', 'walk'],
  ['forAll != true', 'walk talk bare'],
]
