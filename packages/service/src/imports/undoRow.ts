import { WisteriaError } from '@wisteria/core'
import { Act, publicHistoryOf, siteWithId, type EntryImportRow, type Site, type Transaction } from '@wisteria/store'
import { moveToBin } from '../entries/bin.js'
import { undoOnEntry } from '../entries/entryActions.js'
import type { Kernel } from '../kernel/kernel.js'
import { withdraw } from '../publishing/publishing.js'
import { requireEntry } from '../workingCopies/entryView.js'
import type { Author } from '../workingCopies/saving.js'
import type { RowUndo } from './importRow.js'

/**
 * Undoes what a row did, unless somebody has changed its entry since.
 * @throws WisteriaError `conflict` in a sentence.
 */
export async function undoRow(
  kernel: Kernel,
  transaction: Transaction,
  siteId: string,
  author: Author,
  row: EntryImportRow,
): Promise<void> {
  const site = await siteWithId(transaction, siteId)
  const { edit, isNew, references } = JSON.parse(row.before!) as RowUndo
  if (isNew) await removeNew(kernel, transaction, site, author, row.entry!, row.after!)
  if (edit) await undoOnEntry(kernel, transaction, site, author, row.entry!, { before: edit, after: row.after! })
  for (const { id, version } of references) await removeNew(kernel, transaction, site, author, id, version)
}

/** Deletes an entry that an import created, if it is at the version that the import left it at. */
async function removeNew(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  id: string,
  version: number,
): Promise<void> {
  const copy = await requireEntry(transaction, site, id)
  if (copy.version !== version) throw new WisteriaError('conflict', 'Somebody changed it since. It stays as it is.')
  const act = new Act(transaction, site, author.actor, kernel.environment)
  const { layers } = await publicHistoryOf(transaction, site, copy.type, id)
  const withdrawn = layers ? await withdraw(transaction, act, author, copy, undefined, false) : copy
  await moveToBin(transaction, act, author, withdrawn)
}
