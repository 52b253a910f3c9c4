import { createHash } from 'node:crypto'
import { createWriteStream } from 'node:fs'
import { mkdir, readdir, readFile, rename, rm, stat, utimes, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { Transform, type Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { makeId, WisteriaError } from '@wisteria/core'
import { heldFiles } from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import { sanitizeSvg } from './sanitizeSvg.js'
import { kindOfFile, takenSaid, type FileKind } from './kinds.js'

/** Where the bytes of a file lie, by their digest: the same file is kept once. */
export const fileAt = (kernel: Kernel, hash: string): string =>
  join(kernel.options.data, 'assets', hash.slice(0, 2), hash)

/** A file that lies where it is kept. */
export interface KeptFile extends FileKind {
  readonly hash: string
  /** Bytes. */
  readonly size: number
}

/**
 * Keeps a file as it comes in, without holding it in memory: what it is is found out from its content, and an SVG is made
 * harmless. What is not taken leaves nothing behind.
 * @param announced how many bytes are said to come.
 * @throws WisteriaError `tooLarge`, `unsupportedMediaType` or `badRequest` in a sentence.
 */
export async function keepFile(kernel: Kernel, name: string, content: Readable, announced = 0): Promise<KeptFile> {
  const most = kernel.options.maxUpload * 1_000_000
  if (announced > most) throw tooLarge(kernel, name)
  const coming = join(kernel.options.data, 'assets', 'coming', makeId(kernel.environment))
  await mkdir(dirname(coming), { recursive: true })
  try {
    let size = 0
    const hash = createHash('sha256')
    const counting = new Transform({
      transform(chunk: Buffer, _, done) {
        size += chunk.length
        hash.update(chunk)
        done(size > most ? tooLarge(kernel, name) : null, chunk)
      },
    })
    await pipeline(content, counting, createWriteStream(coming))
    if (size === 0) throw new WisteriaError('badRequest', `${name} is empty.`)
    const kind = await kindOfFile(coming, size)
    if (!kind)
      throw new WisteriaError(
        'unsupportedMediaType',
        `${name} is of no kind that is taken here, or is damaged. What is taken: ${takenSaid}.`,
      )
    if (kind.mediaType === 'image/svg+xml') return await keepSvg(kernel, coming, kind)
    return await storeFile(kernel, coming, { ...kind, hash: hash.digest('hex'), size })
  } finally {
    await rm(coming, { force: true })
  }
}

const tooLarge = (kernel: Kernel, name: string): WisteriaError =>
  new WisteriaError('tooLarge', `${name} is too large: a file has at most ${kernel.options.maxUpload} MB.`)

async function keepSvg(kernel: Kernel, path: string, kind: FileKind): Promise<KeptFile> {
  const clean = Buffer.from(sanitizeSvg(await readFile(path, 'utf8')))
  await writeFile(path, clean)
  const hash = createHash('sha256').update(clean).digest('hex')
  return storeFile(kernel, path, { ...kind, hash, size: clean.length })
}

/** A file that nothing speaks of is kept so long: an upload may still be on its way into the tables, in milliseconds. */
const orphanTime = 24 * 3_600_000

/** Takes away the bytes, and the renditions, of files that no asset speaks of any more. @returns how many. */
export async function forgetFiles(kernel: Kernel): Promise<number> {
  const folder = join(kernel.options.data, 'assets')
  const held = await heldFiles(kernel.database)
  let gone = 0
  for (const part of await readdir(folder).catch(() => [])) {
    for (const name of await readdir(join(folder, part)).catch(() => [])) {
      const path = join(folder, part, name)
      const found = await stat(path).catch(() => undefined)
      if (held.has(name) || !found || found.mtimeMs > Date.now() - orphanTime) continue
      await rm(path, { force: true })
      await rm(join(kernel.options.data, 'renditions', name.slice(0, 2), name), { recursive: true, force: true })
      gone++
    }
  }
  return gone
}

async function storeFile(kernel: Kernel, path: string, file: KeptFile): Promise<KeptFile> {
  const target = fileAt(kernel, file.hash)
  await mkdir(dirname(target), { recursive: true })
  await rename(path, target)
  // The same file may have lain there for long, with nothing speaking of it: it counts as new.
  await utimes(target, new Date(), new Date())
  return file
}
