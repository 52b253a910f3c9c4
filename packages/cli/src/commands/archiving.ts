import type { Command } from 'commander'
import { openEditor } from '../connection.js'
import { printResult } from '../entryOutput.js'
import { print, printJson, printTable, when } from '../output.js'

/** Archiving, deleting, and the ways back. */
export function addArchiving(entry: Command): void {
  entry
    .command('archive')
    .description(
      'Archives an entry: it is withdrawn, left out of lists, and cannot be changed until it is reactivated.',
    )
    .argument('<id>')
    .option('--with-children', 'withdraw the pages below it too')
    .option('--json', 'print JSON')
    .action(async (id: string, { withChildren, json }: { withChildren?: boolean; json?: boolean }) =>
      printResult(await openEditor().archive(id, withChildren ? { withChildren } : {}), 'Archived', json),
    )
  entry
    .command('reactivate')
    .description('Reactivates an archived entry. It does not become public.')
    .argument('<id>')
    .option('--json', 'print JSON')
    .action(async (id: string, { json }: { json?: boolean }) =>
      printResult(await openEditor().reactivate(id), 'Reactivated', json),
    )
  entry
    .command('delete')
    .description('Moves an entry to the bin, for 30 days. Withdraw it first if it is public.')
    .argument('<id>')
    .option('--permanently', 'delete an entry that is in the bin, with its history')
    .option('--json', 'print JSON')
    .action(async (id: string, { permanently, json }: { permanently?: boolean; json?: boolean }) => {
      if (permanently) await openEditor().deletePermanently(id)
      else await openEditor().delete(id)
      if (json) printJson({ deleted: id })
      else
        print(
          permanently ? `Deleted permanently: ${id}` : `In the bin: ${id}. To restore it: wisteria entry restore ${id}`,
        )
    })
  entry
    .command('bin')
    .description('Lists the bin, and when each entry is deleted permanently.')
    .option('--json', 'print JSON')
    .action(async ({ json }: { json?: boolean }) => {
      const bin = await openEditor().bin()
      if (json) return printJson(bin)
      if (bin.entries.length === 0) return print('The bin is empty.')
      printTable(
        ['title', 'type', 'deleted', 'deleted permanently', 'id'],
        bin.entries.map((entry) => [
          entry.title || '(no name yet)',
          entry.type,
          when(entry.deletedAt),
          when(entry.goesAt),
          entry.id,
        ]),
      )
    })
}
