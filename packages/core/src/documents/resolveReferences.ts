import { labelOfChoice, type ChoiceForm } from '../fields/choice.js'
import type { Listing } from '../fields/listing.js'
import { referencesIn, type RichText } from '../richtext/document.js'
import { printRichText, type RichTextForm } from '../richtext/print.js'
import { withoutReferences, type Links } from '../richtext/references.js'
import {
  anyField,
  insideGroup,
  isList,
  ownersInside,
  shapeOf,
  type ContentType,
  type Field,
  type FieldOwner,
  type Model,
} from '../model/model.js'
import { isRendition, renditionAddress, renditionSize, type Rendition } from '../selection/options.js'
import { everything, type ChosenField, type Selection } from '../selection/selection.js'

/** The part of a referenced entry that a reader may see. */
export interface ReferenceSource {
  /** The name of the type of an entry that the reader may see; undefined otherwise. */
  readonly typeOf: (id: string) => string | undefined
  /** An entry that a selection follows a reference to; undefined where the reader has no right to it. */
  readonly entry?: (id: string) => ReachableEntry | undefined
  /** An asset for readers; undefined when there is none. */
  readonly asset: (id: string) => object | undefined
  /** The entries that a list finds which fills itself. */
  readonly listed: (listing: Listing) => readonly { readonly id: string; readonly type: string }[]
  /** How rich text is printed where nothing else is chosen, and where its links lead. */
  readonly richText: RichTextForm
  readonly links: Links
  /** How choices are printed where nothing else is chosen: by their values when left out. */
  readonly choices?: ChoiceForm | undefined
  /** The locales to look for a label in, the reader's first. */
  readonly locales?: readonly string[] | undefined
}

export interface ReachableEntry {
  readonly type: ContentType
  /** The members of an entry beside its values. */
  readonly head: Printed
  readonly values: Printed
}

type Printed = Record<string, unknown>

/**
 * Resolves the references of a printed entry: one that the reader may not follow becomes null, or is removed from a list; assets
 * are filled in; rich text is printed in the requested form.
 * @param selection the selected fields; everything when left out.
 */
export function resolveReferences(
  model: Model,
  owner: FieldOwner,
  values: Printed,
  reachable: ReferenceSource,
  selection: Selection = everything(model),
): Printed {
  const resolved: Printed = {}
  for (const chosen of selection.of(owner) ?? [])
    resolved[chosen.name] = resolveField(model, chosen, values[chosen.field.name], reachable)
  return resolved
}

function resolveField(model: Model, chosen: ChosenField, content: unknown, reachable: ReferenceSource): unknown {
  const { field, first, inside } = chosen
  const each = (resolveValue: (value: unknown) => unknown): unknown => {
    if (!field.many) return content === null || content === undefined ? null : (resolveValue(content) ?? null)
    const resolved = ((content ?? []) as unknown[])
      .map(resolveValue)
      .filter((value) => value !== undefined && value !== null)
    return first === undefined ? resolved : resolved.slice(0, first)
  }
  const within = (owner: FieldOwner, value: unknown): Printed =>
    resolveReferences(model, owner, (value ?? {}) as Printed, reachable, inside)
  const follow = (id: string): unknown => {
    if (!inside) {
      const type = reachable.typeOf(id)
      return type === undefined ? undefined : { id, type }
    }
    const entry = reachable.entry?.(id)
    return entry && { ...entry.head, values: resolveReferences(model, entry.type, entry.values, reachable, inside) }
  }
  switch (field.kind) {
    case 'entry':
      return each((reference) => follow((reference as { id: string }).id))
    case 'listing': {
      if (content === null || content === undefined) return []
      const listed = reachable.listed(content as Listing).slice(0, first)
      return inside ? listed.flatMap(({ id }) => follow(id) ?? []) : listed
    }
    case 'asset':
      return each((reference) => {
        const asset = reachable.asset((reference as { id: string }).id)
        return asset && membersOf(chosen, renditionOf(asset, chosen.rendition))
      })
    case 'metadata':
      return each((metadata) => {
        const { image } = metadata as { image: { id: string } | null }
        return membersOf(chosen, {
          ...(metadata as Printed),
          image: image ? (reachable.asset(image.id) ?? null) : null,
        })
      })
    case 'richText':
      return each((document) =>
        resolveRichText(document as RichText, {
          ...reachable,
          richText: (chosen.as as RichTextForm | undefined) ?? reachable.richText,
        }),
      )
    case 'choice': {
      const form = (chosen.as as ChoiceForm | undefined) ?? reachable.choices ?? 'value'
      const shape = shapeOf(field)
      const options = shape.is === 'choice' ? shape.options : []
      return each((value) => {
        if (form === 'value') return value
        const label = labelOfChoice(options, value as string, reachable.locales ?? [])
        return form === 'label' ? label : { value, label }
      })
    }
    case 'group':
      return field.many
        ? each((item) => ({
            ...(item as Printed),
            values: within(insideGroup(field)!, (item as { values: Printed }).values),
          }))
        : within(insideGroup(field)!, content)
    case 'block':
      return each((item) => {
        const block = ownersInside(model, field).find(
          (candidate) => candidate.name === (item as { block: string }).block,
        )
        return block ? { ...(item as Printed), values: within(block, (item as { values: Printed }).values) } : item
      })
    default:
      if (chosen.members) return each((item) => membersOf(chosen, item as Printed))
      return first === undefined || !Array.isArray(content) ? content : content.slice(0, first)
  }
}

