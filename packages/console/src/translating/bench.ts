import { useEventListener, useTimeoutFn } from '@vueuse/core'
import { WisteriaProblem, type EntryTranslation, type TranslationChange } from '@wisteria/client'
import {
  codedFaultMessage,
  codeFaults,
  codesIn,
  faultMessage,
  printCoded,
  readCoded,
  wordsOf,
  type SegmentText,
  type UnitView,
} from '@wisteria/core'
import { computed, onBeforeUnmount, reactive, ref, shallowRef } from 'vue'
import { browserStorage, keptRecords } from '../kept/records'
import { messageOf } from '../messages'
import { session, type Site } from '../session'

/** The pause between the last letter and the save, in milliseconds. */
const pause = 900
/** After how long a save that failed is tried again. */
const retryAfter = 10_000

/** A unit on the page: its entry, and what is written in it. */
export interface Row {
  readonly key: string
  readonly entry: string
  readonly unit: UnitView
}

/** What a translator says of a unit. */
export type Mark = 'stillRight' | 'needsNone' | 'needed' | 'empty'

interface KeptTexts {
  readonly at: string
  readonly texts: Readonly<Record<string, string>>
}

const keyOf = (entry: string, unit: string): string => `${entry} ${unit}`
const clean = (text: string): string => text.replace(/[\r\n]+/g, ' ')

/** The fault in the codes of a written text; undefined where it can be saved. */
export function faultIn(unit: UnitView, text: string): string | undefined {
  if (text.trim() === '') return undefined
  const read = readCoded(text, new Set(Object.keys(unit.codes)))
  if ('fault' in read) return codedFaultMessage(read.fault)
  const faults = codeFaults(unit.source, read.text)
  return faults.length > 0 ? faults.map((fault) => faultMessage(fault).message).join(' ') : undefined
}

/** A text as it is written, read with the codes of its source. */
function readText(unit: UnitView, text: string): SegmentText {
  const read = readCoded(text, new Set([...codesIn(unit.source)].map(({ code }) => code)))
  return 'text' in read ? read.text : [text]
}

/**
 * The texts of an entry, and of those linked in it, being translated into a locale. They are saved by themselves, after a pause in the
 * typing; what cannot be saved is kept in the browser.
 */
