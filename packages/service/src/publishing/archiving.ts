import { draftChange } from '../workingCopies/changeSeen.js'
import { WisteriaError } from '@wisteria/core'
import {
  publicHistoryOf,
  setArchived,
  writeDraftRows,
  type Act,
  type Transaction,
  type WorkingCopy,
} from '@wisteria/store'
import { onEntry, requireMay } from '../kernel/permission.js'
import { withdraw } from './publishing.js'
import type { Author } from '../workingCopies/saving.js'

/** Archives an entry: it is withdrawn first, and cannot be changed from then on. */
export async function archive(
  transaction: Transaction,
  act: Act,
  author: Author,
  copy: WorkingCopy,
  withChildren: boolean,
): Promise<WorkingCopy> {
  if (copy.type.cardinality === 'one')
    throw new WisteriaError('conflict', `${copy.type.label} has exactly one entry, which cannot be archived.`)
  requireMay(author.caller, 'entry.publish', { ...onEntry(copy), shared: true })
  if (copy.archivedAt !== null) throw new WisteriaError('conflict', 'The entry is archived already.')
  const { layers } = await publicHistoryOf(transaction, act.site, copy.type, copy.id)
  const down = layers ? await withdraw(transaction, act, author, copy, undefined, withChildren) : copy
  return changeArchived(transaction, act, down, act.at)
}

/** Reactivates an archived entry. It does not become public. */
export async function reactivate(
  transaction: Transaction,
  act: Act,
  author: Author,
  copy: WorkingCopy,
): Promise<WorkingCopy> {
  requireMay(author.caller, 'entry.publish', { ...onEntry(copy), shared: true })
  if (copy.archivedAt === null) throw new WisteriaError('conflict', 'The entry is not archived.')
  return changeArchived(transaction, act, copy, null)
}

async function changeArchived(
  transaction: Transaction,
  act: Act,
  copy: WorkingCopy,
  at: string | null,
): Promise<WorkingCopy> {
  const { site } = act
  const updated = await setArchived(transaction, copy, at)
  const history = await publicHistoryOf(transaction, site, updated.type, updated.id)
  await writeDraftRows(transaction, site, updated.type, updated, updated.document, history, act.at)
  const { document } = copy
  await act.tell(
    at === null ? 'entry.reactivated' : 'entry.archived',
    { entry: { id: copy.id, type: copy.type.name }, version: updated.version },
    undefined,
    draftChange(site, copy, { document, history: { ...history, archived: at === null } }, { document, history }),
  )
  return updated
}
