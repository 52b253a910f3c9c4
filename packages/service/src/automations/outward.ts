import {
  isEmail,
  valueOf,
  WisteriaError,
  type Data,
  type SingleStep,
  type Moment,
  type ReadyStep,
  type Scope,
} from '@wisteria/core'
import { textOf } from './steps.js'
import type { Kernel } from '../kernel/kernel.js'
import { callOut, type CallOutcome, type OutgoingCall } from '../outgoing/calling.js'
import { sendMail, type MailOutcome, type OutgoingMail } from '../outgoing/mailing.js'

/** The most characters of an answer that later steps can use. */
const answerKept = 200_000

/**
 * What a step sends to somebody else.
 * @param id the same whenever the step of this run, or item, is tried: a receiver can tell that it has it already.
 */
export function callOf({ step, parts }: ReadyStep, scope: Scope, moment: Moment, id: string): Outgoing {
  const single = step as Extract<SingleStep, { do: 'call' | 'chat' | 'mail' }>
  const part = (name: string): Data => parts[name] && valueOf(parts[name], scope, moment)
  if (single.do === 'mail') return { ...mailOf(part), id }
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

/** The most addresses of a mail, and the most characters of its subject and its text. */
const mostReceivers = 50
const longestSubject = 200
const longestText = 100_000

function mailOf(part: (name: string) => Data): Omit<OutgoingMail, 'id'> {
  const to = [part('to') ?? []].flat().map((address) => textOf(address, 'to').trim())
  if (to.length === 0) throw new WisteriaError('invalid', '`to` has no address.')
  if (to.length > mostReceivers)
    throw new WisteriaError(
      'invalid',
      `A mail goes to at most ${mostReceivers} addresses, and \`to\` has ${to.length}.`,
    )
  const wrong = to.find((address) => !isEmail(address))
  if (wrong !== undefined)
    throw new WisteriaError('invalid', `\`to\`: “${String(wrong).slice(0, 80)}” is not an e-mail address.`)
  // A line break would begin another header.
  const subject = textOf(part('subject'), 'subject').replaceAll(/\s+/g, ' ').slice(0, longestSubject)
  return { to, subject, text: textOf(part('text'), 'text').slice(0, longestText) }
}

/** What a step sends out of the service. */
export type Outgoing = OutgoingCall | OutgoingMail

/** What came of it, with the status or reply code of the answer. */
export interface Outward {
  readonly status: number | null
  readonly meaning: Meaning
}

/** Sends what a step sends. */
export async function sendOut(kernel: Kernel, outgoing: Outgoing): Promise<Outward> {
  if (!('to' in outgoing)) {
    const outcome = await callOut(kernel, outgoing)
    return { status: outcome.status, meaning: meaningOf(outcome) }
  }
  const { mailServer, mailFrom } = kernel.options
  if (mailServer === '' || mailFrom === '')
    return {
      status: null,
      meaning: {
        is: 'failed',
        message: 'The service has no mail server. Start it with --mail-server and --mail-from.',
      },
    }
  const outcome = await sendMail(kernel, outgoing)
  return { status: outcome.code, meaning: meaningOfMail(outcome) }
}

/** How often a call is tried that gets no answer, or one that says that it may be tried again. */
export const mostTries = 6

type Meaning =
  { readonly is: 'done'; readonly result: Data } | { readonly is: 'again' | 'failed'; readonly message: string }

/** Of the replies of a mail server, those from 500 on are final (RFC 5321). */
export function meaningOfMail({ code, answer }: MailOutcome): Meaning {
  if (code === 250) return { is: 'done', result: { status: code } }
  return {
    is: code !== null && code >= 500 ? 'failed' : 'again',
    message: `The mail server did not take it: ${answer.slice(0, 300)}`,
  }
}

/** What the outcome of a call means: it is done, it is tried again, or it has failed. */
export function meaningOf({ status, answer, error, isCut }: CallOutcome): Meaning {
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
