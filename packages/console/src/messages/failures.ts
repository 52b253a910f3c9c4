import { WisteriaProblem } from '@wisteria/client'
import type { Problem } from '@wisteria/core'
import { i18n } from './language'

/**
 * What is wrong in one place, in the language of the console where its catalogue words problems of this code
 * (`problems.tooLong`, with the problem's parameters), or as the service words it, in English.
 */
export function problemMessage({ code, message, parameters, locale }: Problem): string {
  const { te, t, locale: language } = i18n.global
  const key = `problems.${code}`
  return te(key, language.value) ? t(key, { ...(locale === undefined ? {} : { locale }), ...parameters }) : message
}

/** What went wrong, in a sentence. Every part of the console says it through here. */
export const messageOf = (error: unknown): string => (error instanceof Error ? error.message : String(error))

/** What went wrong, a sentence for each thing that is wrong with a form. */
export function messagesOf(error: unknown): string[] {
  if (error instanceof WisteriaProblem && error.problems.length > 0) return error.problems.map(problemMessage)
  return [messageOf(error)]
}
