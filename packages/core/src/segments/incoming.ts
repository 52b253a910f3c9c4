import { canonicalText, codeFaults, hasNoWords, type SegmentText } from '../text/segmentText.js'
import { digestOf, type TranslationUnit, type UnitState } from './origins.js'
import { faultMessage } from './translating.js'

/** A translated text that comes back: from a file or a machine. */
export interface IncomingText {
  /** The address of the unit. */
  readonly unit: string
  /** The source as it was handed out; undefined where that does not come back. */
  readonly source: SegmentText | undefined
  /** What was handed out (`translationBase`); undefined where that is not known. */
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

/** The outcomes in words, after a number: `12 taken`. */
export const incomingWords: Readonly<Record<IncomingOutcome, string>> = {
  taken: 'taken',
  takenOutdated: 'taken as outdated',
  confirmed: 'confirmed as still right',
  unchanged: 'unchanged',
  untranslated: 'not translated',
  newer: 'not taken: changed since',
  faulty: 'not taken: wrong codes or values',
  unknown: 'not taken: no such text',
}

/** Outcomes of texts that could not be taken, and of all that people look at one by one. */
export const notTaken = ['newer', 'faulty', 'unknown'] as const satisfies readonly IncomingOutcome[]
export const worthLooking = [...notTaken, 'takenOutdated'] as const satisfies readonly IncomingOutcome[]

/** How many texts have which outcome, in words. */
export const outcomesInWords = (counts: Readonly<Partial<Record<IncomingOutcome, number>>>): string =>
  incomingOutcomes
    .flatMap((outcome) => (counts[outcome] ? [`${counts[outcome]} ${incomingWords[outcome]}`] : []))
    .join('; ') || 'none'

/** The outcome for a text, and in words why it is not taken as it is. */
export interface Decided {
  readonly outcome: IncomingOutcome
  readonly message: string
}

/**
 * What is there of a translation, to find out later whether it has changed: its digest, the mark of a unit that has none, or nothing.
 */
export const translationBase = ({
  translation,
  state,
}: {
  readonly translation: SegmentText | null | undefined
  readonly state: UnitState
}): string =>
  translation ? digestOf({ text: translation, codes: {} }) : state === 'empty' || state === 'notNeeded' ? state : ''

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
  if (text === undefined || hasNoWords(text)) return say('untranslated')
  const isSourceSame = incoming.source === undefined || sameSource(incoming.source, unit.source.text)
  if (unit.translation && sameText(text, unit.translation))
    return unit.state === 'outdated' && incoming.isDone && isSourceSame ? say('confirmed') : say('unchanged')
  const faults = codeFaults(unit.source.text, text)
  if (faults.length > 0) {
    const which = faults.map((fault) => faultMessage(fault).message).join(' ')
    return say('faulty', isSourceSame ? which : `${which} The source has changed since it was handed out.`)
  }
  // Without knowing what was handed out, whatever is there may be newer.
  if (translationBase(unit) !== (incoming.base ?? '') && !overwrites)
    return say('newer', 'Somebody has changed the translation since it was handed out.')
  return isSourceSame ? say('taken') : say('takenOutdated', 'The source has changed since it was handed out.')
}
