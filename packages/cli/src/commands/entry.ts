import type { WithdrawalConsequences } from '@wisteria/client'
import type { Command } from 'commander'
import { openEditor, UsageError } from '../connection.js'
import { printEntry, printResult, printUsedBy, readVersion, short } from '../entryOutput.js'
import { readList, readMap } from '../input.js'
import { Outcome } from '../outcome.js'
import { print, printFoot, printJson, printTable, when } from '../output.js'
import { addEditing } from './editing.js'
import { addHistory } from './history.js'
import { addBulk } from './bulk.js'
import { printSchedule, scheduledTime, timeOptions, type TimeAsked } from './schedule.js'
import { addArchiving } from './archiving.js'
import { addTree } from './tree.js'
import { viewNamed } from './view.js'

function readLimit(text: string): number {
  const limit = Number(text)
  if (!Number.isInteger(limit) || limit < 1 || limit > 100)
    throw new UsageError(`--first must be a whole number from 1 to 100, not “${text}”.`)
  return limit
}

export function addEntry(program: Command): void {
  const entry = program
    .command('entry')
    .summary('list, show, change and publish entries')
    .description('Entries: their working copies, and what is public.')
  entry
    .command('list')
    .description('Lists working copies with their states, of one type or of all, newest change first.')
    .argument('[type]')
    .option('--search <words>', 'entries with these words, by their beginnings or their stems')
    .option('--where <condition>', 'e.g. \'format = "walk" and entry.state = "edited"\'')
    .option('--view <name>', 'a saved view')
    .option('--sort <fields>', 'e.g. starts,-title; newest change first when left out')
    .option('--locale <tag>', 'titles and conditions in this locale')
    .option('--first <n>', 'at most 100', '50')
    .option('--after <cursor>', 'the next page')
    .option('--json', 'print JSON')
    .action(
      async (
        type: string | undefined,
        {
          json,
          first,
          view,
          ...asked
        }: {
          view?: string
          search?: string
          where?: string
          sort?: string
          locale?: string
          first: string
          after?: string
          json?: boolean
        },
      ) => {
        const editor = openEditor()
        const kept = view === undefined ? {} : (await viewNamed(editor, view)).asks
        const page = await editor.entries({
          ...Object.fromEntries(Object.entries(kept).filter(([name]) => name !== 'columns')),
          ...(type === undefined ? {} : { type }),
          ...asked,
          first: readLimit(first),
          count: true,
        })
        if (json) return printJson(page)
        if (page.entries.length === 0) return print('None.')
        const locales = Object.keys(page.entries[0]!.states)
        printTable(
          ['title', ...(type === undefined ? ['type'] : []), ...locales, 'id', 'changed'],
          page.entries.map((entry) => [
            entry.title || '(no name yet)',
            ...(type === undefined ? [entry.type] : []),
            ...locales.map((locale) => entry.states[locale]),
            entry.id,
            when(entry.updatedAt),
          ]),
        )
        printFoot(page)
      },
    )
  entry
    .command('find')
    .description('Finds entries of all types by words in any of their texts, in any locale, the best first.')
    .argument('<words...>')
    .option('--type <name>', 'only of this type')
    .option('--first <n>', 'at most 50', '20')
    .option('--json', 'print JSON')
    .action(async (words: string[], { type, first, json }: { type?: string; first: string; json?: boolean }) => {
      const asked = { ...(type === undefined ? {} : { type }), first: readLimit(first) }
      const { entries } = await openEditor().search(words.join(' '), asked)
      if (json) return printJson({ entries })
      if (entries.length === 0) return print('None.')
      printTable(
        ['title', 'type', 'found in', 'state', 'id'],
        entries.map((entry) => [entry.title || '(no name yet)', entry.type, entry.foundIn, entry.state, entry.id]),
      )
    })
  entry
    .command('show')
    .description('Shows an entry: states, paths and the values of its working copy.')
    .argument('<id>')
    .option('--json', 'print JSON')
    .action(async (id: string, { json }: { json?: boolean }) => {
      const entry = await openEditor().entry(id)
      if (json) printJson(entry)
      else printEntry(entry)
    })
  entry
    .command('create')
    .description(
      'Creates an entry from a YAML or JSON file of values, keyed by field names:\n\n  title: { en: Night Walk, nl: Nachtwandeling }\n  format: walk\n  story: { en: { markdown: Along the *cliff*. } }',
    )
    .argument('<type>')
    .requiredOption('--file <path>', 'the values; - for standard input')
    .option('--region <name>', 'of a type that is regional; that of its parent when left out')
    .option('--idempotency-key <key>', 'the same key creates it only once, within a day')
    .option('--json', 'print JSON')
    .action(
      async (
        type: string,
        {
          file,
          region,
          idempotencyKey,
          json,
        }: { file: string; region?: string; idempotencyKey?: string; json?: boolean },
      ) => {
        const entry = { type, values: readMap(file), ...(region === undefined ? {} : { region }) }
        printResult(await openEditor().create(entry, idempotencyKey), 'Created', json)
      },
    )
  entry
    .command('change')
    .description('Changes values: a YAML or JSON file is merged into them, and null clears a value (JSON Merge Patch).')
    .argument('<id>')
    .requiredOption('--file <path>', 'the values to change; - for standard input')
    .option('--at-version <n>', 'only if the entry is still at this version')
    .option('--json', 'print JSON')
    .action(async (id: string, { file, atVersion, json }: { file: string; atVersion?: string; json?: boolean }) => {
      const editor = openEditor()
      const at = readVersion(atVersion) ?? (await editor.entry(id)).version
      printResult(await editor.patch(id, at, readMap(file)), 'Changed', json)
    })
  entry
    .command('publish')
    .description(
      'Publishes an entry, in all locales with content or in those of --locales. --dry-run only shows what would change.',
    )
    .argument('<id>')
    .option('--locales <tags>', 'e.g. en,nl', readList)
    .option('--with <ids>', 'publish these entries too, all of them or none', readList)
    .option('--minor', 'the changes do not matter to translations: those of the public texts stay current')
    .option(...timeOptions.at)
    .option(...timeOptions.zone)
    .option('--at-version <n>', 'only if the entry is still at this version')
    .option('--dry-run', 'show what would change, and change nothing')
    .option('--json', 'print JSON')
    .action(
      async (
        id: string,
        {
          locales,
          atVersion,
          dryRun,
          json,
          at: time,
          zone,
          with: together,
          minor,
        }: TimeAsked & {
          minor?: boolean
          locales?: string[]
          atVersion?: string
          dryRun?: boolean
          json?: boolean
          with?: string[]
        },
      ) => {
        const editor = openEditor()
        if (dryRun) {
          const consequences = await editor.consequences(id, locales, together)
          printConsequences(consequences, json)
          const problems = [...consequences.problems, ...consequences.together.flatMap((other) => other.problems)]
          return Outcome.of({ isBlocked: problems.length > 0, breaks: false })
        }
        if (time !== undefined) {
          if (together) throw new UsageError('--with publishes now. Schedule each entry by itself with --at.')
          if (minor)
            throw new UsageError('--minor publishes now. Mark translations with `wisteria translate mark` instead.')
          return printSchedule(
            await editor.schedule(id, { does: 'publish', ...scheduledTime(time, zone, locales) }),
            json,
          )
        }
        const at = readVersion(atVersion)
        const asked = {
          ...(locales ? { locales } : {}),
          ...(together ? { together } : {}),
          ...(minor ? { minor } : {}),
          ...(at === undefined ? {} : { version: at }),
        }
        printResult(await editor.publish(id, asked), 'Published', json)
      },
    )
  entry
    .command('withdraw')
    .description('Withdraws an entry, in all locales or in those of --locales.')
    .argument('<id>')
    .option('--locales <tags>', 'e.g. en,nl', readList)
    .option('--with-children', 'withdraw the pages below it too')
    .option(...timeOptions.at)
    .option(...timeOptions.zone)
    .option('--dry-run', 'show what would stop being public, and which references would break; change nothing')
    .option('--json', 'print JSON')
    .action(
      async (
        id: string,
        {
          locales,
          withChildren,
          dryRun,
          json,
          at,
          zone,
        }: TimeAsked & { locales?: string[]; withChildren?: boolean; dryRun?: boolean; json?: boolean },
      ) => {
        if (dryRun) {
          const consequences = await openEditor().withdrawalConsequences(id, locales)
          printWithdrawal(consequences, json)
          return Outcome.of({
            isBlocked: consequences.children.length > 0 && !withChildren,
            breaks: consequences.dangling.length > 0,
          })
        }
        if (at !== undefined)
          return printSchedule(
            await openEditor().schedule(id, { does: 'withdraw', ...scheduledTime(at, zone, locales) }),
            json,
          )
        printResult(
          await openEditor().withdraw(id, {
            ...(locales ? { locales } : {}),
            ...(withChildren ? { withChildren } : {}),
          }),
          'Withdrawn',
          json,
        )
      },
    )
  entry
    .command('duplicate')
    .description('Creates an entry with the same values. Slugs get a number; other unique values are left out.')
    .argument('<id>')
    .option('--json', 'print JSON')
    .action(async (id: string, { json }: { json?: boolean }) =>
      printResult(await openEditor().duplicate(id), 'Duplicated', json),
    )
  entry
    .command('usage')
    .description('Lists the entries that refer to this one, in their working copies or in public.')
    .argument('<id>')
    .option('--json', 'print JSON')
    .action(async (id: string, { json }: { json?: boolean }) => {
      const { usedBy } = await openEditor().usage(id)
      if (json) return printJson({ usedBy })
      if (usedBy.length === 0) return print('Nothing refers to it.')
      printUsedBy(usedBy)
    })
  addHistory(entry)
  addArchiving(entry)
  addEditing(entry)
  addTree(entry)
  addBulk(entry)
}

