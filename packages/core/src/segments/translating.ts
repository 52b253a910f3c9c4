import type { Problem } from '../base/errors.js'
import type { FieldOwner, Model } from '../model/model.js'
import type { Document } from '../documents/document.js'
import { sourceOf, type SiteSettings } from '../locales/settings.js'
import { canonicalText, codeFaults, hasNoWords, type CodeFault, type SegmentText } from '../text/segmentText.js'
import { digestOf, type Origin, type Origins, type TranslationUnit } from './origins.js'
import { segmentKey, translate } from './segments.js'

/** A translated text as it is handed in. */
export interface UnitText {
  /** The address of the unit. */
  readonly unit: string
  /** Without words: the translation of the unit is removed. */
  readonly text: SegmentText
  /** The digest of the source text that it was made from; the source as it is, when left out. */
  readonly source?: string | undefined
  /** That source text itself, to be shown when it has changed. */
  readonly sourceText?: SegmentText | undefined
}

/** A translation made of units: the document with it, and the origins of texts that were made from another source than there is now. */
export interface Translated {
  readonly document: Document
  readonly origins: Origins
  readonly problems: readonly Problem[]
}

/**
 * Puts translated texts into a document, each in its place. Shared values stay as they are.
 * @param revision the number of the newest revision of the source that the texts were made from.
 */
export function putTranslations(
  model: Model,
  type: FieldOwner,
  document: Document,
  units: readonly TranslationUnit[],
  texts: readonly UnitText[],
  locale: string,
  revision: number,
  settings: SiteSettings,
): Translated {
  const byKey = new Map(units.map((unit) => [segmentKey(unit.source), unit]))
  const from = sourceOf(settings, locale)
  const put = new Map<string, SegmentText>()
  const origins: Record<string, Origin> = {}
  const problems: Problem[] = []
  texts.forEach(({ unit: key, text, source, sourceText }, index) => {
    const unit = byKey.get(key)
    const pointer = `/texts/${index}`
    if (!unit)
      problems.push({
        code: 'unknownUnit',
        pointer: `${pointer}/unit`,
        message: `\`${key}\` is no text of this entry in ${from}. It may have been removed since.`,
        parameters: { unit: key, locale: from },
      })
    else if (put.has(key))
      problems.push({
        code: 'twice',
        pointer: `${pointer}/unit`,
        message: `\`${key}\` is there twice.`,
        parameters: { unit: key },
      })
    else if (hasNoWords(text)) put.set(key, [])
    else {
      put.set(key, canonicalText(text))
      // Codes of an older source are checked against what is there now: they could not be stored otherwise.
      for (const fault of codeFaults(unit.source.text, text))
        problems.push({ ...faultMessage(fault), pointer: `${pointer}/text`, parameters: { code: fault.code } })
      if (source !== undefined && source !== digestOf(unit.source))
        origins[key] = { from, source, revision, ...(sourceText ? { text: sourceText } : {}) }
    }
  })
  if (problems.length > 0) return { document, origins: {}, problems }
  return { document: translate(model, type, document, from, locale, put), origins: { [locale]: origins }, problems }
}

/** A fault in the codes of a translation, in words. */
export function faultMessage({ is, code }: CodeFault): { code: string; message: string } {
  switch (is) {
    case 'missing':
      return { code: 'codeMissing', message: `Code ${code} of the source is missing.` }
    case 'unknown':
      return { code: 'codeUnknown', message: `Code ${code} is not in the source.` }
    case 'twice':
      return { code: 'codeTwice', message: `Code ${code} is there twice.` }
    case 'otherForm':
      return { code: 'codeForm', message: `Code ${code} encloses text in only one of source and translation.` }
  }
}
