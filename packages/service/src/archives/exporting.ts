import { createWriteStream } from 'node:fs'
import { mkdir, rm } from 'node:fs/promises'
import { extname, join } from 'node:path'
import { finished } from 'node:stream/promises'
import { makeId } from '@wisteria/core'
import {
  accountWithId,
  actorsIn,
  archiveLines,
  archiveParts,
  automationWithId,
  connectorWithId,
  keyOnSite,
  PublicReading,
  publicParts,
  siteWithId,
  type ArchiveLine,
  type PartName,
  type Reader,
  type Site,
} from '@wisteria/store'
import { blobsOf } from '../assets/blobs.js'
import { comingFolder } from '../assets/files.js'
import type { Kernel } from '../kernel/kernel.js'
import type { Answer } from '../kernel/route.js'
import { version } from '../kernel/version.js'
import {
  archiveVersion,
  fileOf,
  filesFolder,
  headFile,
  partsOf,
  type ArchiveContent,
  type ArchiveHead,
  type ArchivePerson,
} from './form.js'

/** A whole site as an archive, as it is at one moment. It is sent while it is packed. */
export const exportArchive = (kernel: Kernel, site: Site, content: ArchiveContent): Answer => ({
  headers: {
    'Content-Type': 'application/zip',
    'Content-Disposition': `attachment; filename="${site.name}-${kernel.at.slice(0, 10)}.zip"`,
    'Cache-Control': 'no-store',
  },
  stream: (gone) => archiveOf(kernel, site.id, content, gone),
})

async function* archiveOf(
  kernel: Kernel,
  site: string,
  content: ArchiveContent,
  gone: AbortSignal,
): AsyncGenerator<Uint8Array> {
  const folder = join(comingFolder(kernel), makeId(kernel.environment))
  await mkdir(folder, { recursive: true })
  try {
    // The lines are written to the disk first, so that no slow receiver holds up the database.
    const { head, files } = await kernel.database.snapshot((reader) =>
      new Writing(kernel, reader, folder, gone).write(site, content),
    )
    const { ZipFile } = await import('yazl')
    const zip = new ZipFile()
    const mtime = new Date(head.madeAt)
    zip.addBuffer(Buffer.from(`${JSON.stringify(head, null, 2)}\n`), headFile, { mtime })
    for (const name of Object.keys(head.counts))
      zip.addFile(join(folder, fileOf(name as PartName)), fileOf(name as PartName), { mtime })
    for (const { hash, name, isPacked } of files)
      zip.addFile(blobsOf(kernel).address(hash), filesFolder + name, { mtime, compress: !isPacked })
    zip.end()
    zip.once('error', (error: Error) =>
      (zip.outputStream as unknown as NodeJS.WritableStream & { destroy(error: Error): void }).destroy(error),
    )
    for await (const chunk of zip.outputStream) {
      if (gone.aborted) return
      yield chunk as Buffer
    }
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
}

interface ArchivedFile {
  readonly hash: string
  readonly name: string
  /** Whether its bytes are compressed already. */
  readonly isPacked: boolean
}

/** The lines of an archive, written to files in a folder. */
class Writing {
  readonly #kernel: Kernel
  readonly #reader: Reader
  readonly #folder: string
  readonly #gone: AbortSignal
  readonly #actors = new Set<string>()
  readonly #files = new Map<string, ArchivedFile>()
  readonly #counts: Record<string, number> = {}

  constructor(kernel: Kernel, reader: Reader, folder: string, gone: AbortSignal) {
    this.#kernel = kernel
    this.#reader = reader
    this.#folder = folder
    this.#gone = gone
  }

  async write(id: string, content: ArchiveContent): Promise<{ head: ArchiveHead; files: readonly ArchivedFile[] }> {
    const site = await siteWithId(this.#reader, id)
    const open = content === 'public' ? await PublicReading.of(this.#reader, site) : undefined
    if (open) for (const part of publicParts) await this.#part(part, open.lines(part))
    else for (const part of partsOf.everything) await this.#part(part, archiveLines(this.#reader, site, part))
    await this.#part('people', this.#people(site))
    const files: ArchivedFile[] = []
    const missingFiles: string[] = []
    for (const file of this.#files.values())
      if (await blobsOf(this.#kernel).stat(file.hash)) files.push(file)
      else missingFiles.push(file.hash)
    const head: ArchiveHead = {
      format: 'wisteria-archive',
      version: archiveVersion,
      content,
      madeAt: this.#kernel.at,
      madeBy: `Wisteria ${version}`,
      site: { name: site.name, label: site.settings.label },
      modelVersion: site.model.version,
      settingsVersion: site.settingsVersion,
      sequence: open?.sequence ?? site.sequence,
      counts: this.#counts,
      files: files.length,
      missingFiles,
    }
    return { head, files }
  }

  async #part(name: PartName | 'people', lines: AsyncIterable<readonly object[]>): Promise<void> {
    const file = createWriteStream(join(this.#folder, fileOf(name)))
    let count = 0
    for await (const some of lines) {
      this.#gone.throwIfAborted()
      if (name !== 'people') some.forEach((line) => this.#note(name, line as ArchiveLine))
      count += some.length
      const text = some.map((line) => `${JSON.stringify(line)}\n`).join('')
      if (!file.write(text))
        await new Promise<void>((resolve) => file.once('drain', resolve).once('error', () => resolve()))
    }
    file.end()
    await finished(file)
    this.#counts[name] = count
  }

  #note(name: PartName, line: ArchiveLine): void {
    for (const actor of actorsIn(archiveParts[name], line)) this.#actors.add(actor)
    if (name !== 'assetRevisions') return
    const hash = line['sha256'] as string
    if (this.#files.has(hash)) return
    const ending = /^\.[a-z0-9]{1,8}$/.exec(extname(String(line['name'])).toLowerCase())?.[0] ?? ''
    const isPacked = !/^(text\/|image\/svg)/.test(String(line['mediaType']))
    this.#files.set(hash, { hash, name: hash + ending, isPacked })
  }

  /** The names of those who did something. */
  async *#people(site: Site): AsyncGenerator<ArchivePerson[]> {
    for (const actor of [...this.#actors].sort()) {
      const [kind, id = ''] = actor.split(':')
      if (kind === 'account') {
        const account = await accountWithId(this.#reader, id)
        if (account) yield [{ actor, name: account.name, email: account.email }]
      } else if (kind === 'key') {
        const key = await keyOnSite(this.#reader, site.id, id)
        if (key) yield [{ actor, name: key.label }]
      } else if (kind === 'automation') {
        const automation = await automationWithId(this.#reader, id)
        if (automation) yield [{ actor, name: automation.definition.automation }]
      } else if (kind === 'connector') {
        const connector = await connectorWithId(this.#reader, id)
        if (connector) yield [{ actor, name: connector.label }]
      }
    }
  }
}
