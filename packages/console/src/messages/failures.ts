import { WisteriaProblem } from '@wisteria/client'

/** What went wrong, in a sentence. Every part of the console says it through here. */
export const messageOf = (error: unknown): string => (error instanceof Error ? error.message : String(error))

/** What went wrong, a sentence for each thing that is wrong with a form. */
export function messagesOf(error: unknown): string[] {
  if (error instanceof WisteriaProblem && error.problems.length > 0)
    return error.problems.map((problem) => problem.message)
  return [messageOf(error)]
}
