import {
  changesToTake,
  compareDocuments,
  isSameChange,
  localeTags,
  mainRegion,
  printValues,
  regionOf,
  takeChanges,
  titleOf,
  WisteriaError,
  type ChangeKey,
  type Copied,
  type Side,
  type SourceChange,
  type SourceChanges,
} from '@wisteria/core'
import {
  recordTaken,
  sealNewest,
  workingCopyOf,
  type Reader,
  type Site,
  type Transaction,
  type WorkingCopy,
} from '@wisteria/store'
import { documentAt } from '../entries/versionRef.js'
import type { Kernel } from '../kernel/kernel.js'
import { onEntry, requireMay } from '../kernel/permission.js'
import { namesIn } from '../workingCopies/named.js'
import { requireInUse, saveValues, type Author } from '../workingCopies/saving.js'
import { documentInRegion } from './counterpartJob.js'

/** A counterpart with its source, both as documents of its region. */
interface Compared {
  readonly source: WorkingCopy
  /** The revision of the source that was taken last. */
  readonly revision: number
  readonly copied: Copied
}

/** @throws WisteriaError `conflict` where an entry has no source. */
async function comparedWithSource(reader: Reader, site: Site, copy: WorkingCopy): Promise<Compared> {
  const { counterpart, type } = copy
  if (!counterpart) throw new WisteriaError('conflict', 'The entry was not copied from another region.')
  const source = await workingCopyOf(reader, site, counterpart.of)
  if (!source) throw new WisteriaError('conflict', 'The entry that it was copied from was deleted.')
  const region = copy.region ?? mainRegion
  const inRegion = (document: WorkingCopy['document']) => documentInRegion(reader, site, type, document, region)
  const base = await inRegion(await documentAt(reader, site, source, counterpart.revision))
  return {
    source,
    revision: counterpart.revision,
    copied: { base, source: await inRegion(source.document), copy: copy.document },
  }
}

/** What an entry can take from the one that it was copied from. */
export async function sourceChanges(reader: Reader, site: Site, copy: WorkingCopy): Promise<SourceChanges> {
  const { source, revision, copied } = await comparedWithSource(reader, site, copy)
  const { model, settings } = site
  const tags = localeTags(settings)
  const changes = changesToTake(model, copy.type, copied, tags)
  const lost = compareDocuments(model, copy.type, copied.copy, copied.source, tags)
  return {
    source: {
      id: source.id,
      title: titleOf(source.type, source.document, [settings.defaultLocale, ...tags]),
      region: regionOf(source.type, source.region) ?? mainRegion,
      version: source.version,
    },
    revision,
    changes,
    lost,
    names: await namesIn(reader, site, [...changes, ...changes.flatMap(({ own }) => own), ...lost]),
  }
}

/** Which changes of its source an entry takes. */
export interface TakingOrder {
  /** `changes` merges what changed in the source; `everything` replaces the entry by its source. */
  readonly take: 'changes' | 'everything'
  readonly choices: readonly (ChangeKey & { readonly side: Side })[]
  /** For places that both changed, where no choice names them. */
  readonly conflicts?: Side | undefined
  /** The version of the source that was looked at. */
  readonly sourceVersion?: number | undefined
}

/**
 * Takes changes of its source over into an entry. The state before becomes a revision of its own, so that this can be undone.
 * @throws WisteriaError `conflict` with the places that both changed and nobody has decided about; `stale` when the source has changed.
 */
export async function takeFromSource(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  copy: WorkingCopy,
  order: TakingOrder,
): Promise<{ readonly copy: WorkingCopy; readonly taken: number; readonly left: number }> {
  requireMay(author.caller, 'entry.write', { ...onEntry(copy), shared: true })
  requireInUse(copy)
  const { source, copied } = await comparedWithSource(transaction, site, copy)
  if (order.sourceVersion !== undefined && order.sourceVersion !== source.version)
    throw new WisteriaError('stale', 'The source has changed since you looked at it. Look again before you decide.', {
      extra: { sourceVersion: source.version },
    })
  const { model, settings } = site
  const tags = localeTags(settings)
  const changes = changesToTake(model, copy.type, copied, tags)
  const takes = order.take === 'everything' ? () => true : sidesOf(changes, order)
  const values =
    order.take === 'everything'
      ? printValues(model, copy.type, copied.source)
      : takeChanges(model, copy.type, copied, tags, takes)
  const standing = await sealNewest(transaction, copy, kernel.at)
  const saved = await saveValues(kernel, transaction, site, author, standing, values)
  await sealNewest(transaction, source, kernel.at)
  const taken = changes.filter(takes).length
  return { copy: await recordTaken(transaction, saved, source.revision), taken, left: changes.length - taken }
}

/** Which changes are taken: those that are chosen, and those that meet nothing. */
function sidesOf(changes: readonly SourceChange[], order: TakingOrder): (change: SourceChange) => boolean {
  const unknown = order.choices.find((choice) => !changes.some((change) => isSameChange(change, choice)))
  if (unknown)
    throw new WisteriaError(
      'badRequest',
      `\`choices\`: the source has no change \`${unknown.how}\` at \`${unknown.at.join('/')}\`. Read its changes again.`,
    )
  const sideOf = (change: SourceChange): Side | undefined =>
    order.choices.find((choice) => isSameChange(change, choice))?.side ??
    (change.own.length === 0 ? 'source' : order.conflicts)
  const open = changes.filter((change) => sideOf(change) === undefined)
  if (open.length > 0)
    throw new WisteriaError(
      'conflict',
      `${open.length === 1 ? 'One place was' : `${open.length} places were`} changed here and in the source: ${open
        .slice(0, 5)
        .map(({ labels }) => labels.join(', '))
        .join('; ')}. Choose a side for each, or one for all (\`conflicts\`).`,
      { extra: { conflicts: open.map(({ how, at, locale }) => ({ how, at, locale })) } },
    )
  return (change) => sideOf(change) === 'source'
}
