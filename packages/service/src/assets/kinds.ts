import { open, readFile } from 'node:fs/promises'

/** The media type of a file, read from its content. Names and declared types are ignored. */
export interface FileKind {
  readonly mediaType: string
  /** In pixels, as shown: a picture taken sideways counts as upright. */
  readonly width?: number
  readonly height?: number
}

/** The accepted media types, with their names for people. */
export const taken: readonly { readonly is: RegExp; readonly called: string }[] = [
  { is: /^image\/(png|jpeg|gif|webp|avif|svg\+xml)$/, called: 'pictures (PNG, JPEG, GIF, WebP, AVIF, SVG)' },
  { is: /^application\/pdf$/, called: 'PDF' },
  { is: /^audio\/(mpeg|ogg|wav|mp4|x-m4a|flac|opus)$/, called: 'sound (MP3, Ogg, WAV, M4A, FLAC)' },
  { is: /^video\/(mp4|webm|quicktime|ogg)$/, called: 'film (MP4, WebM, MOV)' },
  { is: /^application\/vnd\.(openxmlformats|oasis)/, called: 'office documents' },
  { is: /^application\/(zip|gzip)$/, called: 'archives (ZIP, GZIP)' },
  { is: /^text\/(plain|vtt)$/, called: 'plain text' },
]
export const takenSaid = taken.map(({ called }) => called).join(', ')

const head = 65_536
/** An SVG or text larger than this is no picture for a page, in bytes. */
const maxText = 5_000_000
/** Larger pictures need too much memory to render. */
export const maxPixels = 100_000_000

const rasters = new Set(['image/png', 'image/jpeg', 'image/gif', 'image/webp', 'image/avif'])
export const isRaster = (mediaType: string): boolean => rasters.has(mediaType)

/**
 * The media type of a file on the disk; undefined for one that is not accepted, or that cannot be read as the type it seems to
 * have.
 */
export async function kindOfFile(path: string, size: number): Promise<FileKind | undefined> {
  const start = await firstBytes(path)
  if (isWide(start)) return undefined
  const { fileTypeFromBuffer } = await import('file-type')
  const type = await fileTypeFromBuffer(start)
  // A type that is text is recognised as text here, whatever its first bytes look like.
  const isWritten = type?.mime === 'application/xml' || String(type?.mime) === 'image/svg+xml'
  const mediaType = isWritten ? undefined : type?.mime
  if (mediaType === undefined) return size <= maxText ? textKind(await readFile(path)) : undefined
  if (isRaster(mediaType)) return rasterKind(path, mediaType)
  const isKnown = taken.some(({ is }) => is.test(mediaType))
  return isKnown ? { mediaType } : undefined
}

/** Whether it begins like text in UTF-16, which looks like the beginning of an MP3 to a check of those bytes alone. */
const isWide = ([a, b, c, d]: Uint8Array): boolean =>
  (a === 0xff && b === 0xfe && d === 0) || (a === 0xfe && b === 0xff && c === 0)

async function firstBytes(path: string): Promise<Buffer> {
  const file = await open(path)
  try {
    const { buffer, bytesRead } = await file.read(Buffer.alloc(head), 0, head, 0)
    return buffer.subarray(0, bytesRead)
  } finally {
    await file.close()
  }
}

async function rasterKind(path: string, mediaType: string): Promise<FileKind | undefined> {
  try {
    const { default: sharp } = await import('sharp')
    const { width, height, orientation, pageHeight } = await sharp(path, { limitInputPixels: maxPixels }).metadata()
    const tall = pageHeight ?? height
    return (orientation ?? 1) >= 5 ? { mediaType, width: tall, height: width } : { mediaType, width, height: tall }
  } catch {
    return undefined
  }
}

function textKind(content: Buffer): FileKind | undefined {
  // In another encoding a browser could read another drawing than we checked.
  let text: string
  try {
    text = new TextDecoder('utf-8', { fatal: true }).decode(content)
  } catch {
    return undefined
  }
  if (text.includes('\0') || text.length === 0) return undefined
  const root = rootOf(text)
  if (root === 'unreadable') return undefined
  if (root !== undefined) return { mediaType: 'image/svg+xml', ...svgSize(root.tag) }
  return { mediaType: text.startsWith('WEBVTT') ? 'text/vtt' : 'text/plain' }
}

/** A prologue or a first tag longer than this is no drawing's, in characters. */
const longestPrologue = 20_000

/**
 * The first tag of an SVG document, after declarations and comments: found in one pass, by the end of each. Undefined for another
 * document; `unreadable` where it begins like an SVG and is malformed.
 */
function rootOf(text: string): { readonly tag: string } | 'unreadable' | undefined {
  const head = text.slice(0, longestPrologue)
  let at = 0
  for (;;) {
    while (at < head.length && /\s/.test(head[at]!)) at++
    const ends = head.startsWith('<?', at)
      ? '?>'
      : head.startsWith('<!--', at)
        ? '-->'
        : /^<!doctype/i.test(head.slice(at, at + 9))
          ? '>'
          : undefined
    if (ends === undefined) break
    const end = head.indexOf(ends, at + 2)
    if (end < 0) return 'unreadable'
    // Entities that a document defines could stand for anything.
    if (ends === '>' && head.slice(at, end).includes('[')) return 'unreadable'
    at = end + ends.length
  }
  if (!head.startsWith('<svg', at) || !/[\s/>]/.test(head[at + 4] ?? '')) return undefined
  const end = head.indexOf('>', at)
  return end < 0 ? 'unreadable' : { tag: head.slice(at, end + 1) }
}

/** The largest size that an SVG may claim, in pixels. */
const maxSvgSide = 16_384

function svgSize(root: string): { width: number; height: number } | undefined {
  const attribute = (name: string): string | undefined =>
    new RegExp(`\\s${name}=["']([^"']{0,100})["']`).exec(root)?.[1]
  const side = (text: string | undefined): number | undefined => {
    const match = /^\s{0,9}(\d{1,9}(?:\.\d{0,9})?)(?:px)?\s{0,9}$/.exec(text ?? '')?.[1]
    const size = Math.round(Number(match ?? 0))
    return size >= 1 && size <= maxSvgSide ? size : undefined
  }
  const box = (attribute('viewBox') ?? '').trim().split(/[\s,]+/)
  const width = side(attribute('width')) ?? side(box[2])
  const height = side(attribute('height')) ?? side(box[3])
  return width !== undefined && height !== undefined ? { width, height } : undefined
}
