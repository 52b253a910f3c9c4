import { basename } from 'node:path'
import { createWriteStream } from 'node:fs'
import { pipeline } from 'node:stream/promises'
import { Readable } from 'node:stream'
import type { Editor, EntryExportOrder, EntryImportView, MappingGiven, PlannedImportRow } from '@wisteria/client'
import type { Command } from 'commander'
import { openEditor, UsageError } from '../connection.js'
import { readFileAsBlob, readList, readMap } from '../input.js'
import { Outcome } from '../outcome.js'
import { print, printJson, printTable, progress, say, when } from '../output.js'

interface Json {
  readonly json?: boolean
}
interface FileOptions extends Json {
  readonly type?: string
  readonly mapping?: string
  readonly mappingFile?: string
  readonly key?: string
  readonly mode?: string
  readonly dates?: string
  readonly decimal?: string
  readonly emptyClears?: boolean
  readonly format?: string
  readonly encoding?: string
  readonly delimiter?: string
  readonly sheet?: string
  readonly files?: string
}

/** Adds the options of how a file is read and where its columns go. */
const withFile = (command: Command): Command =>
  command
    .argument('<file>', 'CSV, XLSX, JSON Lines or a JSON array')
    .option('--type <type>', 'of the entries; guessed from the heads when left out')
    .option('--mapping <name>', 'a mapping that is kept')
    .option('--mapping-file <file>', 'a mapping, as `import read --json` prints it; YAML or JSON')
    .option('--key <place>', 'by which entries are found again: number, or entry.id')
    .option('--mode <mode>', 'both, create or update')
    .option('--dates <order>', 'of 4-5-2031: dmy, mdy or ymd')
    .option('--decimal <sign>', 'the decimal sign of numbers')
    .option('--empty-clears', 'empty cells clear values')
    .option('--format <format>', 'csv, xlsx, jsonLines or json')
    .option('--encoding <name>', 'e.g. utf-8 or windows-1252')
    .option('--delimiter <sign>', 'of CSV')
    .option('--sheet <name>', 'of a workbook')
    .option('--files <zip>', 'a ZIP file with the files that cells name by path or name')
    .option('--json', 'print JSON')

/** Reads a file, and says where its columns go as the options do. */
async function readTable(editor: Editor, file: string, options: FileOptions): Promise<EntryImportView> {
  const { type, mapping, mappingFile, format, encoding, delimiter, sheet, files } = options
  if (mapping !== undefined && mappingFile !== undefined)
    throw new UsageError('Say --mapping or --mapping-file, not both.')
  const read = await editor.imports.read(await readFileAsBlob(file), {
    name: basename(file),
    type,
    mapping,
    format,
    encoding,
    delimiter: delimiter === '\\t' ? '\t' : delimiter,
    sheet,
  })
  if (files !== undefined) await editor.imports.setFiles(read.id, await readFileAsBlob(files))
  const { key, mode, dates, decimal, emptyClears } = options
  const said = { key, mode, dates, decimal, emptyClears }
  const given = mappingFile === undefined ? read.mapping : (readMap(mappingFile) as unknown as MappingGiven)
  const isChanged = mappingFile !== undefined || Object.values(said).some((value) => value !== undefined)
  if (!isChanged) return files === undefined ? read : editor.imports.get(read.id)
  if (!given) throw new UsageError('No type fits the heads of its columns. Say where they go with --mapping-file.')
  const changes = Object.fromEntries(Object.entries(said).filter(([, value]) => value !== undefined))
  return editor.imports.setMapping(read.id, { ...given, ...changes })
}

const sourceOf = ({ source }: EntryImportView): string =>
  [
    source.format,
    source.encoding,
    source.delimiter && `parted by ${source.delimiter === '\t' ? 'tabs' : source.delimiter}`,
    source.sheet && `sheet ${source.sheet}`,
  ]
    .filter(Boolean)
    .join(', ')

