import { isCollection, isNode, isPair, LineCounter, parseDocument, type Document } from 'yaml'
import type { z } from 'zod'
import { pointerTo, WisteriaError, type Problem } from '../base/errors.js'
import { fieldKinds, kindNamed } from '../fields/kinds.js'
import { didYouMean } from '../text/nearest.js'
import {
  blockSource,
  commonFieldOptions,
  fieldSource,
  namePattern,
  typeSource,
  type BlockSource,
  type FieldSource,
  type TypeSource,
} from './schema.js'

/** One file of a model folder, with its name for people. */
export interface ModelFile {
  readonly name: string
  readonly text: string
}

/** A file's text with the version of the model that its names are of: see `namesOf` of a type. */
export const withNamesOf = ({ name, text }: ModelFile, version: number): ModelFile => ({
  name,
  text: text.replace(/^namesOf:.*\n/m, '').replace(/^((?:type|block):.*)$/m, `$1\nnamesOf: ${version}`),
})

type Path = readonly (string | number)[]

/** A parsed file, with the position of every place in it. */
export interface Located<Source> {
  readonly source: Source
  /** A problem at a place inside the file; `at` is a path of keys, `onKey` points at the key and not its value. */
  problem(at: Path, code: string, message: string, onKey?: boolean): Problem
}

export interface ModelSource {
  readonly types: readonly Located<TypeSource>[]
  readonly blocks: readonly Located<BlockSource>[]
}

const maxFileLength = 1_000_000
const maxGroupDepth = 4

/**
 * Reads a model folder: YAML 1.2, one type or block type in each file.
 * @throws WisteriaError `badModel` with every error at its file, line and column.
 */
export function readModelFiles(files: readonly ModelFile[]): ModelSource {
  const problems: Problem[] = []
  const types: Located<TypeSource>[] = []
  const blocks: Located<BlockSource>[] = []
  for (const file of files) {
    if (file.text.length > maxFileLength) {
      problems.push({
        code: 'tooLarge',
        file: file.name,
        message: `A model file has at most 1,000,000 characters, and this one has ${file.text.length.toLocaleString('en')}.`,
      })
      continue
    }
    const lines = new LineCounter()
    const parsed = parseYaml(file, lines)
    if ('problem' in parsed) {
      problems.push(parsed.problem)
      continue
    }
    const { document, content } = parsed
    const locate = locator(file.name, document, lines)
    if (typeof content !== 'object' || content === null || !('type' in content || 'block' in content)) {
      problems.push(locate([], 'notAType', 'A model file begins with `type: name` or `block: name`.'))
      continue
    }
    if ('type' in content) readOne(typeSource, content, locate, types, problems)
    else readOne(blockSource, content, locate, blocks, problems)
  }
  if (files.length === 0) problems.push({ code: 'noFiles', message: 'The model has no files.' })
  if (problems.length > 0) throw modelError(problems)
  return { types, blocks }
}

/** Deeper than any model needs. */
const maxNesting = 40

