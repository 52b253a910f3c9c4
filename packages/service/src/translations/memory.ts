import {
  leastLikeness,
  likenessOf,
  localeTags,
  memoryExpressions,
  segmentKey,
  sourceOf,
  titleOf,
  unitPlace,
  wordsOf,
  type MemoryMatch,
} from '@wisteria/core'
import { matchesInLocale, workingCopiesOf, type Reader, type Site } from '@wisteria/store'
import { unitsOfEntry } from './reading.js'

/** How many entries are looked into, and how many translations are offered. */
const lookedInto = 20
const offered = 5

/**
 * Earlier translations of a text on a site, the most like it first. They are found by the words of working copies, and compared unit by
 * unit: whatever is translated is in the memory at once, and what is deleted is not.
 * @param text the words of the source.
 * @param except the unit that it is for: its own translation is no earlier one.
 */
export async function memoryFor(
  reader: Reader,
  site: Site,
  locale: string,
  text: string,
  except: { readonly entry?: string | undefined; readonly unit?: string | undefined },
): Promise<MemoryMatch[]> {
  const source = sourceOf(site.settings, locale)
  const ids = new Set<string>()
  for (const expression of memoryExpressions(text, source)) {
    if (ids.size >= lookedInto) break
    const asked = { locale: source, limit: lookedInto, ranked: false }
    for (const id of await matchesInLocale(reader, 'draft', site.projection, expression, asked)) ids.add(id)
  }
  const copies = await workingCopiesOf(reader, site, [...ids].slice(0, lookedInto))
  const matches = new Map<string, MemoryMatch>()
  for (const copy of copies.values())
    for (const unit of (await unitsOfEntry(reader, site, copy, locale)).units) {
      const key = segmentKey(unit.source)
      if (!unit.translation || unit.state === 'outdated' || unit.source.isIndependent) continue
      if (copy.id === except.entry && key === except.unit) continue
      const words = wordsOf(unit.source.text)
      const likeness = likenessOf(text, words, source)
      const same = `${words}\n${wordsOf(unit.translation)}`
      if (likeness < leastLikeness || matches.has(same)) continue
      matches.set(same, {
        likeness,
        source: unit.source.text,
        translation: unit.translation,
        entry: copy.id,
        title: titleOf(copy.type, copy.document, [source, ...localeTags(site.settings)]),
        labels: unitPlace(site.model, copy.type, copy.document, unit.source.at, source).labels,
      })
    }
  return [...matches.values()].sort((a, b) => b.likeness - a.likeness).slice(0, offered)
}
