import { canonicalText, codeFaults, wordsOf, type SegmentText } from '../text/segmentText.js'
import { digestOf, type TranslationUnit } from './origins.js'
import { faultMessage } from './translating.js'

/** A translated text that comes back: from a file or a machine. */
export interface IncomingText {
  /** The address of the unit. */
  readonly unit: string
  /** The source as it was handed out; undefined where that does not come back. */
  readonly source: SegmentText | undefined
  /** The digest of the translation as it was handed out; empty where there was none, undefined where that is not known. */
  readonly base: string | undefined
  /** Undefined where it is not translated. */
  readonly text: SegmentText | undefined
  /** Whether the translator says that it is translated for the source as it was handed out, also where its text is as before. */
  readonly isDone: boolean
}

/**
 * What becomes of a text that comes back. `taken`: saved. `takenOutdated`: saved, and outdated, since its source has changed
 * meanwhile. `confirmed`: as it was, and right for the source. `unchanged`: it is there already. `untranslated`: there is no text.
 * `newer`: somebody has changed the translation since it was handed out, so it is not overwritten. `faulty`: its codes are not those
 * of the source. `unknown`: the source has no such text.
 */
export const incomingOutcomes = [
  'taken',
  'takenOutdated',
  'confirmed',
  'unchanged',
  'untranslated',
  'newer',
  'faulty',
  'unknown',
] as const
export type IncomingOutcome = (typeof incomingOutcomes)[number]

/** The outcome for a text, and in words why it is not taken as it is. */
export interface Decided {
  readonly outcome: IncomingOutcome
  readonly message: string
}

/** The digest of a translation, to find out later whether it has changed; empty where there is none. */
export const translationDigest = (text: SegmentText | undefined): string =>
  text === undefined ? '' : digestOf({ text, codes: {} })

/** Whether two sources are the same but for white space, which tools may print otherwise. */
const sameSource = (a: SegmentText, b: SegmentText): boolean => {
  const bare = (text: SegmentText): string => JSON.stringify(canonicalText(text)).replace(/\s|\\[nrt]/g, '')
  return bare(a) === bare(b)
}
const sameText = (a: SegmentText, b: SegmentText): boolean =>
  JSON.stringify(canonicalText(a)) === JSON.stringify(canonicalText(b))

/**
 * Decides about a text that comes back.
 * @param unit undefined where the source has no such text.
 * @param overwrites whether newer work is overwritten.
 */
export function decideIncoming(
  unit: TranslationUnit | undefined,
  incoming: IncomingText,
  overwrites: boolean,
): Decided {
  const say = (outcome: IncomingOutcome, message = ''): Decided => ({ outcome, message })
  if (!unit) return say('unknown', 'The entry has no such text. It may have been removed since.')
  const { text } = incoming
  if (text === undefined || wordsOf(text).trim() === '') return say('untranslated')
  const isSourceSame = incoming.source === undefined || sameSource(incoming.source, unit.source.text)
  if (unit.translation && sameText(text, unit.translation))
    return unit.state === 'outdated' && incoming.isDone && isSourceSame ? say('confirmed') : say('unchanged')
  const faults = codeFaults(unit.source.text, text)
  if (faults.length > 0) {
    const which = faults.map((fault) => faultMessage(fault).message).join(' ')
    return say('faulty', isSourceSame ? which : `${which} The source has changed since it was handed out.`)
  }
  // Without knowing what was handed out, a translation that is there may be newer.
  const isNewer = unit.translation !== undefined && incoming.base !== translationDigest(unit.translation)
  if (isNewer && !overwrites) return say('newer', 'Somebody has changed the translation since it was handed out.')
  return isSourceSame ? say('taken') : say('takenOutdated', 'The source has changed since it was handed out.')
}
