import {
  decideIncoming,
  digestOf,
  localeTags,
  makeId,
  outcomesInWords,
  segmentKey,
  sourceOf,
  titleOf,
  translationBase,
  translationUnits,
  upgradeDocument,
  WisteriaError,
  type Decided,
  type IncomingOutcome,
  type IncomingText,
  type TranslationUnit,
  type UnitText,
} from '@wisteria/core'
import {
  assetsWithIds,
  changeTranslationImport,
  decideTranslationImportItem,
  deleteTranslationImport,
  endJob,
  insertTranslationImport,
  insertTranslationImportItems,
  itemsOfTranslationImport,
  jobWithId,
  keepJobProgress,
  revisionOf,
  siteWithId,
  translationImportOf,
  workingCopiesOf,
  type Asset,
  type Job,
  type Reader,
  type Site,
  type Transaction,
  type TranslationImport,
  type TranslationImportItem,
  type WorkingCopy,
} from '@wisteria/store'
import type { Readable } from 'node:stream'
import { callerOfActor } from '../access/actors.js'
import { beginJob } from '../jobs/beginJob.js'
import type { JobKind } from '../jobs/jobs.js'
import { tryOrRefuse, whyNot } from '../kernel/attempt.js'
import type { Kernel } from '../kernel/kernel.js'
import { requireMay } from '../kernel/permission.js'
import { publishIfImmediate } from '../publishing/immediate.js'
import type { Author } from '../workingCopies/saving.js'
import type { FileFormat } from './exporting.js'
import type { FileReader, ReturnedEntry, ReturnedHead, ReturnedText } from './files/handedOut.js'
import { saveAssetTranslation, unitsOfAsset } from './assetTexts.js'
import { unitsOfEntry } from './reading.js'
import { saveTranslation } from './saving.js'

/** The result for one text of a file. */
export interface DecidedText extends Decided {
  /** In the file; counts from 1. */
  readonly line: number
  readonly unit: string
}

export type ImportItem = TranslationImportItem<ReturnedText, DecidedText>
/** How many entries are read and stored in one transaction. */
const batch = 25
/** The most bytes of a file, and the most entries in it. */
const maxBytes = 200_000_000
const maxEntries = 100_000
/** How long one step of the job may block other writes, in milliseconds. */
const stepTime = 40

async function readerOf(format: FileFormat): Promise<FileReader> {
  if (format === 'xliff') return (await import('./files/xliffReading.js')).readXliff
  const { readCsv, readXlsx } = await import('./files/tables.js')
  return format === 'csv' ? readCsv : readXlsx
}

/** @throws WisteriaError `tooLarge`, after so many bytes. */
async function* limited(file: AsyncIterable<Buffer>): AsyncGenerator<Buffer> {
  let bytes = 0
  for await (const chunk of file) {
    bytes += chunk.length
    if (bytes > maxBytes) throw tooLarge()
    yield chunk
  }
}

const tooLarge = (): WisteriaError =>
  new WisteriaError(
    'tooLarge',
    `A file with translations has at most ${maxBytes / 1e6} MB and ${maxEntries} entries. Export fewer entries at once.`,
  )

/** @throws WisteriaError `invalid` for a file of another pair of locales. */
function requireLocales(site: Site, locale: string, { source, target }: ReturnedHead): void {
  const expected = sourceOf(site.settings, locale)
  if (target !== undefined && target !== locale)
    throw new WisteriaError('invalid', `The file is a translation into ${target}, and not into ${locale}.`)
  if (source !== undefined && source !== expected)
    throw new WisteriaError(
      'invalid',
      `The file is translated from ${source}, and ${locale} is translated from ${expected} here.`,
    )
}

/**
 * Reads a file with translations and decides about each text, without changing anything. What it read is kept, to be applied.
 * @throws WisteriaError `invalid` with line and column, where the file cannot be read: nothing of it is kept then.
 */
