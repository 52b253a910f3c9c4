import { WisteriaGraphqlError, WisteriaProblem, WisteriaUnreachable } from '@wisteria/client'
import { errorCodes, type Problem, type WisteriaError } from '@wisteria/core'
import { UsageError } from './connection.js'
import { blockedCode, breakingCode, notAcceptedCode } from './outcome.js'
import { printJson, say } from './output.js'

/** The meaning of exit codes; those of the service's errors come from its table. */
export const exitCodes: Readonly<Record<number, string>> = {
  0: 'Done.',
  1: 'An unexpected error.',
  2: 'The command, an option or a condition is malformed.',
  3: 'Values or model files are incomplete or wrong; every place is listed.',
  4: 'Not signed in, or not allowed.',
  5: 'Not found.',
  6: 'A conflict with the current state, or with somebody else’s change.',
  7: 'The service does not answer, or asks to wait.',
  [breakingCode]: '`model compare` or `--dry-run`: something would break.',
  [blockedCode]: '`model compare` or `--dry-run`: there are blocking problems.',
  [notAcceptedCode]: '`webhook test`: the address did not accept the sample.',
}

/** By its name: the service brings a class of its own along when it is bundled. */
const isRefusal = (error: unknown): error is WisteriaError => error instanceof Error && error.name === 'WisteriaError'

/** Prints the error, and its places. @returns the exit code. */
export function report(error: unknown, json: boolean): number {
  if (error instanceof UsageError || (error instanceof Error && error.name === 'OptionError')) {
    if (json) printJson({ error: { code: 'usage', message: error.message } })
    else say(error.message)
    return 2
  }
  if (error instanceof WisteriaGraphqlError) {
    if (json) printJson({ error: { code: 'graphql', message: error.message, errors: error.errors } })
    else for (const problem of error.errors) say(problem.message)
    return 2
  }
  // An operator's command does its work itself, or has it done over a socket.
  if (isRefusal(error)) {
    if (json) printJson({ error: { code: error.code, message: error.message, problems: error.problems } })
    else say(error.message)
    return errorCodes[error.code].exit
  }
  if (!(error instanceof WisteriaProblem)) {
    say(error instanceof Error ? (error.stack ?? error.message) : String(error))
    return 1
  }
  if (json) printJson({ error: { code: error.code, message: error.message, problems: error.problems } })
  else {
    const [only, ...others] = error.problems
    // A single error is printed as compilers do, after its place; a condition's message has its column already.
    if (only && others.length === 0 && (only.file !== undefined || only.message === error.message))
      say(saysWhere(only) ? only.message : whereIs(only) + only.message)
    else {
      say(error.message)
      const more = error.problems.filter((problem) => !error.message.includes(problem.message) || !saysWhere(problem))
      for (const problem of more) say(`  ${whereIs(problem)}${problem.message}`)
    }
  }
  if (error instanceof WisteriaUnreachable || error.code === 'network') return 7
  return errorCodes[error.code].exit
}

/** Whether the message of a problem names its place itself. */
const saysWhere = (problem: Problem): boolean =>
  problem.file === undefined &&
  (!problem.pointer ||
    problem.message.includes(`\`${problem.pointer}\``) ||
    problem.message.includes(`\`${problem.pointer.slice(1)}\``))

function whereIs({ file, line, column, pointer }: Problem): string {
  if (file !== undefined) return `${file}${line === undefined ? '' : `:${line}:${column ?? 1}`}: `
  return pointer ? `${pointer}: ` : ''
}
