import type { BulkAction, BulkOrder, Editor, Job } from '@wisteria/client'
import type { NamedEdit } from '@wisteria/core'
import { Argument, type Command } from 'commander'
import { openEditor, UsageError } from '../connection.js'
import { readList, readMap } from '../input.js'
import { print, printJson, printTable, progress } from '../output.js'
import { viewNamed } from './view.js'

const actions: readonly BulkAction[] = ['publish', 'withdraw', 'archive', 'reactivate', 'delete', 'duplicate', 'edit']
interface Asked {
  readonly type?: string
  readonly where?: string
  readonly search?: string
  readonly all?: true
  readonly view?: string
  readonly locales?: string[]
  readonly locale?: string
  readonly file?: string
  readonly dryRun?: boolean
  readonly json?: boolean
}

async function orderOf(editor: Editor, does: BulkAction, ids: readonly string[], asked: Asked): Promise<BulkOrder> {
  const { type, where, search, all, view, locales, locale, file } = asked
  if ((does === 'edit') !== (file !== undefined))
    throw new UsageError(
      does === 'edit' ? '`bulk edit` needs --file with the values to set.' : 'Only `bulk edit` takes --file.',
    )
  const saved = view === undefined ? {} : (await viewNamed(editor, view)).asks
  return {
    do: does,
    ...(ids.length > 0 ? { ids } : {}),
    ...pick({
      type: type ?? saved.type,
      where: where ?? saved.where,
      search: search ?? saved.search,
      all,
      locale,
      locales,
    }),
    ...(file === undefined ? {} : { edits: editsIn(readMap(file)) }),
  }
}

const pick = <T extends object>(members: T): { [K in keyof T]?: NonNullable<T[K]> } =>
  Object.fromEntries(Object.entries(members).filter(([, value]) => value !== undefined)) as never

/** Field names with values as edits: null clears; of a localized field each locale is set by itself. */
function editsIn(values: Readonly<Record<string, unknown>>): NamedEdit[] {
  return Object.entries(values).flatMap(([name, value]): NamedEdit[] => {
    if (value === null) return [{ do: 'clear' as const, at: [name] }]
    const isLocalized =
      typeof value === 'object' &&
      !Array.isArray(value) &&
      Object.keys(value).every((key) => /^[a-z]{2,3}(-[A-Za-z0-9]{2,8})*$/.test(key))
    if (!isLocalized) return [{ do: 'set' as const, at: [name], value }]
    return Object.entries(value).map(([locale, item]: [string, unknown]) =>
      item === null
        ? { do: 'clear' as const, at: [name], locale }
        : { do: 'set' as const, at: [name], locale, value: item },
    )
  })
}

async function follow(editor: Editor, begun: Job, json: boolean | undefined): Promise<void> {
  const job = await editor.waitFor(begun, ({ done, total, message }) => progress(done, total, message))
  const { items } = await editor.bulkItems(job.id, { refused: true })
  if (json) return printJson({ ...job, refused: items })
  for (const { title, entry, message } of items) print(`  refused: “${title || entry}”: ${message}`)
  print(`${job.message} To undo it: wisteria job undo ${job.id}`)
}

export function addBulk(entry: Command): void {
  entry
    .command('bulk')
    .description(
      'Does one action on many entries, as a job: on those with these ids, or on all that --type, --where and --search find.\n`bulk edit` sets the values in a file: field names with their values; null clears a field.',
    )
    .addArgument(new Argument('<action>', 'what to do').choices(actions))
    .argument('[ids...]')
    .option('--type <name>', 'all of a type')
    .option('--where <condition>', 'entries that match a condition, e.g. \'entry.state = "edited"\'')
    .option('--search <words>', 'all that contain these words')
    .option('--view <name>', 'all in a saved view')
    .option('--all', 'all entries')
    .option('--locales <tags>', 'publish or withdraw in these locales, e.g. en,nl', readList)
    .option('--locale <tag>', 'apply --where and --search in this locale')
    .option('--file <path>', 'the values that `bulk edit` sets; - for standard input')
    .option('--dry-run', 'show the result for the first 200, and change nothing')
    .option('--json', 'print JSON')
    .action(async (does: BulkAction, ids: string[], asked: Asked) => {
      const editor = openEditor()
      const order = await orderOf(editor, does, ids, asked)
      if (!asked.dryRun) return follow(editor, await editor.bulk(order), asked.json)
      const trial = await editor.tryBulk(order)
      if (asked.json) return printJson(trial)
      if (trial.total === 0) return print('No entry matches.')
      printTable(
        ['entry', 'result', 'reason', 'id'],
        trial.items.map((item) => [item.title || '(no name yet)', item.state, item.message, item.entry]),
      )
      const refused = trial.items.filter(({ state }) => state !== 'done').length
      print(
        `\n${trial.total === 1 ? '1 entry' : `${trial.total} entries`}, ${trial.tried} checked: ${trial.tried - refused} would change, ${refused} would be refused. Nothing was changed.`,
      )
    })
}
