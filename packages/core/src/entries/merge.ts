import { identityOf, sameContent, type Item } from '../documents/document.js'
import type { Edit } from './edits.js'

/** What tells whether edits meet: as stored, or by names. */
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
 * The conflicts between edits that were made on an older version and those that were saved since. Edits of different
 * places never conflict: somebody moves a block while another writes inside it, and both survive. Where two made the
 * same change, there is nothing to ask.
 */
export function conflictsBetween(ours: readonly Edit[], theirs: readonly Edit[]): Conflict[] {
  const conflicts: Conflict[] = []
  for (const mine of ours) {
    const other = theirs.find((their) => collide(mine, their))
    if (other) conflicts.push({ ours: mine, theirs: other })
  }
  return conflicts
}

/** Whether two edits write at the same place, and not the same thing. */
export function collide(a: Placed, b: Placed): boolean {
  if (a.locale !== undefined && b.locale !== undefined && a.locale !== b.locale) return false
  if (isSameEdit(a, b)) return false
  const [stepsOfA, stepsOfB] = [stepsOf(a), stepsOf(b)]
  const [outer, outerSteps, innerSteps] =
    stepsOfA.length <= stepsOfB.length ? [a, stepsOfA, stepsOfB] : [b, stepsOfB, stepsOfA]
  if (!outerSteps.every((step, index) => innerSteps[index] === step)) return false
  if (outerSteps.length < innerSteps.length) {
    // One place holds the other: only what replaces or removes the outer one as a whole touches the inner one.
    return outer.do === 'set' || outer.do === 'clear' || outer.do === 'remove'
  }
  // The same place. Two insertions both find room; an item's place and its content are different things.
  if (a.do === 'insert' && b.do === 'insert') return identityOf(a.item as Item) === identityOf(b.item as Item)
  const doing = new Set([a.do, b.do])
  if (doing.has('move') && doing.has('set')) return false
  return true
}

/** A place as single steps: into a group is one too. */
const stepsOf = (edit: Placed): string[] => edit.at.flatMap((step) => step.split('.'))

/** Whether two edits come to the same. */
export function isSameEdit(a: Placed, b: Placed): boolean {
  return a.do === b.do && a.locale === b.locale && sameContent({ ...a, at: [...a.at] }, { ...b, at: [...b.at] })
}
