import { LRUCache } from 'lru-cache'
import {
  askedFields,
  everything,
  maxFollow,
  ownersInside,
  readSelection,
  shapeOf,
  typeNamed,
  WisteriaError,
  type AskedField,
  type Field,
  type FieldOwner,
  type Model,
  type Selection,
} from '@wisteria/core'
import type { Site } from '@wisteria/store'
import { z } from 'zod'
import { wholeNumber } from './listQuery.js'

/** The parameters that select the printed fields of entries. */
export const choosingParameters = {
  pick: z.string().optional(),
  follow: wholeNumber(0, maxFollow).optional(),
}

/** The selection of a request, and the fields that it reads. */
export interface Chosen {
  /** Undefined for everything, with references as id and type. */
  readonly selection: Selection | undefined
  /** Undefined for every field of the types. */
  readonly fields: readonly AskedField[] | undefined
}

const chosenBefore = new WeakMap<Model, LRUCache<string, Chosen>>()
const maxKept = 500

/**
 * The selection of a request for entries of some types.
 * @throws WisteriaError `badSelection` with the place.
 */
export function choose(
  site: Site,
  owners: readonly FieldOwner[],
  { pick, follow }: { readonly pick?: string | undefined; readonly follow?: number | undefined },
): Chosen {
  if (pick !== undefined && follow !== undefined)
    throw new WisteriaError(
      'badRequest',
      '`follow` and `pick` do not go together: `pick` itself says how far references are followed.',
    )
  const { model } = site
  if (pick === undefined) return { selection: follow ? everything(model, follow) : undefined, fields: undefined }
  const cached = chosenBefore.get(model) ?? new LRUCache<string, Chosen>({ max: maxKept })
  chosenBefore.set(model, cached)
  const key = `${owners.map((owner) => owner.id).join(' ')} ${pick}`
  const kept = cached.get(key)
  if (kept) return kept
  const selection = readSelection(pick, model, owners)
  const planned = { selection, fields: askedFields(selection, owners, (field) => leadsTo(model, field)) }
  cached.set(key, planned)
  return planned
}

/** The owners inside a field: its group, or the types that it accepts. */
function leadsTo(model: Model, field: Field): readonly FieldOwner[] {
  const shape = shapeOf(field)
  return shape.is === 'reference'
    ? shape.to.flatMap((name) => typeNamed(model, name) ?? [])
    : ownersInside(model, field)
}
