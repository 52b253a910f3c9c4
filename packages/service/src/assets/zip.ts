import type { Readable } from 'node:stream'
import { WisteriaError } from '@wisteria/core'
import { openPromise, type Entry, type ZipFile } from 'yauzl'

/** A ZIP file on the disk, whose files are read one by one, as streams. */
export class ZipReading {
  readonly #zip: ZipFile
  readonly #entries: ReadonlyMap<string, Entry>

  private constructor(zip: ZipFile, entries: ReadonlyMap<string, Entry>) {
    this.#zip = zip
    this.#entries = entries
  }

  /** @throws WisteriaError `invalid` where it is no ZIP file, or a damaged one. */
  static async open(path: string): Promise<ZipReading> {
    try {
      const zip = await openPromise(path, { autoClose: false })
      const entries = new Map<string, Entry>()
      for await (const entry of zip.eachEntry()) entries.set(entry.fileName, entry)
      return new ZipReading(zip, entries)
    } catch (error) {
      throw new WisteriaError('invalid', `This is no ZIP file, or it is damaged: ${(error as Error).message}.`)
    }
  }

  get names(): readonly string[] {
    return [...this.#entries.keys()]
  }

  /** The bytes that a file has when it is unpacked; 0 where there is none. */
  sizeOf(name: string): number {
    return this.#entries.get(name)?.uncompressedSize ?? 0
  }

  async read(name: string): Promise<Readable | undefined> {
    const entry = this.#entries.get(name)
    return entry && (await this.#zip.openReadStreamPromise(entry))
  }

  /** The lines of a text file, from one on; none where there is no such file. */
  async *lines(name: string, from = 0): AsyncGenerator<string> {
    const stream = await this.read(name)
    if (!stream) return
    let index = 0
    try {
      for await (const line of linesIn(stream)) {
        if (index >= from) yield line
        index++
      }
    } catch (error) {
      if (error instanceof WisteriaError) throw error
      throw new WisteriaError('invalid', `${name} is damaged after line ${index}: ${(error as Error).message}.`)
    }
  }

  close(): void {
    this.#zip.close()
  }
}

/** In characters. */
const longestLine = 64_000_000

/** Lines without their ends. A long one is put together once. */
async function* linesIn(stream: Readable): AsyncGenerator<string> {
  let pieces: string[] = []
  let length = 0
  for await (const chunk of stream.setEncoding('utf8') as AsyncIterable<string>) {
    const [first = '', ...more] = chunk.split('\n')
    pieces.push(first)
    length += first.length
    if (length > longestLine) throw new WisteriaError('tooLarge', `A line has more than ${longestLine} characters.`)
    for (const piece of more) {
      yield pieces.join('')
      pieces = [piece]
      length = piece.length
    }
  }
  if (length > 0) yield pieces.join('')
}
