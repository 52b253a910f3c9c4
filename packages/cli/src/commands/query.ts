import type { ChoiceForm, SearchOptions } from '@wisteria/client'
import type { Command } from 'commander'
import { openReader, UsageError } from '../connection.js'
import { readText } from '../input.js'
import { print, printFoot, printJson, printTable, when } from '../output.js'

interface QueryOptions {
  readonly where?: string
  readonly sort?: string
  readonly first?: string
  readonly after?: string
  readonly locale?: string
  readonly region?: string
  readonly edition: string
  readonly count?: boolean
  readonly search?: string
  readonly pick?: string
  readonly follow?: string
  readonly everyLocale?: boolean
  readonly graphql?: string
  readonly variables?: string
  readonly path?: string
  readonly paths?: boolean
  readonly redirects?: boolean
  readonly choices?: string
  readonly exactLocale?: boolean
  readonly alternates?: boolean
  readonly valueLocales?: boolean
  readonly freshness?: boolean
  readonly changes?: string | true
  readonly json?: boolean
}

export function addQuery(program: Command): void {
  program
    .command('query')
    .summary('read content as a front end does')
    .description('Reads entries of a type through the Read API, or runs a GraphQL query.')
    .argument('[type]', 'the type to list')
    .option('--where <condition>', 'e.g. \'format in ["concert", "walk"] and starts >= now\'')
    .option('--search <words>', 'words that the entries contain; without a type it searches all types, best first')
    .option('--sort <fields>', 'e.g. starts,-museum.name')
    .option('--pick <selection>', "fields of each entry, e.g. 'title, museum(name), body(as: html)'")
    .option('--follow <n>', 'without --pick: how many levels of references to read, 0 to 3')
    .option('--choices <form>', 'value, label or both: how choices are printed')
    .option('--first <n>', 'at most 100; 20 when left out')
    .option('--after <cursor>', 'the next page')
    .option('--locale <tag>')
    .option('--region <name>', 'of types that are regional; the main region when left out')
    .option('--exact-locale', 'without fallback: no entry and no value of another locale')
    .option('--alternates', 'as JSON: where each entry can be read in its own words')
    .option('--value-locales', 'as JSON: which values of each entry come from another locale')
    .option('--freshness', 'as JSON: which translated values of each entry are missing or outdated')
    .option('--every-locale', 'each entry in all locales, as JSON')
    .option('--edition <name>', 'published or draft', 'published')
    .option('--count', 'add the total')
    .option('--path <path>', 'the entry at a path, instead of a list')
    .option('--paths', 'all readable paths, of the type or of all types, instead of entries')
    .option('--redirects', 'all paths that moved, and where to')
    .option('--changes [since]', 'public changes since a position, and the next position')
    .option('--graphql <query>', 'a GraphQL query instead, or @FILE that holds one')
    .option('--variables <json>', 'of the GraphQL query')
    .option('--json', 'print JSON')
    .action(async (type: string | undefined, options: QueryOptions) => {
      const { edition } = options
      if (edition !== 'published' && edition !== 'draft')
        throw new UsageError(`--edition is published or draft, not “${edition}”.`)
      const reader = openReader(edition)
      const whole = (name: string, text: string | undefined): number | undefined => {
        if (text === undefined) return undefined
        if (!/^\d{1,9}$/.test(text)) throw new UsageError(`--${name} is a whole number, not “${text}”.`)
        return Number(text)
      }
      const { pick, exactLocale, alternates, valueLocales, freshness } = options
      const extras = { exactLocale, alternates, valueLocales, freshness }
      const follow = whole('follow', options.follow)
      if (options.changes !== undefined) {
        const since = options.changes === true ? undefined : whole('changes', options.changes)
        return printJson(await reader.changes(since))
      }
      if (options.paths) return printPaths(reader, type, options)
      if (options.redirects) return printRedirects(reader, options)
      if (options.graphql !== undefined) {
        const text = options.graphql.startsWith('@') ? readText(options.graphql.slice(1)) : options.graphql
        return printJson(
          await reader.graphql(text, readVariables(options.variables), { exactLocale: options.exactLocale }),
        )
      }
      if (options.path !== undefined) {
        const entry = await reader.at(options.path, { pick, follow, ...extras })
        if (!entry) throw new UsageError(`Nothing is at ${options.path}.`)
        return printJson(entry)
      }
      if (type === undefined && options.search !== undefined)
        return printSearch(reader, options, { pick, follow, ...extras })
      if (type === undefined) throw new UsageError('Name a type to list, a --path, --search or a --graphql query.')
      const first = whole('first', options.first)
      const { where, search, sort, after, locale, region, count } = options
      const choices = readChoiceForm(options.choices)
      const asked = { where, search, sort, first, after, locale, region, count, pick, follow, choices, ...extras }
      if (options.everyLocale) return printJson(await reader.entriesEverywhere(type, asked))
      const page = await reader.entries(type, asked)
      if (options.json || alternates || valueLocales || freshness) return printJson(page)
      if (page.entries.length === 0) return print('None.')
      const cell = (value: unknown): string =>
        (value === null ? '' : typeof value === 'object' ? JSON.stringify(value) : String(value)).replaceAll('\n', ' ')
      const rows = page.entries.map((entry) => flatten(entry.values))
      const names = [...new Set(rows.flatMap((row) => Object.keys(row)))]
      const isPlain = (name: string) => pick !== undefined || rows.every((row) => typeof (row[name] ?? '') !== 'object')
      // A reference without a value has no columns for its inside.
      const isOuter = (name: string) => names.some((other) => other.startsWith(`${name}.`))
      const shown = names.filter((name) => isPlain(name) && !isOuter(name)).slice(0, pick === undefined ? 5 : 12)
      const short = (text: string): string => (text.length > 44 ? text.slice(0, 43) + '…' : text)
      printTable(
        [...shown, 'path'],
        page.entries.map((entry, index) => [
          ...shown.map((name) => short(cell(rows[index]![name] ?? null))),
          entry.path,
        ]),
      )
      printFoot(page)
    })
}

