import { chainOf, localeTags, type SiteSettings } from '../locales/settings.js'
import { composePublic, type PublicLayers } from '../documents/layers.js'
import { hasContent, insideOf, walk, type Document } from '../documents/document.js'
import { withoutHidden } from '../documents/shown.js'
import { project, titleOf } from '../documents/project.js'
import { upgradeDocument } from '../documents/upgrade.js'
import { validate } from '../publishing/validate.js'
import { anyField, typeWithId, type ContentType, type Field, type Model } from '../model/model.js'
import { fieldIds, idsOf, isListing, namesOf, placeOf, touches, uniqueFields } from './modelReach.js'
import { faultOfListing } from '../conditions/listings.js'
import type { Listing } from '../fields/listing.js'
import { same, type ConcernedEntries, type Consequence } from '../modelFiles/consequences.js'

/** An entry as it is stored, with the versions of the models its documents were written under. */
export interface StoredEntry {
  readonly id: string
  /** Internal id of its type. */
  readonly type: string
  readonly copy: WrittenDocument
  /** Its public document, if any. */
  readonly layers?: { readonly shared: WrittenDocument; readonly locales: Readonly<Record<string, WrittenDocument>> }
}

export interface WrittenDocument {
  readonly document: Document
  readonly modelVersion: number
}

interface Finding {
  readonly code: Consequence['code']
  readonly weight: Consequence['weight']
  readonly place: string
  readonly say: (count: string) => string
}

const maxNamed = 20

interface Looks {
  readonly forLost: boolean
  readonly forRestored: boolean
  readonly forLists: boolean
}

/**
 * Computes the consequences of a proposed model for stored entries: values that would be lost, could not be converted, would no
 * longer be valid, would be hidden, or would be there twice. Entries are added one by one, in any number.
 */
export class ModelImpact {
  readonly #before: Model
  readonly #after: Model
  readonly #settings: SiteSettings
  readonly #findings = new Map<string, Finding & { count: number; first: ConcernedEntries['first'][number][] }>()
  readonly #types: ReadonlySet<string>
  /** By field id, locale and fact: who has it. */
  readonly #values = new Map<string, string>()
  readonly #unique: ReadonlyMap<string, readonly Field[]>
  /** Ids of every field of the model in force. */
  readonly #known: ReadonlySet<string>
  /** By type id: the checks that its documents need. Most changes need few. */
  readonly #looks: ReadonlyMap<string, Looks>

