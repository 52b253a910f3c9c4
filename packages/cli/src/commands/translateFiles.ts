import type { Editor, ImportView, TranslationFormat } from '@wisteria/client'
import { incomingWords, notTaken, outcomesInWords, worthLooking } from '@wisteria/core'
import type { Command } from 'commander'
import { createWriteStream, renameSync, rmSync } from 'node:fs'
import { basename } from 'node:path'
import { Readable, Transform } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { openEditor, UsageError } from '../connection.js'
import { readFileAsBlob, readList } from '../input.js'
import { Outcome } from '../outcome.js'
import { print, printJson, printTable, progress, say } from '../output.js'
import { viewNamed } from './view.js'

const formats: Readonly<Record<string, TranslationFormat>> = { xlf: 'xliff', xliff: 'xliff', csv: 'csv', xlsx: 'xlsx' }

/** The format of a file: as named, or by the end of its name. */
function formatOf(file: string, named: string | undefined): TranslationFormat {
  if (named !== undefined && !Object.values<string>(formats).includes(named))
    throw new UsageError(`\`${named}\` is no format. They are: xliff, csv, xlsx.`)
  const format = named ?? formats[/\.([a-z]+)$/i.exec(file)?.[1]?.toLowerCase() ?? '']
  if (format === undefined)
    throw new UsageError(
      'The format is not known by the name of the file. Name it with `--format xliff`, `csv` or `xlsx`.',
    )
  return format as TranslationFormat
}

const states: Readonly<Record<ImportView['state'], string>> = {
  reading: 'not read to its end',
  read: 'not applied',
  running: 'running',
  applied: 'applied',
}

async function printOutcomes(editor: Editor, { id, outcomes, entries }: ImportView, where: string): Promise<void> {
  print(`${entries} ${entries === 1 ? 'entry' : 'entries'}. Texts: ${outcomesInWords(outcomes)}.`)
  const rows: string[][] = []
  for (let after: number | null | undefined = undefined; after !== null;) {
    const page = await editor.translations.importTexts(id, worthLooking, after)
    for (const { line, title, entry, outcome, message, source } of page.texts)
      rows.push([String(line), title || entry, source.slice(0, 60), incomingWords[outcome], message])
    after = page.next
  }
  if (rows.length > 0) printTable([where, 'entry', 'source', 'outcome', 'because'], rows)
}

