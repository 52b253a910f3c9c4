import {
  assetDocument,
  assetModel,
  assetOwner,
  assetTextsIn,
  confirm,
  countWork,
  digestOf,
  isToDo,
  localeTags,
  putTranslations,
  referencesOf,
  sameContent,
  segmentKey,
  sourceOf,
  translationUnits,
  unitPlace,
  unitReader,
  WisteriaError,
  wordCount,
  wordsOf,
  type EntryTranslation,
  type Origins,
  type SegmentText,
  type TranslationUnit,
  type UnitView,
} from '@wisteria/core'
import {
  Act,
  assetRevision,
  assetsWithIds,
  shownChange,
  storeAssetOrigins,
  type Asset,
  type Reader,
  type Site,
  type Transaction,
  type WorkingCopy,
} from '@wisteria/store'
import { changeTexts, originsOfAsset } from '../assets/origins.js'
import type { Kernel } from '../kernel/kernel.js'
import { requireMay } from '../kernel/permission.js'
import { invalid, type Author } from '../workingCopies/saving.js'
import { problemsOfOrder, type TranslationOrder } from './orderProblems.js'

/** How a translation names the type of what it is of, where that is a file. No type can have this name. */
export const assetTypeName = 'asset'

/** The units of a file in a locale. */
export const unitsOfAsset = (
  site: Site,
  asset: Asset,
  locale: string,
  origins: Origins = originsOfAsset(site, asset),
): TranslationUnit[] => translationUnits(assetModel, assetOwner, assetDocument(asset), origins, locale, site.settings)

/** The translation of the texts of a file, in the form of that of an entry. */
export async function translationOfAsset(
  reader: Reader,
  site: Site,
  asset: Asset,
  locale: string,
  which: 'todo' | 'all' = 'all',
): Promise<EntryTranslation> {
  const source = sourceOf(site.settings, locale)
  const all = unitsOfAsset(site, asset, locale)
  const counts = countWork(all, ({ source: { text } }) => wordCount(wordsOf(text), source))
  const units = which === 'all' ? all : all.filter(isToDo)
  const sourceThen = await earlierSources(reader, asset, units)
  const { missing, outdated, done } = counts.units
  return {
    entry: asset.id,
    type: assetTypeName,
    region: null,
    title: asset.name,
    version: asset.revision,
    revision: asset.revision,
    locale,
    source,
    progress: {
      freshness: outdated > 0 ? 'outdated' : missing === 0 ? 'current' : done > 0 ? 'partial' : 'missing',
      ...counts,
    },
    task: null,
    units: units.map((unit): UnitView => ({
      unit: segmentKey(unit.source),
      ...unitPlace(assetModel, assetOwner, assetDocument(asset), unit.source.at, source),
      kind: unit.source.field.kind,
      state: unit.state,
      source: unit.source.text,
      digest: digestOf(unit.source),
      codes: {},
      translation: unit.translation ?? null,
      maxLength: unit.source.maxLength ?? null,
      madeFrom: null,
      since: unit.state === 'outdated' ? (unit.origin?.since ?? null) : null,
      sourceThen: sourceThen.get(unit) ?? null,
    })),
  }
}

/** The source texts that outdated units were made from. */
async function earlierSources(
  reader: Reader,
  asset: Asset,
  units: readonly TranslationUnit[],
): Promise<Map<TranslationUnit, SegmentText>> {
  const texts = new Map<TranslationUnit, SegmentText>()
  for (const unit of units.filter(({ state }) => state === 'outdated')) {
    const { from, source, revision, text } = unit.origin!
    const then = text ? undefined : await assetRevision(reader, asset.id, revision)
    const found = then && unitReader(assetModel, assetOwner, assetDocument(then))(from).get(segmentKey(unit.source))
    const earlier = text ?? (found?.digest === source ? found.segment.text : undefined)
    if (earlier) texts.set(unit, earlier)
  }
  return texts
}

