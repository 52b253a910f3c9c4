import type { IncomingMessage } from 'node:http'
import proxyAddress from 'proxy-addr'

/** Whether a network address belongs to a proxy whose `X-Forwarded-For` is believed. */
export type Trust = (address: string, hop: number) => boolean

/**
 * @param proxies addresses, ranges (`10.0.0.0/8`) or `loopback`, separated by commas; empty for none.
 * @throws TypeError where one of them is not an address.
 */
export function trustOf(proxies: string): Trust {
  const list = proxies
    .split(',')
    .map((part) => part.trim())
    .filter((part) => part !== '')
  return list.length === 0 ? () => false : proxyAddress.compile(list)
}

/** The address of a request: the nearest one that is not a trusted proxy's. */
export const addressOf = (request: IncomingMessage, trust: Trust): string =>
  request.headers['x-forwarded-for'] === undefined ? (request.socket.remoteAddress ?? '') : proxyAddress(request, trust)
