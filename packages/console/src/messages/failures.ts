import { WisteriaProblem } from '@wisteria/client'
import { problemMessage } from './ofCore'

/** An error in a sentence. Every part of the console uses it. */
export const messageOf = (error: unknown): string => (error instanceof Error ? error.message : String(error))

/** An error as sentences, one for each problem of a form. */
export function messagesOf(error: unknown): string[] {
  if (error instanceof WisteriaProblem && error.problems.length > 0) return error.problems.map(problemMessage)
  return [messageOf(error)]
}
