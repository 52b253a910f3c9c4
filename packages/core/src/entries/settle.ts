import type { Listing } from '../fields/listing.js'
import { withoutReferences, type RichText } from '../richtext/document.js'
import { printRichText, type Links, type RichTextForm } from '../richtext/print.js'
import { anyField, insideGroup, ownersInside, type Field, type Fielded, type Model } from '../model/model.js'

/** What a reader may know of what an entry refers to. */
export interface Reachable {
  /** The name of the type of an entry that the reader may see; undefined otherwise. */
  readonly typeOf: (id: string) => string | undefined
  /** An asset as readers get it; undefined when there is none. */
  readonly asset: (id: string) => unknown
  /** The entries that a list finds which fills itself. */
  readonly listed: (listing: Listing) => readonly { readonly id: string; readonly type: string }[]
  /** How rich text is printed, and where its links lead. */
  readonly richText: RichTextForm
  readonly links: Links
}

type Printed = Record<string, unknown>

/**
 * Settles what a printed entry refers to: a reference that the reader may not follow becomes null, or drops out of a list;
 * assets are put in; rich text is printed in the form that was asked for.
 */
export function settleReferences(model: Model, owner: Fielded, values: Printed, reachable: Reachable): Printed {
  const settled: Printed = { ...values }
  for (const field of owner.fields) {
    settled[field.name] = settle(model, field, settled[field.name], reachable)
    for (const alias of field.aliases ?? []) settled[alias] = settled[field.name]
  }
  return settled
}

function settle(model: Model, field: Field, content: unknown, reachable: Reachable): unknown {
  const each = (one: (value: unknown) => unknown): unknown => {
    if (!field.many) return content === null || content === undefined ? null : (one(content) ?? null)
    return ((content ?? []) as unknown[]).map(one).filter((value) => value !== undefined && value !== null)
  }
  switch (field.kind) {
    case 'entry':
      return each((held) => {
        const { id } = held as { id: string }
        const type = reachable.typeOf(id)
        return type === undefined ? undefined : { id, type }
      })
    case 'listing':
      return content === null || content === undefined ? [] : reachable.listed(content as Listing)
    case 'asset':
      return each((held) => reachable.asset((held as { id: string }).id))
    case 'metadata':
      return each((held) => {
        const { image } = held as { image: { id: string } | null }
        return { ...(held as Printed), image: image ? (reachable.asset(image.id) ?? null) : null }
      })
    case 'richText':
      return each((held) => settleRichText(held as RichText, reachable))
    case 'group':
      return field.many
        ? each((item) => ({
            ...(item as Printed),
            values: settleReferences(model, insideGroup(field)!, (item as { values: Printed }).values, reachable),
          }))
        : settleReferences(model, insideGroup(field)!, (content ?? {}) as Printed, reachable)
    case 'block':
      return each((item) => {
        const block = ownersInside(model, field).find((one) => one.name === (item as { block: string }).block)
        return block
          ? {
              ...(item as Printed),
              values: settleReferences(model, block, (item as { values: Printed }).values, reachable),
            }
          : item
      })
    default:
      return content
  }
}

/** Rich text for a reader: without what leads nowhere, in the form asked for. */
export function settleRichText(
  document: RichText,
  { typeOf, asset, richText, links }: Omit<Reachable, 'listed'>,
): unknown {
  const alive = withoutReferences(document, (held) =>
    'entry' in held ? typeOf(held.entry) === undefined : asset(held.asset) === undefined,
  )
  return printRichText(alive, richText, links)
}

/** The lists that fill themselves in printed values, at any depth. */
export function listingsIn(model: Model, owner: Fielded, values: Printed): Listing[] {
  return owner.fields.flatMap((field): Listing[] => {
    const content = values[field.name]
    if (content === null || content === undefined) return []
    if (field.kind === 'listing') return [content as Listing]
    if (field.kind !== 'group' && field.kind !== 'block') return []
    if (field.kind === 'group' && !field.many) return listingsIn(model, insideGroup(field)!, content as Printed)
    return [content].flat().flatMap((item) => {
      const { block, values: inside } = item as { block?: string; values: Printed }
      const within = ownersInside(model, field).find((one) => block === undefined || one.name === block)
      return within ? listingsIn(model, within, inside) : []
    })
  })
}

const withListings = new WeakMap<Model, Map<string, boolean>>()

/** Whether entries of an owner may hold lists that fill themselves, at any depth. */
export const holdsListings = (model: Model, owner: Fielded): boolean => holds(withListings, model, owner, 'listing')

const withRichText = new WeakMap<Model, Map<string, boolean>>()

/** Whether entries of an owner may hold rich text, at any depth. */
export const holdsRichText = (model: Model, owner: Fielded): boolean => holds(withRichText, model, owner, 'richText')

function holds(
  known: WeakMap<Model, Map<string, boolean>>,
  model: Model,
  owner: Fielded,
  kind: Field['kind'],
): boolean {
  const answers = known.get(model) ?? new Map<string, boolean>()
  known.set(model, answers)
  const answer = answers.get(owner.id) ?? anyField(model, owner, (field) => field.kind === kind)
  answers.set(owner.id, answer)
  return answer
}
