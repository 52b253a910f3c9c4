import { useTimeoutFn } from '@vueuse/core'
import { wordsOf, type GlossaryTerm, type MemoryMatch } from '@wisteria/core'
import { shallowRef } from 'vue'
import type { Site } from '../session'
import type { Row } from './bench'

/** The pause before earlier translations of a text are looked up, in milliseconds: people pass texts quickly. */
const pause = 250

/** What helps with the text that is worked on: the terms of the site, and earlier translations. It is loaded once for each text. */
export function useHelp(site: Site, locale: string) {
  const terms = shallowRef<readonly GlossaryTerm[]>([])
  const matches = shallowRef<readonly MemoryMatch[]>([])
  const cache = new Map<string, readonly MemoryMatch[]>()
  let wanted: Row | undefined

  // Without help, translating goes on: a failure is not shown.
  site.editor.translations
    .glossary()
    .then((glossary) => (terms.value = glossary.terms))
    .catch(() => undefined)

  const { start, stop } = useTimeoutFn(() => void look(), pause, { immediate: false })
  async function look(): Promise<void> {
    const row = wanted
    if (!row) return
    const text = wordsOf(row.unit.source).slice(0, 5000)
    try {
      const answer = await site.editor.translations.memory(locale, text, { entry: row.entry, unit: row.unit.unit })
      cache.set(row.key, answer.matches)
      if (wanted?.key === row.key) matches.value = answer.matches
    } catch {
      // The next text is asked for again.
    }
  }
  /** The text that is worked on now. */
  function show(row: Row | undefined): void {
    if (row?.key === wanted?.key) return
    wanted = row
    stop()
    matches.value = (row && cache.get(row.key)) ?? []
    if (row && !cache.has(row.key)) start()
  }
  return { terms, matches, show }
}
