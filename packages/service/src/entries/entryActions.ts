import { decide, sameContent, WisteriaError, type BulkAction, type NamedEdit, type Permission } from '@wisteria/core'
import {
  Act,
  publicHistoryOf,
  sealNewest,
  siteWithId,
  type Site,
  type Transaction,
  type WorkingCopy,
} from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import { archive, reactivate } from '../publishing/archiving.js'
import { moveToBin, restoreFromBin } from './bin.js'
import { duplicateEntry } from '../workingCopies/creating.js'
import { publishIfImmediate } from '../publishing/immediate.js'
import { requireEntry } from '../workingCopies/entryView.js'
import { publish, restorePublic, withdraw, type LayerRevisions } from '../publishing/publishing.js'
import { restoreRevision } from './restoring.js'
import { saveEdits, type Author } from '../workingCopies/saving.js'

/** An action on each entry of a bulk job. */
export interface BulkOrder {
  readonly does: BulkAction
  readonly locales?: readonly string[] | undefined
  readonly edits?: readonly NamedEdit[] | undefined
}

/** The data to undo an action on an entry. */
export interface Before {
  readonly does: BulkAction
  /** The layers that were public. */
  readonly layers?: LayerRevisions
  /** The revision that its working copy was. */
  readonly revision?: number
  /** The entry that was made of it. */
  readonly made?: string
}

export interface AppliedAction {
  readonly before: Before
  /** The version that the entry was left at (of a duplicate: that of the copy). */
  readonly after: number
}

/** The permission for each action; checked again for every entry. */
export const permissionOfAction: Readonly<Record<BulkAction, Permission>> = {
  publish: 'entry.publish',
  withdraw: 'entry.publish',
  archive: 'entry.publish',
  reactivate: 'entry.publish',
  delete: 'entry.write',
  duplicate: 'entry.write',
  edit: 'entry.write',
}

/**
 * Does one action on one entry, in a transaction of its own or one that is rolled back to its savepoint.
 * @param together all entries of the same action.
 * @throws WisteriaError where it cannot be done.
 */
export async function applyToEntry(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  order: BulkOrder,
  id: string,
  together: ReadonlySet<string>,
  action?: string,
): Promise<AppliedAction> {
  const may = decide(author.caller, permissionOfAction[order.does])
  if (!may.allowed) throw new WisteriaError('forbidden', may.because!)
  const copy = await requireEntry(transaction, site, id)
  const act = new Act(transaction, site, author.actor, kernel.environment, action)
  const { does } = order
  const layers = async (): Promise<LayerRevisions> =>
    (await publicHistoryOf(transaction, site, copy.type, copy.id)).revisions
  switch (does) {
    case 'publish': {
      const before = { does, layers: await layers() }
      return { before, after: (await publish(transaction, act, author, copy, order.locales)).version }
    }
    case 'withdraw': {
      const before = { does, layers: await layers() }
      return { before, after: (await withdraw(transaction, act, author, copy, order.locales, false)).version }
    }
    case 'archive': {
      const before = { does, layers: await layers() }
      return { before, after: (await archive(transaction, act, author, copy, false)).version }
    }
    case 'reactivate':
      return { before: { does }, after: (await reactivate(transaction, act, author, copy)).version }
    case 'delete':
      await moveToBin(transaction, act, author, copy, together)
      return { before: { does }, after: copy.version + 1 }
    case 'duplicate': {
      const duplicate = await duplicateEntry(kernel, transaction, site, author, copy)
      return { before: { does, made: duplicate.id }, after: duplicate.version }
    }
    case 'edit': {
      const before = { does, layers: await layers(), revision: copy.revision }
      const standing = await sealNewest(transaction, copy, act.at)
      const { copy: saved } = await saveEdits(
        kernel,
        transaction,
        site,
        author,
        standing,
        copy.version,
        order.edits ?? [],
      )
      if (sameContent(saved.document, copy.document))
        throw new WisteriaError('conflict', 'It has these values already.')
      return { before, after: (await publishIfImmediate(kernel, transaction, site, author, saved)).version }
    }
  }
}

/**
 * Undoes an action on one entry, unless it has changed since.
 * @throws WisteriaError `conflict` when it has changed, or the earlier state is no longer possible.
 */
export async function undoOnEntry(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  id: string,
  { before, after }: AppliedAction,
): Promise<AppliedAction> {
  const { does } = before
  const may = decide(author.caller, permissionOfAction[does])
  if (!may.allowed) throw new WisteriaError('forbidden', may.because!)
  const act = async () => new Act(transaction, await siteWithId(transaction, site.id), author.actor, kernel.environment)
  if (does === 'delete') {
    const back = await restoreFromBin(transaction, await act(), author, id)
    if (back.version !== after + 1) throw changedSince()
    return { before: { does: 'delete' }, after: back.version }
  }
  const copy = await requireEntry(transaction, site, before.made ?? id)
  if (copy.version !== after) throw changedSince()
  switch (does) {
    case 'duplicate':
      await moveToBin(transaction, await act(), author, copy)
      return { before, after: copy.version + 1 }
    case 'reactivate':
      return { before, after: (await archive(transaction, await act(), author, copy, false)).version }
    case 'archive': {
      const out = await reactivate(transaction, await act(), author, copy)
      return { before, after: (await restorePublic(transaction, await act(), author, out, before.layers!)).version }
    }
    case 'edit': {
      const saved = await restoreRevision(kernel, transaction, site, author, copy, before.revision!)
      return { before, after: (await backInPublic(saved)).version }
    }
    case 'publish':
    case 'withdraw':
      return { before, after: (await backInPublic(copy)).version }
  }
  async function backInPublic(of: WorkingCopy): Promise<WorkingCopy> {
    return restorePublic(transaction, await act(), author, of, before.layers!)
  }
}

const changedSince = (): WisteriaError => new WisteriaError('conflict', 'Somebody changed it since. It stays as it is.')
