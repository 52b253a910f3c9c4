import {
  digestOf,
  isToDo,
  fieldNamed,
  localeTags,
  noWork,
  regionOf,
  referencesOf,
  segmentKey,
  sourceOf,
  translationUnits,
  unitPlace,
  unitReader,
  upgradeDocument,
  WisteriaError,
  withoutHidden,
  type EntryTranslation,
  type Origins,
  type Segment,
  type SegmentText,
  type TranslationUnit,
  type TranslationView,
  type UnitReader,
  type UnitView,
} from '@wisteria/core'
import {
  progressOf,
  publicHistoryOf,
  revisionOf,
  workingCopiesOf,
  type Reader,
  type Site,
  type StoredProgress,
  type WorkingCopy,
} from '@wisteria/store'
import { requireLocale } from '../read/listQuery.js'
import { originsOf } from '../workingCopies/saving.js'
import { translationsOfHeld } from './assetTexts.js'

/** The most entries that are translated together. */
export const maxTogether = 50

/** A locale that is translated. @throws WisteriaError `badRequest` for the default locale, which is the source of the others. */
export function requireTarget(site: Site, asked: string): string {
  const locale = requireLocale(site, asked)
  if (locale === site.settings.defaultLocale)
    throw new WisteriaError(
      'badRequest',
      `${locale} is the default locale of this site: the others are translated from it.`,
    )
  return locale
}

/** The units of an entry in a locale, with what they were made from. */
export interface UnitsOfEntry {
  readonly units: readonly TranslationUnit[]
  readonly origins: Origins
}

export async function unitsOfEntry(
  reader: Reader,
  site: Site,
  copy: WorkingCopy,
  locale: string,
): Promise<UnitsOfEntry> {
  const history = await publicHistoryOf(reader, site, copy.type, copy.id)
  const origins = originsOf(site, copy, history)
  const shown = withoutHidden(site.model, copy.type, copy.document, site.settings)
  return { units: translationUnits(site.model, copy.type, shown, origins, locale, site.settings), origins }
}

/** The translation of an entry into a locale. @param which `todo`: only units that are missing or outdated. */
export async function translationOfEntry(
  reader: Reader,
  site: Site,
  copy: WorkingCopy,
  locale: string,
  which: 'todo' | 'all' = 'all',
): Promise<EntryTranslation> {
  const { units } = await unitsOfEntry(reader, site, copy, locale)
  const progress = (await progressOf(reader, site, [copy.id], locale)).get(copy.id)
  return viewTranslation(reader, site, copy, locale, which === 'all' ? units : units.filter(isToDo), progress)
}

const noProgress = { freshness: 'missing', units: noWork, words: noWork } as const

async function viewTranslation(
  reader: Reader,
  site: Site,
  copy: WorkingCopy,
  locale: string,
  units: readonly TranslationUnit[],
  stored: StoredProgress | undefined,
): Promise<EntryTranslation> {
  const source = sourceOf(site.settings, locale)
  const sourceThen = await earlierSources(reader, site, copy, units)
  return {
    entry: copy.id,
    type: copy.type.name,
    region: regionOf(copy.type, copy.region),
    title: stored?.title ?? '',
    version: copy.version,
    revision: copy.revision,
    locale,
    source,
    progress: stored?.progress ?? noProgress,
    task: taskOf(stored),
    units: units.map((unit): UnitView => {
      const { source: segment, translation, state, origin } = unit
      return {
        unit: segmentKey(segment),
        ...unitPlace(site.model, copy.type, copy.document, segment.at, source),
        kind: segment.field.kind,
        state,
        source: segment.text,
        digest: digestOf(segment),
        codes: segment.codes ?? {},
        translation: translation ?? null,
        maxLength: segment.maxLength ?? null,
        madeFrom: madeFrom(copy, segment, units),
        since: state === 'outdated' ? (origin?.since ?? null) : null,
        sourceThen: sourceThen.get(unit) ?? null,
      }
    }),
  }
}

