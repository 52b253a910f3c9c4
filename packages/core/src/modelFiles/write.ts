import { Document, isMap, isScalar, isSeq, parseDocument, Scalar, visit, type Pair, type YAMLMap } from 'yaml'
import type { BlockSource, TypeSource } from './schema.js'
import { readModelFiles, type ModelFile } from './files.js'

/** The widest line that a field is written on. */
const maxLine = 150

type Source = TypeSource | BlockSource

/** The name of the file of a new type. */
export const fileNameOf = (source: Source): string =>
  'type' in source ? `${source.type}.yaml` : `block-${source.block}.yaml`

/** Writes a type as a model file. In an existing file only differences are rewritten: comments, formatting and order stay. */
export function writeModelFile(source: Source, before?: ModelFile): ModelFile {
  const wanted = JSON.parse(JSON.stringify(source)) as Record<string, unknown>
  if (before) {
    const document = parseDocument(before.text)
    if (document.errors.length === 0 && isMap(document.contents)) {
      if (saysSame(document.toJS(), wanted)) return before
      change(document, document.contents, wanted, [])
      return { name: before.name, text: print(document) }
    }
  }
  const document = new Document(wanted)
  if (isMap(document.contents)) for (const pair of document.contents.items) setStyle(pair, [])
  return { name: before?.name ?? fileNameOf(source), text: print(document) }
}

/** A model file for a site with other locales: without the paths of those that it does not have. */
export function inLocales(file: ModelFile, locales: readonly string[]): ModelFile {
  const { types } = readModelFiles([file])
  const source = types[0]?.source
  if (!source?.path || Object.keys(source.path).every((tag) => locales.includes(tag))) return file
  const path = Object.fromEntries(Object.entries(source.path).filter(([tag]) => locales.includes(tag)))
  const { path: _, ...rest } = source
  return writeModelFile(Object.keys(path).length === 0 ? rest : { ...rest, path }, file)
}

const print = (document: Document): string =>
  document.toString({ lineWidth: 0, flowCollectionPadding: true, singleQuote: true })

/** The order of fields and of sections matters; that of options does not. */
const isOrdered = (key: string | undefined): boolean => key === 'fields' || key === 'sections'

/** Whether two values mean the same; the order of keys counts only where it matters. */
function saysSame(a: unknown, b: unknown, key?: string): boolean {
  if (typeof a !== 'object' || typeof b !== 'object' || a === null || b === null) return a === b
  if (Array.isArray(a) || Array.isArray(b))
    return (
      Array.isArray(a) &&
      Array.isArray(b) &&
      a.length === b.length &&
      a.every((item, index) => saysSame(item, b[index]))
    )
  const [keys, others] = [Object.keys(a), Object.keys(b)]
  if (keys.length !== others.length || (isOrdered(key) && keys.join() !== others.join())) return false
  return keys.every(
    (name) => name in b && saysSame((a as Record<string, unknown>)[name], (b as Record<string, unknown>)[name], name),
  )
}

/** Makes a map equal to the wanted value, changing only what differs. */
function change(
  document: Document,
  map: YAMLMap,
  wanted: Readonly<Record<string, unknown>>,
  at: readonly string[],
): void {
  const keyOf = (pair: Pair): string => String(isScalar(pair.key) ? pair.key.value : pair.key)
  map.items = map.items.filter((pair) => keyOf(pair) in wanted)
  for (const [key, value] of Object.entries(wanted)) {
    const pair = map.items.find((item) => keyOf(item) === key)
    const path = [...at, key]
    if (!pair) {
      map.set(document.createNode(key), document.createNode(value))
      setStyle(map.items.at(-1) as Pair, at)
      continue
    }
    const node: unknown = pair.value
    const isRecord = typeof value === 'object' && value !== null && !Array.isArray(value)
    if (isMap(node) && isRecord) change(document, node, value as Record<string, unknown>, path)
    else if (!saysSame((node as { toJSON?: () => unknown } | null)?.toJSON?.() ?? null, value)) {
      if (isScalar(node) && (typeof value !== 'object' || value === null)) {
        node.value = value
        delete node.source
      } else {
        pair.value = document.createNode(value)
        setStyle(pair, at)
      }
    }
  }
  if (!isOrdered(at.at(-1))) return
  const order = Object.keys(wanted)
  map.items.sort((a, b) => order.indexOf(keyOf(a)) - order.indexOf(keyOf(b)))
}

/** Maps that describe one field, section or path pattern are written on one line, if they fit. */
function setStyle(pair: Pair, at: readonly string[]): void {
  const { value } = pair
  if (isScalar(value) && typeof value.value === 'string' && value.value.includes('\n'))
    value.type = Scalar.BLOCK_LITERAL
  if (!isMap(value) && !isSeq(value)) return
  const key = String(isScalar(pair.key) ? pair.key.value : pair.key)
  const isList = key === 'fields' || key === 'sections'
  if (isList && isMap(value)) for (const inner of value.items) setStyle(inner, [...at, key])
  else if (JSON.stringify(value.toJSON()).length <= maxLine && !hasFields(value)) value.flow = true
  else if (isMap(value)) for (const inner of value.items) setStyle(inner, [...at, key])
}

function hasFields(node: unknown): boolean {
  let isFound = false
  visit(node as never, {
    Pair: (_, pair) => {
      if (isScalar(pair.key) && pair.key.value === 'fields') isFound = true
    },
  })
  return isFound
}