export function addTranslateFiles(translate: Command): void {
  translate
    .command('export')
    .description(
      'Writes a file for translators: XLIFF 2.1, CSV or XLSX, by the end of its name. It holds the texts that are missing or outdated; with --all, every text.',
    )
    .argument('<file>', 'e.g. dutch.xlf; - for standard output')
    .requiredOption('--locale <tag>', 'the locale to translate into')
    .option('--format <format>', 'xliff, csv or xlsx')
    .option('--type <name>', 'of one type')
    .option('--where <condition>', 'of entries that match a condition')
    .option('--search <words>', 'of entries that contain these words')
    .option('--view <name>', 'of the entries of a saved view')
    .option('--ids <ids>', 'of these entries', readList)
    .option('--all', 'all texts, not only those that are missing or outdated')
    .option('--follow <depth>', 'also of entries that they refer to, so many references deep', Number)
    .action(
      async (
        file: string,
        {
          view,
          all,
          format: named,
          ...order
        }: {
          locale: string
          format?: string
          type?: string
          where?: string
          search?: string
          view?: string
          ids?: string[]
          all?: boolean
          follow?: number
        },
      ) => {
        const editor = openEditor()
        const format = formatOf(file === '-' ? 'x.xlf' : file, named)
        const asks = view === undefined ? {} : (await viewNamed(editor, view)).asks
        const { type, where, search } = { ...asks, ...order }
        const asked = { ...order, type, where, search, format, units: all ? ('all' as const) : ('todo' as const) }
        const { entries, response } = await editor.translations.export(asked)
        const body = Readable.fromWeb(response.body as Parameters<typeof Readable.fromWeb>[0])
        if (file === '-') return pipeline(body, process.stdout, { end: false })
        // Written beside, so that an export that breaks off leaves no half file.
        const partly = `${file}.part`
        let written = 0
        let bytes = 0
        const counting = new Transform({
          transform(chunk: Buffer, _, done) {
            bytes += chunk.length
            const before = written
            written += chunk.toString('latin1').split('<file ').length - 1
            if (format === 'xliff' && written > before) progress(written, Math.max(entries, written), 'entries')
            done(null, chunk)
          },
        })
        try {
          await pipeline(body, counting, createWriteStream(partly))
          renameSync(partly, file)
        } catch (error) {
          rmSync(partly, { force: true })
          const { code, message } = error as NodeJS.ErrnoException
          // The path of the error is the one written beside.
          if (code !== undefined && ['ENOENT', 'EACCES', 'EISDIR', 'ENOSPC', 'EROFS', 'ENOTDIR'].includes(code))
            throw new UsageError(`${file} cannot be written: ${message.split(',')[0]!.replace(/^[A-Z]+: /, '')}.`)
          throw error
        }
        const size = bytes < 1_000_000 ? `${Math.ceil(bytes / 1000)} kB` : `${(bytes / 1e6).toFixed(1)} MB`
        say(`Wrote ${file}: ${format === 'xliff' ? `${written} ${written === 1 ? 'entry' : 'entries'}, ` : ''}${size}.`)
      },
    )
  translate
    .command('import')
    .description(
      'Takes translations from a file: XLIFF 2, CSV or XLSX. Texts whose source has changed are taken as outdated; texts that were changed here since the export are not overwritten.',
    )
    .argument('<file>', 'e.g. dutch.xlf')
    .requiredOption('--locale <tag>', 'the locale that it is translated into')
    .option('--format <format>', 'xliff, csv or xlsx')
    .option('--overwrite', 'overwrite translations that were changed here since the export')
    .option('--dry-run', 'only show the result for each text, and change nothing')
    .option('--json', 'print JSON')
    .action(
      async (
        file: string,
        {
          locale,
          format: named,
          overwrite = false,
          dryRun,
          json,
        }: { locale: string; format?: string; overwrite?: boolean; dryRun?: boolean; json?: boolean },
      ) => {
        const editor = openEditor()
        const format = formatOf(file, named)
        const blob = await readFileAsBlob(file)
        const where = format === 'xliff' ? 'line' : 'row'
        const read = await editor.translations.readImport(locale, format, basename(file), blob)
        if (dryRun) {
          if (json) printJson(read)
          else await printOutcomes(editor, read, where)
          const isBlocked = notTaken.some((outcome) => read.outcomes[outcome])
          return Outcome.of({ isBlocked, breaks: false })
        }
        const job = await editor.translations.applyImport(read.id, overwrite)
        await editor.waitFor(job, ({ done, total, message }) => progress(done, total, message))
        const applied = await editor.translations.import(read.id)
        if (json) printJson(applied)
        else await printOutcomes(editor, applied, where)
      },
    )
  translate
    .command('imports')
    .description(
      'Lists files with translations that were read, newest first; with an id, the result for each text that was not simply taken.',
    )
    .argument('[import]', 'the id of one')
    .option('--json', 'print JSON')
    .action(async (id: string | undefined, { json }: { json?: boolean }) => {
      const editor = openEditor()
      if (id !== undefined) {
        const read = await editor.translations.import(id)
        return json ? printJson(read) : printOutcomes(editor, read, read.format === 'xliff' ? 'line' : 'row')
      }
      const { imports } = await editor.translations.imports()
      if (json) return printJson({ imports })
      if (imports.length === 0) return print('No file with translations was read yet.')
      printTable(
        ['file', 'locale', 'entries', 'state', 'id'],
        imports.map(({ name, locale, entries, state, id }) => [name, locale, entries, states[state], id]),
      )
    })
}
