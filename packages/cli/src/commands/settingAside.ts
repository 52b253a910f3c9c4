import type { Command } from 'commander'
import { openEditor } from '../connection.js'
import { printResult } from '../entryOutput.js'
import { print, printJson, printTable, when } from '../output.js'

/** Archiving, deleting, and the ways back. */
export function addSettingAside(entry: Command): void {
  entry
    .command('archive')
    .description(
      'Sets an entry aside: it is taken down, leaves the lists, and does not change until it is taken out again.',
    )
    .argument('<id>')
    .option('--with-children', 'take down what stands below it as well')
    .option('--json', 'print JSON')
    .action(async (id: string, { withChildren, json }: { withChildren?: boolean; json?: boolean }) =>
      printResult(await openEditor().archive(id, withChildren ? { withChildren } : {}), 'Archived', json),
    )
  entry
    .command('unarchive')
    .description('Takes an entry out of the archive. Nothing becomes public by it.')
    .argument('<id>')
    .option('--json', 'print JSON')
    .action(async (id: string, { json }: { json?: boolean }) =>
      printResult(await openEditor().unarchive(id), 'Taken out of the archive', json),
    )
  entry
    .command('delete')
    .description('Puts an entry of which nothing is public into the bin, where it lies for 30 days.')
    .argument('<id>')
    .option('--for-good', 'it lies in the bin already: delete it with its history')
    .option('--json', 'print JSON')
    .action(async (id: string, { forGood, json }: { forGood?: boolean; json?: boolean }) => {
      if (forGood) await openEditor().deleteForGood(id)
      else await openEditor().delete(id)
      if (json) printJson({ deleted: id })
      else
        print(forGood ? `Deleted for good: ${id}` : `In the bin: ${id}. Take it back: wisteria entry take-back ${id}`)
    })
  entry
    .command('bin')
    .description('Lists what lies in the bin, and when it goes for good.')
    .option('--json', 'print JSON')
    .action(async ({ json }: { json?: boolean }) => {
      const bin = await openEditor().bin()
      if (json) return printJson(bin)
      if (bin.entries.length === 0) return print('The bin is empty.')
      printTable(
        ['title', 'type', 'deleted', 'goes for good', 'id'],
        bin.entries.map((entry) => [
          entry.title || '(no name yet)',
          entry.type,
          when(entry.deletedAt),
          when(entry.goesAt),
          entry.id,
        ]),
      )
    })
  entry
    .command('take-back')
    .description('Takes an entry out of the bin, with its history.')
    .argument('<id>')
    .option('--json', 'print JSON')
    .action(async (id: string, { json }: { json?: boolean }) =>
      printResult(await openEditor().takeBack(id), 'Taken back', json),
    )
}
