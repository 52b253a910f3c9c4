import { readdirSync, readFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { parse } from 'yaml'
import type { Automation, NewSite } from '@wisteria/client'

/** The site of Marram Coast Museums: three museums that do not exist, in four locales. */
export const demoSite: NewSite = {
  name: 'marram',
  label: 'Marram Coast Museums',
  defaultLocale: 'en',
  locales: [
    { tag: 'en', label: 'English', fallback: [] },
    { tag: 'nl', label: 'Nederlands', fallback: ['en'] },
    { tag: 'nl-BE', label: 'Nederlands (België)', fallback: ['nl', 'en'], variant: true },
    { tag: 'ar', label: 'العربية', fallback: ['en'] },
  ],
  timeZone: 'Europe/Amsterdam',
}

export const demoPassword = 'wind-from-the-west'

export const demoOwner = { email: 'maren@marram.example', name: 'Maren Aldous', role: 'owner' } as const

export const demoMembers = [
  { email: 'teun@marram.example', name: 'Teun Visser', role: 'developer' },
  { email: 'ilse@marram.example', name: 'Ilse Branding', role: 'editor' },
  { email: 'samira@marram.example', name: 'Samira Nour', role: 'translator', locales: ['ar'] },
  { email: 'gast@marram.example', name: 'Geert Kijker', role: 'viewer' },
] as const

const folder = (name: string): string => fileURLToPath(new URL(`../${name}/`, import.meta.url))

export const modelFolder = folder('model')
export const automationFolder = folder('automations')

/** An entry of the demo world, as the content files describe it. */
export interface WorldEntry {
  /** The key by which others refer to it: `{ ref: key }`. */
  readonly key: string
  readonly type: string
  /** Locales to publish; none leave it new. */
  readonly publish: readonly string[]
  /** Values changed after publishing, which leaves it edited. */
  readonly edit?: Readonly<Record<string, unknown>>
  /** Withdrawn after publishing. */
  readonly withdraw?: boolean
  readonly values: Readonly<Record<string, unknown>>
}

/** All entries, each after those that it refers to. */
export function readWorld(): WorldEntry[] {
  const files = [
    'people.yaml',
    'museums.yaml',
    'exhibitions.yaml',
    'activities.yaml',
    'pages.yaml',
    'artefacts.yaml',
    'visitorInfo.yaml',
    'notices.yaml',
  ]
  const read = files.flatMap((file) => parse(readFileSync(folder('content') + file, 'utf8')) as WorldEntry[])
  const byKey = new Map(read.map((entry) => [entry.key, entry]))
  const ordered = new Set<WorldEntry>()
  const visit = (entry: WorldEntry): void => {
    for (const key of referencesIn(entry.values))
      if (key !== entry.key && byKey.has(key) && !ordered.has(byKey.get(key)!)) visit(byKey.get(key)!)
    ordered.add(entry)
  }
  read.forEach(visit)
  return [...ordered]
}

function referencesIn(value: unknown): string[] {
  if (Array.isArray(value)) return value.flatMap(referencesIn)
  if (typeof value !== 'object' || value === null) return []
  if ('ref' in value) return [String(value.ref)]
  return Object.values(value).flatMap(referencesIn)
}

/** The values with every `{ ref: key }` replaced by the id that the key has, and every `{ asset: name }` by that of the picture. */
export function withIds(value: unknown, ids: ReadonlyMap<string, string>): unknown {
  if (Array.isArray(value)) return value.map((item) => withIds(item, ids))
  if (typeof value !== 'object' || value === null) return value
  if ('ref' in value) {
    const id = ids.get(String(value.ref))
    if (id === undefined) throw new Error(`The demo content refers to ${String(value.ref)}, which it does not have.`)
    return id
  }
  if (Object.keys(value).length === 1 && 'asset' in value && typeof value.asset === 'string') {
    const id = ids.get(assetKey(value.asset))
    if (id === undefined) throw new Error(`The demo content holds the picture ${value.asset}, which there is not.`)
    return id
  }
  return Object.fromEntries(Object.entries(value).map(([key, member]) => [key, withIds(member, ids)]))
}

/** The key of a picture among those of entries. */
export const assetKey = (name: string): string => `asset ${name}`

/** The pictures that come with the demo, each with its alternative text. */
export const demoPictures: readonly { readonly name: string; readonly alt: Readonly<Record<string, string>> }[] = [
  {
    name: 'lighthouse',
    alt: {
      en: 'A drawing of a white tower on a cliff.',
      nl: 'Een tekening van een witte toren op een klif.',
      ar: 'رسم لبرج أبيض على جرف.',
    },
  },
  {
    name: 'boatyard',
    alt: {
      en: 'A drawing of a wooden boat on a slip.',
      nl: 'Een tekening van een houten schip op een helling.',
      ar: 'رسم لقارب خشبي على منزلق.',
    },
  },
  {
    name: 'saltworks',
    alt: {
      en: 'A drawing of a low house with a smoking chimney.',
      nl: 'Een tekening van een laag huis met een rokende schoorsteen.',
    },
  },
  {
    name: 'lens',
    alt: {
      en: 'A drawing of a great lens, ring within ring, with a small flame in the middle.',
      nl: 'Een tekening van een grote lens, ring in ring, met een kleine vlam in het midden.',
      ar: 'رسم لعدسة كبيرة، حلقة داخل حلقة، وفي وسطها شعلة صغيرة.',
    },
  },
  {
    name: 'rope',
    alt: {
      en: 'A drawing of three coils of rope.',
      nl: 'Een tekening van drie bochten touw.',
      ar: 'رسم لثلاث لفّات من الحبال.',
    },
  },
  {
    name: 'storm',
    alt: {
      en: 'A drawing of a tower in a storm at night.',
      nl: 'Een tekening van een toren in een nachtelijke storm.',
      ar: 'رسم لبرج في عاصفة ليلية.',
    },
  },
  {
    name: 'waders',
    alt: { en: 'A drawing of birds that wade at low water.', nl: 'Een tekening van vogels die bij laagwater waden.' },
  },
  { name: 'chart', alt: { en: 'A drawing of a sea chart with soundings.' } },
]

/** A picture's file. */
export const readPicture = (name: string): Buffer => readFileSync(`${folder('pictures')}${name}.webp`)

export function readDemoModel(): { name: string; text: string }[] {
  return readdirSync(modelFolder)
    .filter((name) => name.endsWith('.yaml'))
    .sort()
    .map((name) => ({ name, text: readFileSync(modelFolder + name, 'utf8') }))
}

/** The automations of the demo site. */
export const readDemoAutomations = (): Automation[] =>
  readdirSync(automationFolder)
    .filter((name) => name.endsWith('.yaml'))
    .sort()
    .map((name) => parse(readFileSync(automationFolder + name, 'utf8')) as Automation)
