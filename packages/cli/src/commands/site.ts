import type { Command } from 'commander'
import { openEditor, openService, readConnection } from '../connection.js'
import type { CopyPlan } from '@wisteria/core'
import { addArchives } from './siteArchive.js'
import { readList, readMap } from '../input.js'
import { print, printJson, printTable, progress } from '../output.js'

interface CopyOptions {
  readonly from: string
  readonly types?: string[]
  readonly where?: string
  readonly withoutReferences?: boolean
  readonly publish?: boolean
  readonly dryRun?: boolean
  readonly json?: boolean
}

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
    .command('copy')
    .description(
      'Copies content of another site into this one, with its files: a plan first with --dry-run. Copies get ids of their own.',
    )
    .argument('[ids...]', 'entries of that site; those of --types when left out, or all')
    .requiredOption('--from <site>', 'the name of the other site, of which you are a member')
    .option('--types <names>', 'entries of these types', readList)
    .option('--where <condition>', 'of the one type that is named')
    .option('--without-references', 'not the entries that these refer to')
    .option('--publish', 'publish the copies where their originals are public')
    .option('--dry-run', 'show the plan and copy nothing')
    .option('--json', 'print JSON')
    .action(async (ids: string[], { dryRun, publish, withoutReferences, json, ...asked }: CopyOptions) => {
      const editor = openEditor()
      const order = {
        ...asked,
        ...(ids.length > 0 ? { ids } : {}),
        ...(withoutReferences ? { references: false } : {}),
      }
      if (dryRun) {
        const plan = await editor.planCopy(order)
        return json ? printJson(plan) : printPlan(plan)
      }
      const job = await editor.waitFor(await editor.copy(order, publish), (now) =>
        progress(now.done, now.total, now.message),
      )
      if (json) printJson(job)
      else print(`${job.message} \`wisteria job show ${job.id}\` shows what was not done.`)
    })
  addArchives(site)
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

function printPlan({ types, assets, localesLeftOut, referencesLeftOut }: CopyPlan): void {
  if (types.length === 0) return print('There is nothing to copy.')
  printTable(
    ['type', 'entries', 'cannot be copied'],
    types.map(({ type, entries, refused }) => [
      type,
      entries,
      refused.map(({ message, entries: count }) => `${count}: ${message}`).join('\n'),
    ]),
  )
  print(`${assets.count} ${assets.count === 1 ? 'file' : 'files'}, ${(assets.bytes / 1e6).toFixed(1)} MB`)
  if (localesLeftOut.length > 0)
    print(`Texts in ${localesLeftOut.join(', ')} are left out: this site has no such locale.`)
  if (referencesLeftOut > 0)
    print(
      `${referencesLeftOut} ${referencesLeftOut === 1 ? 'reference' : 'references'} to entries that are not copied are left out.`,
    )
}