export function useBench(site: Site, locale: string, onSaved: (translation: EntryTranslation) => void) {
  const entries = shallowRef<readonly EntryTranslation[]>([])
  const hasMore = ref(false)
  /** Texts as written, by row, as far as they differ from what is saved. */
  const written = reactive(new Map<string, string>())
  /** Why the service does not take a written text, by row: of an invalid slug, for instance. */
  const refused = reactive(new Map<string, string>())
  /** What somebody else saved in a row that is written in. */
  const theirs = reactive(new Map<string, string>())
  const trouble = ref('')
  const isSaving = ref(false)
  const savedAt = ref<Date>()
  let kept = keptIn('')
  let isGone = false

  function keptIn(entry: string) {
    const place = `wisteria/translations/${session.value?.account.id ?? ''}/${entry}/${locale}`
    return keptRecords<KeptTexts>(browserStorage(), place, 'texts', (record) => typeof record.texts === 'object')
  }
  const remember = (): void => {
    if (written.size === 0) kept.drop()
    else kept.keep({ at: new Date().toISOString(), texts: Object.fromEntries(written) })
  }

  const rows = computed<readonly Row[]>(() =>
    entries.value.flatMap(({ entry, units }) => units.map((unit) => ({ key: keyOf(entry, unit.unit), entry, unit }))),
  )
  const savedText = ({ translation }: UnitView): string => (translation ? printCoded(translation) : '')
  const textOf = (row: Row): string => written.get(row.key) ?? savedText(row.unit)

  const { start: saveSoon, stop, isPending } = useTimeoutFn(() => void saveAll(), pause, { immediate: false })
  const { start: retryLater } = useTimeoutFn(() => void saveAll(), retryAfter, { immediate: false })

  async function open(id: string, follow: number): Promise<void> {
    await saveAll()
    written.clear()
    theirs.clear()
    refused.clear()
    trouble.value = ''
    const view = await site.editor.translations.of(id, locale, { follow })
    entries.value = view.entries
    hasMore.value = view.more
    kept = keptIn(id)
    for (const [key, text] of Object.entries(kept.recall(() => false)?.texts ?? {}))
      if (rows.value.some((row) => row.key === key && textOf(row) !== text)) written.set(key, text)
    if (written.size > 0) saveSoon()
  }

  function write(row: Row, text: string): void {
    const now = clean(text)
    refused.delete(row.key)
    if (now === savedText(row.unit)) written.delete(row.key)
    else written.set(row.key, now)
    remember()
    saveSoon()
  }

  const replace = (translation: EntryTranslation): void => {
    entries.value = entries.value.map((entry) => (entry.entry === translation.entry ? translation : entry))
    onSaved(translation)
  }

  let saving: Promise<void> = Promise.resolve()
  /** Saves everything that is written and has no fault: one save for each entry. */
  function saveAll(): Promise<void> {
    stop()
    saving = saving.then(async () => {
      for (const { entry } of entries.value) {
        const changed = rows.value.filter(
          (row) =>
            row.entry === entry &&
            written.has(row.key) &&
            !theirs.has(row.key) &&
            !refused.has(row.key) &&
            faultIn(row.unit, written.get(row.key)!) === undefined,
        )
        if (changed.length > 0) await save(entry, changed)
      }
    })
    return saving
  }

  async function save(entry: string, changed: readonly Row[]): Promise<void> {
    const seen = entries.value.find((each) => each.entry === entry)!
    const sent = new Map(changed.map((row) => [row.key, written.get(row.key)!]))
    const texts = changed.map(({ key, unit }) => ({
      unit: unit.unit,
      text: readText(unit, sent.get(key)!),
      source: unit.digest,
      sourceText: unit.source,
    }))
    const result = await send(entry, { locale, base: seen.version, revision: seen.revision, texts })
    // What was typed meanwhile is saved next.
    if (result === 'saved') for (const [key, text] of sent) if (written.get(key) === text) written.delete(key)
    if (result === 'invalid') {
      // One text that cannot be saved does not keep the others: each is sent by itself.
      if (changed.length > 1) for (const row of changed) await save(entry, [row])
      else if (written.get(changed[0]!.key) === sent.get(changed[0]!.key)) refused.set(changed[0]!.key, trouble.value)
      trouble.value = ''
    }
    remember()
    const left = [...written.keys()].some((key) => !refused.has(key) && !theirs.has(key))
    if (left && trouble.value === '' && result === 'saved') saveSoon()
  }

  /** Whether something on the page is a file, and no entry. */
  const isAsset = (id: string): boolean => entries.value.some(({ entry, type }) => entry === id && type === 'asset')
  const sent = (id: string, change: TranslationChange): Promise<EntryTranslation> =>
    isAsset(id) ? site.editor.translations.saveAsset(id, change) : site.editor.translations.save(id, change)

  async function send(entry: string, change: TranslationChange): Promise<'saved' | 'invalid' | 'failed'> {
    isSaving.value = true
    try {
      replace(await sent(entry, change))
      trouble.value = ''
      savedAt.value = new Date()
      return 'saved'
    } catch (error) {
      if (error instanceof WisteriaProblem && error.code === 'editConflict') await meet(entry)
      else {
        trouble.value = messageOf(error)
        if (error instanceof WisteriaProblem && error.code === 'invalid') return 'invalid'
        if (!isGone && !(error instanceof WisteriaProblem && error.status < 500)) retryLater()
      }
      return 'failed'
    } finally {
      isSaving.value = false
    }
  }

  /** Somebody else has saved one of the texts: shows theirs beside what is written here. */
  async function meet(entry: string): Promise<void> {
    const before = new Map(rows.value.map((row) => [row.key, savedText(row.unit)]))
    const { translations } = site.editor
    replace(
      isAsset(entry) ? await translations.ofAsset(entry, locale) : (await translations.of(entry, locale)).entries[0]!,
    )
    for (const row of rows.value)
      if (written.has(row.key) && before.get(row.key) !== savedText(row.unit))
        if (written.get(row.key) === savedText(row.unit)) written.delete(row.key)
        else theirs.set(row.key, savedText(row.unit))
    if ([...written.keys()].some((key) => !theirs.has(key) && !refused.has(key))) saveSoon()
  }

  /** Keeps one of two texts of a row that two people wrote. */
  function settle(row: Row, keep: 'mine' | 'theirs'): void {
    theirs.delete(row.key)
    if (keep === 'theirs') written.delete(row.key)
    remember()
    saveSoon()
  }

  async function mark(row: Row, as: Mark): Promise<void> {
    await saveAll()
    const { version } = entries.value.find(({ entry }) => entry === row.entry)!
    await send(row.entry, { locale, base: version, [as]: [row.unit.unit] })
  }

  async function setReady(entry: string, isReady: boolean): Promise<void> {
    await saveAll()
    try {
      replace(await site.editor.translations.ready(entry, locale, isReady))
      trouble.value = ''
    } catch (error) {
      trouble.value = messageOf(error)
    }
  }

  useEventListener(window, 'beforeunload', (event) => {
    if (isPending.value || isSaving.value) event.preventDefault()
  })
  useEventListener(window, 'online', () => void saveAll())
  onBeforeUnmount(() => {
    isGone = true
    void saveAll()
  })

  return {
    entries,
    hasMore,
    rows,
    written,
    theirs,
    refused,
    trouble,
    isSaving,
    savedAt,
    textOf,
    open,
    write,
    saveAll,
    settle,
    mark,
    setReady,
  }
}
export type Bench = ReturnType<typeof useBench>

/** The words of a written text, without its codes. */
export const wordsIn = (unit: UnitView, text: string): string => wordsOf(readText(unit, text))
