import {
  changesBetween,
  layerOf,
  badLocale,
  layersAfter,
  localesToPublish,
  localeTags,
  sameContent,
  validate,
  WisteriaError,
  withoutHidden,
  type ContentType,
  type Document,
  type PublicHistory,
  type PublicLayers,
} from '@wisteria/core'
import type { Act } from '@wisteria/store'
import {
  childrenOf,
  endReviews,
  historyAfter,
  insertMany,
  publicHistoryOf,
  raiseVersion,
  recordPaths,
  referrerTypes,
  rewriteDescendants,
  sealNewest,
  sharedLayer,
  workingCopyOf,
  writeDraftRows,
  writePublicRows,
  type DraftStanding,
  type KnownHistory,
  type PublicChange,
  type RowsChanged,
  type Site,
  type Transaction,
  type WorkingCopy,
} from '@wisteria/store'
import { onEntry, requireMay } from '../kernel/permission.js'
import { problemsOf, readersSee } from './publishProblems.js'
import { publicChange } from '../workingCopies/changeSeen.js'
import { publicTitles } from '../workingCopies/named.js'
import { invalid, requireInUse, type Author } from '../workingCopies/saving.js'

/**
 * Publishes locales of an entry, and with them its shared layer: seals the revision, appends to `publications`, and
 * rebuilds the entry's rows, in the caller's transaction with its event.
 * @throws WisteriaError `invalid` with every problem in every locale that would be public.
 */
export async function publish(
  transaction: Transaction,
  act: Act,
  author: Author,
  copy: WorkingCopy,
  asked: readonly string[] | undefined,
): Promise<WorkingCopy> {
  const { site } = act
  requireInUse(copy)
  const history = await publicHistoryOf(transaction, site, copy.type, copy.id)
  const locales = localesToPublish(site.model, site.settings, copy.type, copy.document, history, asked)
  if (locales.length === 0) throw badLocale('There is nothing to publish: the entry has no content in any locale yet.')
  const touched = { ...onEntry(copy), locales, shared: sharedDiffers(site, copy, history) }
  requireMay(author.caller, 'entry.publish', touched)
  const after = layersAfter(copy.document, locales, history.layers)
  const problems = await problemsOf(transaction, site, copy, after)
  if (problems.length > 0) throw invalid(problems)
  const before = history.layers ? readersSee(site, copy.type, history.layers) : {}
  const fields = [
    ...new Set(
      changesBetween(site.model, copy.type, before, readersSee(site, copy.type, after), localeTags(site.settings)).map(
        (change) => change.field,
      ),
    ),
  ]
  await sealNewest(transaction, copy, act.at)
  const layers = Object.fromEntries([sharedLayer, ...locales].map((layer) => [layer, copy.revision]))
  await append(transaction, act, copy, layers)
  await endReviews(transaction, copy.id, locales)
  const raised = await raiseVersion(transaction, copy)
  const now = historyAfter(history, layers, after)
  const change = await takeEffect(transaction, act, raised, now)
  await act.tell(
    'entry.published',
    { entry: { id: copy.id, type: copy.type.name }, version: raised.version, locales, fields, paths: change.paths },
    change.public,
    publicChange(site, copy, history, now),
  )
  return { ...raised, standing: change.standing }
}

/** Whether shared values of the working copy are not public as they are: publishing any locale would make them so. */
export const sharedDiffers = (site: Site, copy: WorkingCopy, history: PublicHistory): boolean =>
  history.layers === undefined ||
  !sameContent(sharedIn(site, copy, copy.document), sharedIn(site, copy, history.layers.shared))

const sharedIn = (site: Site, { type }: WorkingCopy, document: Document): Document =>
  layerOf(site.model, type, withoutHidden(site.model, type, document, site.settings), undefined)

/** Withdraws locales of an entry; with the last one the shared layer is withdrawn too. */
export async function withdraw(
  transaction: Transaction,
  act: Act,
  author: Author,
  copy: WorkingCopy,
  asked: readonly string[] | undefined,
  withChildren: boolean,
): Promise<WorkingCopy> {
  const { site } = act
  const history = await publicHistoryOf(transaction, site, copy.type, copy.id)
  const publicLocales = localeTags(site.settings).filter((locale) => history.layers?.locales[locale] !== undefined)
  const locales = asked ?? publicLocales
  const notPublic = locales.find((locale) => !publicLocales.includes(locale))
  if (notPublic !== undefined || locales.length === 0)
    throw new WisteriaError(
      'conflict',
      notPublic === undefined ? 'Nothing of the entry is public.' : `The entry is not public in \`${notPublic}\`.`,
    )
  const left = publicLocales.filter((locale) => !locales.includes(locale))
  // Values that all locales share leave when the last locale does.
  requireMay(author.caller, 'entry.publish', { ...onEntry(copy), locales, shared: left.length === 0 })
  if (left.length === 0) await takeChildrenDown(transaction, act, copy, withChildren)
  return takeDown(transaction, act, copy, locales, left, history)
}

async function takeChildrenDown(
  transaction: Transaction,
  act: Act,
  copy: WorkingCopy,
  withChildren: boolean,
): Promise<void> {
  const children = await childrenOf(transaction, act.site, 'published', [copy.id])
  if (children.length === 0) return
  const titles = await publicTitles(
    transaction,
    act.site,
    children.map(({ id }) => id),
  )
  if (!withChildren) {
    const names = titles.map(({ title }) => `“${title}”`).join(', ')
    throw new WisteriaError(
      'conflict',
      `Public entries are below this one: ${names}. Withdraw them too: \`withChildren\`.`,
      { extra: { children: titles } },
    )
  }
  for (const { id } of children) {
    const child = (await workingCopyOf(transaction, act.site, id))!
    await takeChildrenDown(transaction, act, child, true)
    const history = await publicHistoryOf(transaction, act.site, child.type, id)
    await takeDown(transaction, act, child, Object.keys(history.layers?.locales ?? {}), [], history)
  }
}

