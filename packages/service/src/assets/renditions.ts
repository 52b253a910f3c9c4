import { existsSync } from 'node:fs'
import { mkdir, readdir, rename, rm, stat } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import {
  makeId,
  maxSide,
  renditionFits,
  renditionFor,
  renditionFormats,
  WisteriaError,
  type Rendition,
} from '@wisteria/core'
import type { Asset } from '@wisteria/store'
import { z } from 'zod'
import { FairQueue } from '../kernel/fairQueue.js'
import type { Kernel } from '../kernel/kernel.js'
import { encode, mediaTypes, type RenditionFormat } from './encode.js'
import { blobsOf } from './blobs.js'
import { isRaster } from './kinds.js'
import { perKernel } from '../kernel/perKernel.js'

const side = z.coerce
  .number('must be a number of pixels')
  .int('must be a whole number of pixels')
  .min(1, 'must be at least 1')
  .max(maxSide, `must be at most ${maxSide}`)

/** The formats of renditions. */
export const renditionParameters = {
  w: side.optional(),
  h: side.optional(),
  fit: z.enum(renditionFits, `must be ${renditionFits.join(' or ')}`).optional(),
  format: z.enum(renditionFormats, `must be one of ${renditionFormats.join(', ')}`).optional(),
}

/** The largest number of renditions of one picture on the disk; the oldest are deleted. */
const maxKept = 60
/** Renditions made at the same time: each takes a core and much memory. */
const maxAtOnce = 2
/** Renditions that may wait, in turns by address. */
const maxWaiting = 100
/** For so long a form that could not be made is not tried again, in milliseconds. */
const hopelessFor = 600_000

/** Makes renditions of pictures on the first request, and stores them on the disk. */
export class Renditions {
  readonly #kernel: Kernel
  readonly #making = new Map<string, Promise<void>>()
  readonly #queue = new FairQueue(maxAtOnce, maxWaiting)
  /** Forms that could not be made, and until when they are not tried again. */
  readonly #hopeless = new Map<string, number>()

  constructor(kernel: Kernel) {
    this.#kernel = kernel
  }

  /**
   * The file of a rendition. A picture is never enlarged; `cover` fills both sides and cuts off the parts farthest from the focal
   * point.
   * @param who the address that asks for it.
   * @throws WisteriaError where it is no picture, a parameter is missing, or it cannot be made; `unavailable` where too many wait.
   */
  async of(asset: Asset, wanted: Rendition, who: string): Promise<{ path: string; mediaType: string; tag: string }> {
    if (!isRaster(asset.mediaType) && asset.mediaType !== 'image/svg+xml')
      throw new WisteriaError(
        'badRequest',
        `${asset.name} is not a picture: leave \`w\`, \`h\`, \`fit\` and \`format\` out.`,
      )
    const asked = renditionFor(wanted)
    if (asked.fit === 'cover' && (asked.w === undefined || asked.h === undefined))
      throw new WisteriaError('badRequest', '`fit=cover` needs `w` and `h`.')
    const format =
      asked.format ??
      (asset.mediaType === 'image/jpeg'
        ? 'jpeg'
        : asset.mediaType === 'image/png'
          ? 'png'
          : asset.mediaType === 'image/avif'
            ? 'avif'
            : 'webp')
    const focal =
      asked.fit === 'cover'
        ? [asset.focalPoint?.x ?? 0.5, asset.focalPoint?.y ?? 0.5].map((part) => part.toFixed(2)).join('-')
        : ''
    const name = `${asked.w ?? ''}x${asked.h ?? ''}-${asked.fit ?? 'inside'}${focal === '' ? '' : '-' + focal}.${format}`
    const path = join(this.#kernel.options.data, 'renditions', asset.hash.slice(0, 2), asset.hash, name)
    if (!existsSync(path)) {
      const making =
        this.#making.get(path) ??
        this.#queue.run(who, () => this.#make(asset, asked, format, path)).finally(() => this.#making.delete(path))
      this.#making.set(path, making)
      await making
    }
    return { path, mediaType: mediaTypes[format], tag: `"${asset.hash.slice(0, 24)}-${name}"` }
  }

  async #make(asset: Asset, asked: Rendition, format: RenditionFormat, path: string): Promise<void> {
    if ((this.#hopeless.get(path) ?? 0) > this.#kernel.now) throw unmakeable(asset)
    const folder = dirname(path)
    await mkdir(folder, { recursive: true })
    await this.#makeRoom(folder)
    const source = blobsOf(this.#kernel).address(asset.hash)
    const coming = `${path}.${makeId(this.#kernel.environment)}`
    try {
      await encode({ asset, size: asked, format, source, to: coming })
      await rename(coming, path)
    } catch (error) {
      await rm(coming, { force: true })
      this.#kernel.logger.warn({ err: error, asset: asset.id }, 'a rendition could not be made')
      if (this.#hopeless.size > 10_000) this.#hopeless.clear()
      this.#hopeless.set(path, this.#kernel.now + hopelessFor)
      throw unmakeable(asset)
    }
  }

  /** Requests for ever new sizes only replace renditions of the same picture. */
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

const unmakeable = ({ name }: Asset): WisteriaError =>
  new WisteriaError('badRequest', `${name} cannot be shown in this form: it is damaged, or takes too long to draw.`)

export const renditionsOf = perKernel((kernel) => new Renditions(kernel))
