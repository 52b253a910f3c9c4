import { promisify } from 'node:util'
import { brotliCompress, constants, gzip } from 'node:zlib'

export type Encoding = 'br' | 'gzip'

/** Shorter answers gain nothing. */
export const shortest = 1_000

const known = new Map<string, Encoding | undefined>()

/** The encoding that serves a reader best, by their `Accept-Encoding` (RFC 9110). */
export function encodingFor(header: string | undefined): Encoding | undefined {
  if (header === undefined) return undefined
  if (known.has(header)) return known.get(header)
  const weights = new Map(
    header
      .slice(0, 300)
      .split(',')
      .map((part): [string, number] => {
        const [name = '', ...parameters] = part
          .trim()
          .toLowerCase()
          .split(/\s*;\s*/)
        const weight = parameters.map((one) => /^q=([\d.]+)$/.exec(one)?.[1]).find(Boolean)
        return [name, weight === undefined ? 1 : Number(weight)]
      }),
  )
  const weightOf = (name: string): number => weights.get(name) ?? weights.get('*') ?? 0
  const best = (['br', 'gzip'] as const).filter((name) => weightOf(name) > 0)
  const found = best.sort((a, b) => weightOf(b) - weightOf(a))[0]
  if (known.size >= 200) known.clear()
  known.set(header, found)
  return found
}

const compressors = {
  br: promisify((bytes: Buffer, done: (error: Error | null, made: Buffer) => void) =>
    brotliCompress(
      bytes,
      { params: { [constants.BROTLI_PARAM_QUALITY]: 5, [constants.BROTLI_PARAM_SIZE_HINT]: bytes.length } },
      done,
    ),
  ),
  gzip: promisify((bytes: Buffer, done: (error: Error | null, made: Buffer) => void) =>
    gzip(bytes, { level: 6 }, done),
  ),
}

export const compress = (encoding: Encoding, bytes: Buffer): Promise<Buffer> => compressors[encoding](bytes)

/** The strong tag of a compressed copy: other bytes, so another tag. */
export const tagOf = (tag: string, encoding: Encoding): string => `${tag.slice(0, -1)}.${encoding}"`