export async function readImport(
  kernel: Kernel,
  site: Site,
  author: Author,
  file: Readable,
  order: { readonly locale: string; readonly format: FileFormat; readonly name: string },
): Promise<TranslationImport> {
  const { locale, format, name } = order
  requireMay(author.caller, 'entry.translate', { locales: [locale] })
  const imported: TranslationImport = {
    id: makeId(kernel.environment),
    site: site.id,
    locale,
    format,
    name,
    state: 'reading',
    overwrites: false,
    entries: 0,
    outcomes: {},
    job: null,
    actor: author.actor,
    createdAt: kernel.at,
    appliedAt: null,
  }
  await kernel.write((transaction) => insertTranslationImport(transaction, imported))
  const counts: Partial<Record<IncomingOutcome, number>> = {}
  let position = 0
  const keep = async (entries: readonly ReturnedEntry[]): Promise<void> => {
    const items = await plan(kernel.database, site, locale, entries, position)
    for (const { outcome } of items.flatMap(({ decided }) => decided)) counts[outcome] = (counts[outcome] ?? 0) + 1
    position += items.length
    await kernel.write((transaction) => insertTranslationImportItems(transaction, imported.id, items))
  }
  try {
    const read = await readerOf(format)
    let waiting: ReturnedEntry[] = []
    for await (const entry of read(limited(file as AsyncIterable<Buffer>), (head) =>
      requireLocales(site, locale, head),
    )) {
      if (position + waiting.length >= maxEntries) throw tooLarge()
      waiting.push(entry)
      if (waiting.length < batch) continue
      await keep(waiting)
      waiting = []
    }
    await keep(waiting)
    if (Object.keys(counts).length === 0) throw new WisteriaError('invalid', 'The file has no texts.')
    await kernel.write((transaction) =>
      changeTranslationImport(transaction, imported.id, { state: 'read', entries: position, outcomes: counts }),
    )
  } catch (error) {
    await kernel.write((transaction) => deleteTranslationImport(transaction, imported.id))
    throw error
  }
  return { ...imported, state: 'read', entries: position, outcomes: counts }
}

/** The results for the texts of some entries, as they would be now. */
async function plan(
  reader: Reader,
  site: Site,
  locale: string,
  entries: readonly ReturnedEntry[],
  first: number,
): Promise<ImportItem[]> {
  const copies = await workingCopiesOf(
    reader,
    site,
    entries.map(({ entry }) => entry),
  )
  const others = entries.flatMap(({ entry }) => (copies.has(entry) ? [] : [entry]))
  const assets = new Map((await assetsWithIds(reader, site.id, others)).map((asset) => [asset.id, asset]))
  const items: ImportItem[] = []
  for (const [index, returned] of entries.entries()) {
    const { entry, revision } = returned
    const [copy, asset] = [copies.get(entry), assets.get(entry)]
    const units = await unitsOf(reader, site, copy, asset, locale)
    const texts = copy
      ? await withBases(reader, site, copy, locale, returned)
      : withPresentBases(returned, asset, units)
    items.push({
      position: first + index,
      entry,
      title: copy ? titleIn(site, copy) : (asset?.name ?? ''),
      revision: revision ?? null,
      texts,
      decided: decide(site, copy ?? asset, units, texts, false),
    })
  }
  return items
}

/** The units of an entry or of a file. */
async function unitsOf(
  reader: Reader,
  site: Site,
  copy: WorkingCopy | undefined,
  asset: Asset | undefined,
  locale: string,
): Promise<readonly TranslationUnit[]> {
  if (copy) return (await unitsOfEntry(reader, site, copy, locale)).units
  return asset ? unitsOfAsset(site, asset, locale) : []
}

/**
 * Texts with what was handed out of their translations, also where a tool has left that out: then it is what the revision has, as long
 * as nothing was saved into that afterwards.
 */
