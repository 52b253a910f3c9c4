import {
  codedFaultMessage,
  codesIn,
  hasNoWords,
  printCoded,
  readCoded,
  termsIn,
  translationBase,
  wordsOf,
  type EntryTranslation,
  type GlossaryTerm,
  type SegmentText,
  type UnitView,
} from '@wisteria/core'
import { z } from 'zod'
import type { ReturnedText } from '../translations/files/handedOut.js'

/*
 * What Wisteria and a connector say to each other: docs/reference/translation-connectors.md describes it for those who write one.
 * Texts are lines with inline codes, `<1>bold</1>`, as in tables and in the console.
 */

/** What was sent of an entry: it says later which source each text was made from, and what of its translation was there. */
export interface SentEntry {
  /** The id of the request: another one where other texts are sent, so that no answer is taken for texts that it does not translate. */
  readonly request: string
  readonly revision: number
  readonly texts: readonly Pick<ReturnedText, 'unit' | 'source' | 'base' | 'shown'>[]
}

/** A request, as it is sent. */
export interface ConnectorRequest {
  readonly request: string
  readonly site: string
  readonly from: string
  readonly to: string
  readonly entry: { readonly id: string; readonly type: string; readonly title: string; readonly address: string }
  readonly texts: readonly {
    readonly id: string
    readonly text: string
    readonly place: string
    readonly maxLength?: number
    readonly earlier?: { readonly text: string; readonly translation: string }
  }[]
  readonly terms: readonly { readonly term: string; readonly use?: string; readonly avoid?: readonly string[] }[]
  readonly callback: string
}

/** The units that are sent: all that have work, but for those that are made from others by themselves. */
export const unitsToSend = ({ units }: EntryTranslation): UnitView[] =>
  units.filter(({ source, madeFrom }) => madeFrom === null && !hasNoWords(source))

/** What is sent now. @param before what was sent of the entry already, if anything: the same again has the same id. */
export function sentOf(translation: EntryTranslation, before: SentEntry | null, newId: () => string): SentEntry {
  const texts = unitsToSend(translation).map((unit) => ({
    unit: unit.unit,
    source: unit.source,
    base: translationBase(unit),
    shown: wordsOf(unit.source),
  }))
  const isSame = before !== null && JSON.stringify(before.texts) === JSON.stringify(texts)
  return { request: isSame ? before.request : newId(), revision: translation.revision, texts }
}

/** @param around what is known of the request besides its texts. */
export function printRequest(
  translation: EntryTranslation,
  terms: readonly GlossaryTerm[],
  around: { readonly request: string; readonly site: string; readonly address: string; readonly callback: string },
): ConnectorRequest {
  const { entry, type, title, source: from, locale: to } = translation
  const units = unitsToSend(translation)
  const all = units.map(({ source }) => wordsOf(source)).join('\n')
  const used = termsIn(terms, { text: all, locale: from }, { text: '', locale: to })
  return {
    request: around.request,
    site: around.site,
    from,
    to,
    entry: { id: entry, type, title, address: around.address },
    texts: units.map((unit) => ({
      id: unit.unit,
      text: printCoded(unit.source),
      place: unit.labels.join(' › '),
      ...(unit.maxLength === null ? {} : { maxLength: unit.maxLength }),
      ...(unit.sourceThen && unit.translation
        ? { earlier: { text: printCoded(unit.sourceThen), translation: printCoded(unit.translation) } }
        : {}),
    })),
    terms: used.map(({ term }) => {
      const { use, avoid } = term.translations[to] ?? {}
      return { term: term.term, ...(use === undefined ? {} : { use }), ...(avoid?.length ? { avoid } : {}) }
    }),
    callback: around.callback,
  }
}

/** The most seconds that a connector may ask to wait. */
const longestWait = 3600

const answerForm = z.discriminatedUnion('state', [
  z.object({ state: z.literal('working'), retryAfter: z.number().min(0).max(longestWait).optional() }),
  z.object({
    state: z.literal('done'),
    texts: z.array(z.object({ id: z.string().max(2000), text: z.string().max(200_000) })).max(10_000),
  }),
  z.object({ state: z.literal('failed'), message: z.string().max(2000) }),
])
export type ConnectorAnswer = z.infer<typeof answerForm>

/** Reads the answer of a connector. @returns a sentence that says what is wrong with it. */
export function readAnswer(text: string): ConnectorAnswer | string {
  let json: unknown
  try {
    json = JSON.parse(text)
  } catch {
    return 'Its answer is not JSON.'
  }
  const read = answerForm.safeParse(json)
  if (read.success) return read.data
  const [issue] = read.error.issues
  return `Its answer is not as expected, at \`/${issue!.path.join('/')}\`: ${issue!.message}.`
}

/** The texts that came back, as those of a file. */
export function returnedTexts(
  sent: SentEntry,
  texts: readonly { readonly id: string; readonly text: string }[],
): {
  readonly texts: readonly ReturnedText[]
  /** What cannot be read, in sentences. */
  readonly faults: readonly string[]
} {
  const byId = new Map(texts.map(({ id, text }) => [id, text]))
  const faults: string[] = []
  const read = (text: string | undefined, source: SegmentText, shown: string): SegmentText | undefined => {
    if (text === undefined || text.trim() === '') return undefined
    const coded = readCoded(text, new Set([...codesIn(source)].map(({ code }) => code)))
    if ('text' in coded) return coded.text
    faults.push(`“${shown.slice(0, 60)}”: ${codedFaultMessage(coded.fault)}`)
    return undefined
  }
  return {
    texts: sent.texts.map(({ unit, source, base, shown }, index) => ({
      line: index + 1,
      unit,
      source,
      base,
      shown,
      text: read(byId.get(unit), source!, shown),
      isDone: true,
    })),
    faults,
  }
}