/** Where its columns go, and how cells are read. */
function printMapping(read: EntryImportView): void {
  const files = read.files === null ? '' : `, with ${read.files} ${read.files === 1 ? 'file' : 'files'}`
  print(`${read.name}: ${read.rows} ${read.rows === 1 ? 'row' : 'rows'} (${sourceOf(read)})${files}`)
  const { mapping } = read
  if (!mapping) return print(`No type fits its heads: ${read.heads.join(', ')}`)
  const places = new Map(mapping.columns.map((column) => [column.from, column]))
  printTable(
    ['column', 'goes to', ''],
    read.heads.map((head) => {
      const column = places.get(head)
      if (!column) return [head, '-', '']
      const more = [
        mapping.key === column.to && 'the key',
        column.by && `found by ${column.by}`,
        column.create && 'created where missing',
        column.separator && `parted by ${JSON.stringify(column.separator)}`,
      ]
      return [head, column.to, more.filter(Boolean).join(', ')]
    }),
  )
  print(`type ${mapping.type}, mode ${mapping.mode}, dates ${mapping.dates}, decimal ${mapping.decimal}`)
}

function printRows(rows: readonly PlannedImportRow[]): void {
  for (const { line, outcome, title, values, problems } of rows) {
    print(`\nrow ${line}: ${outcome}${title === '' ? '' : ` “${title}”`}`)
    if (problems.length === 0) print(`  ${JSON.stringify(values)}`)
    for (const { column, message } of problems) print(`  ${column === null ? '' : `${column}: `}${message}`)
  }
}

const counted = ({ outcomes }: EntryImportView): string =>
  Object.entries(outcomes)
    .map(([outcome, count]) => `${count} ${outcome}`)
    .join(', ') || 'no rows'

/** The outcomes, and what is wrong with the rows that failed. */
async function printOutcomes(editor: Editor, entryImport: EntryImportView): Promise<void> {
  print(`${entryImport.name}: ${counted(entryImport)}`)
  if (!entryImport.outcomes.failed) return
  const shown = 20
  const { rows } = await editor.imports.rows(entryImport.id, { outcome: 'failed', first: shown })
  printTable(
    ['row', 'column', 'problem'],
    rows.flatMap(({ line, problems }) => problems.map(({ column, message }) => [line, column ?? '', message])),
  )
  const more = entryImport.outcomes.failed - rows.length
  if (more > 0) print(`… and ${more} more`)
  say(`The rows to mend: wisteria import failed ${entryImport.id} to-mend.csv`)
}

const doJob = async (editor: Editor, id: string, work: 'check' | 'run' | 'undo'): Promise<EntryImportView> => {
  await editor.waitFor(await editor.imports[work](id), ({ done, total, message }) => progress(done, total, message))
  return editor.imports.get(id)
}

