import type { Command } from 'commander'
import { openReader, UsageError } from '../connection.js'
import { readText } from '../input.js'
import { print, printJson, printTable } from '../output.js'

interface QueryOptions {
  readonly where?: string
  readonly sort?: string
  readonly limit?: string
  readonly after?: string
  readonly locale?: string
  readonly edition: string
  readonly count?: boolean
  readonly graphql?: string
  readonly path?: string
  readonly json?: boolean
}

export function addQuery(program: Command): void {
  program
    .command('query')
    .summary('read content as a front end does')
    .description('Reads entries of a type through the Read API, or runs a GraphQL query.')
    .argument('[type]', 'the type to list')
    .option('--where <condition>', 'e.g. \'format in ["concert", "walk"] and starts >= $now\'')
    .option('--sort <fields>', 'e.g. starts,-title')
    .option('--limit <n>', 'at most 100; 20 when left out')
    .option('--after <cursor>', 'the next page')
    .option('--locale <tag>')
    .option('--edition <name>', 'published or draft', 'published')
    .option('--count', 'count them all')
    .option('--path <path>', 'what stands at a path, instead of a list')
    .option('--graphql <query>', 'a GraphQL query instead, or @FILE that holds one')
    .option('--json', 'print JSON')
    .action(async (type: string | undefined, options: QueryOptions) => {
      const { edition } = options
      if (edition !== 'published' && edition !== 'draft')
        throw new UsageError(`--edition is published or draft, not “${edition}”.`)
      const reader = openReader(edition)
      if (options.graphql !== undefined) {
        const text = options.graphql.startsWith('@') ? readText(options.graphql.slice(1)) : options.graphql
        return printJson(await reader.graphql(text))
      }
      if (options.path !== undefined) {
        const found = await reader.at(options.path)
        if (!found) throw new UsageError(`Nothing is at ${options.path}.`)
        return printJson(found)
      }
      if (type === undefined) throw new UsageError('Name a type to list, a --path or a --graphql query.')
      const limit = options.limit === undefined ? undefined : Number(options.limit)
      const { where, sort, after, locale, count } = options
      const page = await reader.entries(type, { where, sort, limit, after, locale, count })
      if (options.json) return printJson(page)
      if (page.entries.length === 0) return print('None.')
      const cell = (value: unknown): string =>
        (value === null ? '' : typeof value === 'object' ? JSON.stringify(value) : String(value)).replaceAll('\n', ' ')
      const shown = Object.keys(page.entries[0]!.values).filter((name) => page.entries.every((one) => typeof one.values[name] !== 'object' || one.values[name] === null)).slice(0, 5) // prettier-ignore
      const short = (text: string): string => (text.length > 44 ? text.slice(0, 43) + '…' : text)
      printTable(
        [...shown, 'path'],
        page.entries.map((one) => [...shown.map((name) => short(cell(one.values[name]))), one.path]),
      )
      print(
        `\n${page.entries.length}${page.count === undefined ? '' : ` of ${page.count}`}.${page.next ? ` The next: --after ${page.next}` : ''}`,
      )
    })
}
