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
  type SavedTranslation,
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
import { unchanged } from '../workingCopies/changeSeen.js'
import { onEntry, requireMay } from '../kernel/permission.js'
import { publishCheck } from '../publishing/consequences.js'
import { publishIfImmediate } from '../publishing/immediate.js'
import { invalid, requireInUse, saveEdits, type Author } from '../workingCopies/saving.js'
import { problemsOfOrder, type TranslationOrder } from './orderProblems.js'
import { translationOfEntry, unitsOfEntry } from './reading.js'

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
  await act.tell(
    'translation.confirmed',
    {
      entry: { id: saved.id, type: saved.type.name },
      version: saved.version,
      locales: [locale],
      fields: [...new Set(fields)],
    },
    undefined,
    unchanged(site, saved, history),
  )
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
