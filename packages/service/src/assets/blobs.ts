import { createReadStream } from 'node:fs'
import { mkdir, readdir, rename, rm, stat, utimes } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import type { Readable } from 'node:stream'
import { perKernel } from '../kernel/perKernel.js'

export interface BlobStat {
  /** Bytes. */
  readonly size: number
  /** Milliseconds since the epoch. */
  readonly storedAt: number
}

/** Where the bytes of files are stored, by the digests of their bytes. */
export interface BlobStore {
  /** Moves the file at a path on this machine into the store. A file with the same digest is left as it is. */
  put(hash: string, from: string): Promise<void>
  stat(hash: string): Promise<BlobStat | undefined>
  /** @param range the first and the last byte; all of them when left out. */
  read(hash: string, range?: { readonly start: number; readonly end: number }): Readable
  /** Deletes it, if it is there. */
  delete(hash: string): Promise<void>
  /** Where a program on this machine finds the file. */
  address(hash: string): string
}

/** Files in a folder of the local disk. */
export class DiskBlobs implements BlobStore {
  readonly #folder: string

  constructor(folder: string) {
    this.#folder = folder
  }

  address(hash: string): string {
    return join(this.#folder, hash.slice(0, 2), hash)
  }

  async put(hash: string, from: string): Promise<void> {
    const target = this.address(hash)
    await mkdir(dirname(target), { recursive: true })
    await rename(from, target)
    await utimes(target, new Date(), new Date())
  }

  async stat(hash: string): Promise<BlobStat | undefined> {
    const stats = await stat(this.address(hash)).catch(() => undefined)
    return stats && { size: stats.size, storedAt: stats.mtimeMs }
  }

  read(hash: string, range?: { readonly start: number; readonly end: number }): Readable {
    return createReadStream(this.address(hash), range ? { start: range.start, end: range.end } : {})
  }

  async delete(hash: string): Promise<void> {
    await rm(this.address(hash), { force: true })
  }

  /** The digests of everything that is stored, some at a time. */
  async *list(): AsyncGenerator<readonly string[]> {
    for (const part of await readdir(this.#folder).catch(() => []))
      if (/^[0-9a-f]{2}$/.test(part)) yield await readdir(join(this.#folder, part)).catch(() => [])
  }
}

export const blobsOf = perKernel((kernel) => new DiskBlobs(join(kernel.options.data, 'assets')))
