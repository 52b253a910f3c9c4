import { editsTowards, WisteriaError, type FieldPlace, type Point } from '@wisteria/core'
import { sealNewest, type Site, type Transaction, type WorkingCopy } from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import { documentAt, originsAt } from './versionRef.js'
import { saveEdits, type Author } from '../workingCopies/saving.js'

/**
 * Saves a working copy as it was in another state, as a whole or at some places. The present state becomes a revision of its own,
 * also within one sitting, so that this can be undone too.
 * @returns the entry, and the number of edits.
 */
export async function restoreTo(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  copy: WorkingCopy,
  from: Exclude<Point, 'working'>,
  places?: readonly FieldPlace[],
): Promise<{ copy: WorkingCopy; changed: number }> {
  const target = await documentAt(transaction, site, copy, from)
  if (from === 'public' && Object.keys(target).length === 0) throw nothingPublic()
  // A restored translation is as fresh as it was then, and not made from the source as it is.
  const origins = await originsAt(transaction, site, copy, from)
  const edits = editsTowards(site.model, copy.type, copy.document, target, places)
  const standing = edits.length > 0 ? await sealNewest(transaction, copy, kernel.at) : copy
  const { copy: saved } = await saveEdits(kernel, transaction, site, author, standing, copy.version, edits, origins)
  return { copy: saved, changed: edits.length }
}

/** Saves a working copy as it was in one of its revisions. */
export async function restoreRevision(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  copy: WorkingCopy,
  number: number,
): Promise<WorkingCopy> {
  return (await restoreTo(kernel, transaction, site, author, copy, number)).copy
}

const nothingPublic = (): WisteriaError =>
  new WisteriaError('conflict', 'The entry is not public, so there is nothing to restore from.')
