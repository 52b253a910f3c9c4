import { execFile } from 'node:child_process'
import { createRequire } from 'node:module'
import { pathToFileURL } from 'node:url'
import { promisify } from 'node:util'
import type { Rendition } from '@wisteria/core'
import type { Asset } from '@wisteria/store'
import type { Sharp } from 'sharp'
import { maxPixels } from './kinds.js'

export const mediaTypes = { webp: 'image/webp', avif: 'image/avif', jpeg: 'image/jpeg', png: 'image/png' } as const
export type RenditionFormat = keyof typeof mediaTypes

/** One rendition to make: the asset, size, format, source file and target file. Sides are in pixels. */
export interface Encoding {
  readonly asset: Asset
  readonly size: Pick<Rendition, 'w' | 'h' | 'fit'>
  readonly format: RenditionFormat
  readonly source: string
  readonly to: string
}

/** Encoding is stopped after this many seconds. */
const longestEncoding = 20

/**
 * Writes a rendition to a file.
 * @throws Error when the picture is damaged, or takes longer than 20 seconds.
 */
export const encode = (encoding: Encoding): Promise<void> =>
  encoding.asset.mediaType === 'image/svg+xml' ? encodeSvg(encoding) : encodeRaster(encoding)

const qualities = {
  webp: { quality: 80 },
  avif: { quality: 55, effort: 3 },
  jpeg: { quality: 82, mozjpeg: true },
  png: {},
} as const

async function encodeRaster({ asset, size: { w, h, fit }, format, source, to }: Encoding): Promise<void> {
  const { default: sharp } = await import('sharp')
  let picture = sharp(source, { limitInputPixels: maxPixels, animated: false }).rotate()
  if (fit === 'cover') picture = covering(picture, asset, w!, h!)
  else if (w !== undefined || h !== undefined)
    picture = picture.resize({ width: w, height: h, fit: 'inside', withoutEnlargement: true })
  await picture.toFormat(format, qualities[format]).timeout({ seconds: longestEncoding }).toFile(to)
}

/** The program that rasterizes an SVG. It is passed as text, so that it runs the same from TypeScript sources and from a build. */
const svgProgram = `
const [library, source, to, task] = process.argv.slice(1)
const { default: sharp } = await import(library)
const { density, resize, format, quality, pixels } = JSON.parse(task)
let picture = sharp(source, { limitInputPixels: pixels, density })
if (resize) picture = picture.resize(resize)
await picture.toFormat(format, quality).toFile(to)
`
const sharpLibrary = pathToFileURL(createRequire(import.meta.url).resolve('sharp')).href

/** Rasterizes an SVG in a child process: the library cannot be stopped once it has begun, but a process can be killed. */
async function encodeSvg({ asset, size: { w, h, fit }, format, source, to }: Encoding): Promise<void> {
  const [width, height] = [asset.width ?? 300, asset.height ?? 150]
  const scale = Math.max((w ?? 0) / width, (h ?? 0) / height)
  const density = scale > 0 ? Math.min(2400, Math.max(1, 72 * scale)) : 72
  const resize =
    w === undefined && h === undefined
      ? null
      : { ...(w === undefined ? {} : { width: w }), ...(h === undefined ? {} : { height: h }), fit: fit ?? 'inside' }
  const task = { density, resize, format, quality: qualities[format], pixels: maxPixels }
  await promisify(execFile)(
    process.execPath,
    ['--input-type=module', '-e', svgProgram, sharpLibrary, source, to, JSON.stringify(task)],
    { timeout: longestEncoding * 1000, killSignal: 'SIGKILL', maxBuffer: 100_000 },
  )
}

/** Cuts out the part of a picture that has the given proportions and is nearest to its focal point. */
function covering(picture: Sharp, asset: Asset, w: number, h: number): Sharp {
  const [width, height] = [asset.width ?? w, asset.height ?? h]
  const scale = Math.min(width / w, height / h)
  const [cutWidth, cutHeight] = [Math.max(1, Math.round(w * scale)), Math.max(1, Math.round(h * scale))]
  const at = (focal: number, whole: number, part: number): number =>
    Math.round(Math.min(Math.max(focal * whole - part / 2, 0), whole - part))
  return picture
    .extract({
      left: at(asset.focalPoint?.x ?? 0.5, width, cutWidth),
      top: at(asset.focalPoint?.y ?? 0.5, height, cutHeight),
      width: Math.min(cutWidth, width),
      height: Math.min(cutHeight, height),
    })
    .resize({ width: Math.min(w, cutWidth), height: Math.min(h, cutHeight), fit: 'fill' })
}
