import { unchanged } from '../workingCopies/changeSeen.js'
import { afterMinorChange, outdatedByChange, withoutHidden, type OutdatedByChange } from '@wisteria/core'
import {
  publicHistoryOf,
  storeOrigins,
  type Act,
  type KnownHistory,
  type Site,
  type Transaction,
  type WorkingCopy,
} from '@wisteria/store'
import { onEntry, requireMay } from '../kernel/permission.js'
import { originsOf, type Author } from '../workingCopies/saving.js'
import { readersSee } from './publishProblems.js'

/** The translations that are outdated because the working copy's source differs from what is public. */
export function outdatedBySource(site: Site, copy: WorkingCopy, history: KnownHistory): OutdatedByChange {
  if (!history.layers) return {}
  const now = withoutHidden(site.model, copy.type, copy.document, site.settings)
  const before = readersSee(site, copy.type, history.layers)
  return outdatedByChange(site.model, copy.type, before, now, originsOf(site, copy, history), site.settings)
}

/** Says that the changes of the source, which are about to be published, do not matter to translations. */
export async function declareMinor(
  transaction: Transaction,
  act: Act,
  author: Author,
  copy: WorkingCopy,
): Promise<WorkingCopy> {
  const { site } = act
  const history = await publicHistoryOf(transaction, site, copy.type, copy.id)
  const outdated = outdatedBySource(site, copy, history)
  const locales = Object.keys(outdated)
  if (locales.length === 0) return copy
  requireMay(author.caller, 'entry.translate', { locales, ...onEntry(copy) })
  const origins = afterMinorChange(outdated, originsOf(site, copy, history), copy.revision, site.settings)
  const confirmed = await storeOrigins(transaction, copy, origins)
  await act.tell(
    'translation.confirmed',
    { entry: { id: copy.id, type: copy.type.name }, version: copy.version, locales },
    undefined,
    unchanged(site, copy, history),
  )
  return confirmed
}
