import type { IncomingMessage } from 'node:http'
import proxyAddress from 'proxy-addr'

/** Whether a network address is a proxy's whose word on where a request comes from is taken. */
export type Trust = (address: string, hop: number) => boolean

/**
 * @param proxies addresses, ranges (`10.0.0.0/8`) or `loopback`, separated by commas; empty for none.
 * @throws TypeError where one of them is no address.
 */
export function trustOf(proxies: string): Trust {
  const list = proxies
    .split(',')
    .map((part) => part.trim())
    .filter((part) => part !== '')
  return list.length === 0 ? () => false : proxyAddress.compile(list)
}

/** Where a request comes from: the nearest address that is no trusted proxy's. */
export const addressOf = (request: IncomingMessage, trust: Trust): string =>
  request.headers['x-forwarded-for'] === undefined ? (request.socket.remoteAddress ?? '') : proxyAddress(request, trust)
