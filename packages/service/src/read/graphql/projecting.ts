import { plainText, resolveRichText, type Links, type RichText, type RichTextForm } from '@wisteria/core'
import type { Edition } from '@wisteria/store'
import { assetLinks, readAssets, type ReadAsset } from '../../assets/reading.js'
import type { FieldRead } from '../fieldReads.js'
import type { ReadEntry } from '../readEntry.js'
import type { Holder } from './contentTypes.js'
import type { Reading } from './reading.js'

/* Executes planned queries: the entries that they reach are loaded level by level, then documents are projected in one go. */

/** Thrown where a plan fails: the reference executor takes over. */
export class NotCovered extends Error {}
export const uncovered = (): never => {
  throw new NotCovered()
}

/** All entries that a query reaches, as they were loaded. */
export interface Loaded {
  readonly entries: Map<string, ReadEntry>
  readonly assets: Map<string, ReadAsset>
}

/** The entries that a level of a query reaches. */
export interface Reached {
  readonly entries: { readonly id: string; readonly plans: Plans }[]
  /** Entries that are only named, in rich text. */
  readonly named: Set<string>
  readonly assets: Set<string>
  readonly notes: Set<ObjectPlan>
}

export interface FieldPlan {
  readonly key: string
  readonly note: FieldRead | undefined
  readonly reach: ((holder: Holder, reached: Reached) => void) | undefined
  readonly project: (holder: never, loaded: Loaded) => unknown
}

/** The projection of objects of one type. */
export interface ObjectPlan {
  readonly fields: readonly FieldPlan[]
  readonly reaching: readonly FieldPlan[]
}

/** Plans by the name of the type that an object turns out to have. */
export type Plans = (typeName: string) => ObjectPlan

/** Rich text in one of its forms. */
export function printed(document: RichText, form: RichTextForm, { entries, assets }: Loaded): unknown {
  if (form === 'text') return plainText(document)
  const links: Links = {
    entry: (id) => {
      const row = entries.get(id)?.row
      return row && { address: row.path, title: row.title }
    },
    asset: assetLinks(assets),
  }
  return resolveRichText(document, {
    typeOf: (id) => entries.get(id)?.type.name,
    asset: (id) => assets.get(id),
    richText: form,
    links,
  })
}

export const nothing: Loaded = { entries: new Map(), assets: new Map() }

export function projectObject({ fields }: ObjectPlan, holder: never, loaded: Loaded): Record<string, unknown> {
  const printed: Record<string, unknown> = {}
  for (const { key, project } of fields) printed[key] = project(holder, loaded)
  return printed
}

export function reachObject(plan: ObjectPlan, holder: Holder, reached: Reached): void {
  reached.notes.add(plan)
  for (const { reach } of plan.reaching) reach!(holder, reached)
}

/** The most entries that may be followed in one query. */
const maxFollowed = 5_000

/** Projects entries of one edition and locale, once all entries that they reach are loaded. */
export async function projectEntries(
  reading: Reading,
  entries: readonly ReadEntry[],
  plans: Plans,
): Promise<Record<string, unknown>[]> {
  const [first] = entries
  if (!first) return []
  const { edition } = first
  const { locale } = first.row
  const planOf = (entry: ReadEntry): ObjectPlan => plans(entry.type.graphql.type)
  const loaded = await gather(
    reading,
    edition,
    locale,
    entries.map((entry) => ({ entry, plan: planOf(entry) })),
  )
  return entries.map((entry) => projectObject(planOf(entry), entry as never, loaded))
}

async function gather(
  reading: Reading,
  edition: Edition,
  locale: string,
  beginnings: readonly { readonly entry: ReadEntry; readonly plan: ObjectPlan }[],
): Promise<Loaded> {
  const gathered: Loaded = { entries: new Map(), assets: new Map() }
  const named = new Set<string>()
  const assets = new Set<string>()
  const notes = new Set<ObjectPlan>()
  const asked = new Set<string>()
  const done = new Map<string, Set<ObjectPlan>>()
  const load = async (ids: Iterable<string>): Promise<void> => {
    const missing = [...new Set(ids)].filter((id) => !asked.has(id))
    if (missing.length === 0) return
    for (const id of missing) asked.add(id)
    if (asked.size > maxFollowed) uncovered()
    const loaded = await reading.loadMany(edition, locale, missing)
    for (const entry of loaded) if (entry) gathered.entries.set(entry.row.entry, entry)
  }
  let level = beginnings
  while (level.length > 0) {
    const reached: Reached = { entries: [], named, assets, notes }
    for (const { entry, plan } of level) reachObject(plan, entry, reached)
    await load(reached.entries.map(({ id }) => id))
    level = reached.entries.flatMap(({ id, plans }) => {
      const entry = gathered.entries.get(id)
      if (!entry) return []
      const plan = plans(entry.type.graphql.type)
      const earlier = done.get(id) ?? new Set()
      done.set(id, earlier)
      if (earlier.has(plan)) return []
      earlier.add(plan)
      return [{ entry, plan }]
    })
  }
  await load(named)
  if (assets.size > 0) {
    const { kernel, site, depends } = reading
    for (const id of assets) depends.asset(id)
    for (const [id, asset] of await readAssets(kernel.database, kernel, site, locale, [...assets]))
      gathered.assets.set(id, asset)
  }
  for (const plan of notes) for (const { note } of plan.fields) if (note) reading.noteKept(note)
  return gathered
}
