import type { Editor } from '@wisteria/client'
import type { Command } from 'commander'
import { openEditor, UsageError } from '../connection.js'
import { readList } from '../input.js'
import { print, printJson, printTable } from '../output.js'

/** A view by its id or its name. */
export async function viewNamed(editor: Editor, name: string) {
  const { views } = await editor.views()
  const match = views.find((view) => view.id === name) ?? views.find((view) => view.name === name)
  if (!match)
    throw new UsageError(`You keep no view “${name}”, and nobody shares one. \`wisteria view list\` lists them.`)
  return match
}

export function addView(program: Command): void {
  const view = program
    .command('view')
    .summary('lists that are kept')
    .description('Lists of entries that you keep, or that everybody shares.')
  view
    .command('list')
    .description('Lists them.')
    .option('--json', 'print JSON')
    .action(async ({ json }: { json?: boolean }) => {
      const { views } = await openEditor().views()
      if (json) return printJson({ views })
      if (views.length === 0) return print('None.')
      printTable(
        ['name', 'type', 'asks', 'shared', 'id'],
        views.map((view) => [
          view.name,
          view.asks.type ?? 'all',
          view.asks.where ?? view.asks.search ?? '',
          view.shared ? 'yes' : '',
          view.id,
        ]),
      )
    })
  view
    .command('keep')
    .description('Keeps a list under a name.')
    .argument('<name>')
    .option('--type <name>', 'of one type')
    .option('--where <condition>', 'that meet a condition')
    .option('--search <words>', 'that hold these words')
    .option('--sort <fields>', 'e.g. starts,-title')
    .option('--columns <fields>', 'fields shown in columns, e.g. format,starts', readList)
    .option('--shared', 'for everybody')
    .option('--json', 'print JSON')
    .action(
      async (
        name: string,
        {
          shared,
          json,
          ...asks
        }: {
          shared?: boolean
          json?: boolean
          type?: string
          where?: string
          search?: string
          sort?: string
          columns?: string[]
        },
      ) => {
        const kept = await openEditor().keepView({ name, asks, ...(shared ? { shared } : {}) })
        if (json) printJson(kept)
        else print(`Kept: “${kept.name}” (${kept.id})${kept.shared ? ', for everybody' : ''}`)
      },
    )
  view
    .command('remove')
    .description('Takes a kept list away; the entries stay.')
    .argument('<name>', 'or its id')
    .option('--json', 'print JSON')
    .action(async (name: string, { json }: { json?: boolean }) => {
      const editor = openEditor()
      const { id } = await viewNamed(editor, name)
      await editor.removeView(id)
      if (json) printJson({ removed: id })
      else print(`Removed: ${name}`)
    })
}
