import { canonicalText, WisteriaError, wordsOf, type SegmentPiece } from '@wisteria/core'
import { SaxesParser, type SaxesTag } from 'saxes'
import { readHandedOut, type ReturnedEntry, type ReturnedHead, type ReturnedText } from './handedOut.js'
import { metadataNamespace, unitOfId, xliffNamespace } from './xliffWriting.js'

/** The most texts of one entry, and the most characters of one. */
const maxUnits = 5000
const maxCharacters = 400_000

const refuse = (line: number, column: number, message: string): WisteriaError =>
  new WisteriaError('invalid', `Line ${line}, column ${column}: ${message}`, {
    problems: [{ code: 'badFile', message, line, column }],
  })

/**
 * Reads an XLIFF 2 file, entry by entry. Document types are refused, so entities are never declared, and nothing outside the file is
 * ever read.
 * @throws WisteriaError `invalid` with line and column.
 */
export async function* readXliff(
  content: AsyncIterable<Buffer>,
  onHead: (head: ReturnedHead) => void,
): AsyncGenerator<ReturnedEntry> {
  const reading = new XliffReading(onHead)
  const decoder = new TextDecoder('utf-8', { fatal: true })
  const decode = (chunk?: Buffer): string => {
    try {
      return chunk ? decoder.decode(chunk, { stream: true }) : decoder.decode()
    } catch {
      throw new WisteriaError('invalid', 'The file is not UTF-8. Save it as UTF-8.')
    }
  }
  for await (const chunk of content) {
    reading.write(decode(chunk))
    yield* reading.takeEntries()
  }
  reading.write(decode())
  reading.end()
  yield* reading.takeEntries()
}

/** A text that is being read: nested where codes enclose text. */
interface OpenText {
  readonly code: string | undefined
  readonly pieces: SegmentPiece[]
}

interface OpenUnit {
  readonly id: string
  readonly line: number
  base: string | undefined
  source: SegmentPiece[]
  target: SegmentPiece[] | undefined
  /** Whether every segment of it is translated, reviewed or final. */
  isDone: boolean
}

/**
 * A text without the line breaks and indents that a tool has put around its codes and at its ends, and those inside as spaces: where
 * white space does not count, tools may print elements on lines of their own.
 */
function withoutIndents(pieces: readonly SegmentPiece[]): SegmentPiece[] {
  return (canonicalText(pieces) as SegmentPiece[]).map((piece) =>
    typeof piece !== 'string'
      ? piece.inside
        ? { code: piece.code, inside: withoutIndents(piece.inside) }
        : piece
      : piece
          .replace(/^\r?\n[ \t]*/, '')
          .replace(/\r?\n[ \t]*$/, '')
          .replace(/\r?\n[ \t]+/g, ' '),
  )
}

class XliffReading {
  readonly #parser = new SaxesParser({ position: true })
  readonly #onHead: (head: ReturnedHead) => void
  #entries: ReturnedEntry[] = []
  #depth = 0
  #isRoot = false
  #prefixes = { xliff: '', metadata: 'mda' }
  #file: (Omit<ReturnedEntry, 'texts'> & { texts: ReturnedText[]; ids: Set<string> }) | undefined
  readonly #seen = new Set<string>()
  #unit: OpenUnit | undefined
  #segmentDone = false
  #isIgnorable = false
  #ignored: SegmentPiece[] = []
  #text: OpenText[] | undefined
  #characters = 0
  #meta: { text: string } | undefined
  /** Whether white space counts (`xml:space`), from the outside in. */
  readonly #spaces: boolean[] = []

