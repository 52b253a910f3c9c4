import {
  composePublic,
  copiedOrigins,
  localeTags,
  makeId,
  parentOf,
  parentsFirst,
  printValues,
  referencesOf,
  titleOf,
  typeNamed,
  WisteriaError,
  type ContentType,
  type Document,
} from '@wisteria/core'
import {
  Act,
  assetsWithIds,
  insertAsset,
  onlyEntryOf,
  publicHistoryOf,
  siteNamed,
  siteWithId,
  standingOf,
  workingCopiesOf,
  workingCopyOf,
  type Job,
  type Site,
  type Transaction,
  type WorkingCopy,
} from '@wisteria/store'
import { callerOfActor } from '../access/actors.js'
import { itemJob, type ItemResult } from '../jobs/itemJob.js'
import { beginJob } from '../jobs/beginJob.js'
import type { JobKind } from '../jobs/jobs.js'
import { tryOrRefuse, whyNot } from '../kernel/attempt.js'
import type { Kernel } from '../kernel/kernel.js'
import { requireMay } from '../kernel/permission.js'
import { publish } from '../publishing/publishing.js'
import { createCopy } from '../workingCopies/creating.js'
import { saveValues, type Author } from '../workingCopies/saving.js'
import { chooseEntries, copiesOf, type CopyOrder } from './choosing.js'
import { documentFor } from './planning.js'

/** References as they are. */
const same = { entry: (id: string) => id, asset: (id: string) => id }

interface CopyTask {
  /** The id of the site that is copied from, and its name. */
  readonly from: string
  readonly name: string
  /** The ids of entries there, in the order in which they are copied. */
  readonly ids: readonly string[]
  /** The ids that their copies get, in the same order; null for those that do not fit, which nothing refers to. */
  readonly copies: readonly (string | null)[]
  readonly publish: boolean
}

/**
 * Begins to copy. The ids of all copies are chosen first, so that they can refer to each other in any order.
 * @throws WisteriaError `conflict` where there is nothing to copy.
 */
export async function beginCopy(
  kernel: Kernel,
  source: Site,
  target: Site,
  order: CopyOrder,
): Promise<(transaction: Transaction, actor: string, publish: boolean) => Promise<Job>> {
  const chosen = await inOrder(kernel, source, target, await chooseEntries(kernel, source, order))
  if (chosen.length === 0) throw new WisteriaError('conflict', `There is nothing to copy on ${source.settings.label}.`)
  const ids = chosen.map(({ id }) => id)
  return async (transaction, actor, publish) => {
    const copies: (string | null)[] = []
    for (const { type, fits } of chosen) {
      const own = typeNamed(target.model, type.name)
      const only = own?.cardinality === 'one' ? await onlyEntryOf(transaction, target, own.id) : undefined
      copies.push(fits ? (only ?? makeId(kernel.environment)) : null)
    }
    const task: CopyTask = { from: source.id, name: source.name, ids, copies, publish }
    return beginJob(kernel, transaction, target, {
      kind: 'siteCopy',
      actor,
      // Publishing comes after everything is there.
      total: publish ? 2 * ids.length : ids.length,
      task,
      cursor: '{}',
      message: `Copying from ${source.settings.label}.`,
    })
  }
}

/** An entry to copy, and whether the model of the target has a place for it. */
interface Chosen extends Pick<WorkingCopy, 'id' | 'type'> {
  readonly fits: boolean
}

/** Entries in the order in which they are copied: parents before what is below them, and the only entries of types last. */
async function inOrder(kernel: Kernel, source: Site, target: Site, ids: readonly string[]): Promise<Chosen[]> {
  const all: (Chosen & { readonly parent: string | undefined })[] = []
  for await (const copy of copiesOf(kernel.database, source, ids)) {
    const { id, type } = copy
    const fits = typeof documentFor(kernel, source, target, copy, same) !== 'string'
    all.push({ id, type, fits, parent: parentOf(type, copy.document) })
  }
  const isOnly = ({ type }: Chosen): boolean => type.cardinality === 'one'
  return [...parentsFirst(all.filter((entry) => !isOnly(entry))), ...all.filter(isOnly)]
}

