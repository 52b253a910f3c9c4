import type { MessageParameters, Problem } from '@wisteria/core'
import { i18n } from './language'

/*
 * Texts that core and service have, in English. The catalogue of another language may have its own under `problems`, `forms` and
 * `kinds`; a text that it lacks is shown in English.
 */

const has = (key: string): boolean => i18n.global.te(key, i18n.global.locale.value)
const textOf = (key: string, parameters: MessageParameters = {}): string => i18n.global.t(key, parameters)

/** The place of a problem: its field, in a block, a group or an element of a repeated group. */
function fieldOf(parameters: MessageParameters): MessageParameters {
  const key = parameters['inBlock'] ? 'inBlock' : parameters['inNumber'] ? 'inItem' : 'inGroup'
  const isInside = parameters['inBlock'] !== undefined || parameters['inGroup'] !== undefined
  return isInside && has(`problems.${key}`) ? { field: textOf(`problems.${key}`, parameters) } : {}
}

/**
 * A problem in the language of the console, by its code and parameters: `problems.tooLong`. Where a problem has one of the parameters
 * below, or a locale, its code has an ending: `problems.requiredIn`.
 */
export function problemMessage({ code, message, parameters = {}, locale }: Problem): string {
  const endings = [
    'said' in parameters && 'Said',
    'block' in parameters && 'Of',
    'member' in parameters && 'Part',
    locale !== undefined && 'In',
    !('said' in parameters) && '',
  ]
  const key = endings.map((ending) => `problems.${code}${ending}`).find(has)
  const what = wrongForm(String(parameters['kind'] ?? ''))
  if (key === undefined || (code === 'wrongForm' && what === undefined)) return message
  return textOf(key, {
    where: locale !== undefined && has('problems.where') ? textOf('problems.where', { locale }) : '',
    ...parameters,
    ...fieldOf(parameters),
    ...(locale === undefined ? {} : { locale }),
    ...(what === undefined ? {} : { what }),
  })
}

/** What a value of a kind must be; undefined where the language lacks it. */
function wrongForm(kind: string): string | undefined {
  return has(`forms.${kind}`) ? textOf(`forms.${kind}`) : undefined
}

/** What a value of a kind must be, or the same in the English of core: `must be a number`. */
export const formMessage = (kind: string, english: string): string => wrongForm(kind) ?? english

/** The label of a field kind, or of core's in English. */
export const kindLabel = ({ name, label }: { readonly name: string; readonly label: string }): string =>
  has(`kinds.${name}`) ? textOf(`kinds.${name}`) : label
