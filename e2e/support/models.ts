import {
  emptyModel,
  readModelFiles,
  resolveModel,
  type ContentType,
  type Document,
  type Model,
  type SiteSettings,
} from '@wisteria/core'

export const settings: SiteSettings = {
  label: 'Marram Coast Museums',
  defaultLocale: 'en',
  locales: [
    { tag: 'en', label: 'English', fallback: [] },
    { tag: 'nl', label: 'Nederlands', fallback: ['en'] },
    { tag: 'nl-BE', label: 'Nederlands (België)', fallback: ['nl', 'en'] },
    { tag: 'ar', label: 'العربية', fallback: ['en'] },
  ],
  timeZone: 'Europe/Amsterdam',
}

export const locales = settings.locales.map((locale) => locale.tag)

export const modelSite = { locales, defaultLocale: settings.defaultLocale, timeZone: settings.timeZone }

/** A small model with every construct. */
export const files = {
  museum: `
type: museum
namedBy: name
path: { en: '/museums/{slug}', nl: '/nl/musea/{slug}', nl-BE: '/nl-be/musea/{slug}', ar: '/ar/museums/{slug}' }
fields:
  name: { kind: text, required: true, localized: true, length: { max: 40 } }
  slug: { kind: slug, from: name, localized: true }
  town: { kind: text, indexed: true }
`,
  activity: `
type: activity
plural: activities
path: { en: '/activities/{slug}', nl: '/nl/agenda/{slug}' }
fields:
  title: { kind: text, required: true, localized: true }
  slug: { kind: slug, from: title, localized: true }
  format: { kind: choice, options: [talk, walk, concert, workshop], required: true }
  museum: { kind: entry, accepts: [museum] }
  speakers: { kind: entry, accepts: [person], many: true }
  tags: { kind: text, many: true, indexed: true }
  starts: { kind: dateTime }
  day: { kind: date }
  price: { kind: number, indexed: true, range: { min: 0 } }
  free: { kind: boolean }
  summary: { kind: longText, localized: true }
  body: { kind: block, many: true, accepts: [heading, quote], count: { max: 3 } }
`,
  person: `
type: person
plural: people
namedBy: name
fields:
  name: { kind: text, required: true }
  born: { kind: date }
  home: { kind: entry, accepts: [museum] }
`,
  page: `
type: page
parent: inPage
path: { en: '/{parent}/{slug}', nl: '/nl/{parent}/{slug}' }
fields:
  title: { kind: text, required: true, localized: true }
  slug: { kind: slug, from: title, localized: true }
  inPage: { kind: entry, accepts: [page] }
`,
  heading: `
block: heading
fields:
  text: { kind: text, required: true, localized: true }
`,
  quote: `
block: quote
fields:
  text: { kind: text, required: true, localized: true }
  by: { kind: text }
`,
} as const

export const asFiles = (texts: Readonly<Record<string, string>> = files) =>
  Object.entries(texts).map(([name, text]) => ({ name: `${name}.yaml`, text: text.trimStart() }))

export const makeModel = (texts: Readonly<Record<string, string>> = files, before: Model = emptyModel): Model =>
  resolveModel(readModelFiles(asFiles(texts)), before, modelSite)

export const model = makeModel()

export const type = (name: string): ContentType => model.types.find((candidate) => candidate.name === name)!

/** The internal id of a field, for writing documents by hand. */
export const id = (typeName: string, field: string): string => {
  const owner =
    model.types.find((candidate) => candidate.name === typeName) ??
    model.blockTypes.find((blockType) => blockType.name === typeName)!
  return owner.fields.find((candidate) => candidate.name === field)!.id
}

/** A document from field names, values as stored. */
export const doc = (typeName: string, values: Readonly<Record<string, unknown>>): Document =>
  Object.fromEntries(Object.entries(values).map(([name, value]) => [id(typeName, name), value]))

export const block = (typeName: string, id: string, values: Readonly<Record<string, unknown>>) => ({
  id,
  block: model.blockTypes.find((blockType) => blockType.name === typeName)!.id,
  values: doc(typeName, values),
})

/** Bytes that only look like chance. */
export function randomBytes(seed = 1): (bytes: number) => Uint8Array {
  let state = seed
  return (bytes) => Uint8Array.from({ length: bytes }, () => (state = (state * 48271) % 2147483647) % 256)
}

/** The error of a rejected promise or call. */
export async function refusal<E = Error>(work: () => unknown): Promise<E> {
  try {
    await work()
  } catch (error) {
    return error as E
  }
  throw new Error('it was not refused')
}

/** A rich text of plain paragraphs. */
export const richText = (...texts: readonly string[]) => ({
  type: 'root' as const,
  children: texts.map((value, index) => ({
    type: 'paragraph' as const,
    data: { id: `b${index + 1}` },
    children: [{ type: 'text' as const, value }],
  })),
})
