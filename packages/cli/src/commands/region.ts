import type { ChangeChoice, CounterpartPlan, CounterpartView, Region, SourceChange } from '@wisteria/client'
import type { Command } from 'commander'
import { openEditor, UsageError } from '../connection.js'
import { isAt, printDifference, printDifferences, readPlace } from '../differences.js'
import { collect, printResult, readVersion } from '../entryOutput.js'
import { readMap } from '../input.js'
import { print, printJson, printTable, progress } from '../output.js'

interface Json {
  readonly json?: boolean
}

/** Commands about regions, and the counterparts of entries in them. */
export function addRegion(program: Command): void {
  const region = program
    .command('region')
    .summary('regions, and the counterparts of entries in them')
    .description(
      'Regions: markets with a structure of their own. Entries of types that are `regional` belong to one, and can have counterparts in others.',
    )
  addSettings(region)
  region
    .command('status')
    .description('Shows entries with their counterparts: where they are, where they are missing, and what is behind.')
    .option('--type <name>', 'only entries of this type')
    .option('--missing <region>', 'only those without an entry in this region')
    .option('--behind <region>', 'only those whose source has changed since this region took its changes')
    .option('--json', 'print JSON')
    .action(async ({ json, ...asked }: { type?: string; missing?: string; behind?: string } & Json) => {
      const editor = openEditor()
      const { regions } = await editor.counterparts.regions()
      const families = []
      for (let after: number | null = 0; after !== null;) {
        const page = await editor.counterparts.list({ ...asked, after })
        families.push(...page.families)
        after = page.next
      }
      if (json) return printJson({ families })
      if (families.length === 0) return print('There are no such entries.')
      const names = ['main', ...regions.map(({ name }) => name)]
      printTable(
        ['path', 'title', ...names, 'id'],
        families.map(({ first, regions: there }) => [
          first.path,
          first.title,
          ...names.map((name) => standing(there[name])),
          first.id,
        ]),
      )
    })
  region
    .command('copy')
    .description(
      'Copies entries to a region, where they have no counterpart yet: a plan first with --dry-run. References between them lead to the copies.',
    )
    .argument('<region>')
    .argument('<ids...>')
    .option('--with-children', 'and everything below them')
    .option('--dry-run', 'show the plan and copy nothing')
    .option('--json', 'print JSON')
    .action(
      async (
        name: string,
        ids: string[],
        { withChildren, dryRun, json }: { withChildren?: boolean; dryRun?: boolean } & Json,
      ) => {
        const editor = openEditor()
        const order = { region: name, ids, withChildren: withChildren ?? false }
        if (dryRun) {
          const plan = await editor.counterparts.plan(order)
          return json ? printJson(plan) : printPlan(plan)
        }
        const job = await editor.waitFor(await editor.counterparts.make(order), (now) =>
          progress(now.done, now.total, now.message),
        )
        if (json) printJson(job)
        else print(`${job.message} \`wisteria job show ${job.id}\` lists them.`)
      },
    )
  region
    .command('place')
    .description(
      'Puts an entry that was never public into a region; or says which entry of another region it is the counterpart of.',
    )
    .argument('<id>')
    .argument('<region>')
    .option('--of <id>', 'it is the counterpart of this entry')
    .option('--alone', 'it is the counterpart of none')
    .option('--json', 'print JSON')
    .action(async (id: string, name: string, { of, alone, json }: { of?: string; alone?: boolean } & Json) => {
      if (of !== undefined && alone) throw new UsageError('Use either --of or --alone.')
      const placed = await openEditor().counterparts.place(id, name, alone ? null : of)
      if (json) printJson(placed)
      else print(`“${placed.title}” is in ${placed.region}.`)
    })
  region
    .command('changes')
    .description('Shows what changed in the entry that this one was copied from, and what was changed here too.')
    .argument('<id>')
    .option('--lost', 'show what overwriting it would change')
    .option('--json', 'print JSON')
    .action(async (id: string, { lost, json }: { lost?: boolean } & Json) => {
      const changes = await openEditor().counterparts.changes(id)
      if (json) return printJson(changes)
      const { source } = changes
      if (lost) {
        print(`Overwriting it by “${source.title}” (${source.region}) would change:`)
        return printDifferences(changes.lost)
      }
      if (changes.changes.length === 0) return print(`Nothing has changed in “${source.title}” (${source.region}).`)
      print(`Changed in “${source.title}” (${source.region}):`)
      for (const change of changes.changes) {
        printDifference(change)
        if (change.own.length === 0) continue
        print('    Changed here too:')
        for (const own of change.own) printDifference(own, '      ')
      }
    })
  region
    .command('take')
    .description(
      'Takes the changes of the entry that this one was copied from. Where both changed a place, --source or --own decides for it, or --conflicts for all.',
    )
    .argument('<id>')
    .option(
      '--source <place>',
      'take this place from the source, e.g. title:en, body/h1/text:en; can be repeated',
      collect,
      [],
    )
    .option('--own <place>', 'leave this place as it is here; can be repeated', collect, [])
    .option('--conflicts <side>', 'source or own, for places that both changed')
    .option('--everything', 'overwrite it by its source; `region changes --lost` shows what that changes')
    .option('--at-version <n>', 'only if the entry is still at this version')
    .option('--json', 'print JSON')
    .action(async (id: string, options: TakeOptions) => {
      const { source, own, conflicts, everything, atVersion, json } = options
      if (conflicts !== undefined && conflicts !== 'source' && conflicts !== 'own')
        throw new UsageError(`--conflicts must be source or own, not “${conflicts}”.`)
      const editor = openEditor()
      const { changes, source: from } = await editor.counterparts.changes(id)
      const choices = [...choose(changes, source, 'source'), ...choose(changes, own, 'own')]
      const taken = await editor.counterparts.take(
        id,
        {
          take: everything ? 'everything' : 'changes',
          ...(choices.length > 0 ? { choices } : {}),
          ...(conflicts === undefined ? {} : { conflicts }),
          sourceVersion: from.version,
        },
        readVersion(atVersion),
      )
      if (json) return printJson(taken)
      const what = everything ? 'Overwritten' : `${taken.taken} taken, ${taken.left} left`
      printResult(taken, what, json)
    })
}

