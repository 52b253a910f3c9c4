import type { Difference, FieldPlace } from '@wisteria/client'
import { short } from './entryOutput.js'
import { print } from './output.js'

/** `body/h1/text:en`: field names and ids in turn, and a locale. */
export function readPlace(text: string): FieldPlace {
  const [path = '', locale] = text.split(':')
  return { at: path.split('/'), ...(locale ? { locale } : {}) }
}

export const isAt = (difference: Difference, { at, locale }: FieldPlace): boolean =>
  (locale === undefined || difference.locale === locale) &&
  at.every(
    (step, index) =>
      difference.at[index] === step || (index === at.length - 1 && difference.at[index]?.startsWith(`${step}.`)),
  )

export function printDifferences(all: readonly Difference[]): void {
  if (all.length === 0) return print('  No differences.')
  for (const difference of all) printDifference(difference)
}

/** One difference: where it is, how it differs, and its words or values. */
export function printDifference(difference: Difference, indent = '  '): void {
  const { how, locale } = difference
  const where = `${difference.labels.join(' › ')}${locale ? ` (${locale})` : ''}`
  const change =
    how === 'moved' ? `moved from place ${difference.from} to ${difference.to}` : how === 'changed' ? '' : how
  print(`${indent}${where}${change ? `, ${change}` : ''}   [${difference.at.join('/')}${locale ? `:${locale}` : ''}]`)
  if (how === 'moved') return
  if (difference.words) print(`${indent}  ${oneLine(difference.words.map(marked).join(''))}`)
  else print(`${indent}  ${short(difference.before)} -> ${short(difference.after)}`)
}

/** Changed words: [-removed-]{+added+}. */
const marked = ({ is, text }: { is: string; text: string }): string =>
  is === 'same'
    ? text.length > 80
      ? `${text.slice(0, 36)} … ${text.slice(-36)}`
      : text
    : is === 'added'
      ? `{+${text}+}`
      : `[-${text}-]`

const oneLine = (text: string): string => text.replaceAll('\n', ' ↵ ')
