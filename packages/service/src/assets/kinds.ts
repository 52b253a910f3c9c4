import { open, readFile } from 'node:fs/promises'
import { fileTypeFromBuffer } from 'file-type'
import sharp from 'sharp'

/** What a file is, by its content: names and claims are not asked. */
export interface FileKind {
  readonly mediaType: string
  /** Pixels, as it is shown: a picture that was taken sideways counts as upright. */
  readonly width?: number
  readonly height?: number
}

/** What is taken, with what people call it. */
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
/** Larger pictures take more memory to render than a page is worth. */
const maxPixels = 100_000_000

const rasters = new Set(['image/png', 'image/jpeg', 'image/gif', 'image/webp', 'image/avif'])
export const isRaster = (mediaType: string): boolean => rasters.has(mediaType)

/** Finds out what a file on the disk is; undefined for what is not taken, or cannot be read as what it seems to be. */
export async function kindOfFile(path: string, size: number): Promise<FileKind | undefined> {
  const start = await firstBytes(path)
  const found = await fileTypeFromBuffer(start)
  const mediaType = found?.mime === 'application/xml' ? undefined : found?.mime
  if (mediaType === undefined) return size <= maxText ? textKind(await readFile(path)) : undefined
  if (isRaster(mediaType)) return rasterKind(path, mediaType)
  const known = taken.some(({ is }) => is.test(mediaType))
  return known ? { mediaType } : undefined
}

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
    const { width, height, orientation, pageHeight } = await sharp(path, { limitInputPixels: maxPixels }).metadata()
    const tall = pageHeight ?? height
    return (orientation ?? 1) >= 5 ? { mediaType, width: tall, height: width } : { mediaType, width, height: tall }
  } catch {
    return undefined
  }
}

function textKind(content: Buffer): FileKind | undefined {
  let text: string
  try {
    text = new TextDecoder('utf-8', { fatal: true }).decode(content)
  } catch {
    return undefined
  }
  if (text.includes('\0') || text.length === 0) return undefined
  if (/^\s*(<\?xml[^>]*>\s*)?(<!DOCTYPE[^>]*>\s*)?(<!--[\s\S]*?-->\s*)*<svg[\s>]/.test(text))
    return { mediaType: 'image/svg+xml', ...svgSize(text) }
  return { mediaType: text.startsWith('WEBVTT') ? 'text/vtt' : 'text/plain' }
}

function svgSize(text: string): { width: number; height: number } | undefined {
  const root = /<svg[^>]*>/.exec(text)?.[0] ?? ''
  const number = (name: string): number | undefined => {
    const found = new RegExp(`\\s${name}="([\\d.]+)(?:px)?"`).exec(root)?.[1]
    return found === undefined ? undefined : Math.round(Number(found))
  }
  const box = /\sviewBox="\s*[-\d.]+[\s,]+[-\d.]+[\s,]+([\d.]+)[\s,]+([\d.]+)/.exec(root)
  const [width, height] = [
    number('width') ?? (box ? Math.round(Number(box[1])) : undefined),
    number('height') ?? (box ? Math.round(Number(box[2])) : undefined),
  ]
  return width !== undefined && height !== undefined ? { width, height } : undefined
}
