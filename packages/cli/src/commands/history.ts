import type { Point } from '@wisteria/client'
import type { Command } from 'commander'
import { openEditor, UsageError } from '../connection.js'
import { isAt, printDifferences, readPlace } from '../differences.js'
import { collect, printResult, readVersion, short } from '../entryOutput.js'
import { print, printJson, printTable, when } from '../output.js'

/** Commands about revisions: listing, comparing and restoring them. */
export function addHistory(entry: Command): void {
  entry
    .command('revisions')
    .description('Lists the revisions of an entry, newest first: who wrote each, and where it is public.')
    .argument('<id>')
    .option('--json', 'print JSON')
    .action(async (id: string, { json }: { json?: boolean }) => {
      const { revisions } = await openEditor().revisions(id)
      if (json) return printJson({ revisions })
      printTable(
        ['revision', 'by', 'changed', 'public in', ''],
        revisions.map((revision) => [
          String(revision.number),
          revision.author,
          when(revision.updatedAt),
          revision.publicIn.join(', '),
          revision.sealedAt ? '' : 'open',
        ]),
      )
    })
  entry
    .command('revision')
    .description('Shows one revision with its values, and those of fields that the model no longer has.')
    .argument('<id>')
    .argument('<number>', 'its number, as `entry revisions` lists it', readNumber)
    .option('--json', 'print JSON')
    .action(async (id: string, number: number, { json }: { json?: boolean }) => {
      const revision = await openEditor().revision(id, number)
      if (json) return printJson(revision)
      print(`Revision ${revision.number}, changed ${when(revision.updatedAt)}`)
      printTable(
        ['field', 'value'],
        Object.entries(revision.values).map(([name, value]) => [name, short(value)]),
      )
      if (revision.gone.length === 0) return
      print('\nFields that the model no longer has:')
      printTable(
        ['field', 'locale', 'value'],
        revision.gone.map((value) => [value.label, value.locale ?? '', short(value.value)]),
      )
    })
  entry
    .command('compare')
    .description('Shows what differs between two states of an entry, word by word and item by item.')
    .argument('<id>')
    .option('--from <state>', 'a revision by its number, public, or working', readPoint, 'public')
    .option('--to <state>', 'the same', readPoint, 'working')
    .option('--json', 'print JSON')
    .action(async (id: string, { from, to, json }: { from: Point; to: Point; json?: boolean }) => {
      const comparison = await openEditor().compare(id, { from, to })
      if (json) return printJson(comparison)
      print(`From ${nameOfPoint(comparison.from)} to ${nameOfPoint(comparison.to)}:`)
      printDifferences(comparison.differences)
    })
  entry
    .command('restore')
    .description(
      'Restores an entry from the bin; or, with --from, its working copy from a revision or from what is public, as a whole or only some fields. Nothing becomes public.',
    )
    .argument('<id>')
    .option('--from <state>', 'the number of a revision, or public', readPoint)
    .option(
      '--field <place>',
      'only this field, e.g. title, title:nl, body, body/h1/text:en; can be repeated',
      collect,
      [],
    )
    .option('--at-version <n>', 'only if the entry is still at this version')
    .option('--dry-run', 'show what would change, and change nothing')
    .option('--json', 'print JSON')
    .action(
      async (
        id: string,
        {
          from,
          field,
          atVersion,
          dryRun,
          json,
        }: { from?: Point; field: string[]; atVersion?: string; dryRun?: boolean; json?: boolean },
      ) => {
        if (from === 'working')
          throw new UsageError('--from must be a revision or public: the working copy is what changes.')
        const editor = openEditor()
        if (from === undefined) return printResult(await editor.restoreFromBin(id), 'Restored', json)
        const places = field.map(readPlace)
        if (dryRun) {
          const { differences } = await editor.compare(id, { from: 'working', to: from })
          const wanted = differences.filter(
            (difference) => places.length === 0 || places.some((place) => isAt(difference, place)),
          )
          if (json) return printJson({ differences: wanted })
          print(`Restoring ${nameOfPoint(from)} would change:`)
          return printDifferences(wanted)
        }
        const version = readVersion(atVersion)
        const restored = await editor.restore(id, {
          from,
          ...(places.length > 0 ? { places } : {}),
          ...(version === undefined ? {} : { version }),
        })
        if (restored.changed === 0 && !json) return print('It is the same already. Nothing was changed.')
        printResult(restored, `Restored from ${nameOfPoint(from)}`, json)
      },
    )
}

function readPoint(text: string): Point {
  if (text === 'public' || text === 'working') return text
  if (!/^[1-9]\d{0,8}$/.test(text))
    throw new UsageError(`A state is a revision by its number, public or working, not “${text}”.`)
  return Number(text)
}

const nameOfPoint = (point: Point): string =>
  point === 'public' ? 'what is public' : point === 'working' ? 'the working copy' : `revision ${point}`

function readNumber(text: string): number {
  if (!/^[1-9]\d{0,8}$/.test(text))
    throw new UsageError(`“${text}” is not a revision number. \`wisteria entry revisions ID\` lists them.`)
  return Number(text)
}
