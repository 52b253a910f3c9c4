import { identityOf, sameContent, type Item } from '../documents/document.js'
import type { Edit } from './edits.js'

/** The part of edits that decides whether they conflict: as stored, or by names. */
interface Placed {
  readonly do: Edit['do']
  readonly at: readonly string[]
  readonly locale?: string | undefined
  readonly item?: unknown
}

/** Two edits of the same place, made without knowing of each other. */
export interface Conflict {
  readonly ours: Edit
  readonly theirs: Edit
}

/**
 * The conflicts between edits that were made on an older version and those that were saved since. Edits of different places never
 * conflict: somebody moves a block while another writes inside it, and both survive. Equal changes do not conflict.
 */
export function conflictsBetween(ours: readonly Edit[], theirs: readonly Edit[]): Conflict[] {
  const conflicts: Conflict[] = []
  for (const mine of ours) {
    const other = theirs.find((their) => collide(mine, their))
    if (other) conflicts.push({ ours: mine, theirs: other })
  }
  return conflicts
}

/** Whether two edits change the same place differently. */
export function collide(a: Placed, b: Placed): boolean {
  if (a.locale !== undefined && b.locale !== undefined && a.locale !== b.locale) return false
  if (isSameEdit(a, b)) return false
  const [stepsOfA, stepsOfB] = [stepsOf(a), stepsOf(b)]
  const [outer, outerSteps, innerSteps] =
    stepsOfA.length <= stepsOfB.length ? [a, stepsOfA, stepsOfB] : [b, stepsOfB, stepsOfA]
  if (!outerSteps.every((step, index) => innerSteps[index] === step)) return false
  if (outerSteps.length < innerSteps.length) {
    // One place contains the other: only replacing or removing the outer one as a whole conflicts with the inner one.
    return outer.do === 'set' || outer.do === 'clear' || outer.do === 'remove'
  }
  // The same place. Two insertions do not conflict; moving an item and changing its content are different places.
  if (a.do === 'insert' && b.do === 'insert') return identityOf(a.item as Item) === identityOf(b.item as Item)
  const doing = new Set([a.do, b.do])
  if (doing.has('move') && doing.has('set')) return false
  return true
}

/** A place as single steps: into a group is one too. */
const stepsOf = (edit: Placed): string[] => edit.at.flatMap((step) => step.split('.'))

/** Whether two edits have the same result. */
export function isSameEdit(a: Placed, b: Placed): boolean {
  return a.do === b.do && a.locale === b.locale && sameContent({ ...a, at: [...a.at] }, { ...b, at: [...b.at] })
}
