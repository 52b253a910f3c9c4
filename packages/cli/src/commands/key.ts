import type { KeyScope } from '@wisteria/core'
import type { Command } from 'commander'
import { openEditor } from '../connection.js'
import { print, printJson, printTable, when } from '../output.js'

interface Json {
  readonly json?: boolean
}

export function addKey(program: Command): void {
  const key = program
    .command('key')
    .summary('access keys')
    .description('Access keys: secrets that let a program read or edit. Shown once, stored hashed.')
  key
    .command('list')
    .description('Lists the keys of the site.')
    .option('--json', 'print JSON')
    .action(async ({ json }: Json) => {
      const { keys } = await openEditor().keys()
      if (json) return printJson({ keys })
      printTable(
        ['label', 'scope', 'begins', 'last used', 'id'],
        keys.map((key) => [
          key.label + (key.revokedAt ? ' (revoked)' : ''),
          key.scope,
          key.prefix,
          when(key.lastUsedAt) || 'never',
          key.id,
        ]),
      )
    })
  key
    .command('create')
    .description('Makes a key and prints its secret, this once.')
    .requiredOption('--label <text>', 'what it is for')
    .requiredOption('--scope <scope>', 'published, draft, write, edit or model')
    .option('--json', 'print JSON')
    .action(async ({ label, scope, json }: { label: string; scope: KeyScope } & Json) => {
      const created = await openEditor().createKey({ label, scope })
      if (json) return printJson(created)
      print(created.secret)
    })
  key
    .command('revoke')
    .description('Revokes a key at once. It cannot be restored.')
    .argument('<id>')
    .option('--json', 'print JSON')
    .action(async (id: string, { json }: Json) => {
      await openEditor().revokeKey(id)
      if (json) printJson({ revoked: id })
      else print(`Revoked: ${id}`)
    })
}