/** A YAML text and its value, or its first error: later ones usually follow from it. */
function parseYaml(
  { name, text }: ModelFile,
  lines: LineCounter,
): { readonly document: Document; readonly content: unknown } | { readonly problem: Problem } {
  const tell = (message: string, at?: number): { problem: Problem } => {
    const { line, col } = at === undefined ? { line: 1, col: 1 } : lines.linePos(at)
    return { problem: { code: 'badYaml', file: name, line, column: col, message } }
  }
  const deep = tooDeepAt(text)
  // Endless nesting would crash the parser.
  if (deep !== undefined)
    return {
      problem: { code: 'badYaml', file: name, ...deep, message: `Lists and maps nest at most ${maxNesting} deep.` },
    }
  try {
    const document = parseDocument(text, { lineCounter: lines, prettyErrors: false, uniqueKeys: true })
    const [error] = document.errors
    if (error) {
      const { line } = lines.linePos(error.pos[0])
      const isPath = /\{[^}]*\/[^'"]*\{\w+\}|:\s+\/[^'"]*\{\w+\}/.test(text.split('\n')[line - 1] ?? '')
      return tell(
        isPath ? "Put a path pattern in quotes: `'/activities/{slug}'`." : sentence(error.message.split('\n')[0]!),
        error.pos[0],
      )
    }
    return { document, content: document.toJS({ maxAliasCount: 20 }) as unknown }
  } catch (error) {
    const because =
      error instanceof RangeError
        ? 'It nests too deep.'
        : 'An alias names an anchor that does not exist, or expands to too much. Write the value out.'
    return tell(because)
  }
}

/** The first place where brackets, or the indentation of lines, are nested deeper than the limit. */
function tooDeepAt(text: string): { line: number; column: number } | undefined {
  let depth = 0
  let line = 1
  let start = 0
  for (let at = 0; at < text.length; at++) {
    const letter = text[at]
    if (letter === '\n') {
      line++
      start = at + 1
    } else if (letter === '[' || letter === '{') {
      if (++depth > maxNesting * 5) return { line, column: at - start + 1 }
    } else if ((letter === ']' || letter === '}') && depth > 0) depth--
  }
  return undefined
}

export const modelError = (problems: readonly Problem[]): WisteriaError =>
  new WisteriaError(
    'badModel',
    problems.length === 1 ? problems[0]!.message : `The model has ${problems.length} mistakes.`,
    {
      problems,
    },
  )

function readOne<Source extends { fields: Record<string, FieldSource> }>(
  schema: z.ZodType<Source>,
  content: object,
  locate: Located<unknown>['problem'],
  into: Located<Source>[],
  problems: Problem[],
): void {
  const before = problems.length
  const read = schema.safeParse(content, { reportInput: true })
  if (!read.success) {
    for (const issue of read.error.issues) problems.push(...fromIssue(issue, locate, topLevelNames(schema)))
  }
  const fields = (content as { fields?: unknown }).fields
  if (typeof fields === 'object' && fields !== null) {
    for (const [name, field] of Object.entries(fields)) checkField(name, field as FieldSource, locate, problems)
  }
  if (read.success && problems.length === before) into.push({ source: read.data, problem: locate })
}

function checkField(
  name: string,
  field: FieldSource,
  locate: Located<unknown>['problem'],
  problems: Problem[],
  around: Path = [],
): void {
  const at = [...around, 'fields', name]
  if (!namePattern.test(name)) {
    problems.push(
      locate(at, 'badName', `\`${name}\` is not a name: a lowercase letter, then letters or digits, at most 64.`, true),
    )
  }
  const kindName = typeof field === 'object' && field !== null ? field.kind : undefined
  const kind = fieldKinds.find((fieldKind) => fieldKind.name === kindName)
  if (!kind) return // the common schema has said so
  const options = Object.fromEntries(Object.entries(field).filter(([key]) => !commonFieldOptions.includes(key)))
  const read = kind.options.safeParse(options, { reportInput: true })
  if (read.success) {
    if (kind.name === 'group') checkInside(read.data['fields'] as Record<string, unknown>, locate, problems, at)
    return
  }
  for (const issue of read.error.issues) {
    problems.push(
      ...fromIssue(
        issue,
        (path, ...rest) => locate([...at, ...path], ...rest),
        [...Object.keys(kind.descriptions), ...commonFieldOptions],
        `a field of kind ${kind.name}`,
      ),
    )
  }
}

/** The fields inside a group, each read like one of a type. */
function checkInside(
  fields: Readonly<Record<string, unknown>>,
  locate: Located<unknown>['problem'],
  problems: Problem[],
  at: Path,
): void {
  if (at.length / 2 > maxGroupDepth)
    return void problems.push(locate(at, 'tooDeep', `Groups nest at most ${maxGroupDepth} deep.`, true))
  for (const [name, inner] of Object.entries(fields)) {
    const there = [...at, 'fields', name]
    const read = fieldSource.safeParse(inner, { reportInput: true })
    if (!read.success)
      for (const issue of read.error.issues)
        problems.push(
          ...fromIssue(
            issue,
            (path, ...rest) => locate([...there, ...path], ...rest),
            commonFieldOptions,
            `\`${name}\``,
          ),
        )
    checkField(name, inner as FieldSource, locate, problems, at)
  }
}

/** The options of a field's kind, read; the source has been checked. */
export function kindOptions(field: FieldSource): Record<string, unknown> {
  const known = Object.fromEntries(Object.entries(field).filter(([key]) => !commonFieldOptions.includes(key)))
  const { fields: _, ...options } = kindNamed(field.kind).options.parse(known)
  return options
}

function topLevelNames(schema: unknown): string[] {
  return Object.keys((schema as { shape?: object }).shape ?? {})
}

function fromIssue(
  issue: z.core.$ZodIssue,
  locate: Located<unknown>['problem'],
  allowed: readonly string[],
  owner = 'a model file',
): Problem[] {
  const path = issue.path as Path
  if (issue.code === 'unrecognized_keys') {
    return issue.keys.map((key) =>
      locate(
        [...path, key],
        'unknownOption',
        `\`${key}\` is not an option of ${path.length > 0 ? `\`${path.at(-1)}\`` : owner}.${path.length > 0 ? '' : didYouMean(key, allowed)}`,
        true,
      ),
    )
  }
  const place = path.length > 0 ? `\`${path.join('.')}\`` : owner
  if (issue.path.at(-1) === 'kind' && issue.code === 'custom') {
    return [locate(path, 'unknownKind', 'is not a field kind')].map((problem) => ({
      ...problem,
      message: `${place} names no field kind.${didYouMean(
        String(issue.input ?? ''),
        fieldKinds.map((kind) => kind.name),
      )} The kinds are ${fieldKinds.map((kind) => kind.name).join(', ')}.`,
    }))
  }
  const missing = issue.code === 'invalid_type' && issue.input === undefined
  if (missing)
    return [
      locate(
        path.slice(0, -1),
        'missing',
        `\`${path.at(-1) ?? 'fields'}\` is missing from ${path.length > 1 ? `\`${path.slice(0, -1).join('.')}\`` : owner}.`,
      ),
    ]
  return [locate(path, 'badOption', `${place} ${ours(issue)}.`)]
}

/** A Zod issue in our words, to follow the name of the place. */
function ours(issue: z.core.$ZodIssue): string {
  switch (issue.code) {
    case 'invalid_type':
      return `must be ${article(issue.expected)}`
    case 'too_small':
      return `must be at least ${issue.minimum}`
    case 'too_big':
      return `must be at most ${issue.maximum}`
    case 'invalid_union':
      return 'has the wrong form'
    default:
      return issue.message
  }
}

const words: Record<string, string> = {
  string: 'a text',
  number: 'a number',
  int: 'a whole number',
  boolean: 'true or false',
  array: 'a list',
  object: 'a map of options',
  record: 'a map of options',
}
const article = (expected: string): string => words[expected] ?? expected

const sentence = (text: string): string => (/[.!?]$/.test(text) ? text : text + '.')

function locator(file: string, document: Document, lines: LineCounter): Located<unknown>['problem'] {
  return (at, code, message, onKey = false) => {
    const offset = offsetOf(document, at, onKey)
    const { line, col } = lines.linePos(offset)
    return { code, message, file, line, column: col, ...(at.length > 0 ? { pointer: pointerTo('', ...at) } : {}) }
  }
}

/** The position of a place in the text; of the nearest place around it when it is missing. */
function offsetOf(document: Document, at: Path, onKey: boolean): number {
  let node: unknown = document.contents
  let offset = isNode(node) ? (node.range?.[0] ?? 0) : 0
  for (const [index, step] of at.entries()) {
    if (!isCollection(node)) return offset
    const pair = node.items.find(
      (item) => isPair(item) && String((item.key as { value?: unknown }).value ?? item.key) === String(step),
    )
    if (isPair(pair)) {
      const key = pair.key as { range?: [number, number, number] }
      if (index === at.length - 1 && onKey) return key.range?.[0] ?? offset
      node = pair.value
      offset = (isNode(node) ? node.range?.[0] : undefined) ?? key.range?.[0] ?? offset
      continue
    }
    const child = typeof step === 'number' ? node.items[step] : undefined
    if (!isNode(child)) return offset
    node = child
    offset = child.range?.[0] ?? offset
  }
  return offset
}