async function withBases(
  reader: Reader,
  site: Site,
  copy: WorkingCopy,
  locale: string,
  { revision, version, texts }: ReturnedEntry,
): Promise<readonly ReturnedText[]> {
  if (revision === undefined || texts.every(({ base }) => base !== undefined)) return texts
  const stored = await revisionOf(reader, copy.id, revision)
  if (!stored || stored.version > (version ?? 0)) return texts
  const { model, settings } = site
  const document = upgradeDocument(model, copy.type, stored.document, stored.modelVersion)
  const units = translationUnits(model, copy.type, document, stored.origins ?? {}, locale, settings)
  const bases = new Map(units.map((unit) => [segmentKey(unit.source), translationBase(unit)]))
  return texts.map((text) => ({ ...text, base: text.base ?? bases.get(text.unit) }))
}

/** The same for a file: as long as it has had no other revision. */
function withPresentBases(
  { version, texts }: ReturnedEntry,
  asset: Asset | undefined,
  units: readonly TranslationUnit[],
): readonly ReturnedText[] {
  if (asset?.revision !== version) return texts
  const bases = new Map(units.map((unit) => [segmentKey(unit.source), translationBase(unit)]))
  return texts.map((text) => ({ ...text, base: text.base ?? bases.get(text.unit) }))
}

const titleIn = (site: Site, copy: WorkingCopy): string =>
  titleOf(copy.type, copy.document, [site.settings.defaultLocale, ...localeTags(site.settings)])

function decide(
  site: Site,
  found: WorkingCopy | Asset | undefined,
  units: readonly TranslationUnit[],
  texts: readonly ReturnedText[],
  overwrites: boolean,
): DecidedText[] {
  const byKey = new Map(units.map((unit) => [segmentKey(unit.source), unit]))
  return texts.map((text): DecidedText => {
    const { line, unit } = text
    if (!found) return { line, unit, outcome: 'unknown', message: `There is no such entry on ${site.settings.label}.` }
    if ('archivedAt' in found && found.archivedAt !== null)
      return { line, unit, outcome: 'unknown', message: 'The entry is archived.' }
    return { line, unit, ...decideIncoming(byKey.get(unit), text, overwrites) }
  })
}

/** Begins to apply what was read. @throws WisteriaError `conflict` where that has been done. */
export async function applyImport(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  id: string,
  overwrites: boolean,
): Promise<Job> {
  const imported = await requireImport(transaction, site, id)
  requireMay(author.caller, 'entry.translate', { locales: [imported.locale] })
  if (imported.state === 'reading')
    throw new WisteriaError('conflict', 'The file was not read to its end. Import it again.')
  if (imported.state !== 'read')
    throw new WisteriaError('conflict', 'The file has been applied already. Import it again to see what is left.')
  const job = await beginJob(kernel, transaction, site, {
    kind: 'translationImport',
    actor: author.actor,
    total: imported.entries,
    task: { import: id },
    message: `Importing translations into ${imported.locale} from ${imported.name}.`,
  })
  await changeTranslationImport(transaction, id, { state: 'running', overwrites, outcomes: {}, job: job.id })
  return job
}

/** @throws WisteriaError `notFound`. */
export async function requireImport(reader: Reader, site: Site, id: string): Promise<TranslationImport> {
  const imported = await translationImportOf(reader, site, id)
  if (!imported)
    throw new WisteriaError('notFound', `There is no import \`${id.slice(0, 60)}\` on ${site.settings.label}.`)
  return imported
}

