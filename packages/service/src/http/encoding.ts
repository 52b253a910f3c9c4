import { promisify } from 'node:util'
import { brotliCompress, constants, gzip } from 'node:zlib'
import { LRUCache } from 'lru-cache'
import Negotiator from 'negotiator'

export type Encoding = 'br' | 'gzip'

/** Shorter answers gain nothing. */
export const shortest = 1_000

/** By header: the same few are sent again and again. */
const chosen = new LRUCache<string, Encoding | 'identity'>({
  max: 200,
  maxSize: 100_000,
  sizeCalculation: (_, header) => header.length + 1,
})

/** The encoding that serves a reader best, by their `Accept-Encoding` (RFC 9110). */
export function encodingFor(header: string | undefined): Encoding | undefined {
  if (header === undefined) return undefined
  let encoding = chosen.get(header)
  if (encoding === undefined) {
    const negotiator = new Negotiator({ headers: { 'accept-encoding': header.slice(0, 300) } })
    encoding =
      (negotiator.encoding(['br', 'gzip'], { preferred: ['br', 'gzip'] }) as Encoding | undefined) ?? 'identity'
    chosen.set(header, encoding)
  }
  return encoding === 'identity' ? undefined : encoding
}

const compressors = {
  br: promisify((bytes: Buffer, done: (error: Error | null, compressed: Buffer) => void) =>
    brotliCompress(
      bytes,
      { params: { [constants.BROTLI_PARAM_QUALITY]: 5, [constants.BROTLI_PARAM_SIZE_HINT]: bytes.length } },
      done,
    ),
  ),
  gzip: promisify((bytes: Buffer, done: (error: Error | null, compressed: Buffer) => void) =>
    gzip(bytes, { level: 6 }, done),
  ),
}

export const compress = (encoding: Encoding, bytes: Buffer): Promise<Buffer> => compressors[encoding](bytes)

/** The strong tag of a compressed copy: other bytes, so another tag. */
export const tagOf = (tag: string, encoding: Encoding): string => `${tag.slice(0, -1)}.${encoding}"`