function printWithdrawal(consequences: WithdrawalConsequences, json: boolean | undefined): void {
  if (json) return printJson(consequences)
  if (consequences.locales.length === 0) return print('Nothing of it is public there: nothing would change.')
  print(`Withdrawing it in ${consequences.locales.join(', ')}:`)
  for (const [locale, path] of Object.entries(consequences.paths)) print(`  ${locale} ${path} would stop working`)
  for (const { title } of consequences.children) print(`  “${title}” is below it: --with-children withdraws it too`)
  if (consequences.dangling.length > 0) {
    print('Public entries with references that would break:')
    printUsedBy(consequences.dangling)
  }
}

type Consequences = Awaited<ReturnType<ReturnType<typeof openEditor>['consequences']>>

function printConsequences(consequences: Consequences, json: boolean | undefined): void {
  if (json) return printJson(consequences)
  print(`Publishing ${consequences.locales.join(', ') || 'nothing'} of version ${consequences.version}:`)
  for (const problem of consequences.problems) print(`  blocking: ${problem.message}`)
  if (consequences.changes.length === 0) print('  No differences from what is public.')
  else
    printTable(
      ['place', 'locale', 'public now', 'after'],
      consequences.changes.map((change) => [
        change.label,
        change.locale ?? 'all',
        short(change.before),
        short(change.after),
      ]),
    )
  for (const [locale, { from, to }] of Object.entries(consequences.paths))
    print(`  path in ${locale}: ${from ?? '(none)'} -> ${to ?? '(none)'}`)
  for (const locale of consequences.locales) {
    const { missing, outdated, done } = consequences.translations[locale] ?? { missing: 0, outdated: 0, done: 0 }
    if (missing + outdated > 0)
      print(`  ${locale}: ${missing + outdated} of ${missing + outdated + done} texts not translated or outdated`)
  }
  const outdates = Object.entries(consequences.outdates).map(([locale, count]) => `${locale} (${count})`)
  if (outdates.length > 0)
    print(`  translations that are outdated by it: ${outdates.join(', ')}; --minor keeps them current`)
  for (const { title, problems } of consequences.together)
    print(
      `  together with “${title}”${problems.length > 0 ? `; blocking: ${problems.map(({ message }) => message).join(' ')}` : ''}`,
    )
  for (const reference of consequences.hiddenReferences)
    print(`  refers to ${reference.type} “${reference.title}”, which is not public`)
  if (consequences.affects.length > 0)
    print(`  affects ${consequences.affects.map((page) => `“${page.title}”`).join(', ')}`)
}