interface TakeOptions extends Json {
  readonly source: readonly string[]
  readonly own: readonly string[]
  readonly conflicts?: string
  readonly everything?: boolean
  readonly atVersion?: string
}

/** The choices for the changes at some places. @throws UsageError where a place has none. */
function choose(
  changes: readonly SourceChange[],
  places: readonly string[],
  side: ChangeChoice['side'],
): ChangeChoice[] {
  return places.flatMap((text) => {
    const found = changes.filter((change) => isAt(change, readPlace(text)))
    if (found.length === 0)
      throw new UsageError(`The source has no change at ${text}. \`wisteria region changes ID\` lists them.`)
    return found.map(({ how, at, locale }) => ({ how, at, locale, side }))
  })
}

/** Naming the regions of a site. */
function addSettings(region: Command): void {
  region
    .command('list')
    .description('Lists the regions besides the main one, with how many entries are in each.')
    .option('--json', 'print JSON')
    .action(async ({ json }: Json) => {
      const { regions, types } = await openEditor().counterparts.regions()
      if (json) return printJson({ regions, types })
      if (regions.length === 0) print('The site has no regions besides the main one.')
      else
        printTable(
          ['region', 'label', 'entries'],
          regions.map(({ name, label, entries }) => [name, label, entries]),
        )
      print(
        types.length === 0
          ? '\nNo type is regional: the model says `regional: true` for none.'
          : `\nRegional types: ${types.join(', ')}`,
      )
    })
  region
    .command('set')
    .description('Sets all regions from a YAML file with `regions`, as `region list --json` prints them.')
    .requiredOption('--file <path>', 'YAML or JSON; - for standard input')
    .option('--json', 'print JSON')
    .action(async ({ file, json }: { file: string } & Json) => {
      const { regions } = readMap(file) as { regions?: unknown }
      if (!Array.isArray(regions)) throw new UsageError('The file must have `regions`: a list of `{ name, label }`.')
      await changeRegions(() => regions as Region[], `Regions: ${regions.length}`, json)
    })
  region
    .command('add')
    .description('Adds a region. Its name becomes part of addresses, and cannot change.')
    .argument('<name>')
    .option('--label <text>', 'its label for people; the name when left out')
    .option('--json', 'print JSON')
    .action((name: string, { label = name, json }: { label?: string } & Json) =>
      changeRegions((regions) => [...regions, { name, label }], `Added ${name}.`, json),
    )
  region
    .command('label')
    .description('Changes the label of a region.')
    .argument('<name>')
    .argument('<label>')
    .option('--json', 'print JSON')
    .action((name: string, label: string, { json }: Json) =>
      changeRegions(
        (regions) => requireRegion(regions, name).map((one) => (one.name === name ? { name, label } : one)),
        `${name} is called ${label}.`,
        json,
      ),
    )
  region
    .command('remove')
    .description('Removes a region that has no entries.')
    .argument('<name>')
    .option('--json', 'print JSON')
    .action((name: string, { json }: Json) =>
      changeRegions(
        (regions) => requireRegion(regions, name).filter((one) => one.name !== name),
        `Removed ${name}.`,
        json,
      ),
    )
}

async function changeRegions(
  change: (regions: readonly Region[]) => readonly Region[],
  said: string,
  json: boolean | undefined,
): Promise<void> {
  const editor = openEditor()
  const { regions, version } = await editor.counterparts.regions()
  const set = await editor.counterparts.setRegions(change(regions), version)
  if (json) printJson(set)
  else print(said)
}

/** @throws UsageError where there is no such region. */
function requireRegion(regions: readonly Region[], name: string): readonly Region[] {
  if (regions.some((one) => one.name === name)) return regions
  throw new UsageError(`There is no region ${name}. \`wisteria region list\` lists them.`)
}

const standing = (entry: CounterpartView | undefined): string =>
  entry === undefined ? '-' : entry.behind ? `${entry.state}, behind` : entry.state

function printPlan({ region, create, entries, exist, refused }: CounterpartPlan): void {
  if (entries.length > 0)
    printTable(
      ['type', 'title', 'id'],
      entries.map(({ type, title, id }) => [type, title, id]),
    )
  for (const { title, id, message } of refused) print(`Not “${title}” (${id}): ${message}`)
  const there = exist === 0 ? '' : ` ${exist} ${exist === 1 ? 'has' : 'have'} a counterpart there already.`
  print(`${create} would be copied to ${region}.${there}`)
}