/** Ids by those that they were copied from. */
type Ids = Record<string, string>

/** One copy under way. */
interface Copying {
  readonly kernel: Kernel
  readonly transaction: Transaction
  readonly source: Site
  readonly target: Site
  readonly author: Author
  readonly entries: ReadonlyMap<string, string>
  /** Of assets that are copied so far. */
  readonly assets: Ids
}

async function copyOne(of: Copying, id: string): Promise<ItemResult> {
  const { kernel, transaction, source, target, author, entries } = of
  const copy = (await workingCopiesOf(transaction, source, [id])).get(id)
  const newId = entries.get(id)
  // Of an entry without a copy, the original is named.
  if (!copy) return { entry: id, title: '', state: 'skipped', message: 'It is gone.' }
  const title = titleOf(copy.type, copy.document, [source.settings.defaultLocale, ...localeTags(source.settings)])
  const done = await tryOrRefuse(transaction, async () => {
    const added = await copyAssets(of, copy)
    const fitting = documentOf(of, copy, added)
    if (newId === undefined) throw new WisteriaError('conflict', 'It did not fit the model when the copy began.')
    if (fitting.type.cardinality === 'one') await fillOnly(of, fitting.type, fitting.document)
    else await createCopy(kernel, transaction, target, author, { ...fitting, id: newId, region: copy.region })
    return { id: newId, added }
  })
  if (done instanceof WisteriaError) return { entry: newId ?? id, title, state: 'refused', message: whyNot(done) }
  // Only now: the assets of a refused entry are rolled back with it.
  Object.assign(of.assets, done.added)
  return { entry: done.id, title, state: 'done', message: '' }
}

/** Fills the only entry of a type, which every site has; one that has been written in stays as it is. */
async function fillOnly(
  { kernel, transaction, target, author }: Copying,
  type: ContentType,
  document: Document,
): Promise<void> {
  const id = await onlyEntryOf(transaction, target, type.id)
  const own = id === undefined ? undefined : await workingCopyOf(transaction, target, id)
  if (!own) throw new WisteriaError('conflict', `${type.label} is not there yet.`)
  if (own.version > 1) throw new WisteriaError('conflict', `${type.label} has been written here already.`)
  const values = printValues(target.model, type, document)
  await saveValues(kernel, transaction, target, author, own, values)
}

/**
 * Copies the assets that an entry refers to, but for those that are copied already. Their files are stored once for all sites.
 * @returns the ids of the new ones.
 */
async function copyAssets(
  { kernel, transaction, source, target, author, assets }: Copying,
  copy: WorkingCopy,
): Promise<Ids> {
  const added: Ids = {}
  const ids = assetsIn(source, copy)
  const missing = ids.filter((id) => !(id in assets))
  for (const asset of await assetsWithIds(transaction, source.id, missing)) {
    const id = makeId(kernel.environment)
    const act = new Act(transaction, target, author.actor, kernel.environment)
    const tags = localeTags(target.settings)
    const texts = (of: Readonly<Record<string, string>>) =>
      Object.fromEntries(Object.entries(of).filter(([tag]) => tags.includes(tag)))
    await insertAsset(transaction, {
      ...asset,
      id,
      site: target.id,
      alt: texts(asset.alt),
      title: texts(asset.title),
      caption: texts(asset.caption),
      createdAt: act.at,
      createdBy: author.actor,
      updatedAt: act.at,
      revision: 1,
      origins: asset.origins && copiedOrigins(asset.origins),
    })
    await act.tell('asset.added', { asset: { id, name: asset.name } })
    added[asset.id] = id
  }
  return added
}

