import { existsSync } from 'node:fs'
import { mkdir, readdir, rename, rm, stat } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { makeId, maxSide, renditionFits, renditionFormats, WisteriaError, type Rendition } from '@wisteria/core'
import type { AssetRow } from '@wisteria/store'
import sharp, { type Sharp } from 'sharp'
import { z } from 'zod'
import type { Kernel } from '../kernel.js'
import { fileAt } from './files.js'
import { isRaster } from './kinds.js'

const side = z.coerce
  .number('must be a number of pixels')
  .int('must be a whole number of pixels')
  .min(1, 'must be at least 1')
  .max(maxSide, `must be at most ${maxSide}`)

/** What a picture may be asked for as. */
export const renditionParameters = {
  w: side.optional(),
  h: side.optional(),
  fit: z.enum(renditionFits, `must be ${renditionFits.join(' or ')}`).optional(),
  format: z.enum(renditionFormats, `must be one of ${renditionFormats.join(', ')}`).optional(),
}

/** So many forms of one picture are kept on the disk; the oldest go. */
const maxKept = 60
/** So many are made at a time: making one takes a core and much memory. */
const maxAtOnce = 2

const mediaTypes = { webp: 'image/webp', avif: 'image/avif', jpeg: 'image/jpeg', png: 'image/png' } as const

/** Makes renditions of pictures when they are first asked for, and keeps them on the disk. */
export class Renditions {
  readonly #kernel: Kernel
  readonly #making = new Map<string, Promise<void>>()
  readonly #waiting: (() => void)[] = []
  #running = 0

  constructor(kernel: Kernel) {
    this.#kernel = kernel
  }

  /**
   * The file of a rendition. A picture is never made larger than it is; `cover` fills both sides and cuts away what is
   * farthest from the focal point.
   * @throws WisteriaError where it is no picture, or too little is said.
   */
  async of(row: AssetRow, asked: Rendition): Promise<{ path: string; mediaType: string; tag: string }> {
    if (!isRaster(row.media_type) && row.media_type !== 'image/svg+xml')
      throw new WisteriaError(
        'badRequest',
        `${row.name} is no picture: leave \`w\`, \`h\`, \`fit\` and \`format\` out.`,
      )
    if (asked.fit === 'cover' && (asked.w === undefined || asked.h === undefined))
      throw new WisteriaError('badRequest', '`fit=cover` needs `w` and `h`.')
    const format = asked.format ?? (row.media_type === 'image/jpeg' ? 'jpeg' : row.media_type === 'image/png' ? 'png' : row.media_type === 'image/avif' ? 'avif' : 'webp') // prettier-ignore
    const focal = asked.fit === 'cover' ? [row.focal_x ?? 0.5, row.focal_y ?? 0.5].map((one) => one.toFixed(2)).join('-') : '' // prettier-ignore
    const name = `${asked.w ?? ''}x${asked.h ?? ''}-${asked.fit ?? 'inside'}${focal === '' ? '' : '-' + focal}.${format}`
    const path = join(this.#kernel.options.data, 'renditions', row.hash.slice(0, 2), row.hash, name)
    if (!existsSync(path)) {
      const making =
        this.#making.get(path) ?? this.#make(row, asked, format, path).finally(() => this.#making.delete(path))
      this.#making.set(path, making)
      await making
    }
    return { path, mediaType: mediaTypes[format], tag: `"${row.hash.slice(0, 24)}-${name}"` }
  }

  async #make(row: AssetRow, { w, h, fit }: Rendition, format: keyof typeof mediaTypes, path: string): Promise<void> {
    await this.#turn()
    try {
      const folder = dirname(path)
      await mkdir(folder, { recursive: true })
      await this.#makeRoom(folder)
      const source = fileAt(this.#kernel, row.hash)
      const isDrawn = row.media_type === 'image/svg+xml'
      const wanted = Math.max(w ?? 0, h ?? 0)
      const density = isDrawn && wanted > 0 ? Math.min(2400, Math.max(72, (72 * wanted) / Math.max(row.width ?? 300, row.height ?? 300, 1))) : 72 // prettier-ignore
      let picture = sharp(source, { limitInputPixels: 100_000_000, density, animated: false }).rotate()
      if (fit === 'cover') picture = await covering(picture, row, w!, h!)
      else if (w !== undefined || h !== undefined)
        picture = picture.resize({ width: w, height: h, fit: 'inside', withoutEnlargement: !isDrawn })
      const coming = `${path}.${makeId(this.#kernel.surroundings)}`
      const quality = { webp: { quality: 80 }, avif: { quality: 55, effort: 3 }, jpeg: { quality: 82, mozjpeg: true }, png: {} } // prettier-ignore
      await picture.toFormat(format, quality[format]).toFile(coming)
      await rename(coming, path)
    } finally {
      this.#running--
      this.#waiting.shift()?.()
    }
  }

  async #turn(): Promise<void> {
    while (this.#running >= maxAtOnce) await new Promise<void>((resolve) => this.#waiting.push(resolve))
    this.#running++
  }

  /** Whoever asks for ever other sizes only pushes out what they asked for before. */
  async #makeRoom(folder: string): Promise<void> {
    const names = await readdir(folder)
    if (names.length < maxKept) return
    const aged = await Promise.all(
      names.map(async (name) => ({ name, at: (await stat(join(folder, name)).catch(() => undefined))?.mtimeMs ?? 0 })),
    )
    aged.sort((a, b) => a.at - b.at)
    for (const { name } of aged.slice(0, names.length - maxKept + 1)) await rm(join(folder, name), { force: true })
  }
}

/** Cuts the part out of a picture that has the proportions asked for and is nearest to what matters in it. */
async function covering(picture: Sharp, row: AssetRow, w: number, h: number): Promise<Sharp> {
  const [width, height] = [row.width ?? w, row.height ?? h]
  const scale = Math.min(width / w, height / h)
  const [cutWidth, cutHeight] = [Math.max(1, Math.round(w * scale)), Math.max(1, Math.round(h * scale))]
  if (row.media_type === 'image/svg+xml') return picture.resize({ width: w, height: h, fit: 'cover' })
  const at = (focal: number, whole: number, part: number): number =>
    Math.round(Math.min(Math.max(focal * whole - part / 2, 0), whole - part))
  return picture
    .extract({
      left: at(row.focal_x ?? 0.5, width, cutWidth),
      top: at(row.focal_y ?? 0.5, height, cutHeight),
      width: Math.min(cutWidth, width),
      height: Math.min(cutHeight, height),
    })
    .resize({ width: Math.min(w, cutWidth), height: Math.min(h, cutHeight), fit: 'fill' })
}