/** The translations of the files that entries hold, each once; those without texts are left out. @param most how many files. */
export async function translationsOfHeld(
  reader: Reader,
  site: Site,
  copies: readonly WorkingCopy[],
  locale: string,
  which: 'todo' | 'all',
  most: number,
): Promise<{ readonly held: readonly EntryTranslation[]; readonly more: boolean }> {
  const ids = new Set<string>()
  for (const { type, document } of copies)
    for (const { to, target } of referencesOf(site.model, type, document, localeTags(site.settings)))
      if (to === 'asset') ids.add(target)
  const found = await assetsWithIds(reader, site.id, [...ids].slice(0, most))
  const byId = new Map(found.map((asset) => [asset.id, asset]))
  const held: EntryTranslation[] = []
  for (const id of ids) {
    const asset = byId.get(id)
    const translation = asset && (await translationOfAsset(reader, site, asset, locale, which))
    if (translation && translation.units.length > 0) held.push(translation)
  }
  return { held, more: ids.size > most }
}

/**
 * Saves a translation of the texts of a file: a revision of it, as any change.
 * @throws WisteriaError `invalid` with each text that is unknown or too long; `editConflict` where somebody else has changed the same
 *   text since `base`.
 */
export async function saveAssetTranslation(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  asset: Asset,
  order: TranslationOrder,
): Promise<Asset> {
  const { locale, texts = [], stillRight = [], needsNone = [], needed = [], empty = [] } = order
  requireMay(author.caller, 'entry.translate', { locales: [locale] })
  if (empty.length > 0)
    throw new WisteriaError(
      'conflict',
      'A text of a file cannot be empty on purpose. Remove it, or say that it needs none.',
    )
  const origins = originsOfAsset(site, asset)
  const units = unitsOfAsset(site, asset, locale, origins)
  const revision = Math.min(order.revision ?? asset.revision, asset.revision)
  const put = putTranslations(
    assetModel,
    assetOwner,
    assetDocument(asset),
    units,
    texts,
    locale,
    revision,
    site.settings,
  )
  const problems = [...put.problems, ...problemsOfOrder(units, order, sourceOf(site.settings, locale))]
  for (const [index, { unit, text }] of texts.entries()) {
    const max = units.find(({ source }) => segmentKey(source) === unit)?.source.maxLength
    if (max !== undefined && [...wordsOf(text)].length > max)
      problems.push({
        code: 'tooLong',
        pointer: `/texts/${index}/text`,
        message: `It has more than ${max} characters.`,
      })
  }
  if (problems.length > 0) throw invalid(problems)
  await requireUnchanged(transaction, asset, order)
  const act = new Act(transaction, site, author.actor, kernel.environment)
  const change = assetTextsIn(put.document)
  let now = asset
  if (!sameContent(change, assetTextsIn(assetDocument(asset)))) {
    now = await changeTexts(transaction, site, asset, change, act.at, author.actor, put.origins)
    const shown = await shownChange(transaction, site, asset.id)
    await act.tell('asset.changed', { asset: { id: asset.id, name: asset.name } }, shown)
  }
  if (stillRight.length + needsNone.length + needed.length === 0) return now
  const recorded = originsOfAsset(site, now)
  const rest = Object.fromEntries(
    Object.entries(recorded[locale] ?? {}).filter(([key, origin]) => !(origin.needsNone && needed.includes(key))),
  )
  const said = unitsOfAsset(site, now, locale, recorded)
  const right = confirm(said, { ...recorded, [locale]: rest }, locale, new Set(stillRight), now.revision, site.settings)
  const after = confirm(said, right, locale, new Set(needsNone), now.revision, site.settings, true)
  return storeAssetOrigins(transaction, now, after)
}

/** @throws WisteriaError `editConflict` where a text that is sent is another one now than in the revision that was seen. */
async function requireUnchanged(
  reader: Reader,
  asset: Asset,
  { locale, base, texts = [] }: TranslationOrder,
): Promise<void> {
  if (base === undefined || base >= asset.revision) return
  const seen = await assetRevision(reader, asset.id, base)
  if (!seen) return
  const textAt = (of: Pick<Asset, 'alt' | 'title' | 'caption'>) =>
    unitReader(assetModel, assetOwner, assetDocument(of))(locale)
  const [then, now] = [textAt(seen), textAt(asset)]
  const met = texts.find(({ unit }) => then.get(unit)?.digest !== now.get(unit)?.digest)
  if (met)
    throw new WisteriaError(
      'editConflict',
      `Somebody else has changed \`${met.unit}\` of ${asset.name} since. Read it again.`,
      {
        extra: { version: asset.revision, conflicts: [] },
      },
    )
}