  constructor(onHead: (head: ReturnedHead) => void) {
    this.#onHead = onHead
    const parser = this.#parser
    parser.on('error', (error) => {
      const message = error.message.replace(/^\d+:\d+: /, '')
      throw this.#refuse(this.#isRoot || !message.includes('root element') ? message : 'The file is empty.')
    })
    parser.on('doctype', () => {
      throw this.#refuse('A document type is not allowed. Remove the line that begins with `<!DOCTYPE`.')
    })
    parser.on('opentag', (tag) => this.#open(tag))
    parser.on('closetag', (tag) => this.#close(tag))
    parser.on('text', (text) => this.#add(text))
    parser.on('cdata', (text) => this.#add(text))
  }

  write(text: string): void {
    this.#parser.write(text)
  }
  end(): void {
    this.#parser.close()
    if (!this.#isRoot) throw this.#refuse('The file is empty.')
  }
  takeEntries(): ReturnedEntry[] {
    const entries = this.#entries
    this.#entries = []
    return entries
  }

  #refuse(message: string): WisteriaError {
    return refuse(this.#parser.line, this.#parser.column, message)
  }

  /**
   * A name without its prefix, where that is the one of a namespace at the root. Prefixes are not resolved otherwise: there are
   * libraries that leave out the declarations of modules.
   */
  #localIn(namespace: 'xliff' | 'metadata', name: string): string | undefined {
    const cut = name.indexOf(':')
    const prefix = cut < 0 ? '' : name.slice(0, cut)
    return prefix === this.#prefixes[namespace] ? name.slice(cut + 1) : undefined
  }

  #open(tag: SaxesTag): void {
    this.#depth++
    const attribute = (name: string): string | undefined => tag.attributes[name] as string | undefined
    const space = attribute('xml:space')
    this.#spaces.push(space === undefined ? (this.#spaces.at(-1) ?? false) : space === 'preserve')
    if (this.#depth === 1) return this.#openRoot(tag, attribute)
    if (this.#localIn('metadata', tag.name) === 'meta' && this.#unit && attribute('type') === 'base')
      this.#meta = { text: '' }
    const local = this.#localIn('xliff', tag.name)
    if (local === undefined) return
    if (this.#text) return this.#openInline(local, attribute)
    switch (local) {
      case 'file':
        return this.#openFile(attribute('id'))
      case 'unit':
        return this.#openUnit(attribute('id'))
      case 'segment': {
        const state = attribute('state') ?? 'initial'
        if (!['initial', 'translated', 'reviewed', 'final'].includes(state))
          throw this.#refuse(`\`${state}\` is no state of XLIFF 2. They are: initial, translated, reviewed, final.`)
        this.#segmentDone = state !== 'initial'
        this.#isIgnorable = false
        return
      }
      case 'ignorable':
        this.#isIgnorable = true
        this.#ignored = []
        return
      case 'source':
      case 'target':
        if (!this.#unit) throw this.#refuse(`\`${local}\` must stand in a segment of a unit.`)
        this.#text = [{ code: undefined, pieces: [] }]
        this.#characters = 0
    }
  }

  #openRoot(tag: SaxesTag, attribute: (name: string) => string | undefined): void {
    const version = attribute('version') ?? ''
    const cut = tag.name.indexOf(':')
    const prefix = cut < 0 ? '' : tag.name.slice(0, cut)
    if (tag.name.slice(cut + 1) !== 'xliff')
      throw this.#refuse(`This is no XLIFF file: it begins with \`<${tag.name}>\`.`)
    const [declared] = Object.entries(tag.attributes).find(([, value]) => value === metadataNamespace) ?? []
    this.#prefixes = { xliff: prefix, metadata: declared?.split(':')[1] ?? 'mda' }
    if (!version.startsWith('2.') || attribute(prefix === '' ? 'xmlns' : `xmlns:${prefix}`) !== xliffNamespace)
      throw this.#refuse(
        `This is XLIFF ${version || 'of an unknown version'}; XLIFF 2.0 or 2.1 is needed. Export it as that from your tool.`,
      )
    this.#isRoot = true
    this.#onHead({ source: attribute('srcLang'), target: attribute('trgLang') })
  }

  #openFile(id: string | undefined): void {
    const named = readHandedOut(id ?? '')
    if (!named)
      throw this.#refuse(`\`${(id ?? '').slice(0, 60)}\` is no id of a file as it was exported, such as \`01hz….3.5\`.`)
    const { entry } = named
    if (this.#seen.has(entry)) throw this.#refuse(`The entry \`${entry}\` is there twice.`)
    this.#seen.add(entry)
    this.#file = { ...named, line: this.#parser.line, texts: [], ids: new Set() }
  }

  #openUnit(id: string | undefined): void {
    const file = this.#file
    if (!file) throw this.#refuse('`unit` must stand in a `file`.')
    if (id === undefined) throw this.#refuse('The unit has no `id`.')
    if (file.ids.has(id)) throw this.#refuse(`The unit \`${id}\` is there twice in this file.`)
    if (file.ids.size >= maxUnits) throw this.#refuse(`An entry has at most ${maxUnits} texts.`)
    file.ids.add(id)
    this.#unit = { id, line: this.#parser.line, base: undefined, source: [], target: undefined, isDone: true }
  }

  #openInline(local: string, attribute: (name: string) => string | undefined): void {
    const text = this.#text!
    const add = (piece: SegmentPiece): void => void text.at(-1)!.pieces.push(piece)
    switch (local) {
      case 'pc':
        text.push({ code: attribute('id') ?? '', pieces: [] })
        return
      case 'ph':
        add({ code: attribute('id') ?? '' })
        return
      // A pair of codes that a tool has taken apart.
      case 'sc':
        text.push({ code: attribute('id') ?? '', pieces: [] })
        return
      case 'ec': {
        const code = attribute('startRef')
        const open = text.at(-1)!
        if (code === undefined || open.code !== code)
          throw this.#refuse('`ec` closes a code that is not open here, or inside another code.')
        text.pop()
        add({ code, inside: open.pieces })
        return
      }
      case 'cp': {
        const hex = attribute('hex') ?? ''
        const point = /^[0-9A-Fa-f]{1,6}$/.test(hex) ? Number.parseInt(hex, 16) : -1
        if (point < 0 || point > 0x10ffff) throw this.#refuse(`\`${hex}\` is no code point.`)
        add(String.fromCodePoint(point))
        return
      }
      // Annotations: their text counts, and they do not.
      case 'mrk':
      case 'sm':
      case 'em':
        return
      default:
        throw this.#refuse(`\`${local}\` is not known inside a text.`)
    }
  }

  #add(text: string): void {
    if (this.#meta) this.#meta.text += text
    else if (this.#text) {
      this.#characters += text.length
      if (this.#characters > maxCharacters) throw this.#refuse(`A text has at most ${maxCharacters} characters.`)
      this.#text.at(-1)!.pieces.push(text)
    }
  }

  #close(tag: SaxesTag): void {
    this.#depth--
    const isPreserved = this.#spaces.pop()!
    if (this.#meta && this.#unit && this.#localIn('metadata', tag.name) === 'meta') {
      this.#unit.base = this.#meta.text.trim()
      this.#meta = undefined
    }
    const local = this.#localIn('xliff', tag.name)
    if (local === undefined) return
    switch (local) {
      case 'pc': {
        const { code, pieces } = this.#text!.pop()!
        this.#text!.at(-1)!.pieces.push({ code: code!, inside: pieces })
        return
      }
      case 'source':
      case 'target':
        return this.#closeText(local, isPreserved)
      case 'ignorable':
        this.#isIgnorable = false
        return
      case 'segment':
        if (!this.#segmentDone && this.#unit) this.#unit.isDone = false
        return
      case 'unit':
        return this.#closeUnit()
      case 'file':
        if (this.#file) {
          const { ids: _, ...entry } = this.#file
          this.#entries.push(entry)
        }
        this.#file = undefined
    }
  }

  #closeText(which: 'source' | 'target', isPreserved: boolean): void {
    const unit = this.#unit!
    const text = this.#text!
    if (text.length > 1) throw this.#refuse(`The code \`${text.at(-1)!.code ?? ''}\` is not closed.`)
    const pieces = isPreserved ? text[0]!.pieces : withoutIndents(text[0]!.pieces)
    this.#text = undefined
    if (which === 'source') {
      unit.source.push(...pieces)
      // Text between segments that a tool has cut: in the target too, where it has none of its own.
      if (this.#isIgnorable) this.#ignored = pieces
      if (this.#isIgnorable && unit.target) unit.target.push(...pieces)
    } else {
      if (this.#isIgnorable && unit.target) unit.target.splice(unit.target.length - this.#ignored.length)
      unit.target = [...(unit.target ?? []), ...pieces]
    }
  }

  #closeUnit(): void {
    const unit = this.#unit!
    const file = this.#file!
    this.#unit = undefined
    const address = unitOfId(unit.id)
    if (address === undefined)
      throw refuse(unit.line, 1, `\`${unit.id.slice(0, 80)}\` is no id of a unit as it was exported.`)
    const source = canonicalText(unit.source)
    file.texts.push({
      unit: address,
      line: unit.line,
      shown: wordsOf(source),
      source,
      base: unit.base,
      text: unit.target && canonicalText(unit.target),
      isDone: unit.isDone,
    })
  }
}
