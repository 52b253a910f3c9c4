import { readdirSync, readFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { parse } from 'yaml'
import type { NewSite } from '@wisteria/client'

/** The site of Marram Coast Museums: three museums that do not exist, in four locales. */
export const demoSite: NewSite = {
  name: 'marram',
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

/** An entry of the demo world, as the content files describe it. */
export interface WorldEntry {
  /** What others refer to it by: `{ ref: key }`. */
  readonly key: string
  readonly type: string
  /** Locales to publish; none leave it new. */
  readonly publish: readonly string[]
  /** Values changed after publishing, which leaves it edited. */
  readonly edit?: Readonly<Record<string, unknown>>
  /** Taken down after publishing, which leaves it withdrawn. */
  readonly unpublish?: boolean
  readonly values: Readonly<Record<string, unknown>>
}

/** Everything there is, such that what is referred to comes before what refers to it. */
export function readWorld(): WorldEntry[] {
  const files = ['people.yaml', 'museums.yaml', 'exhibitions.yaml', 'activities.yaml', 'pages.yaml']
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

/** The values with every `{ ref: key }` replaced by the id that the key has. */
export function withIds(value: unknown, ids: ReadonlyMap<string, string>): unknown {
  if (Array.isArray(value)) return value.map((item) => withIds(item, ids))
  if (typeof value !== 'object' || value === null) return value
  if ('ref' in value) {
    const id = ids.get(String(value.ref))
    if (id === undefined) throw new Error(`The demo content refers to ${String(value.ref)}, which it does not have.`)
    return id
  }
  return Object.fromEntries(Object.entries(value).map(([key, own]) => [key, withIds(own, ids)]))
}

export function readDemoModel(): { name: string; text: string }[] {
  return readdirSync(modelFolder).filter((name) => name.endsWith('.yaml')).sort().map((name) => ({ name, text: readFileSync(modelFolder + name, 'utf8') })) // prettier-ignore
}
