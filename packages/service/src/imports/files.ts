import { createWriteStream, existsSync } from 'node:fs'
import { mkdir, readdir, rename, rm } from 'node:fs/promises'
import { basename, dirname, join } from 'node:path'
import type { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { isAddress, makeId, wantedIn, WisteriaError, type ReadyMapping } from '@wisteria/core'
import {
  assetsByHash,
  countImportFiles,
  importRowsFrom,
  importWithId,
  noteImportFiles,
  storeImportFiles,
  waitingImportFiles,
  type EntryImport,
  type ImportFile,
  type Site,
  type StoredFile,
  type Transaction,
} from '@wisteria/store'
import { addAsset } from '../assets/adding.js'
import { comingFolder, keepFile } from '../assets/files.js'
import { ZipReading } from '../assets/zip.js'
import type { Kernel } from '../kernel/kernel.js'
import { limitBytes } from '../kernel/limitBytes.js'
import { download } from '../outgoing/downloading.js'

/** The most bytes of a ZIP file with files, in megabytes. */
const maxMegabytes = 2_000
/** So many files come at once, and so many rows are read at once to find their names. */
const filesAtOnce = 4
const rowsAtOnce = 500
/** The most files that an import may bring. */
const maxFiles = 20_000

const pathOf = (kernel: Kernel, id: string): string => join(kernel.options.data, 'imports', `${id}.zip`)

/**
 * Stores the ZIP file with the files that rows of an import name.
 * @returns how many files it has.
 * @throws WisteriaError `invalid` where it is no ZIP file; the earlier one stays then.
 */
export async function receiveFiles(kernel: Kernel, id: string, file: Readable): Promise<number> {
  const path = pathOf(kernel, id)
  const coming = join(comingFolder(kernel), makeId(kernel.environment))
  await mkdir(dirname(path), { recursive: true })
  await mkdir(dirname(coming), { recursive: true })
  try {
    const most = `A ZIP file with files has at most ${maxMegabytes} MB. Part it.`
    await pipeline(file, limitBytes(maxMegabytes * 1e6, most), createWriteStream(coming))
    const zip = await ZipReading.open(coming)
    const count = filesIn(zip).length
    zip.close()
    if (count === 0) throw new WisteriaError('invalid', 'The ZIP file has no files.')
    await rename(coming, path)
    return count
  } finally {
    await rm(coming, { force: true })
  }
}

const filesIn = (zip: ZipReading): readonly string[] => zip.names.filter((name) => !name.endsWith('/'))

/** Deletes the ZIP file of an import that is forgotten. */
export const forgetImportFiles = (kernel: Kernel, id: string): Promise<void> => rm(pathOf(kernel, id), { force: true })

/** Deletes ZIP files whose import is forgotten. */
export async function tidyImportFiles(kernel: Kernel): Promise<void> {
  const folder = join(kernel.options.data, 'imports')
  for (const name of await readdir(folder).catch(() => []))
    if (!(await importWithId(kernel.database, basename(name, '.zip')))) await rm(join(folder, name), { force: true })
}

/** The files of the ZIP file of an import, found by their paths, or by their names where only one has it. */
export class FilesOfImport {
  readonly #zip: ZipReading | undefined
  readonly #paths = new Map<string, string | null>()

  private constructor(zip: ZipReading | undefined) {
    this.#zip = zip
    for (const path of zip ? filesIn(zip) : []) {
      const name = basename(path)
      this.#paths.set(name, this.#paths.has(name) ? null : path)
    }
    for (const path of zip ? filesIn(zip) : []) this.#paths.set(path, path)
  }

  static async open(kernel: Kernel, id: string): Promise<FilesOfImport> {
    const path = pathOf(kernel, id)
    return new FilesOfImport(existsSync(path) ? await ZipReading.open(path) : undefined)
  }

  /** Whether a text in a cell names a file that comes with the import, or from an address. */
  readonly brings = (text: string): boolean => isAddress(text) || this.#paths.has(text)

  /** A file by the text in a cell. @throws WisteriaError `invalid`. */
  async read(kernel: Kernel, text: string): Promise<Readable> {
    if (isAddress(text)) return download(kernel, text)
    const path = this.#paths.get(text)
    if (path === null) throw new WisteriaError('invalid', 'The ZIP file has several files of this name. Say the path.')
    const content = path === undefined ? undefined : await this.#zip?.read(path)
    if (!content) throw new WisteriaError('invalid', 'The ZIP file has no such file.')
    return content
  }

  close(): void {
    this.#zip?.close()
  }
}

/** Whether a mapping has columns whose cells name files. */
export const namesFiles = (mapping: ReadyMapping): boolean =>
  mapping.columns.some((column) => column.fields.at(-1)?.kind === 'asset')

/** Notes which files the rows of an import name. */
export async function noteFiles(
  kernel: Kernel,
  transaction: Transaction,
  { id, rows: count }: EntryImport,
  mapping: ReadyMapping,
): Promise<void> {
  const files = await FilesOfImport.open(kernel, id)
  try {
    const names = new Set<string>()
    for (let from = 0; from < count; from += rowsAtOnce)
      for (const { cells } of await importRowsFrom(transaction, id, from, rowsAtOnce))
        for (const { is, text } of wantedIn(mapping, cells)) if (is === 'asset' && files.brings(text)) names.add(text)
    if (names.size > maxFiles)
      throw new WisteriaError('tooLarge', `The rows name ${names.size} files; an import brings at most ${maxFiles}.`)
    await noteImportFiles(transaction, id, [...names])
  } finally {
    files.close()
  }
}

/** Fetches some files that have not come yet, and stores their bytes. @returns how many have come so far; undefined where none is left. */
export async function fetchFiles(
  kernel: Kernel,
  site: Site,
  id: string,
): Promise<{ readonly all: number; readonly done: number } | undefined> {
  const waiting = await waitingImportFiles(kernel.database, id, filesAtOnce)
  if (waiting.length === 0) return undefined
  const files = await FilesOfImport.open(kernel, id)
  try {
    const fetched = await Promise.all(waiting.map((name) => fetchFile(kernel, files, name)))
    const hashes = fetched.flatMap(({ file }) => file?.hash ?? [])
    await kernel.write(async (transaction) => {
      const there = await assetsByHash(transaction, site.id, hashes)
      const stored = fetched.map((one) => ({ ...one, asset: (one.file && there.get(one.file.hash)) ?? null }))
      await storeImportFiles(transaction, id, stored)
    })
    return await countImportFiles(kernel.database, id)
  } finally {
    files.close()
  }
}

async function fetchFile(kernel: Kernel, files: FilesOfImport, name: string): Promise<ImportFile> {
  try {
    const kept = await keepFile(kernel, nameOfFile(name), await files.read(kernel, name))
    const { hash, size, mediaType, width = null, height = null } = kept
    return { name, file: { hash, size, mediaType, width, height }, asset: null, problem: '' }
  } catch (error) {
    // A connection that breaks off is a problem of the file too.
    const problem = error instanceof WisteriaError ? error.message : `It broke off: ${(error as Error).message}.`
    return { name, file: null, asset: null, problem }
  }
}

/** Adds the asset of a file that has come with an import; one with the same bytes is used again. @returns its id. */
export async function addImportedFile(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  actor: string,
  id: string,
  { name, file }: ImportFile & { readonly file: StoredFile },
): Promise<string> {
  const { width, height, ...kept } = file
  const size = width === null || height === null ? {} : { width, height }
  const there = (await assetsByHash(transaction, site.id, [file.hash])).get(file.hash)
  const asset =
    there ??
    (await addAsset(kernel, transaction, site, actor, { name: nameOfFile(name), file: { ...kept, ...size } })).id
  await storeImportFiles(transaction, id, [{ name, file, asset, problem: '' }])
  return asset
}

/** The name of an asset: the last part of an address or a path. */
function nameOfFile(name: string): string {
  const last = isAddress(name) ? new URL(name).pathname.split('/').filter(Boolean).at(-1) : basename(name)
  return (decoded(last ?? '').replace(/[/\\\p{C}]/gu, '') || 'file').slice(-200)
}

function decoded(text: string): string {
  try {
    return decodeURIComponent(text)
  } catch {
    return text
  }
}
