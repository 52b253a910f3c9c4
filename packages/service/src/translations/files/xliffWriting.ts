import { printCoded, wordsOf, type SegmentText, type UnitView } from '@wisteria/core'
import { create, fragment } from 'xmlbuilder2'
import type { XMLBuilder } from 'xmlbuilder2/lib/interfaces.js'
import { printHandedOut, type OutgoingEntry, type OutgoingFile, type OutgoingUnit } from './handedOut.js'

/*
 * XLIFF 2.1 (OASIS): a `file` for each entry, a `unit` for each text. Codes are `pc` and `ph`; the limit of a length is of the size and
 * length restriction module; what was handed out is in the metadata module, so that newer work is noticed when the file comes back.
 */

export const xliffNamespace = 'urn:oasis:names:tc:xliff:document:2.0'
export const metadataNamespace = 'urn:oasis:names:tc:xliff:metadata:2.0'
const restrictionNamespace = 'urn:oasis:names:tc:xliff:sizerestriction:2.0'

/** The address of a unit as an NMTOKEN, which `id` must be; and back. */
export const unitId = (unit: string): string => unit.replace('#', '::').replaceAll('/', ':')
export function unitOfId(id: string): string | undefined {
  const cut = id.lastIndexOf('::')
  return cut < 0 ? undefined : `${id.slice(0, cut).replaceAll(':', '/')}#${id.slice(cut + 2)}`
}

/** The beginning of a file, up to its entries. */
export function xliffHead({ source, target }: OutgoingFile): string {
  const root = create({ version: '1.0', encoding: 'UTF-8' }).ele('xliff', {
    xmlns: xliffNamespace,
    'xmlns:mda': metadataNamespace,
    'xmlns:slr': restrictionNamespace,
    version: '2.1',
    srcLang: source,
    trgLang: target,
  })
  // The element is closed after the last entry.
  return root.end({ allowEmptyTags: true }).replace('?>', '?>\n').replace('></xliff>', '>\n')
}

export const xliffFoot = '</xliff>\n'

/** An entry. */
export function xliffEntry(entry: OutgoingEntry, file: OutgoingFile): string {
  const root = fragment().ele('file', {
    id: printHandedOut(entry),
    original: `${file.site}/${entry.type}/${entry.entry}`,
    'xml:space': 'preserve',
  })
  // A line for each unit, so that reports can name it. Modules come before notes.
  root.txt('\n').ele('slr:profiles', { generalProfile: 'xliff:codepoints' })
  const notes = root.ele('notes')
  note(notes, 'n1', 'entry', `${entry.title} (${entry.type})`)
  note(notes, 'n2', 'address', entry.address)
  for (const unit of entry.units) writeUnit(root.txt('\n'), unit)
  return root.txt('\n').end({ prettyPrint: false }) + '\n'
}

const note = (notes: XMLBuilder, id: string, category: string, text: string): void =>
  void notes.ele('note', { id, category }).txt(clean(text))

function writeUnit(file: XMLBuilder, { unit, base }: OutgoingUnit): void {
  const element = file.ele('unit', {
    id: unitId(unit.unit),
    name: unit.at.join('/'),
    ...(unit.maxLength === null ? {} : { 'slr:sizeRestriction': String(unit.maxLength) }),
  })
  element.ele('mda:metadata').ele('mda:metaGroup', { category: 'wisteria' }).ele('mda:meta', { type: 'base' }).txt(base)
  const notes = element.ele('notes')
  note(notes, 'n1', 'place', unit.labels.join(' › '))
  if (unit.maxLength !== null) note(notes, 'n2', 'length', `At most ${unit.maxLength} characters.`)
  if (unit.state === 'outdated')
    note(
      notes,
      'n3',
      'change',
      unit.sourceThen
        ? `The source was: ${wordsOf(unit.sourceThen)}`
        : 'The source has changed since it was translated.',
    )
  const segment = element.ele('segment', { id: 's1', ...stateOf(unit) })
  write(segment.ele('source'), unit.source, unit.codes)
  if (unit.translation) write(segment.ele('target'), unit.translation, unit.codes)
}

/** `state` as XLIFF has it; `subState` says more in our words. */
const stateOf = ({ state }: UnitView): { state: string; subState?: string } => {
  switch (state) {
    case 'current':
      return { state: 'translated' }
    case 'missing':
      return { state: 'initial' }
    case 'outdated':
      return { state: 'initial', subState: 'wisteria:outdated' }
    case 'notNeeded':
      return { state: 'final', subState: 'wisteria:notNeeded' }
    case 'empty':
      return { state: 'final', subState: 'wisteria:empty' }
  }
}

/** `type` and `subType` of a code; those that XLIFF names, where it has one. */
function kindOfCode(code: UnitView['codes'][string] | undefined): Record<string, string> {
  switch (code?.type) {
    case 'strong':
      return { type: 'fmt', subType: 'xlf:b' }
    case 'emphasis':
      return { type: 'fmt', subType: 'xlf:i' }
    case 'delete':
      return { type: 'fmt', subType: 'wisteria:strike' }
    case 'inlineCode':
      return { type: 'fmt', subType: 'wisteria:code' }
    case 'break':
      return { type: 'fmt', subType: 'xlf:lb' }
    case 'link':
      return { type: 'link', ...(code.url ? { disp: code.url } : {}) }
    case 'image':
      return { type: 'image', ...(code.alt ? { disp: code.alt } : {}) }
    default:
      return {}
  }
}

function write(into: XMLBuilder, text: SegmentText, codes: UnitView['codes']): void {
  for (const piece of text) {
    if (typeof piece === 'string') writeText(into, piece)
    else {
      const kind = kindOfCode(codes[piece.code])
      if (piece.inside === undefined) into.ele('ph', { id: piece.code, ...kind, canDelete: 'no' })
      else {
        const { disp, ...pair } = kind
        const element = into.ele('pc', {
          id: piece.code,
          ...pair,
          ...(disp ? { dispStart: disp } : {}),
          canDelete: 'no',
        })
        write(element, piece.inside, codes)
      }
    }
  }
}

/** Characters that XML cannot have, which XLIFF writes as `cp`. */
const forbidden =
  /[\u0000-\u0008\u000B\u000C\u000E-\u001F\uFFFE\uFFFF]|[\uD800-\uDBFF](?![\uDC00-\uDFFF])|(?<![\uD800-\uDBFF])[\uDC00-\uDFFF]/g

function writeText(into: XMLBuilder, text: string): void {
  let from = 0
  for (const match of text.matchAll(forbidden)) {
    if (match.index > from) into.txt(text.slice(from, match.index))
    into.ele('cp', { hex: match[0].charCodeAt(0).toString(16).toUpperCase().padStart(4, '0') })
    from = match.index + match[0].length
  }
  if (from < text.length) into.txt(text.slice(from))
}

const clean = (text: string): string => text.replace(forbidden, '\uFFFD')

/** A unit in one line, for tables. */
export const codedLine = (text: SegmentText | null): string => (text === null ? '' : printCoded(text))
