import { isMap, isSeq, parseDocument, visit, type Document } from 'yaml'
import type { Automation } from './automation.js'

/** A place in an automation: names of parts, and numbers of steps from 0. */
export type AutomationPlace = readonly (string | number)[]

/** An automation as it is being written: any part of it may be missing or wrong. */
export type AutomationDraft = { readonly [Part in keyof Automation]?: unknown }

/** What a text of an automation says so far; undefined where it is no object in YAML. */
export function draftFrom(text: string): AutomationDraft | undefined {
  const document = opened(text)
  return document && (document.toJS() as AutomationDraft)
}

function opened(text: string): Document | undefined {
  const document = parseDocument(text, { prettyErrors: false })
  if (document.errors.length > 0 || !isMap(document.contents)) return undefined
  let hasAlias = false
  visit(document, { Alias: () => ((hasAlias = true), visit.BREAK) })
  return hasAlias ? undefined : document
}

/** Changes a text and leaves everything else of it as it is, comments too; itself where it cannot be read. */
function changing(text: string, change: (document: Document) => void): string {
  const document = opened(text)
  if (!document) return text
  change(document)
  return document.toString({ lineWidth: 0 })
}

/** A text with another value at a place; without one where that is undefined. What is around it and empty then goes too. */
export const withPart = (text: string, place: AutomationPlace, value: unknown): string =>
  changing(text, (document) => {
    if (value !== undefined) return document.setIn(place, document.createNode(value))
    document.deleteIn(place)
    const around = place.slice(0, -1)
    const left = around.length > 0 && typeof around.at(-1) === 'string' ? document.getIn(around, true) : undefined
    if (isMap(left) && left.items.length === 0) document.deleteIn(around)
  })

/** A text with another step at the end of a list of steps. */
export const withStep = (text: string, list: AutomationPlace, step: object): string =>
  changing(text, (document) => {
    const steps = document.getIn(list, true)
    if (!isSeq(steps) || steps.items.length === 0) document.setIn(list, document.createNode([step]))
    else document.addIn(list, document.createNode(step))
  })

/** A text without a step. */
export const withoutStep = (text: string, list: AutomationPlace, index: number): string =>
  changing(text, (document) => void document.deleteIn([...list, index]))

/** A text with a step at another position of its list. */
export const withStepMoved = (text: string, list: AutomationPlace, from: number, to: number): string =>
  changing(text, (document) => {
    const steps = document.getIn(list, true)
    if (!isSeq(steps)) return
    const [step] = steps.items.splice(from, 1)
    if (step !== undefined) steps.items.splice(to, 0, step)
  })

/** A value of a step as one writes it in a form: an expression as it is, everything else as JSON. */
export const writtenValue = (value: unknown): string =>
  value === undefined ? '' : typeof value === 'string' ? value : JSON.stringify(value)

/** The value that somebody has written in a form; undefined for nothing. */
export function readWritten(text: string): unknown {
  const trimmed = text.trim()
  if (trimmed === '') return undefined
  if (!/^(true|false|null|-?\d+(\.\d+)?|[[{].*[\]}])$/s.test(trimmed)) return text
  try {
    return JSON.parse(trimmed) as unknown
  } catch {
    return text
  }
}

/** The values of an object by their paths: `title.en`. Lists are values. */
export function flatValues(values: unknown, before = ''): [path: string, value: unknown][] {
  if (typeof values !== 'object' || values === null || Array.isArray(values)) return [[before, values]]
  return Object.entries(values).flatMap(([name, value]) =>
    flatValues(value, before === '' ? name : `${before}.${name}`),
  )
}

/** The object with values at paths. Of two at one path, or at a path within another, the later one stays. */
export function valuesAt(flat: readonly (readonly [path: string, value: unknown])[]): Record<string, unknown> {
  const values: Record<string, unknown> = {}
  for (const [path, value] of flat) {
    const steps = path.split('.')
    let inside = values
    for (const step of steps.slice(0, -1)) {
      const next = Object.hasOwn(inside, step) ? inside[step] : undefined
      const isObject = typeof next === 'object' && next !== null && !Array.isArray(next)
      if (!isObject) inside[step] = {}
      inside = inside[step] as Record<string, unknown>
    }
    inside[steps.at(-1)!] = value
  }
  return values
}
