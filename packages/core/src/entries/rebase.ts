import type { FieldOwner, Model } from '../model/model.js'
import { namedEditsBetween } from './difference.js'
import { identityOf, type Item } from '../documents/document.js'
import { applyEdit, listAt, type Edit, type NamedEdit } from './edits.js'
import { collide, isSameEdit } from './merge.js'
import type { NamedValues } from '../documents/names.js'
import { contentAt } from './places.js'

/** A place that two changed on the same version, each in their own way. */
export interface RebaseConflict {
  /** The outermost of the places of some edits: field names and ids, in turn. */
  readonly at: readonly string[]
  /** The locale of the place; undefined where all locales share it. */
  readonly locale: string | undefined
  readonly ours: readonly NamedEdit[]
  readonly theirs: readonly NamedEdit[]
}

export interface Rebased {
  /** The newest values with our edits on top. Where a conflict is open, ours are used. */
  readonly values: NamedValues
  readonly conflicts: readonly RebaseConflict[]
  /** Their changes at places that we did not change. */
  readonly elsewhere: readonly NamedEdit[]
}

/**
 * Rebases edits that were made on `base` onto newer values. Changes of different places all survive; a place that both changed is a
 * conflict, decided by `choose`. The three are values by names, of the same entry.
 */
export function rebase(
  model: Model,
  type: FieldOwner,
  base: NamedValues,
  ours: NamedValues,
  theirs: NamedValues,
  choose: (conflict: RebaseConflict) => 'ours' | 'theirs' = () => 'ours',
  /** Whether an edit of ours that meets none of theirs is made. */
  makes: (edit: NamedEdit) => boolean = () => true,
): Rebased {
  const start = withSharedInsertions(model, type, base, ours, theirs)
  const our = namedEditsBetween(model, type, start, ours)
  const their = namedEditsBetween(model, type, start, theirs)
  const conflicts = meetings(our, their).map(conflictOf)
  let values = theirs
  const apply = (edit: NamedEdit): void => {
    values = applyEdit(values, placeable(edit, values, ours) as Edit)
  }
  const met = new Set(conflicts.flatMap((conflict) => [...conflict.ours, ...conflict.theirs]))
  const skipped = new Set<NamedEdit>(
    our.filter((edit) => their.some((other) => isSameEdit(edit, other)) || (!met.has(edit) && !makes(edit))),
  )
  for (const conflict of conflicts) {
    if (choose(conflict) === 'theirs') for (const edit of conflict.ours) skipped.add(edit)
    else for (const edit of conflict.theirs) values = withPlace(values, conflict, edit, start)
  }
  for (const edit of our) if (!skipped.has(edit)) apply(edit)
  return {
    values,
    conflicts,
    elsewhere: their.filter((edit) => !met.has(edit) && !our.some((mine) => isSameEdit(edit, mine))),
  }
}

/**
 * The base, with items that both inserted: an id is made once, so these are one item that was inserted before, by a save whose
 * answer was lost.
 */
function withSharedInsertions(
  model: Model,
  type: FieldOwner,
  base: NamedValues,
  ours: NamedValues,
  theirs: NamedValues,
): NamedValues {
  const inserted = namedEditsBetween(model, type, base, ours).filter((edit) => edit.do === 'insert')
  if (inserted.length === 0) return base
  const identities = new Set(inserted.map((edit) => identityOf(edit.item as Item)))
  return namedEditsBetween(model, type, base, theirs)
    .filter((edit) => edit.do === 'insert' && identities.has(identityOf(edit.item as Item)))
    .reduce((values, edit) => applyEdit(values, edit as Edit), base)
}

/** Conflicting edits, in groups: an edit of a whole block conflicts with all edits inside it, and they are one question. */
function meetings(ours: readonly NamedEdit[], theirs: readonly NamedEdit[]): [NamedEdit[], NamedEdit[]][] {
  const groups: [Set<NamedEdit>, Set<NamedEdit>][] = []
  for (const edit of ours) {
    const others = theirs.filter((other) => collide(edit, other))
    if (others.length === 0) continue
    const joined = groups.filter(([, met]) => others.some((other) => met.has(other)))
    const group: [Set<NamedEdit>, Set<NamedEdit>] = [
      new Set([...joined.flatMap(([mine]) => [...mine]), edit]),
      new Set([...joined.flatMap(([, met]) => [...met]), ...others]),
    ]
    for (const group of joined) groups.splice(groups.indexOf(group), 1)
    groups.push(group)
  }
  return groups.map(([mine, met]) => [[...mine], [...met]])
}

function conflictOf([ours, theirs]: [NamedEdit[], NamedEdit[]]): RebaseConflict {
  const all = [...ours, ...theirs]
  const outermost = all.reduce((outer, other) => (depthOf(other) < depthOf(outer) ? other : outer))
  const insertion = outermost.do === 'insert' ? [identityOf(outermost.item as Item)] : []
  return { at: [...outermost.at, ...insertion], locale: outermost.locale, ours, theirs }
}

const depthOf = (edit: NamedEdit): number => edit.at.reduce((depth, step) => depth + step.split('.').length, 0)

/** Restores an item that their edit removed as a whole, so that our edits inside it have a place. */
function withPlace(values: NamedValues, conflict: RebaseConflict, their: NamedEdit, base: NamedValues): NamedValues {
  const where = their.locale === undefined ? {} : { locale: their.locale }
  if (their.do === 'remove') {
    const list = their.at.slice(0, -1)
    const identity = their.at.at(-1)!
    const before = listAt(base, list, their.locale)
    const index = before.findIndex((item) => identityOf(item) === identity)
    const item = before[index]
    const now = new Set(listAt(values, list, their.locale).map(identityOf))
    if (!item || now.has(identity)) return values
    const after =
      before
        .slice(0, index)
        .map(identityOf)
        .findLast((anchor) => now.has(anchor)) ?? null
    return applyEdit(values, { do: 'insert', ...where, at: list, item, after })
  }
  const isOutside = conflict.ours.some((edit) => depthOf(edit) > depthOf(their) || edit.do === 'insert')
  if ((their.do !== 'set' && their.do !== 'clear') || !isOutside) return values
  const before = contentAt(base, their.at, their.locale)
  return applyEdit(
    values,
    before === undefined
      ? { do: 'clear', ...where, at: their.at }
      : { do: 'set', ...where, at: their.at, value: before },
  )
}

/** The edit with an `after` that exists: the nearest one before it in our own order. */
function placeable(edit: NamedEdit, values: NamedValues, ours: NamedValues): NamedEdit {
  if ((edit.do !== 'insert' && edit.do !== 'move') || edit.after === null || edit.after === undefined) return edit
  const list = edit.do === 'insert' ? edit.at : edit.at.slice(0, -1)
  const now = new Set(listAt(values, list, edit.locale).map(identityOf))
  if (now.has(edit.after)) return edit
  const order = listAt(ours, list, edit.locale).map(identityOf)
  const after = order.slice(0, order.indexOf(edit.after)).findLast((identity) => now.has(identity)) ?? null
  return { ...edit, after }
}
