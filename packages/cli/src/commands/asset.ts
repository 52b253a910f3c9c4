import { readFileSync } from 'node:fs'
import { basename } from 'node:path'
import type { Command } from 'commander'
import { openEditor, UsageError } from '../connection.js'
import { print, printJson, printTable } from '../output.js'

export function addAsset(program: Command): void {
  const asset = program
    .command('asset')
    .summary('list and add files')
    .description('Assets: the files that entries hold.')
  asset
    .command('list')
    .description('Lists the assets of the site by name.')
    .option('--accepts <types>', 'media types, e.g. image/*')
    .option('--search <words>', 'in the name')
    .option('--json', 'print JSON')
    .action(async ({ json, ...query }: { json?: boolean; accepts?: string; search?: string }) => {
      const found = await openEditor().assets(query)
      if (json) return printJson(found)
      if (found.assets.length === 0) return print('No assets. Add one: `wisteria asset add FILE`.')
      printTable(
        ['id', 'name', 'kind', 'size', 'alternative text'],
        found.assets.map((one) => [
          one.id,
          one.name,
          one.mediaType,
          one.width ? `${one.width} × ${one.height}` : `${one.size} bytes`,
          Object.keys(one.alt).join(', '),
        ]),
      )
    })
  asset
    .command('add')
    .description('Adds a file. What it is is found out from its content.')
    .argument('<file>')
    .option(
      '--alt <locale=text>',
      'what somebody who cannot see it should know; once a locale',
      (text: string, all: string[]) => [...all, text],
      [],
    )
    .option('--json', 'print JSON')
    .action(async (file: string, { alt, json }: { alt: string[]; json?: boolean }) => {
      let content: Buffer
      try {
        content = readFileSync(file)
      } catch (error) {
        throw new UsageError(
          `${file} cannot be read: ${(error as NodeJS.ErrnoException).code === 'ENOENT' ? 'there is no such file' : (error as Error).message}.`,
        )
      }
      const texts = alt.map((one) => {
        const at = one.indexOf('=')
        if (at < 1) throw new UsageError(`--alt is a locale and a text, such as en="A lamp", not “${one}”.`)
        return [one.slice(0, at), one.slice(at + 1)] as const
      })
      const added = await openEditor().addAsset({
        name: basename(file),
        content: content.toString('base64'),
        alt: Object.fromEntries(texts),
      })
      if (json) printJson(added)
      else print(`Added: ${added.name} (${added.id}), ${added.mediaType}\n${added.address}`)
    })
  asset
    .command('delete')
    .description('Takes an asset away that nothing refers to.')
    .argument('<id>')
    .action(async (id: string) => {
      await openEditor().deleteAsset(id)
      print('Deleted.')
    })
}
