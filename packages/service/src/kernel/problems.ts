import { didYouMean, errorCodes, pointerTo, WisteriaError, type Problem } from '@wisteria/core'
import type { z } from 'zod'

/** More problems at once help nobody. */
const maxProblems = 50

/** An error as RFC 9457 problem details. An unexpected error reveals as little as possible. */
export function problemDetails(error: unknown, requestId: string): { status: number; body: Record<string, unknown> } {
  const refusal =
    error instanceof WisteriaError
      ? error
      : isDiskFull(error)
        ? new WisteriaError(
            'unavailable',
            'The disk of the service is full. Nothing was saved; everything saved before is safe.',
          )
        : new WisteriaError('internal', `Quote request ${requestId} when you report it.`)
  const { status, title } = errorCodes[refusal.code]
  return {
    status,
    body: {
      type: `urn:wisteria:error:${refusal.code}`,
      title,
      status,
      detail: refusal.message,
      code: refusal.code,
      requestId,
      ...(refusal.problems.length > 0 ? { problems: refusal.problems.slice(0, maxProblems) } : {}),
      ...(refusal.problems.length > maxProblems ? { moreProblems: refusal.problems.length - maxProblems } : {}),
      ...refusal.extra,
    },
  }
}

const isDiskFull = (error: unknown): boolean => {
  const { code, parent } = (error ?? {}) as { code?: string; parent?: { code?: string } }
  return ['SQLITE_FULL', 'ENOSPC'].includes(code ?? parent?.code ?? '')
}

/** Reads query parameters; an unknown one gets a suggestion. */
export function readQuery(schema: z.ZodObject | undefined, query: Readonly<Record<string, unknown>>): unknown {
  const names = Object.keys(schema?.shape ?? {})
  const problems: Problem[] = []
  for (const name of Object.keys(query).slice(0, maxProblems)) {
    if (!names.includes(name)) {
      const list = names.length > 0 ? ` Known: ${names.join(', ')}.` : ' This address takes none.'
      problems.push({
        code: 'unknownParameter',
        message: `\`${name}\` is not a parameter here.${didYouMean(name, names)}${list}`,
      })
    } else if (typeof query[name] !== 'string')
      problems.push({ code: 'badParameter', message: `\`${name}\` is given more than once.` })
  }
  if (problems.length > 0) throw badRequest(problems)
  if (!schema) return {}
  const read = schema.safeParse(query, { reportInput: true })
  if (read.success) return read.data
  throw badRequest(
    read.error.issues.map((issue) => ({
      code: 'badParameter',
      message: `\`${issue.path.join('.')}\` ${worded(issue)}.`,
    })),
  )
}

/** Reads a body; problems point into it. */
export function readBody(schema: z.ZodType, body: unknown): unknown {
  if (body === undefined)
    throw new WisteriaError('badRequest', 'The request needs a body, as JSON with `Content-Type: application/json`.')
  const read = schema.safeParse(body, { reportInput: true })
  if (read.success) return read.data
  throw badRequest(
    read.error.issues.flatMap((issue) => {
      const pointer = pointerTo('', ...(issue.path as (string | number)[]))
      if (issue.code === 'unrecognized_keys')
        return issue.keys.slice(0, maxProblems).map((key) => ({
          code: 'unknownMember',
          pointer: pointerTo(pointer, key),
          message: `\`${key}\` does not belong here.${didYouMean(key, membersOf(schema))}`,
        }))
      return [{ code: 'badMember', pointer, message: `\`${pointer || 'The body'}\` ${worded(issue)}.` }]
    }),
  )
}

const membersOf = (schema: z.ZodType): string[] => Object.keys((schema as unknown as { shape?: object }).shape ?? {})

function badRequest(problems: readonly Problem[]): WisteriaError {
  return new WisteriaError(
    'badRequest',
    problems
      .slice(0, maxProblems)
      .map((problem) => problem.message)
      .join(' '),
    { problems },
  )
}

const nouns: Record<string, string> = {
  string: 'a text',
  number: 'a number',
  int: 'a whole number',
  boolean: 'true or false',
  array: 'a list',
  object: 'an object',
  record: 'an object',
}

function worded(issue: z.core.$ZodIssue): string {
  switch (issue.code) {
    case 'invalid_type':
      return issue.input === undefined ? 'is missing' : `must be ${nouns[issue.expected] ?? issue.expected}`
    case 'invalid_value':
      return `must be one of ${issue.values.join(', ')}`
    case 'too_small':
      if (issue.origin === 'string')
        return issue.minimum === 1 ? 'must not be empty' : `must have at least ${issue.minimum} characters`
      return `must be at least ${issue.minimum}`
    case 'too_big':
      return `must be at most ${issue.maximum}${issue.origin === 'string' ? ' characters' : ''}`
    case 'invalid_union':
      // Zod's own message is empty of content; a schema may have a better one.
      return issue.message === 'Invalid input' ? 'has the wrong form' : issue.message
    default:
      return issue.message.replace(/\.$/, '')
  }
}