/** The unit of the text that a slug is made from. */
function madeFrom({ type }: WorkingCopy, { field }: Segment, units: readonly TranslationUnit[]): string | null {
  const from = field.options['from']
  const source = field.kind === 'slug' && typeof from === 'string' ? fieldNamed(type, from) : undefined
  const unit = source && units.find(({ source: { at } }) => at.length === 1 && at[0] === source.id)
  return unit ? segmentKey(unit.source) : null
}

export const taskOf = (stored: StoredProgress | undefined): EntryTranslation['task'] =>
  stored && (stored.assignee !== null || stored.due !== null || stored.readyAt !== null)
    ? { assignee: stored.assignee, due: stored.due, readyBy: stored.readyBy, readyAt: stored.readyAt }
    : null

/** The source texts that outdated units were made from, as far as their revisions still have them. */
async function earlierSources(
  reader: Reader,
  site: Site,
  copy: WorkingCopy,
  units: readonly TranslationUnit[],
): Promise<Map<TranslationUnit, SegmentText>> {
  const outdated = units.filter(({ state }) => state === 'outdated')
  const readers = new Map<number, UnitReader | undefined>()
  const texts = new Map<TranslationUnit, SegmentText>()
  for (const unit of outdated) {
    const { from, source, revision, text } = unit.origin!
    if (text) {
      texts.set(unit, text)
      continue
    }
    if (!readers.has(revision)) {
      const stored = await revisionOf(reader, copy.id, revision)
      const document = stored && upgradeDocument(site.model, copy.type, stored.document, stored.modelVersion)
      readers.set(revision, document && unitReader(site.model, copy.type, document))
    }
    const then = readers.get(revision)?.(from).get(segmentKey(unit.source))
    if (then?.digest === source) texts.set(unit, then.segment.text)
  }
  return texts
}

/**
 * The translation of an entry and of those that it refers to, each once, nearest first; then of the files that they hold.
 * @param follow how many references deep.
 */
export async function translationWith(
  reader: Reader,
  site: Site,
  copy: WorkingCopy,
  locale: string,
  which: 'todo' | 'all',
  follow: number,
): Promise<TranslationView> {
  const { copies, more } = await withReferences(reader, site, [copy], follow)
  const files = await translationsOfHeld(reader, site, copies, locale, which, maxTogether)
  const entries: EntryTranslation[] = []
  for (const each of copies) {
    const translation = await translationOfEntry(reader, site, each, locale, which)
    if (each === copy || translation.units.length > 0) entries.push(translation)
  }
  return { entries: [...entries, ...files.held], more: more || files.more }
}

/** Entries, and those that they refer to, each once, nearest first. @param most how many more at most. */
export async function withReferences(
  reader: Reader,
  site: Site,
  entries: readonly WorkingCopy[],
  follow: number,
  most = maxTogether,
): Promise<{ copies: readonly WorkingCopy[]; more: boolean }> {
  const copies = [...entries]
  const seen = new Set(entries.map(({ id }) => id))
  let level: readonly WorkingCopy[] = entries
  for (let depth = 0; depth < follow && level.length > 0; depth++) {
    const wanted = level.flatMap((each) =>
      referencesOf(site.model, each.type, each.document, localeTags(site.settings)).flatMap(({ to, target }) =>
        to === 'entry' && !seen.has(target) ? [target] : [],
      ),
    )
    const ids = [...new Set(wanted)]
    const room = entries.length + most - copies.length
    const next = await workingCopiesOf(reader, site, ids.slice(0, room))
    level = ids.flatMap((id) => next.get(id) ?? []).filter(({ archivedAt }) => archivedAt === null)
    for (const { id } of level) seen.add(id)
    copies.push(...level)
    if (ids.length > room) return { copies, more: true }
  }
  return { copies, more: false }
}
