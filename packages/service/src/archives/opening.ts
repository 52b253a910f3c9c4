import { createHash } from 'node:crypto'
import { json } from 'node:stream/consumers'
import {
  checkSettings,
  idOfSameTime,
  localeTags,
  readModelFiles,
  resolveModel,
  sameContent,
  WisteriaError,
  type Model,
  type ModelFile,
  type SiteSettings,
} from '@wisteria/core'
import type { ArchiveLine, PartName } from '@wisteria/store'
import type { z } from 'zod'
import {
  archiveHead,
  archivePerson,
  archiveVersion,
  fileOf,
  filesFolder,
  headFile,
  partsOf,
  type ArchiveHead,
  type ArchivePerson,
} from './form.js'
import { ZipReading } from '../assets/zip.js'

/** The most bytes of what is read as a whole: the head, and the small parts. */
const maxWhole = 200_000_000

/** An archive on the disk that has been looked into. */
export class Archive {
  readonly #zip: ZipReading
  readonly head: ArchiveHead
  /** The new ids of entries and assets by those in the archive; empty where they keep theirs. */
  #ids: ReadonlyMap<string, string> = new Map()

  private constructor(zip: ZipReading, head: ArchiveHead) {
    this.#zip = zip
    this.head = head
  }

  /** @throws WisteriaError `invalid` that says why it is no archive of a site. */
  static async open(path: string): Promise<Archive> {
    const zip = await ZipReading.open(path)
    try {
      const stream = zip.sizeOf(headFile) > maxWhole ? undefined : await zip.read(headFile)
      if (!stream) throw new WisteriaError('invalid', `This is no archive of a site: it has no ${headFile}.`)
      const said = await json(stream).catch(() => undefined)
      const head = headFrom(said)
      const missing = partsOf[head.content].find((part) => !zip.names.includes(fileOf(part)))
      if (missing) throw new WisteriaError('invalid', `The archive lacks ${fileOf(missing)}.`)
      return new Archive(zip, head)
    } catch (error) {
      zip.close()
      throw error
    }
  }

  /**
   * Gives entries and assets other ids, wherever they stand. The same seed gives the same ids.
   * @param ids those in the archive.
   */
  rename(ids: readonly string[], seed: string): void {
    this.#ids = new Map(ids.map((id) => [id, idOfSameTime(id, createHash('sha256').update(`${seed} ${id}`).digest())]))
  }

  /** The lines of a part, from one on, each with its number from 1. @throws WisteriaError `invalid` with file and line. */
  async *lines(
    part: PartName | 'people',
    from = 0,
  ): AsyncGenerator<{ readonly line: ArchiveLine; readonly number: number }> {
    let number = from
    for await (const text of this.#zip.lines(fileOf(part), from)) {
      number++
      yield { line: this.#read(text, fileOf(part), number), number }
    }
  }

  /** All lines of a part that is small. */
  async all(part: PartName | 'people'): Promise<ArchiveLine[]> {
    if (this.#zip.sizeOf(fileOf(part)) > maxWhole)
      throw new WisteriaError('tooLarge', `${fileOf(part)} has more than ${maxWhole / 1e6} MB.`)
    const lines: ArchiveLine[] = []
    for await (const { line } of this.lines(part)) lines.push(line)
    return lines
  }

  /** Values of all lines of a part. */
  async values(part: PartName, name: string): Promise<string[]> {
    const values: string[] = []
    for await (const { line } of this.lines(part)) values.push(String(line[name]))
    return values
  }

  async people(): Promise<ArchivePerson[]> {
    return (await this.all('people')).map((line) => {
      const read = archivePerson.safeParse(line)
      if (read.success) return read.data
      throw new WisteriaError('invalid', `${fileOf('people')}: ${read.error.issues[0]!.message}.`)
    })
  }

  /** The names of its files by the digests of their bytes. */
  get files(): ReadonlyMap<string, string> {
    const files = new Map<string, string>()
    for (const name of this.#zip.names) {
      const hash = name.startsWith(filesFolder) ? /^[0-9a-f]{64}/.exec(name.slice(filesFolder.length))?.[0] : undefined
      if (hash !== undefined) files.set(hash, name)
    }
    return files
  }

  /** @param name in the archive. */
  readonly file = (name: string) => this.#zip.read(name)

  close(): void {
    this.#zip.close()
  }

  #read(text: string, file: string, number: number): ArchiveLine {
    const ids = this.#ids
    const named = ids.size === 0 ? text : text.replace(idInText, (id) => ids.get(id) ?? id)
    try {
      const line = JSON.parse(named) as unknown
      if (typeof line === 'object' && line !== null && !Array.isArray(line)) return line as ArchiveLine
    } catch {
      // Said below.
    }
    throw new WisteriaError('invalid', `${file}, line ${number} is no JSON object.`)
  }
}

/** Ids are whole words. */
const idInText = /\b[0-9a-z]{20}\b/g

function headFrom(said: unknown): ArchiveHead {
  const { format, version } = (said ?? {}) as { format?: unknown; version?: unknown }
  if (format !== 'wisteria-archive')
    throw new WisteriaError('invalid', `This is no archive of a site: ${headFile} does not say so.`)
  if (typeof version === 'number' && version > archiveVersion)
    throw new WisteriaError(
      'invalid',
      `The archive has form ${version}, and this service reads up to ${archiveVersion}. A newer version of the service reads it.`,
    )
  const read = archiveHead.safeParse(said)
  if (read.success) return read.data
  const [issue] = read.error.issues as [z.core.$ZodIssue]
  throw new WisteriaError('invalid', `${headFile}: \`${issue.path.join('.')}\` ${issue.message}.`)
}

/** What an archive puts in force. */
export interface ArchivedSite {
  readonly model: Model
  readonly settings: SiteSettings
}

/** @throws WisteriaError `invalid` where model or settings are missing, or do not fit each other. */
export async function siteIn(archive: Archive): Promise<ArchivedSite> {
  const { modelVersion, settingsVersion } = archive.head
  const newest = (lines: readonly ArchiveLine[], part: PartName, version: number): ArchiveLine => {
    const line = lines.find((one) => one['version'] === version)
    if (line) return line
    throw new WisteriaError('invalid', `${fileOf(part)} lacks version ${version}, which is in force.`)
  }
  const { settings } = newest(await archive.all('settings'), 'settings', settingsVersion) as {
    settings?: SiteSettings
  }
  const { model, files } = newest(await archive.all('models'), 'models', modelVersion) as {
    model?: Model
    files?: readonly ModelFile[]
  }
  try {
    const problems = checkSettings(settings!)
    if (problems.length > 0) throw new WisteriaError('invalid', problems.map(({ message }) => message).join(' '))
    requireSame(model!, files!, settings!)
    return { model: model!, settings: settings! }
  } catch (error) {
    // What is badly damaged has no form to rely on.
    throw new WisteriaError('invalid', `The model or the settings are damaged: ${(error as Error).message}`)
  }
}

/** A model must be what its files say. */
function requireSame(model: Model, files: readonly ModelFile[], settings: SiteSettings): void {
  const { defaultLocale, timeZone } = settings
  const again = resolveModel(readModelFiles(files), model, { locales: localeTags(settings), defaultLocale, timeZone })
  if (!sameContent(again.types, model.types) || !sameContent(again.blockTypes, model.blockTypes))
    throw new WisteriaError('invalid', 'The model is not what its files say.')
}
