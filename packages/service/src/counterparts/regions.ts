import { unchanged } from '../workingCopies/changeSeen.js'
import { regionOf, WisteriaError } from '@wisteria/core'
import {
  Act,
  becomeRoot,
  counterpartsIn,
  descendantsOf,
  familiesOf,
  publicHistoryOf,
  raiseVersion,
  sealNewest,
  setRegion,
  wasEverPublic,
  writeDraftRows,
  type Site,
  type Transaction,
  type WorkingCopy,
} from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import { onEntry, requireMay } from '../kernel/permission.js'
import { requireKnownRegion } from '../read/listQuery.js'
import { requireEntry } from '../workingCopies/entryView.js'
import { requireRegional } from '../workingCopies/regions.js'
import { refreshDraft, requireInUse, type Author } from '../workingCopies/saving.js'

/** Where an entry belongs. */
export interface RegionOrder {
  readonly region: string
  /** The entry of another region that it is the counterpart of: null for none, left out to keep what it is. */
  readonly counterpartOf?: string | null | undefined
}

/**
 * Puts an entry that was never public into another region, or says which entry it is the counterpart of. From then on the changes of
 * that one can be taken.
 * @throws WisteriaError `conflict` where that is not possible.
 */
export async function placeInRegion(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  copy: WorkingCopy,
  { region, counterpartOf }: RegionOrder,
): Promise<WorkingCopy> {
  const { type } = copy
  requireRegional(type)
  requireKnownRegion(site, region)
  requireInUse(copy)
  for (const name of [copy.region, region])
    requireMay(author.caller, 'entry.write', { ...onEntry({ type, region: name }), shared: true })
  const moves = regionOf(type, copy.region) !== region
  const others = copy.counterpartRoot === null ? [] : await familiesOf(transaction, site, [copy.counterpartRoot])
  if (moves && (await wasEverPublic(transaction, copy.id)))
    throw new WisteriaError(
      'conflict',
      'The entry has been public, and its address would change. Make a counterpart in the other region instead.',
    )
  const copies = others.filter(({ of }) => of === copy.id)
  if (copies.length > 0 && (moves || typeof counterpartOf === 'string'))
    throw new WisteriaError('conflict', 'Other entries are counterparts of this one. Change those instead.')
  if (moves && others.some((other) => other.id !== copy.id && other.region === region))
    throw new WisteriaError('conflict', `It has a counterpart in ${region} already.`)
  const source = await sourceFor(kernel, transaction, site, copy, { region, counterpartOf })
  const act = new Act(transaction, site, author.actor, kernel.environment)
  const raised = await raiseVersion(transaction, await setRegion(transaction, copy, region, source))
  const history = await publicHistoryOf(transaction, site, type, copy.id)
  const standing = await writeDraftRows(transaction, site, type, raised, raised.document, history, act.at)
  if (standing.moved)
    for (const child of await descendantsOf(transaction, site, 'draft', copy.id))
      await refreshDraft(transaction, site, child.id, act.at)
  await act.tell(
    'entry.saved',
    { entry: { id: copy.id, type: type.name }, version: raised.version, fields: [], locales: [] },
    undefined,
    unchanged(site, raised, history),
  )
  return { ...raised, standing }
}

/** What an entry is the counterpart of, once it is placed. */
async function sourceFor(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  copy: WorkingCopy,
  { region, counterpartOf }: RegionOrder,
) {
  if (counterpartOf === null) return undefined
  if (counterpartOf === undefined || counterpartOf === copy.counterpart?.of)
    return copy.counterpart && copy.counterpartRoot !== null
      ? { ...copy.counterpart, root: copy.counterpartRoot }
      : undefined
  const source = await requireEntry(transaction, site, counterpartOf)
  if (source.id === copy.id || source.type.id !== copy.type.id)
    throw new WisteriaError('conflict', `It must be the counterpart of another entry of ${copy.type.name}.`)
  if (regionOf(source.type, source.region) === region)
    throw new WisteriaError('conflict', `“${source.id}” is in ${region} too: a counterpart is in another region.`)
  const there = (await counterpartsIn(transaction, site, [source.id], region)).get(source.id)
  if (there !== undefined && there !== copy.id)
    throw new WisteriaError('conflict', `Its source has a counterpart in ${region} already: \`${there}\`.`)
  const root = await becomeRoot(transaction, source)
  // From here on changes are compared with the source as it is now.
  await sealNewest(transaction, source, kernel.at)
  return { of: source.id, root, revision: source.revision }
}
