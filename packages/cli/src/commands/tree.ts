import type { TreeNode } from '@wisteria/client'
import type { Command } from 'commander'
import { openEditor, UsageError } from '../connection.js'
import { printResult } from '../entryOutput.js'
import { print, printJson, printTable } from '../output.js'

/** The tree of entries. */
export function addTree(entry: Command): void {
  entry
    .command('tree')
    .description('Shows the tree of pages, in the order of readers.')
    .option('--json', 'print JSON')
    .action(async ({ json }: { json?: boolean }) => {
      const tree = await openEditor().tree()
      if (json) return printJson(tree)
      if (tree.nodes.length === 0)
        return print('No entry has a parent: no type of the model names a `parent` field, or there are no entries yet.')
      const ids = new Set(tree.nodes.map((node) => node.id))
      const hasRegions = tree.nodes.some(({ region }) => region !== null && region !== 'main')
      const rows: string[][] = []
      const walk = (parent: string | null, depth: number): void => {
        for (const node of tree.nodes.filter(
          (node) => (node.parent !== null && ids.has(node.parent) ? node.parent : null) === parent,
        )) {
          rows.push(rowOf(node, depth, hasRegions))
          walk(node.id, depth + 1)
        }
      }
      walk(null, 0)
      printTable(['page', 'path', ...(hasRegions ? ['region'] : []), 'state', 'in menus', 'id'], rows)
      if (!tree.isComplete) print('\nThere are more: only the first 5000 are shown.')
    })
  entry
    .command('place')
    .description('Moves an entry below another, or to another place among its siblings.')
    .argument('<id>')
    .option('--below <id>', 'the parent')
    .option('--root', 'no parent')
    .option('--after <id>', 'the sibling that it follows; first when left out')
    .option('--json', 'print JSON')
    .action(
      async (
        id: string,
        { below, root, after, json }: { below?: string; root?: boolean; after?: string; json?: boolean },
      ) => {
        if ((below === undefined) !== (root === true)) throw new UsageError('Say where: --below ID, or --root.')
        printResult(await openEditor().place(id, { parent: below ?? null, after: after ?? null }), 'Placed', json)
      },
    )
}

const rowOf = (node: TreeNode, depth: number, hasRegions: boolean): string[] => [
  `${'  '.repeat(depth)}${node.title || '(no name yet)'}`,
  node.path ?? '',
  ...(hasRegions ? [node.region ?? ''] : []),
  node.state,
  node.inMenu === null ? '' : node.inMenu ? 'yes' : 'no',
  node.id,
]
