import { createHash } from 'node:crypto'
import { createWriteStream } from 'node:fs'
import { mkdir, readFile, rm, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { Transform, type Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { makeId, WisteriaError } from '@wisteria/core'
import { forgetFile, initServiceValue, noteFile, serviceValue, unheldFiles, unnotedFiles } from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import { blobsOf } from './blobs.js'
import { kindOfFile, takenSaid, type FileKind } from './kinds.js'

/** A file that lies where it is kept. */
export interface KeptFile extends FileKind {
  readonly hash: string
  /** Bytes. */
  readonly size: number
}

/**
 * Stores a file as it arrives, without holding it in memory. Its media type is read from its content, and an SVG is cleaned. A
 * refused file leaves nothing behind.
 * @param announced the announced number of bytes.
 * @throws WisteriaError `tooLarge`, `unsupportedMediaType` or `badRequest` in a sentence.
 */
export async function keepFile(kernel: Kernel, name: string, content: Readable, announced = 0): Promise<KeptFile> {
  const most = kernel.options.maxUpload * 1_000_000
  if (announced > most) throw tooLarge(kernel, name)
  const coming = join(comingFolder(kernel), makeId(kernel.environment))
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
        `${name} is of a kind that is not accepted, or is damaged. Accepted: ${takenSaid}.`,
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
  const { sanitizeSvg } = await import('./sanitizeSvg.js')
  const clean = Buffer.from(sanitizeSvg(await readFile(path, 'utf8')))
  await writeFile(path, clean)
  const hash = createHash('sha256').update(clean).digest('hex')
  return storeFile(kernel, path, { ...kind, hash, size: clean.length })
}

/** How long a file without an asset is kept, in milliseconds: its upload may not be committed yet. */
const unheldTime = 24 * 3_600_000
/** So many are looked for at once. */
const batch = 100

/** Deletes the bytes, and the renditions, of files that no asset holds any more. @returns how many. */
export async function forgetFiles(kernel: Kernel): Promise<number> {
  const before = new Date(kernel.now - unheldTime).toISOString()
  let gone = 0
  for (let hashes: string[]; (hashes = await unheldFiles(kernel.database, before, batch)).length > 0;)
    for (const hash of hashes) {
      // Within the transaction, so that an upload of the same bytes comes before it or after it.
      const isGone = await kernel.write(async (transaction) => {
        if (!(await forgetFile(transaction, hash, before))) return false
        await blobsOf(kernel).delete(hash)
        return true
      })
      if (!isGone) continue
      await rm(join(kernel.options.data, 'renditions', hash.slice(0, 2), hash), { recursive: true, force: true })
      gone++
    }
  return gone
}

/** A file whose existence says that every file of the folder has its row. */
const notedName = 'filesNoted'

/**
 * At the start: deletes unfinished uploads. Adds rows for files without one, so that they are cleaned up: once for those of an
 * earlier version, and after a restore for those uploaded since the copy was made.
 */
export async function tidyFolder(kernel: Kernel, isRestored: boolean): Promise<void> {
  await rm(comingFolder(kernel), { recursive: true, force: true })
  if (!isRestored && (await serviceValue(kernel.database, notedName)) !== undefined) return
  const blobs = blobsOf(kernel)
  for await (const hashes of blobs.list()) {
    const unnoted = await unnotedFiles(kernel.database, hashes)
    if (unnoted.length === 0) continue
    const stats = await Promise.all(unnoted.map(async (hash) => ({ hash, found: await blobs.stat(hash) })))
    await kernel.write(async (transaction) => {
      for (const { hash, found: stat } of stats)
        if (stat) await noteFile(transaction, hash, stat.size, new Date(stat.storedAt).toISOString())
    })
  }
  await kernel.write((transaction) => initServiceValue(transaction, notedName, kernel.at))
}

/** Unfinished files, which are deleted at the next start. */
export const comingFolder = (kernel: Kernel): string => join(kernel.options.data, 'assets', 'coming')

async function storeFile(kernel: Kernel, path: string, file: KeptFile): Promise<KeptFile> {
  // Noted first: a file without a row would never be cleaned up.
  await kernel.write((transaction) => noteFile(transaction, file.hash, file.size, kernel.at))
  await blobsOf(kernel).put(file.hash, path)
  return file
}