async function takeDown(
  transaction: Transaction,
  act: Act,
  copy: WorkingCopy,
  locales: readonly string[],
  left: readonly string[],
  history: KnownHistory,
): Promise<WorkingCopy> {
  const goes = left.length === 0 ? [...locales, sharedLayer] : locales
  const withdrawn = Object.fromEntries(goes.map((layer) => [layer, null]))
  await append(transaction, act, copy, withdrawn)
  const raised = await raiseVersion(transaction, copy)
  const layers: PublicLayers | undefined =
    left.length === 0
      ? undefined
      : {
          shared: history.layers!.shared,
          locales: Object.fromEntries(left.map((locale) => [locale, history.layers!.locales[locale]!])),
        }
  if (layers) {
    const problems = validate(act.site.model, copy.type, layers, act.site.settings)
    if (problems.length > 0)
      throw invalid(
        problems.map((problem) => ({
          ...problem,
          message: `${problem.message} What stays public would be invalid.`,
        })),
      )
  }
  const now = historyAfter(history, withdrawn, layers)
  const change = await takeEffect(transaction, act, raised, now)
  await act.tell(
    'entry.withdrawn',
    { entry: { id: copy.id, type: copy.type.name }, version: raised.version, locales, paths: change.paths },
    change.public,
    publicChange(act.site, copy, history, now),
  )
  return { ...raised, standing: change.standing }
}

/** Of each layer that may have changed: the revision that was public of it, null where it was not. */
export type LayerRevisions = Readonly<Record<string, number | null>>

/**
 * Makes earlier layers of an entry public again, from their revisions.
 * @throws WisteriaError when that would not be valid any more, or another entry has the path.
 */
export async function restorePublic(
  transaction: Transaction,
  act: Act,
  author: Author,
  copy: WorkingCopy,
  wanted: LayerRevisions,
): Promise<WorkingCopy> {
  const { site } = act
  const history = await publicHistoryOf(transaction, site, copy.type, copy.id)
  const all = new Set([...Object.keys(history.revisions), ...Object.keys(wanted)])
  const changing = [...all].filter((layer) => (history.revisions[layer] ?? null) !== (wanted[layer] ?? null))
  if (changing.length === 0) return copy
  const locales = changing.filter((layer) => layer !== sharedLayer)
  const shared = changing.includes(sharedLayer)
  requireMay(author.caller, 'entry.publish', { ...onEntry(copy), locales, shared })
  await append(transaction, act, copy, Object.fromEntries(changing.map((layer) => [layer, wanted[layer] ?? null])))
  const now = await publicHistoryOf(transaction, site, copy.type, copy.id)
  const { layers } = now
  if (!layers) await takeChildrenDown(transaction, act, copy, false)
  else {
    const problems = await problemsOf(transaction, site, copy, layers)
    if (problems.length > 0) throw invalid(problems)
  }
  const raised = await raiseVersion(transaction, copy)
  const change = await takeEffect(transaction, act, raised, now)
  await act.tell(
    layers ? 'entry.published' : 'entry.withdrawn',
    { entry: { id: copy.id, type: copy.type.name }, version: raised.version, locales, paths: change.paths },
    change.public,
    publicChange(site, copy, history, now),
  )
  return { ...raised, standing: change.standing }
}

async function append(
  transaction: Transaction,
  act: Act,
  copy: WorkingCopy,
  layers: Readonly<Record<string, number | null>>,
): Promise<void> {
  const said = {
    model_version: act.site.model.version,
    sequence: act.sequence,
    at: act.at,
    actor: act.actor,
    action: act.action,
  }
  await insertMany(
    transaction,
    'publications',
    Object.entries(layers).map(([layer, revision]) => ({
      site: act.site.id,
      entry: copy.id,
      layer,
      revision,
      ...said,
    })),
  )
}

/** Writes the rows of both editions for the present layers, and records paths. */
async function takeEffect(
  transaction: Transaction,
  act: Act,
  copy: WorkingCopy,
  history: KnownHistory,
): Promise<{ paths: RowsChanged['paths']; public: PublicChange; standing: DraftStanding }> {
  const { site, at } = act
  const rows = await writePublicRows(transaction, site, copy.type, copy.id, history.layers, at)
  const below = Object.keys(rows.paths).length > 0 ? await rewriteDescendants(transaction, site, copy.id, at) : []
  const changed: { id: string; type: ContentType; changed: RowsChanged }[] = [
    { id: copy.id, type: copy.type, changed: rows },
    ...below,
  ]
  await recordPaths(
    transaction,
    site,
    changed.map(({ id, changed: { paths } }) => ({ entry: id, paths })),
    at,
  )
  const standing = await writeDraftRows(transaction, site, copy.type, copy, copy.document, history, at)
  const referrers = await referrerTypes(
    transaction,
    site,
    changed.map(({ id, type, changed: { locales } }) => ({ id, type, locales: locales.map(({ locale }) => locale) })),
  )
  const current = changed.flatMap(({ changed: change }) => Object.values(change.standing))
  const old = changed.flatMap(({ changed: { paths } }) => Object.values(paths).flatMap(({ from }) => from ?? []))
  return {
    paths: rows.paths,
    public: {
      entries: changed.map(({ id, type, changed: { locales } }) => ({
        id,
        type: type.name,
        locales,
        referredBy: referrers.get(id) ?? [],
      })),
      paths: [...current, ...old].sort(),
    },
    standing,
  }
}
