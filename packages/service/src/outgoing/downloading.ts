import { request as httpRequest, type IncomingMessage } from 'node:http'
import { request as httpsRequest } from 'node:https'
import { WisteriaError } from '@wisteria/core'
import type { Kernel } from '../kernel/kernel.js'
import { publicLookup, refuseAddress } from './addresses.js'

/** How long an answer may take to begin, and to end, in milliseconds. */
const beginsWithin = 15_000
const endsWithin = 120_000
const mostRedirects = 4

/**
 * Downloads a file from an address of somebody else. Redirects are followed; each address is refused where it is on a private network.
 * @returns the answer, whose body is the file.
 * @throws WisteriaError `invalid` in a sentence, where there is none.
 */
export async function download(kernel: Pick<Kernel, 'options'>, address: string): Promise<IncomingMessage> {
  let at = address
  for (let redirects = 0; redirects <= mostRedirects; redirects++) {
    const answer = await answerOf(kernel.options.allowPrivateAddresses, at)
    const { statusCode = 0, headers } = answer
    if (statusCode >= 200 && statusCode < 300) return answer
    answer.destroy()
    if (![301, 302, 303, 307, 308].includes(statusCode) || headers.location === undefined)
      throw new WisteriaError('invalid', `It answered with status ${statusCode}.`)
    if (!URL.canParse(headers.location, at)) throw new WisteriaError('invalid', 'It redirects to no address.')
    at = new URL(headers.location, at).href
  }
  throw new WisteriaError('invalid', `It redirects more than ${mostRedirects} times.`)
}

function answerOf(allowPrivate: boolean, address: string): Promise<IncomingMessage> {
  const refused = refuseAddress(address, allowPrivate)
  if (refused) return Promise.reject(new WisteriaError('invalid', `The address ${refused}.`))
  const url = new URL(address)
  const send = url.protocol === 'https:' ? httpsRequest : httpRequest
  return new Promise((resolve, reject) => {
    const fail = (error: Error): void => reject(new WisteriaError('invalid', `It cannot be reached: ${error.message}.`))
    const request = send(
      url,
      { headers: { 'user-agent': 'Wisteria' }, ...(allowPrivate ? {} : { lookup: publicLookup }) },
      (response) => {
        clearTimeout(beginning)
        const ending = setTimeout(() => response.destroy(new Error('it took too long')), endsWithin)
        response.once('close', () => clearTimeout(ending))
        resolve(response)
      },
    )
    const beginning = setTimeout(
      () => request.destroy(new Error(`no answer within ${beginsWithin / 1000} s`)),
      beginsWithin,
    )
    request.once('error', fail)
    request.once('close', () => clearTimeout(beginning))
    request.end()
  })
}
