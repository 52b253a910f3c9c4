import { identityOf, sameContent, type Document, type Item } from '../documents/document.js'
import { printValues, type NamedValues } from '../documents/names.js'
import type { FieldOwner, Model } from '../model/model.js'
import { compareDocuments, type Difference } from './compare.js'
import { isInside } from './difference.js'
import type { NamedEdit } from './edits.js'
import { rebase, type RebaseConflict } from './rebase.js'

/** A change of a source since a copy of it was made or last took changes. */
export interface SourceChange extends Difference {
  /** What the copy itself has changed there since; nothing where the change meets nothing. */
  readonly own: readonly Difference[]
}

/** The three states of an entry that was copied: the source as it was taken, the source now, and the copy. */
export interface Copied {
  readonly base: Document
  readonly source: Document
  readonly copy: Document
}

/** A change, as choices name it. */
export interface ChangeKey {
  readonly how: Difference['how']
  readonly at: readonly string[]
  readonly locale: string | null
}

/** Whether two name the same change. */
export const isSameChange = (a: ChangeKey, b: ChangeKey): boolean =>
  a.how === b.how && a.locale === b.locale && a.at.length === b.at.length && a.at.every((step, i) => step === b.at[i])

/**
 * What changed in the source of a copy, in the order of the fields. What the copy has already is left out.
 * @param locales the tags to compare, in their order.
 */
export function changesToTake(
  model: Model,
  owner: FieldOwner,
  { base, source, copy }: Copied,
  locales: readonly string[],
): SourceChange[] {
  const { theirs, own, has } = differencesOf(model, owner, { base, source, copy }, locales)
  const { conflicts } = merged(model, owner, { base, source, copy }, () => true)
  return theirs
    .filter((change) => !has(change))
    .map((change) => {
      const met = conflicts.filter(({ ours }) => ours.some((edit) => belongsTo(edit, change)))
      const places = met.flatMap((conflict) => conflict.theirs)
      return { ...change, own: own.filter((mine) => places.some((edit) => belongsTo(edit, mine))) }
    })
}

/** The values of a copy with those changes of its source that are taken. @param takes decides about each change. */
export function takeChanges(
  model: Model,
  owner: FieldOwner,
  copied: Copied,
  locales: readonly string[],
  takes: (change: SourceChange) => boolean,
): NamedValues {
  const changes = changesToTake(model, owner, copied, locales)
  // A move that the copy has made already is not made again: between its own items the place would be another.
  const { theirs, has } = differencesOf(model, owner, copied, locales)
  const moved = theirs.filter((change) => change.how === 'moved' && has(change))
  const left = [...changes.filter((change) => !takes(change)), ...moved]
  return merged(model, owner, copied, (edit) => !left.some((change) => belongsTo(edit, change))).values
}

/** What the source and the copy have changed since, and which changes of the source the copy has too. */
function differencesOf(
  model: Model,
  owner: FieldOwner,
  { base, source, copy }: Copied,
  locales: readonly string[],
): { theirs: Difference[]; own: Difference[]; has: (change: Difference) => boolean } {
  const theirs = compareDocuments(model, owner, base, source, locales)
  const own = compareDocuments(model, owner, base, copy, locales)
  const outOfOrder = compareDocuments(model, owner, copy, source, locales).filter(({ how }) => how === 'moved')
  const has = (change: Difference): boolean =>
    change.how === 'moved'
      ? !outOfOrder.some((other) => isSameList(other, change))
      : own.some((mine) => isSameChange(mine, change) && sameContent(mine.after, change.after) && mine.to === change.to)
  return { theirs, own, has }
}

/** The copy with the edits of its source on top, but for those that are not taken. */
function merged(model: Model, owner: FieldOwner, copied: Copied, takes: (edit: NamedEdit) => boolean) {
  const [base, source, copy] = [copied.base, copied.source, copied.copy].map((document) =>
    printValues(model, owner, document),
  ) as [NamedValues, NamedValues, NamedValues]
  const choose = ({ ours }: RebaseConflict) => (ours.some(takes) ? 'ours' : 'theirs')
  return rebase(model, owner, base, source, copy, choose, takes)
}

/** Whether an edit is part of a difference, as a comparison of the same two states reports it. */
function belongsTo(edit: NamedEdit, { how, at, locale }: Difference): boolean {
  if (locale !== null && edit.locale !== undefined && edit.locale !== locale) return false
  const identity = edit.do === 'insert' ? identityOf(edit.item as Item) : undefined
  const place = identity === undefined ? edit.at : [...edit.at, identity]
  if (how === 'moved' || edit.do === 'move') return how === 'moved' && edit.do === 'move' && isSamePlace(place, at)
  // A list that is cleared as a whole is reported item by item.
  const isAround = place.length < at.length && place.every((step, index) => step === at[index])
  return isInside({ ...edit, at: place }, { at }) || isAround
}

const isSamePlace = (a: readonly string[], b: readonly string[]): boolean =>
  a.length === b.length && a.every((step, index) => step === b[index])

/** Whether two items are in the same list. */
const isSameList = (a: Difference, b: Difference): boolean =>
  a.locale === b.locale && isSamePlace(a.at.slice(0, -1), b.at.slice(0, -1))
