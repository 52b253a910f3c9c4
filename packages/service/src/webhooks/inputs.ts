import { didYouMean, eventTypes, isEventType, readChangeCondition, WisteriaError, type Model } from '@wisteria/core'
import { z } from 'zod'
import type { Kernel } from '../kernel/kernel.js'
import { refuseAddress } from '../outgoing/addresses.js'

export const label = z.string().trim().min(1, 'must not be empty').max(120)
export const address = z.string().max(2000)
export const events = z.array(z.string()).min(1, 'must name at least one event').max(100)
export const where = z.string().trim().min(1, 'must not be empty').max(10_000)
export const headers = z.record(z.string(), z.string().nullable())

const mostHeaders = 20
const longestValue = 2000
/** Those that a delivery sets itself, or that belong to the connection. */
const reserved = [
  'content-type',
  'content-length',
  'user-agent',
  'host',
  'connection',
  'keep-alive',
  'transfer-encoding',
  'te',
  'trailer',
  'upgrade',
  'expect',
]

const refuse = (pointer: string, code: string, message: string): never => {
  throw new WisteriaError('invalid', message, { problems: [{ code, pointer, message }] })
}

/** @throws WisteriaError where nothing may be sent to an address. */
export function requireAddress(kernel: Kernel, address: string): void {
  const refused = refuseAddress(address, kernel.options.allowPrivateAddresses)
  if (refused) refuse('/address', 'badAddress', `The address ${refused}.`)
}

/** @throws WisteriaError that suggests the nearest event. */
export function requireEvents(asked: readonly string[]): void {
  const unknown = asked.find((event) => !isEventType(event))
  if (unknown === undefined) return
  const all = Object.keys(eventTypes)
  throw new WisteriaError(
    'invalid',
    `\`${unknown}\` is not an event.${didYouMean(unknown, all)} There are ${all.join(', ')}.`,
  )
}

/** @throws WisteriaError `badCondition` where a condition does not fit the model. */
export const requireCondition = (text: string | null | undefined, model: Model): void => {
  if (text !== null && text !== undefined) readChangeCondition(text, model)
}

/**
 * The headers of a webhook after a change: null removes one.
 * @throws WisteriaError for a name or a value that cannot be sent.
 */
export function changedHeaders(
  before: Readonly<Record<string, string>>,
  change: Readonly<Record<string, string | null>>,
): Record<string, string> {
  const after = new Map(Object.entries(before))
  for (const [written, value] of Object.entries(change)) {
    const name = written.toLowerCase()
    const pointer = `/headers/${written.replaceAll('~', '~0').replaceAll('/', '~1')}`
    if (!/^[a-z0-9!#$%&'*+.^_`|~-]{1,80}$/.test(name))
      refuse(pointer, 'badHeader', `\`${written.slice(0, 80)}\` is not the name of a header.`)
    if (reserved.includes(name) || name.startsWith('webhook-'))
      refuse(pointer, 'badHeader', `The header \`${name}\` is set by Wisteria itself.`)
    if (value === null) after.delete(name)
    else if (value.length > longestValue || !/^[\x20-\x7e]*$/.test(value))
      refuse(
        pointer,
        'badHeader',
        `The value of \`${name}\` has at most ${longestValue} characters, all of them printable ASCII.`,
      )
    else after.set(name, value)
  }
  if (after.size > mostHeaders)
    refuse('/headers', 'badHeader', `A webhook has at most ${mostHeaders} headers of its own.`)
  return Object.fromEntries(after)
}
