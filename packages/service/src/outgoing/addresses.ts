import { lookup } from 'node:dns'
import { BlockList, isIP, type LookupFunction } from 'node:net'

const privateNetworks = new BlockList()
for (const [address, prefix] of [
  ['0.0.0.0', 8],
  ['10.0.0.0', 8],
  ['100.64.0.0', 10],
  ['127.0.0.0', 8],
  ['169.254.0.0', 16],
  ['172.16.0.0', 12],
  ['192.0.0.0', 24],
  ['192.168.0.0', 16],
  ['198.18.0.0', 15],
  // Documentation, and 6to4 relays.
  ['192.0.2.0', 24],
  ['198.51.100.0', 24],
  ['203.0.113.0', 24],
  ['192.88.99.0', 24],
  ['224.0.0.0', 4],
  ['240.0.0.0', 4],
] as const)
  privateNetworks.addSubnet(address, prefix, 'ipv4')
for (const [address, prefix] of [
  ['::', 128],
  ['::1', 128],
  ['64:ff9b::', 96],
  ['fc00::', 7],
  ['fe80::', 10],
  ['ff00::', 8],
  // Local NAT64, discard, Teredo, 6to4, site-local, documentation.
  ['64:ff9b:1::', 48],
  ['100::', 64],
  ['2001::', 32],
  ['2002::', 16],
  ['fec0::', 10],
  ['2001:db8::', 32],
] as const)
  privateNetworks.addSubnet(address, prefix, 'ipv6')

/** Whether an IP address is on a private network. Mapped IPv4 addresses count as the address that they map. */
export function isPrivateAddress(address: string): boolean {
  const mapped = /^::ffff:(\d+\.\d+\.\d+\.\d+)$/i.exec(address)?.[1]
  const plain = mapped ?? address
  return privateNetworks.check(plain, isIP(plain) === 6 ? 'ipv6' : 'ipv4')
}

export class PrivateAddressError extends Error {}

/**
 * Resolves a name for a connection, and refuses it when any of its addresses is private: checked where the connection is made, so
 * that a name cannot resolve differently for the check and the connection.
 */
export const publicLookup: LookupFunction = (host, options, callback) => {
  lookup(host, { ...options, all: true }, (error, addresses) => {
    if (error) return callback(error, '', 4)
    const inside = addresses.find(({ address }) => isPrivateAddress(address))
    if (inside || addresses.length === 0)
      return callback(
        new PrivateAddressError(`${host} is on a private network (${inside?.address ?? 'no address'}).`),
        '',
        4,
      )
    if (options.all) return (callback as unknown as (error: null, addresses: unknown) => void)(null, addresses)
    callback(null, addresses[0]!.address, addresses[0]!.family)
  })
}

/** Why an address may not be subscribed, or undefined. */
export function refuseAddress(address: string, allowPrivate: boolean): string | undefined {
  let url: URL
  try {
    url = new URL(address)
  } catch {
    return 'must be an address such as https://site.example/hooks'
  }
  if (url.protocol !== 'https:' && url.protocol !== 'http:') return 'must begin with https:// or http://'
  if (url.username || url.password) return 'must not carry a user name or password'
  const host = url.hostname.replace(/^\[|\]$/g, '')
  if (
    !allowPrivate &&
    ((isIP(host) !== 0 && isPrivateAddress(host)) || host === 'localhost' || host.endsWith('.localhost'))
  )
    return 'is on a private network; the operator must allow those with --allow-private-addresses'
  return undefined
}