  constructor(before: Model, after: Model, settings: SiteSettings) {
    this.#before = before
    this.#after = after
    this.#settings = settings
    this.#known = fieldIds(before)
    const touched = before.types.filter((type) => touches(before, after, type))
    // The condition of a list may no longer fit when any type has changed.
    const isShaken = touched.length > 0 || !same(namesOf(before), namesOf(after))
    const listing = isShaken ? before.types.filter((type) => anyField(before, type, isListing)) : []
    this.#types = new Set([...touched, ...listing].map((type) => type.id))
    const unique = after.types.map((type) => {
      const old = typeWithId(before, type.id)
      const were = new Set(old ? uniqueFields(old).map((field) => field.id) : [])
      return [type.id, uniqueFields(type).filter((field) => !were.has(field.id))] as const
    })
    this.#unique = new Map(unique)
    this.#looks = new Map(
      [...this.#types].flatMap((id) => {
        const [old, now] = [typeWithId(before, id), typeWithId(after, id)]
        if (!old || !now) return []
        const [had, has] = [idsOf(before, old), idsOf(after, now)]
        const looks = {
          forLost: [...had].some((id) => !has.has(id)),
          forRestored: anyField(after, now, ({ id: field }) => !this.#known.has(field)),
          forLists: anyField(before, old, isListing),
        }
        return [[id, looks] as const]
      }),
    )
  }

  /** The ids of the types whose entries have to be looked at. */
  get types(): ReadonlySet<string> {
    return this.#types
  }

  add(entry: StoredEntry): void {
    const old = typeWithId(this.#before, entry.type)
    const now = typeWithId(this.#after, entry.type)
    const looks = this.#looks.get(entry.type)
    if (!old || !now || !looks) return
    const title = (): string =>
      titleOf(old, upgradeDocument(this.#before, old, entry.copy.document, entry.copy.modelVersion), [
        this.#settings.defaultLocale,
        ...localeTags(this.#settings),
      ])
    const told = new Set<string>()
    const tell = (finding: Finding, because?: string) => {
      const key = `${finding.code} ${finding.place}`
      if (told.has(key)) return
      told.add(key)
      const earlier = this.#findings.get(key) ?? { ...finding, count: 0, first: [] }
      earlier.count++
      if (earlier.first.length < maxNamed)
        earlier.first.push({ id: entry.id, title: title(), ...(because ? { because } : {}) })
      this.#findings.set(key, earlier)
    }
    // Layers that were published from one revision share its document.
    const upgrades: { written: WrittenDocument; both: { old: Document; now: Document } }[] = []
    const upgraded = (written: WrittenDocument): { old: Document; now: Document } => {
      const before = upgrades.find(
        (other) => other.written.document === written.document && other.written.modelVersion === written.modelVersion,
      )
      if (before) return before.both
      const asOld = upgradeDocument(this.#before, old, written.document, written.modelVersion)
      const asNow = upgradeDocument(this.#after, now, asOld, this.#before.version, ({ field, because }) =>
        tell(
          this.#known.has(field)
            ? {
                code: 'valuesRefused',
                weight: 'refused',
                place: placeOf(this.#after, now, field),
                say: (count) => `${count} cannot be converted.`,
              }
            : {
                code: 'valuesLost',
                weight: 'breaking',
                place: placeOf(this.#after, now, field),
                say: (count) => `${count} have an earlier value for it that cannot be converted, and does not return.`,
              },
          because,
        ),
      )
      if (looks.forLost) this.#lost(old, now, asOld, tell)
      if (looks.forRestored) this.#restored(now, asNow, tell)
      if (looks.forLists) this.#lists(old, now, asOld, tell)
      const both = { old: asOld, now: asNow }
      upgrades.push({ written, both })
      return both
    }
    upgraded(entry.copy)
    if (!entry.layers) return
    const shared = upgraded(entry.layers.shared)
    const locales = Object.entries(entry.layers.locales).map(([tag, written]) => [tag, upgraded(written)] as const)
    const layers = (side: 'old' | 'now'): PublicLayers => ({
      shared: shared[side],
      locales: Object.fromEntries(locales.map(([tag, looks]) => [tag, looks[side]])),
    })
    this.#public(old, now, layers('old'), layers('now'), entry.id, tell)
  }

  /** Values of fields that are no more, and blocks of types that are no more. */
  #lost(old: ContentType, now: ContentType, document: Document, tell: (finding: Finding) => void): void {
    const stays = idsOf(this.#after, now)
    walk(this.#before, old, document, localeTags(this.#settings), (content, { field, owner, place }) => {
      if (!hasContent(content) || place.length === 0) return
      const ownerStays = owner.id === old.id || stays.has(owner.id)
      if (ownerStays && !stays.has(field.id))
        tell({
          code: 'valuesLost',
          weight: 'breaking',
          place: placeOf(this.#before, old, field.id),
          say: (count) => `${count} hold a value in it, which forms and readers would no longer show.`,
        })
      for (const inside of insideOf(this.#before, field, content))
        if (inside.id !== undefined && field.kind === 'block' && stays.has(field.id) && !stays.has(inside.owner.id))
          tell({
            code: 'valuesLost',
            weight: 'refused',
            place: placeOf(this.#before, old, field.id),
            say: (count) =>
              `${count} hold a block \`${inside.owner.name}\` there, which would be removed. Remove these blocks first, or keep the block type.`,
          })
    })
  }

  /** Values of fields that were gone and are there again. */
  #restored(now: ContentType, document: Document, tell: (finding: Finding) => void): void {
    walk(this.#after, now, document, localeTags(this.#settings), (content, { field }) => {
      if (!hasContent(content) || this.#known.has(field.id)) return
      tell({
        code: 'valuesRestored',
        weight: 'plain',
        place: placeOf(this.#after, now, field.id),
        say: (count) => `${count} have an earlier value for it, which returns.`,
      })
    })
  }

  /** Lists that fill themselves and query something that the new model lacks. */
  #lists(
    old: ContentType,
    now: ContentType,
    document: Document,
    tell: (finding: Finding, because?: string) => void,
  ): void {
    walk(this.#before, old, document, localeTags(this.#settings), (content, { field }) => {
      if (!isListing(field) || typeof content !== 'object' || content === null) return
      const { timeZone } = this.#settings
      const asked = content as Listing
      if (faultOfListing(this.#before, timeZone, asked, old) !== undefined) return
      const fault = faultOfListing(this.#after, timeZone, asked, now)
      if (fault === undefined) return
      tell(
        {
          code: 'listsBroken',
          weight: 'breaking',
          place: placeOf(this.#before, old, field.id),
          say: (count) => `${count} hold a list whose condition or order no longer fits: readers would get it empty.`,
        },
        fault,
      )
    })
  }

  #public(
    old: ContentType,
    now: ContentType,
    was: PublicLayers,
    is: PublicLayers,
    entry: string,
    tell: (finding: Finding, because?: string) => void,
  ): void {
    const problems = validate(this.#after, now, is, this.#settings)
    const known = new Set(
      problems.length === 0
        ? []
        : validate(this.#before, old, was, this.#settings).map((problem) => `${problem.code} ${problem.pointer}`),
    )
    for (const problem of problems)
      if (!known.has(`${problem.code} ${problem.pointer}`))
        tell(
          {
            code: 'valuesInvalid',
            weight: 'breaking',
            place: `${now.name}.${(problem.pointer ?? '').split('/')[2] ?? ''}`,
            say: (count) =>
              `${count} would no longer be valid: they stay public, and must be corrected before the next publish.`,
          },
          problem.message,
        )
    const composed = composePublic(this.#after, now, is)
    const shown = withoutHidden(this.#after, now, composed, this.#settings)
    let before: Document | undefined
    const wasShown = (id: string): boolean => {
      before ??= withoutHidden(this.#before, old, composePublic(this.#before, old, was), this.#settings)
      return hasContent(before[id])
    }
    for (const field of shown === composed ? [] : now.fields)
      if (hasContent(composed[field.id]) && !hasContent(shown[field.id]) && wasShown(field.id))
        tell({
          code: 'valuesHidden',
          weight: 'breaking',
          place: `${now.name}.${field.name}`,
          say: (count) => `${count} have a public value that \`showIf\` would hide from readers.`,
        })
    const unique = this.#unique.get(now.id) ?? []
    if (unique.length === 0) return
    for (const tag of Object.keys(is.locales)) {
      const { facts } = project(this.#after, now, composed, chainOf(this.#settings, tag))
      for (const field of unique) {
        const key = `${field.id} ${field.localized ? tag : ''} ${String(facts[field.id] ?? '')}`
        const holder = this.#values.get(key)
        if (facts[field.id] === undefined) continue
        if (holder !== undefined && holder !== entry)
          tell({
            code: 'valuesTwice',
            weight: 'breaking',
            place: `${now.name}.${field.name}`,
            say: (count) => `${count} have the same value as another public entry.`,
          })
        else this.#values.set(key, entry)
      }
    }
  }

  /** Everything found. */
  consequences(): Consequence[] {
    return [...this.#findings.values()].map(({ say, count, first, ...finding }) => ({
      code: finding.code,
      weight: finding.weight,
      place: finding.place,
      message: capital(say(`${count.toLocaleString('en')} ${count === 1 ? 'entry' : 'entries'}`), count),
      entries: { count, first },
    }))
  }
}

/** For a message: one entry has, several have. */
const capital = (text: string, count: number): string =>
  count === 1 ? text.replace(/ entry hold /, ' entry holds ').replace(/ entry have /, ' entry has ') : text