/** Values by their paths: a picked field of a reference or a group has a column of its own, such as `museum.name`. */
function flatten(values: Readonly<Record<string, unknown>>, before = ''): Record<string, unknown> {
  return Object.fromEntries(
    Object.entries(values).flatMap(([name, value]) => {
      if (typeof value !== 'object' || value === null || Array.isArray(value)) return [[before + name, value]]
      const inside = 'values' in value ? value.values : 'id' in value ? undefined : value
      return inside === undefined
        ? [[before + name, value]]
        : Object.entries(flatten(inside as Record<string, unknown>, `${before}${name}.`))
    }),
  )
}

function readVariables(text: string | undefined): Record<string, unknown> {
  if (text === undefined) return {}
  let read: unknown
  try {
    read = JSON.parse(text)
  } catch {
    read = undefined
  }
  if (typeof read === 'object' && read !== null && !Array.isArray(read)) return read as Record<string, unknown>
  throw new UsageError('--variables is a JSON object such as \'{ "first": 5 }\'.')
}

const readChoiceForm = (text: string | undefined): ChoiceForm | undefined => {
  if (text === undefined || text === 'value' || text === 'label' || text === 'both') return text
  throw new UsageError(`--choices is value, label or both, not “${text}”.`)
}

/** Entries of all types that contain some words, with the words between asterisks. */
async function printSearch(
  reader: ReturnType<typeof openReader>,
  { search, first, locale, region, json }: QueryOptions,
  picking: SearchOptions,
): Promise<void> {
  const asked = { ...picking, locale, region, first: first === undefined ? undefined : Number(first) }
  const results = await reader.search(search!, asked)
  if (json) return printJson({ results })
  if (results.length === 0) return print('None.')
  printTable(
    ['type', 'path', 'found in'],
    results.map(({ entry, highlights: [highlight] }) => [
      entry.type,
      entry.path ?? entry.id,
      highlight ? marked(highlight.text, highlight.marks) : '',
    ]),
  )
}

const marked = (text: string, marks: readonly (readonly [number, number])[]): string =>
  [...marks]
    .reverse()
    .reduce((told, [start, end]) => `${told.slice(0, start)}*${told.slice(start, end)}*${told.slice(end)}`, text)
    .replaceAll('\n', ' ')

async function printRedirects(reader: ReturnType<typeof openReader>, { locale, json }: QueryOptions): Promise<void> {
  const all = []
  for await (const redirect of reader.redirects(locale ? { locale } : {})) all.push(redirect)
  if (json) return printJson(all)
  if (all.length === 0) return print('None.')
  printTable(
    ['from', 'to', 'locale', 'since'],
    all.map(({ from, to, locale, since }) => [from, to, locale, when(since)]),
  )
}

async function printPaths(
  reader: ReturnType<typeof openReader>,
  type: string | undefined,
  { locale, region, json }: QueryOptions,
): Promise<void> {
  const all = []
  for await (const path of reader.paths({
    ...(type ? { type } : {}),
    ...(locale ? { locale } : {}),
    ...(region ? { region } : {}),
  }))
    all.push(path)
  if (json) return printJson(all)
  printTable(
    ['path', 'locale', 'type', 'id'],
    all.map((path) => [path.path, path.locale, path.type, path.id]),
  )
}
