import { WisteriaProblem } from '@wisteria/client'
import type { Problem } from '@wisteria/core'
import { i18n } from './language'

/**
 * A problem in the language of the console, where its catalogue has a text for the code (`problems.tooLong`, with the problem's
 * parameters), or else in the English of the service.
 */
export function problemMessage({ code, message, parameters, locale }: Problem): string {
  const { te, t, locale: language } = i18n.global
  const key = `problems.${code}`
  return te(key, language.value) ? t(key, { ...(locale === undefined ? {} : { locale }), ...parameters }) : message
}

/** An error in a sentence. Every part of the console uses it. */
export const messageOf = (error: unknown): string => (error instanceof Error ? error.message : String(error))

/** An error as sentences, one for each problem of a form. */
export function messagesOf(error: unknown): string[] {
  if (error instanceof WisteriaProblem && error.problems.length > 0) return error.problems.map(problemMessage)
  return [messageOf(error)]
}
