import {
  valueOf,
  WisteriaError,
  type Data,
  type SingleStep,
  type Moment,
  type ReadyStep,
  type Scope,
} from '@wisteria/core'
import { textOf } from './steps.js'
import type { CallOutcome, OutgoingCall } from '../outgoing/calling.js'

/** The most characters of an answer that later steps can use. */
const answerKept = 200_000

/**
 * What a step sends to somebody else.
 * @param id the same whenever the step of this run, or item, is tried: a receiver can tell that it has it already.
 */
export function callOf({ step, parts }: ReadyStep, scope: Scope, moment: Moment, id: string): OutgoingCall {
  const single = step as Extract<SingleStep, { do: 'call' | 'chat' }>
  const part = (name: string): Data => parts[name] && valueOf(parts[name], scope, moment)
  const address = textOf(part('address'), 'address')
  const base = { address, secrets: [], id, answerKept }
  if (single.do === 'chat') {
    const body = JSON.stringify({ text: textOf(part('text'), 'text') })
    return { ...base, method: 'POST', type: 'application/json', body }
  }
  const { method = 'POST' } = single
  const body = part('body')
  const headers: Record<string, string> = {}
  for (const [name, value] of Object.entries((part('headers') ?? {}) as Readonly<Record<string, Data>>)) {
    if (!/^[A-Za-z0-9!#$%&'*+.^_`|~-]{1,80}$/.test(name))
      throw new WisteriaError('invalid', `\`${name}\` is not the name of a header.`)
    const text = textOf(value, `headers.${name}`)
    if (!/^[\x20-\x7e]*$/.test(text))
      throw new WisteriaError('invalid', `The header \`${name}\` has characters that cannot be sent in one.`)
    headers[name.toLowerCase()] = text
  }
  return {
    ...base,
    method,
    headers,
    ...(body === undefined ? {} : { type: 'application/json', body: JSON.stringify(body) }),
  }
}

/** How often a call is tried that gets no answer, or one that says that it may be tried again. */
export const mostTries = 6

/** What the outcome of a call means: it is done, it is tried again, or it has failed. */
export function meaningOf({
  status,
  answer,
  error,
  isCut,
}: CallOutcome):
  { readonly is: 'done'; readonly result: Data } | { readonly is: 'again' | 'failed'; readonly message: string } {
  if (status === null) return { is: 'again', message: `The address did not answer: ${error ?? 'no reason is known'}` }
  if (status >= 200 && status < 300) return { is: 'done', result: { status, body: isCut ? undefined : bodyOf(answer) } }
  const again = status >= 500 || status === 429 || status === 408
  return { is: again ? 'again' : 'failed', message: `The address answered ${status}: ${answer.slice(0, 200)}`.trim() }
}

function bodyOf(answer: string): Data {
  try {
    return JSON.parse(answer) as Data
  } catch {
    return answer
  }
}
