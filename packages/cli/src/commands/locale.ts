import type { LocaleConsequences, SiteSettings } from '@wisteria/core'
import type { Command } from 'commander'
import { openEditor } from '../connection.js'
import { readList, readMap } from '../input.js'
import { print, printJson, printTable, progress } from '../output.js'

interface Json {
  readonly json?: boolean
}

export function addLocale(program: Command): void {
  const locale = program
    .command('locale')
    .summary('locales, fallbacks and time zone')
    .description('The locales of the site, each with its whole fallback chain.')
  locale
    .command('list')
    .description('Lists the locales.')
    .option('--json', 'print JSON')
    .action(async ({ json }: Json) => {
      const {
        name: _,
        open: __,
        modelVersion: ___,
        sequence: ____,
        publicGeneration: _____,
        ...settings
      } = await openEditor().settings()
      if (json) return printJson(settings)
      printTable(
        ['locale', 'label', 'falls back to', ''],
        settings.locales.map((locale) => [
          locale.tag,
          locale.label,
          locale.fallback.join(', '),
          locale.tag === settings.defaultLocale ? 'default' : locale.variant ? 'variant' : '',
        ]),
      )
      print(`\nTime zone ${settings.timeZone}`)
    })
  locale
    .command('set')
    .description(
      'Sets label, locales and time zone from a YAML file, as `locale list --json` prints them. Everything public is rebuilt.',
    )
    .requiredOption('--file <path>', 'YAML or JSON; - for standard input')
    .option('--retire <tags>', 'withdraw these locales, which the file no longer has; their texts are kept', readList)
    .option('--json', 'print JSON')
    .action(async ({ file, retire, json }: { file: string; retire?: string[] } & Json) => {
      const settings = await openEditor().setLocales(readMap(file) as unknown as SiteSettings, retire)
      if (json) printJson(settings)
      else print(`Locales: ${settings.locales.map((locale) => locale.tag).join(', ')}`)
    })
  locale
    .command('removed')
    .description('Lists locales that the site had once, and how many entries and files still have texts in them.')
    .option('--json', 'print JSON')
    .action(async ({ json }: Json) => {
      const { locales } = await openEditor().removedLocales()
      if (json) return printJson({ locales })
      if (locales.length === 0) return print('There are no texts in removed locales.')
      printTable(
        ['locale', 'entries', 'files'],
        locales.map(({ tag, entries, assets }) => [tag, entries, assets]),
      )
    })
  locale
    .command('forget')
    .description('Deletes the texts of a removed locale permanently, from all revisions. They do not come back.')
    .argument('<locale>')
    .option('--json', 'print JSON')
    .action(async (tag: string, { json }: Json) => {
      const editor = openEditor()
      const job = await editor.waitFor(await editor.forgetLocale(tag), (now) =>
        progress(now.done, now.total, now.message),
      )
      if (json) printJson(job)
      else print(job.message)
    })
  locale
    .command('compare')
    .description(
      'Shows what the settings in a YAML file would do: locales added and removed, and what is public in them.',
    )
    .requiredOption('--file <path>', 'YAML or JSON; - for standard input')
    .option('--json', 'print JSON')
    .action(async ({ file, json }: { file: string } & Json) => {
      const consequences = await openEditor().compareLocales(readMap(file) as unknown as SiteSettings)
      if (json) return printJson(consequences)
      printLocaleConsequences(consequences)
    })
}

const count = (number: number, singular: string, many: string): string => `${number} ${number === 1 ? singular : many}`

function printLocaleConsequences(consequences: LocaleConsequences): void {
  const { added, retired, fallbacksChanged, variantsChanged, timeZoneChanged, defaultChanged } = consequences
  for (const tag of added) print(`${tag} is added.`)
  for (const item of retired) {
    print(`${item.tag} is retired:`)
    if (item.refused !== null) print(`  refused: ${item.refused}`)
    print(
      `  withdrawn in ${count(item.public, 'entry', 'entries')}, of which ${count(item.only, 'is', 'are')} public in no other locale; ${count(item.paths, 'URL stops', 'URLs stop')} working`,
    )
    print(`  ${count(item.drafts, 'working copy has texts', 'working copies have texts')} in it, which are kept`)
    if (item.schedules > 0)
      print(`  ${count(item.schedules, 'schedule names it, and would fail', 'schedules name it, and would fail')}`)
  }
  for (const tag of fallbacksChanged) print(`${tag} has other fallbacks.`)
  for (const tag of variantsChanged) print(`What is missing in ${tag} counts otherwise as work for translators.`)
  if (timeZoneChanged) print('The time zone changes.')
  if (defaultChanged)
    print(
      `${defaultChanged.to} becomes the default locale.${defaultChanged.refused === null ? '' : `\n  refused: ${defaultChanged.refused}`}`,
    )
  if (
    added.length + retired.length + fallbacksChanged.length + variantsChanged.length === 0 &&
    !timeZoneChanged &&
    !defaultChanged
  )
    print('Nothing changes for readers.')
}