export function addImport(program: Command): void {
  program
    .command('export')
    .summary('entries become a table')
    .description(
      'Writes the working copies of a type to a table, which `import run` reads back: CSV, XLSX or JSON Lines.',
    )
    .argument('<file>', 'e.g. artefacts.csv, artefacts.xlsx or artefacts.jsonl; - for CSV on standard output')
    .requiredOption('--type <type>', 'of the entries')
    .option('--columns <places>', 'such as number,title:nl; all when left out', readList)
    .option('--where <condition>', 'only entries that meet it')
    .option('--search <words>', 'only entries that contain them')
    .option('--locale <tag>', 'the locale that condition and words are about')
    .action(async (file: string, order: Omit<EntryExportOrder, 'format'>) => {
      const ending = /\.(csv|xlsx|jsonl|ndjson)$/i.exec(file)?.[1]?.toLowerCase() ?? 'csv'
      const format = ending === 'csv' || ending === 'xlsx' ? ending : 'jsonLines'
      const { entries, response } = await openEditor().imports.export({ ...order, format })
      const body = Readable.fromWeb(response.body as Parameters<typeof Readable.fromWeb>[0])
      if (file === '-') return pipeline(body, process.stdout, { end: false })
      await pipeline(body, createWriteStream(file))
      say(`Wrote ${file}: ${entries} ${entries === 1 ? 'entry' : 'entries'}.`)
    })
  const group = program
    .command('import')
    .summary('a table becomes entries')
    .description('Imports: tables whose rows become entries, from CSV, XLSX, JSON Lines or a JSON array.')
  withFile(
    group
      .command('read')
      .description('Reads a file and shows where its columns would go, and its first rows. Changes nothing.'),
  ).action(async (file: string, options: FileOptions) => {
    const editor = openEditor()
    const read = await readTable(editor, file, options)
    if (options.json) return printJson(read)
    printMapping(read)
    if (read.mapping) printRows((await editor.imports.preview(read.id, { first: 3 })).rows)
    say(`Its id: ${read.id}`)
  })
  withFile(
    group
      .command('run')
      .description('Imports a file. What goes wrong with a row leaves nothing of it behind, and is told.')
      .option('--dry-run', 'only check every row, and change nothing'),
  ).action(async (file: string, options: FileOptions & { readonly dryRun?: boolean }) => {
    const editor = openEditor()
    const read = await readTable(editor, file, options)
    const done = await doJob(editor, read.id, options.dryRun ? 'check' : 'run')
    if (options.json) printJson(done)
    else await printOutcomes(editor, done)
    Outcome.of({ isBlocked: (done.outcomes.failed ?? 0) > 0, breaks: false })
  })
  group
    .command('list')
    .description('Lists imports, the newest first.')
    .option('--json', 'print JSON')
    .action(async ({ json }: Json) => {
      const { imports } = await openEditor().imports.list()
      if (json) return printJson({ imports })
      if (imports.length === 0) return print('Nothing has been imported yet.')
      printTable(
        ['when', 'file', 'rows', 'state', 'outcomes', 'id'],
        imports.map((entryImport) => [
          when(entryImport.createdAt),
          entryImport.name,
          entryImport.rows,
          entryImport.state,
          counted(entryImport),
          entryImport.id,
        ]),
      )
    })
  group
    .command('show')
    .description('Shows an import: where its columns went, and the results of its rows.')
    .argument('<import>')
    .option('--json', 'print JSON')
    .action(async (id: string, { json }: Json) => {
      const editor = openEditor()
      const entryImport = await editor.imports.get(id)
      if (json) return printJson(entryImport)
      printMapping(entryImport)
      await printOutcomes(editor, entryImport)
    })
  group
    .command('failed')
    .description('Writes the rows that failed to a file, with the reasons: mend it and import it again.')
    .argument('<import>')
    .argument('<file>', 'where to; - for standard output')
    .action(async (id: string, file: string) => {
      const response = await openEditor().imports.failed(id)
      const body = Readable.fromWeb(response.body as Parameters<typeof Readable.fromWeb>[0])
      if (file === '-') return pipeline(body, process.stdout, { end: false })
      await pipeline(body, createWriteStream(file))
      say(`Wrote ${file}.`)
    })
  group
    .command('undo')
    .description('Undoes an import, but for entries that somebody has changed since.')
    .argument('<import>')
    .option('--json', 'print JSON')
    .action(async (id: string, { json }: Json) => {
      const editor = openEditor()
      const undone = await doJob(editor, id, 'undo')
      if (json) return printJson(undone)
      const { undone: done, refused } = undone.undone
      print(`${undone.name}: ${done} undone${refused > 0 ? `, ${refused} refused` : ''}`)
      Outcome.of({ isBlocked: refused > 0, breaks: false })
    })
  group
    .command('remove')
    .description('Forgets an import. Its entries stay; it can no longer be undone.')
    .argument('<import>')
    .option('--json', 'print JSON')
    .action(async (id: string, { json }: Json) => {
      await openEditor().imports.remove(id)
      if (json) printJson({ removed: id })
      else print(`Removed: ${id}`)
    })
  group
    .command('mappings')
    .description('Lists the mappings that are kept.')
    .option('--json', 'print JSON')
    .action(async ({ json }: Json) => {
      const { mappings } = await openEditor().imports.mappings()
      if (json) return printJson({ mappings })
      if (mappings.length === 0) return print('No mapping is kept yet.')
      printTable(
        ['name', 'type', 'columns', 'key', 'kept'],
        mappings.map(({ name, mapping, at }) => [
          name,
          mapping.type,
          mapping.columns.length,
          mapping.key ?? '',
          when(at),
        ]),
      )
    })
  group
    .command('keep')
    .description('Keeps the mapping of an import by a name, for later files of the same form.')
    .argument('<name>')
    .argument('<import>')
    .option('--json', 'print JSON')
    .action(async (name: string, id: string, { json }: Json) => {
      const editor = openEditor()
      const { mapping } = await editor.imports.get(id)
      if (!mapping) throw new UsageError('That import has no mapping.')
      const kept = await editor.imports.keepMapping(name, mapping)
      if (json) printJson(kept)
      else print(`Kept: ${kept.name}`)
    })
  group
    .command('forget')
    .description('Forgets a mapping that is kept.')
    .argument('<name>')
    .option('--json', 'print JSON')
    .action(async (name: string, { json }: Json) => {
      await openEditor().imports.forgetMapping(name)
      if (json) printJson({ forgotten: name })
      else print(`Forgotten: ${name}`)
    })
}
