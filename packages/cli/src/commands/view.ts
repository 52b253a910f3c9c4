import type { Editor } from '@wisteria/client'
import type { Command } from 'commander'
import { openEditor, UsageError } from '../connection.js'
import { readList } from '../input.js'
import { print, printJson, printTable } from '../output.js'

/** A view by its id or its name. */
export async function viewNamed(editor: Editor, name: string) {
  const { views } = await editor.views()
  const match = views.find((view) => view.id === name) ?? views.find((view) => view.name === name)
  if (!match) throw new UsageError(`There is no saved view “${name}”. \`wisteria view list\` lists them.`)
  return match
}

export function addView(program: Command): void {
  const view = program
    .command('view')
    .summary('saved views')
    .description('Saved views: lists of entries with a name, yours or shared with everybody.')
  view
    .command('list')
    .description('Lists saved views.')
    .option('--json', 'print JSON')
    .action(async ({ json }: { json?: boolean }) => {
      const { views } = await openEditor().views()
      if (json) return printJson({ views })
      if (views.length === 0) return print('There are no saved views.')
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
    .command('save')
    .description('Saves a view: a type, a condition, an order and columns under a name.')
    .argument('<name>')
    .option('--type <name>', 'of one type')
    .option('--where <condition>', 'that match a condition')
    .option('--search <words>', 'that contain these words')
    .option('--sort <fields>', 'e.g. starts,-title')
    .option('--locale <tag>', 'titles and conditions in this locale')
    .option('--columns <fields>', 'fields shown in columns, e.g. format,starts', readList)
    .option('--shared', 'share it with everybody')
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
          locale?: string
          columns?: string[]
        },
      ) => {
        const saved = await openEditor().saveView({ name, asks, ...(shared ? { shared } : {}) })
        if (json) printJson(saved)
        else print(`Saved: “${saved.name}” (${saved.id})${saved.shared ? ', shared' : ''}`)
      },
    )
  view
    .command('delete')
    .description('Deletes a saved view. Its entries stay.')
    .argument('<name>', 'or its id')
    .option('--json', 'print JSON')
    .action(async (name: string, { json }: { json?: boolean }) => {
      const editor = openEditor()
      const { id } = await viewNamed(editor, name)
      await editor.deleteView(id)
      if (json) printJson({ deleted: id })
      else print(`Deleted: ${name}`)
    })
}
