import type { Command } from 'commander'
import { openEditor, openService, readConnection } from '../connection.js'
import { readMap } from '../input.js'
import { print, printJson, printTable } from '../output.js'

interface Json {
  readonly json?: boolean
}

export function addSite(program: Command): void {
  const site = program
    .command('site')
    .summary('sites of the service')
    .description('Sites: each with its own model, entries, locales and keys.')
  site
    .command('list')
    .description('Lists the sites that you are a member of; as an operator all sites of the service.')
    .option('--json', 'print JSON')
    .action(async ({ json }: Json) => {
      const { sites } = await openService().sites()
      if (json) return printJson({ sites })
      printTable(
        ['site', 'label', 'your role', ''],
        sites.map((site) => [
          site.name,
          site.label,
          site.role ?? 'none',
          site.name === readConnection().site ? 'connected' : '',
        ]),
      )
    })
  site
    .command('create')
    .description('Creates a site from a YAML file: name, label, defaultLocale, locales, timeZone.')
    .requiredOption('--file <path>', 'YAML or JSON; - for standard input')
    .option('--json', 'print JSON')
    .action(async ({ file, json }: { file: string } & Json) => {
      const created = await openService().createSite(readMap(file) as never)
      if (json) printJson(created)
      else print(`Created: ${created.name}`)
    })
  site
    .command('open')
    .description('Opens the published edition to readers without a key; with --close only keys read it.')
    .option('--close', 'close it')
    .option('--json', 'print JSON')
    .action(async ({ close, json }: { close?: boolean } & Json) => {
      const changed = await openEditor().setOpen(!close)
      if (json) printJson(changed)
      else print(changed.open ? 'The published edition is open.' : 'The published edition needs a key.')
    })
  site
    .command('rebuild')
    .description('Rebuilds the rows of the published edition from its publications.')
    .option('--json', 'print JSON')
    .action(async ({ json }: Json) => {
      const { rows } = await openEditor().rebuild()
      if (json) printJson({ rows })
      else print(`Rebuilt: ${rows} rows.`)
    })
}
