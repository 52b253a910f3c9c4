import {
  confirm,
  fieldWithId,
  namedEditsBetween,
  printValues,
  putTranslations,
  sourceOf,
  unitPlace,
  segmentKey,
  type NamedEdit,
  type Problem,
  type SavedTranslation,
  type TranslationUnit,
  type UnitText,
} from '@wisteria/core'
import {
  Act,
  publicHistoryOf,
  raiseVersion,
  storeOrigins,
  writeDraftRows,
  type Site,
  type Transaction,
  type WorkingCopy,
} from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import { onEntry, requireMay } from '../kernel/permission.js'
import { publishCheck } from '../publishing/consequences.js'
import { publishIfImmediate } from '../publishing/immediate.js'
import { invalid, requireInUse, saveEdits, type Author } from '../workingCopies/saving.js'
import { translationOfEntry, unitsOfEntry } from './reading.js'

/** A save of a translation: texts, and what is said of units. Each unit is in one of them. */
export interface TranslationOrder {
  readonly locale: string
  /** The version of the entry that the translator saw; the newest, when left out. */
  readonly base?: number | undefined
  /** The revision of the entry that the translator saw; the newest, when left out. */
  readonly revision?: number | undefined
  readonly texts?: readonly UnitText[] | undefined
  /** Units whose translation is right for the source as it is. */
  readonly stillRight?: readonly string[] | undefined
  /** Units that need no translation: readers get the source. */
  readonly needsNone?: readonly string[] | undefined
  /** Units that need a translation after all. */
  readonly needed?: readonly string[] | undefined
  /** Units that readers of the locale do not get, not even from a fallback. */
  readonly empty?: readonly string[] | undefined
}

/**
 * Saves a translation of an entry. Shared values stay as they are.
 * @throws WisteriaError `invalid` with each unit that is unknown or whose codes are wrong; `editConflict` where somebody else has
 *   changed the same text since `base`.
 */
export async function saveTranslation(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  copy: WorkingCopy,
  order: TranslationOrder,
): Promise<{ copy: WorkingCopy; merged: boolean }> {
  const { locale, texts = [], empty = [] } = order
  requireInUse(copy)
  requireMay(author.caller, 'entry.translate', { locales: [locale], ...onEntry(copy) })
  const { units } = await unitsOfEntry(transaction, site, copy, locale)
  const problems = problemsOfOrder(units, order, sourceOf(site.settings, locale))
  const put = putTranslations(
    site.model,
    copy.type,
    copy.document,
    units,
    texts,
    locale,
    Math.min(order.revision ?? copy.revision, copy.revision),
    site.settings,
  )
  if (problems.length + put.problems.length > 0) throw invalid([...put.problems, ...problems])
  const printed = (document: WorkingCopy['document']) => printValues(site.model, copy.type, document)
  const edits: NamedEdit[] = [
    ...namedEditsBetween(site.model, copy.type, printed(copy.document), printed(put.document)),
    ...empty.map((key): NamedEdit => {
      const unit = units.find(({ source }) => segmentKey(source) === key)!
      const { at } = unitPlace(site.model, copy.type, copy.document, unit.source.at, locale)
      return { do: 'set', at, locale, value: null }
    }),
  ]
  const saved =
    edits.length > 0
      ? await saveEdits(kernel, transaction, site, author, copy, order.base ?? copy.version, edits, put.origins)
      : { copy, merged: false }
  const confirmed = await confirmUnits(kernel, transaction, site, author, saved.copy, order)
  return { copy: confirmed, merged: saved.merged }
}

function problemsOfOrder(
  units: readonly TranslationUnit[],
  { texts = [], ...said }: TranslationOrder,
  source: string,
): Problem[] {
  const byKey = new Map(units.map((unit) => [segmentKey(unit.source), unit]))
  const seen = new Set(texts.map(({ unit }) => unit))
  const problems: Problem[] = []
  for (const name of ['stillRight', 'needsNone', 'needed', 'empty'] as const)
    said[name]?.forEach((key, index) => {
      const pointer = `/${name}/${index}`
      const unit = byKey.get(key)
      const wrong = (code: string, message: string): void => void problems.push({ code, pointer, message })
      if (!unit)
        wrong('unknownUnit', `\`${key}\` is no text of this entry in ${source}. It may have been removed since.`)
      else if (seen.has(key)) wrong('twice', `\`${key}\` is there twice.`)
      else if (name === 'stillRight' && unit.translation === undefined)
        wrong('notTranslated', `\`${key}\` has no translation that could be right. Send a text.`)
      else if (name === 'needsNone' && unit.translation !== undefined)
        wrong('translated', `\`${key}\` is translated. Remove its text first, or mark it as still right.`)
      else if (
        name === 'empty' &&
        units.filter(({ source: other }) => other.at.join('/') === unit.source.at.join('/')).length > 1
      )
        wrong('notAlone', `\`${key}\` is one of several texts of its field, which can be empty only as a whole.`)
      seen.add(key)
    })
  return problems
}

/** Records what was said of units, without changing a value. */
async function confirmUnits(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  copy: WorkingCopy,
  { locale, stillRight = [], needsNone = [], needed = [] }: TranslationOrder,
): Promise<WorkingCopy> {
  if (stillRight.length + needsNone.length + needed.length === 0) return copy
  const { units, origins } = await unitsOfEntry(transaction, site, copy, locale)
  const { settings } = site
  const rest = Object.fromEntries(
    Object.entries(origins[locale] ?? {}).filter(([key, origin]) => !(origin.needsNone && needed.includes(key))),
  )
  const right = confirm(units, { ...origins, [locale]: rest }, locale, new Set(stillRight), copy.revision, settings)
  const after = confirm(units, right, locale, new Set(needsNone), copy.revision, settings, true)
  const act = new Act(transaction, site, author.actor, kernel.environment)
  const saved = await raiseVersion(transaction, await storeOrigins(transaction, copy, after))
  const history = await publicHistoryOf(transaction, site, copy.type, copy.id)
  const standing = await writeDraftRows(transaction, site, copy.type, saved, saved.document, history, act.at)
  const fields = [...stillRight, ...needsNone, ...needed].flatMap(
    (key) => fieldWithId(copy.type, key.split(/[./#]/)[0]!)?.name ?? [],
  )
  await act.tell('translation.confirmed', {
    entry: { id: saved.id, type: saved.type.name },
    version: saved.version,
    locales: [locale],
    fields: [...new Set(fields)],
  })
  return { ...saved, standing }
}

/** Saves a translation, and publishes it where the type has no drafts. @returns what a translator sees then. */
export async function saveAndAnswer(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  copy: WorkingCopy,
  order: TranslationOrder,
): Promise<SavedTranslation> {
  const saved = await saveTranslation(kernel, transaction, site, author, copy, order)
  const current = await publishIfImmediate(kernel, transaction, site, author, saved.copy)
  const history = await publicHistoryOf(transaction, site, copy.type, copy.id)
  const { problems } = await publishCheck(transaction, site, current, history)
  return {
    ...(await translationOfEntry(transaction, site, current, order.locale)),
    merged: saved.merged,
    problems: problems.filter((problem) => problem.locale === order.locale),
  }
}
