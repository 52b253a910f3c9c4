import { segmentKey, type Problem, type TranslationUnit, type UnitText } from '@wisteria/core'

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

/** What is wrong with the units that an order names. */
export function problemsOfOrder(
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
