import type { BulkAction, BulkOrder, Editor, Job } from '@wisteria/client'
import type { NamedEdit } from '@wisteria/core'
import { Argument, type Command } from 'commander'
import { openEditor, UsageError } from '../connection.js'
import { readList, readMap } from '../input.js'
import { print, printJson, printTable, progress } from '../output.js'
import { viewNamed } from './view.js'

const deeds: readonly BulkAction[] = ['publish', 'unpublish', 'archive', 'unarchive', 'delete', 'duplicate', 'edit']
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
      does === 'edit' ? '`many edit` needs --file with the values to set.' : '--file goes with `many edit`.',
    )
  const kept = view === undefined ? {} : (await viewNamed(editor, view)).asks
  return {
    do: does,
    ...(ids.length > 0 ? { ids } : {}),
    ...pick({
      type: type ?? kept.type,
      where: where ?? kept.where,
      search: search ?? kept.search,
      all,
      locale,
      locales,
    }),
    ...(file === undefined ? {} : { edits: editsIn(readMap(file)) }),
  }
}

const pick = <T extends object>(members: T): { [K in keyof T]?: NonNullable<T[K]> } =>
  Object.fromEntries(Object.entries(members).filter(([, value]) => value !== undefined)) as never

/** A map of field names to values as edits: null makes missing; a localized field holds a map of locales, each set by itself. */
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
  for (const { title, entry, message } of items) print(`  not done: “${title || entry}”: ${message}`)
  print(`${job.message} Put it back: wisteria job put-back ${job.id}`)
}

export function addMany(entry: Command): void {
  entry
    .command('many')
    .description(
      'Does one thing to many entries, as a job: to those of the ids, or to all that --type, --where and --search find.\n`many edit` sets the values of a file: a map of field names to values; null makes missing.',
    )
    .addArgument(new Argument('<deed>', 'what to do').choices(deeds))
    .argument('[ids...]')
    .option('--type <name>', 'all of a type')
    .option('--where <condition>', 'all that meet a condition, e.g. \'entry.state = "edited"\'')
    .option('--search <words>', 'all that hold these words')
    .option('--view <name>', 'all of a kept list')
    .option('--all', 'all there are')
    .option('--locales <tags>', 'publish or take down in these, e.g. en,nl', readList)
    .option('--locale <tag>', 'conditions and words in this locale')
    .option('--file <path>', 'the values that `many edit` sets; - for standard input')
    .option('--dry-run', 'tell what would come of the first 200, and change nothing')
    .option('--json', 'print JSON')
    .action(async (does: BulkAction, ids: string[], asked: Asked) => {
      const editor = openEditor()
      const order = await orderOf(editor, does, ids, asked)
      if (!asked.dryRun) return follow(editor, await editor.bulk(order), asked.json)
      const trial = await editor.tryBulk(order)
      if (asked.json) return printJson(trial)
      if (trial.total === 0) return print('No entry is meant.')
      printTable(
        ['entry', 'would be', 'because', 'id'],
        trial.items.map((item) => [item.title || '(no name yet)', item.state, item.message, item.entry]),
      )
      const refused = trial.items.filter(({ state }) => state !== 'done').length
      print(
        `\n${trial.total} in all, ${trial.tried} tried: ${trial.tried - refused} would be done, ${refused} refused. Nothing was changed.`,
      )
    })
}