const assetsIn = (site: Site, { type, document }: WorkingCopy): string[] => {
  const assets = new Set<string>()
  for (const { to, target } of referencesOf(site.model, type, document, localeTags(site.settings)))
    if (to === 'asset') assets.add(target)
  return [...assets]
}

/**
 * Publishes a copy in the locales in which its original is public, with what is public there: changes that nobody has published are a
 * draft here too.
 */
async function publishOne(of: Copying, id: string): Promise<ItemResult> {
  const { kernel, transaction, source, target, author } = of
  const entry = of.entries.get(id) ?? id
  const original = (await workingCopiesOf(transaction, source, [id])).get(id)
  const copy = await workingCopyOf(transaction, target, entry)
  if (!original || !copy) return { entry, title: '', state: 'skipped', message: 'It was not copied.' }
  const title = titleOf(copy.type, copy.document, [target.settings.defaultLocale, ...localeTags(target.settings)])
  const { layers } = await publicHistoryOf(transaction, source, original.type, id)
  const tags = localeTags(target.settings)
  const locales = Object.keys(layers?.locales ?? {}).filter((tag) => tags.includes(tag))
  if (!layers || locales.length === 0) return { entry, title, state: 'skipped', message: 'Its original is not public.' }
  const done = await tryOrRefuse(transaction, async () => {
    const { states } = await standingOf(transaction, source, id)
    const isEdited = Object.values(states).includes('edited')
    const draft = printValues(target.model, copy.type, copy.document)
    const shown = { ...original, document: composePublic(source.model, original.type, layers) }
    const added = isEdited ? await copyAssets(of, shown) : {}
    const fitting = isEdited ? documentOf(of, shown, added) : undefined
    const save = (from: WorkingCopy, values: unknown) => saveValues(kernel, transaction, target, author, from, values)
    const ready = fitting ? await save(copy, printValues(target.model, copy.type, fitting.document)) : copy
    const act = new Act(transaction, target, author.actor, kernel.environment)
    const published = await publish(transaction, act, author, ready, locales)
    if (fitting) await save(published, draft)
    return added
  })
  if (done instanceof WisteriaError)
    return { entry, title, state: 'refused', message: `It is copied, and not published: ${whyNot(done)}` }
  Object.assign(of.assets, done)
  return { entry, title, state: 'done', message: `Published in ${locales.join(', ')}.` }
}

/** The document of a copy. @param added assets that are copied with it. @throws WisteriaError `conflict` where it does not fit. */
function documentOf({ kernel, source, target, entries, assets }: Copying, copy: WorkingCopy, added: Ids) {
  const fitting = documentFor(kernel, source, target, copy, {
    entry: (other) => entries.get(other),
    asset: (other) => assets[other] ?? added[other],
  })
  if (typeof fitting === 'string') throw new WisteriaError('conflict', fitting)
  return fitting
}

/** Copies content of another site, a few entries in a transaction. */
export const siteCopyJob = (kernel: Kernel): JobKind =>
  itemJob(kernel, {
    name: 'siteCopy',
    permission: 'entry.write',
    open: async (transaction, job) => {
      const { from, name, ids, copies } = JSON.parse(job.task) as CopyTask
      const target = await siteWithId(transaction, job.site)
      const source = await siteNamed(transaction, name)
      if (source?.id !== from) throw new WisteriaError('notFound', `There is no site ${name} any more.`)
      requireMay(await callerOfActor(kernel, job.actor, source), 'draft.read', {})
      const copying: Copying = {
        kernel,
        transaction,
        source,
        target,
        author: { caller: await callerOfActor(kernel, job.actor, target), actor: job.actor },
        entries: new Map(ids.flatMap((id, index): [string, string][] => (copies[index] ? [[id, copies[index]]] : []))),
        assets: JSON.parse(job.cursor) as Ids,
      }
      return {
        one: (position) => {
          const id = ids[position % ids.length]!
          return position < ids.length ? copyOne(copying, id) : publishOne(copying, id)
        },
        cursor: () => JSON.stringify(copying.assets),
      }
    },
  })