const membersOf = ({ members }: ChosenField, object: object): object =>
  members ? Object.fromEntries(members.map((name) => [name, (object as Printed)[name] ?? null])) : object

/** An asset with the address and size of a rendition; a file that is not a picture stays as it is. */
function renditionOf(asset: object, rendition: Rendition | undefined): object {
  const { mediaType, address, width, height } = asset as {
    mediaType?: string
    address?: string
    width?: number | null
    height?: number | null
  }
  if (!rendition || !isRendition(rendition) || !mediaType?.startsWith('image/') || address === undefined) return asset
  // Its size in bytes is unknown before it is made.
  const { size: _, ...members } = asset as { size?: number }
  return {
    ...members,
    address: renditionAddress(address, rendition),
    mediaType: rendition.format ? `image/${rendition.format}` : mediaType,
    ...renditionSize(width ?? null, height ?? null, rendition),
  }
}

/** Rich text for a reader: without broken references, in the requested form. */
export function resolveRichText(
  document: RichText,
  { typeOf, asset, richText, links }: Omit<ReferenceSource, 'listed' | 'entry' | 'choices' | 'locales'>,
): unknown {
  const alive = withoutReferences(document, (reference) =>
    'entry' in reference ? typeOf(reference.entry) === undefined : asset(reference.asset) === undefined,
  )
  return printRichText(alive, richText, links)
}

/** The entries and assets that are needed to print some values. */
export interface CollectedReferences {
  /** Ids of entries that are named by id and type. */
  readonly entries: Set<string>
  /** Ids of entries that rich text leads to: their titles and paths are printed. */
  readonly linked: Set<string>
  /** Followed entries, with the selection of each. */
  readonly followed: { readonly id: string; readonly inside: Selection }[]
  readonly assets: Set<string>
  /** Lists that fill themselves, with the selection of their entries. */
  readonly listings: { readonly listing: Listing; readonly inside: Selection | undefined }[]
}

export const noReferences = (): CollectedReferences => ({
  entries: new Set(),
  linked: new Set(),
  followed: [],
  assets: new Set(),
  listings: [],
})

/** Adds the references of printed values, at any depth of groups and blocks, where they are selected. */
export function collectReferences(
  model: Model,
  owner: FieldOwner,
  values: Printed,
  into: CollectedReferences,
  selection: Selection = everything(model),
): void {
  for (const { field, inside, first } of selection.of(owner) ?? []) {
    const content = values[field.name]
    if (content === null || content === undefined) continue
    const items = [content].flat().slice(0, first)
    switch (field.kind) {
      case 'entry':
        for (const reference of [content].flat() as { id: string }[])
          if (inside) into.followed.push({ id: reference.id, inside })
          else into.entries.add(reference.id)
        break
      case 'listing':
        into.listings.push({ listing: content as Listing, inside })
        break
      case 'asset':
        for (const { id } of [content].flat() as { id: string }[]) into.assets.add(id)
        break
      case 'metadata': {
        const { image } = content as { image: { id: string } | null }
        if (image) into.assets.add(image.id)
        break
      }
      case 'richText':
        for (const document of items as RichText[]) {
          const references = referencesIn(document)
          for (const id of references.entries) into.linked.add(id)
          for (const id of references.assets) into.assets.add(id)
        }
        break
      case 'group':
      case 'block':
        for (const item of items as ({ block?: string; values: Printed } & Printed)[]) {
          const [single] = ownersInside(model, field)
          const within =
            field.kind === 'group'
              ? single
              : ownersInside(model, field).find((candidate) => candidate.name === item.block)
          const isSingle = field.kind === 'group' && !field.many
          if (within) collectReferences(model, within, isSingle ? item : item.values, into, inside)
        }
        break
    }
  }
}

const withItems = new WeakMap<Model, Map<string, boolean>>()

/** Whether entries of an owner may have lists of items, at any depth. */
export const holdsItems = (model: Model, owner: FieldOwner): boolean => holds(withItems, model, owner, isList)

const withListings = new WeakMap<Model, Map<string, boolean>>()

/** Whether entries of an owner may have lists that fill themselves, at any depth. */
export const holdsListings = (model: Model, owner: FieldOwner): boolean =>
  holds(withListings, model, owner, ({ kind }) => kind === 'listing')

const withRichText = new WeakMap<Model, Map<string, boolean>>()

/** Whether entries of an owner may have rich text, at any depth. */
export const holdsRichText = (model: Model, owner: FieldOwner): boolean =>
  holds(withRichText, model, owner, ({ kind }) => kind === 'richText')

const withChoices = new WeakMap<Model, Map<string, boolean>>()

/** Whether entries of an owner may have choices, at any depth. */
export const holdsChoices = (model: Model, owner: FieldOwner): boolean =>
  holds(withChoices, model, owner, ({ kind }) => kind === 'choice')

function holds(
  cache: WeakMap<Model, Map<string, boolean>>,
  model: Model,
  owner: FieldOwner,
  passes: (field: Field) => boolean,
): boolean {
  const answers = cache.get(model) ?? new Map<string, boolean>()
  cache.set(model, answers)
  const answer = answers.get(owner.id) ?? anyField(model, owner, passes)
  answers.set(owner.id, answer)
  return answer
}