/** Saves the texts of one entry that may be taken. @returns the result for each. */
export async function applyTexts(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  locale: string,
  item: Pick<ImportItem, 'entry' | 'revision' | 'texts'>,
  overwrites: boolean,
): Promise<DecidedText[]> {
  const copy = (await workingCopiesOf(transaction, site, [item.entry])).get(item.entry)
  const [asset] = copy ? [] : await assetsWithIds(transaction, site.id, [item.entry])
  const units = await unitsOf(transaction, site, copy, asset, locale)
  const decided = decide(site, copy ?? asset, units, item.texts, overwrites)
  const of = (outcome: IncomingOutcome) => decided.flatMap((each, index) => (each.outcome === outcome ? [index] : []))
  const [taken, outdated, confirmed] = [of('taken'), of('takenOutdated'), of('confirmed')]
  if (taken.length + outdated.length + confirmed.length === 0) return decided
  const byKey = new Map(units.map((unit) => [segmentKey(unit.source), unit]))
  const textOf = (index: number): UnitText => ({ unit: item.texts[index]!.unit, text: item.texts[index]!.text! })
  const order = {
    locale,
    ...(item.revision === null ? {} : { revision: item.revision }),
    texts: [
      ...taken.map(textOf),
      ...outdated.map((index) => ({
        ...textOf(index),
        ...madeFrom(byKey.get(item.texts[index]!.unit)!, item.texts[index]!),
      })),
    ],
    stillRight: confirmed.map((index) => item.texts[index]!.unit),
  }
  const saved = await tryOrRefuse(transaction, async () => {
    if (!copy) return saveAssetTranslation(kernel, transaction, site, author, asset!, order)
    const { copy: now } = await saveTranslation(kernel, transaction, site, author, copy, order)
    return publishIfImmediate(kernel, transaction, site, author, now)
  })
  if (!(saved instanceof WisteriaError)) return decided
  const message = whyNot(saved)
  return decided.map((each, index) =>
    [...taken, ...outdated, ...confirmed].includes(index) ? { ...each, outcome: 'faulty', message } : each,
  )
}

/** The source that a text was made from, where that has changed meanwhile. */
const madeFrom = (unit: TranslationUnit, { source }: IncomingText): Pick<UnitText, 'source' | 'sourceText'> =>
  source === undefined ? {} : { source: digestOf({ text: source, codes: unit.source.codes }), sourceText: source }

/** Applies a file, a few entries in a transaction. */
export const translationImportJob = (kernel: Kernel): JobKind => ({
  name: 'translationImport',
  permission: 'entry.translate',
  step: (job) =>
    kernel.write(async (transaction) => {
      const current = await jobWithId(transaction, job.id)
      if (current?.state !== 'running') return false
      const site = await siteWithId(transaction, job.site)
      const { import: id } = JSON.parse(job.task) as { import: string }
      const imported = await requireImport(transaction, site, id)
      const author = { caller: await callerOfActor(kernel, job.actor, site), actor: job.actor }
      const counts: Partial<Record<IncomingOutcome, number>> = { ...imported.outcomes }
      const until = performance.now() + stepTime
      let { done } = current
      while (done < imported.entries) {
        const [item] = await itemsOfTranslationImport<ReturnedText, DecidedText>(transaction, id, done, 1)
        const decided = await applyTexts(kernel, transaction, site, author, imported.locale, item!, imported.overwrites)
        await decideTranslationImportItem(transaction, id, done, decided)
        for (const { outcome } of decided) counts[outcome] = (counts[outcome] ?? 0) + 1
        done++
        if (performance.now() > until) break
      }
      const isDone = done >= imported.entries
      const end = isDone ? { state: 'applied' as const, appliedAt: kernel.at } : {}
      await changeTranslationImport(transaction, id, { outcomes: counts, ...end })
      if (isDone)
        await endJob(transaction, job.id, {
          state: 'done',
          at: kernel.at,
          message: `Texts: ${outcomesInWords(counts)}.`,
          done,
        })
      else await keepJobProgress(transaction, job.id, done, job.cursor)
      return !isDone
    }),
  abandon: (job, state, message) =>
    kernel.write(async (transaction) => {
      const site = await siteWithId(transaction, job.site)
      const { import: id } = JSON.parse(job.task) as { import: string }
      const imported = await requireImport(transaction, site, id)
      await changeTranslationImport(transaction, id, { state: 'applied', appliedAt: kernel.at })
      await endJob(transaction, job.id, {
        state,
        at: kernel.at,
        message: `${message} Texts: ${outcomesInWords(imported.outcomes)}.`,
      })
    }),
})
