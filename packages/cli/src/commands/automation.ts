import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import type { AutomationChange, AutomationView } from '@wisteria/client'
import { automationFileName, readAutomationFiles, writeAutomation, type Automation } from '@wisteria/core'
import type { Command } from 'commander'
import { openEditor, UsageError } from '../connection.js'
import { readList, readModelFolder, readSecret, readText } from '../input.js'
import { Outcome } from '../outcome.js'
import { print, printJson, printTable, when } from '../output.js'
import { addRuns, printLog, printRuns } from './automationRun.js'

interface Json {
  readonly json?: boolean
}

const isFile = (name: string): boolean => /\.ya?ml$/.test(name)

/** The automations of a folder; of none where it has no files. */
function readFolder(folder: string): Automation[] {
  if (existsSync(folder) && readdirSync(folder).every((name) => !isFile(name))) return []
  return readAutomationFiles(readModelFolder(folder))
}

const printChanges = (changes: readonly AutomationChange[]): void => {
  if (changes.every(({ does }) => does === 'same'))
    return print('No change: the files are the automations of the site.')
  printTable(
    ['automation', 'what happens', 'running'],
    changes
      .filter(({ does }) => does !== 'same')
      .map(({ name, does, parts, running }) => [
        name,
        does === 'changed' ? `changed: ${parts.join(', ')}` : does,
        running === 0 ? '' : does === 'removed' ? `${running}, which end` : `${running}, unchanged`,
      ]),
  )
}

/** What starts an automation, in words. */
function startOf({ definition: { starts } }: AutomationView): string {
  switch (starts.by) {
    case 'event':
      return starts.events.join(' ')
    case 'hand':
      return starts.on === 'site' ? 'by hand' : `by hand, for ${starts.on === 'entry' ? 'an entry' : 'a list'}`
    case 'timetable':
      return [`every ${starts.every}`, starts.on?.join(' '), starts.at].filter(Boolean).join(' ')
    case 'address':
      return 'by a message'
  }
}

/** A JSON value in a file. */
function readJson(path: string): unknown {
  try {
    return JSON.parse(readText(path)) as unknown
  } catch (error) {
    if (error instanceof UsageError) throw error
    throw new UsageError(`${path} is not JSON: ${(error as Error).message}.`)
  }
}

export function addAutomation(program: Command): void {
  const automation = program
    .command('automation')
    .summary('repeated work, started by events, timetables, messages or by hand')
    .description('Automations: repeated work, started by events, timetables, messages or by hand. One YAML file each.')
  automation
    .command('list')
    .description('Lists automations, what starts them, and how their runs ended.')
    .option('--json', 'print JSON')
    .action(async ({ json }: Json) => {
      const { automations } = await openEditor().automations.list()
      if (json) return printJson({ automations })
      if (automations.length === 0)
        return print(
          'No automations yet. Write one as a file, and adopt its folder: `wisteria automation adopt FOLDER`.',
        )
      printTable(
        ['name', 'label', 'state', 'starts', 'running', 'done', 'failed', 'latest'],
        automations.map((one) => [
          one.name,
          one.definition.label,
          one.enabled ? (one.nextAt === null ? 'on' : `next ${when(one.nextAt)}`) : 'off',
          startOf(one),
          one.runs.running,
          one.runs.done,
          one.runs.failed,
          one.runs.latest === null ? '' : when(one.runs.latest),
        ]),
      )
    })
  automation
    .command('show')
    .description('Prints an automation as a file.')
    .argument('<name>')
    .option('--json', 'print JSON')
    .action(async (name: string, { json }: Json) => {
      const one = await openEditor().automations.get(name)
      if (json) return printJson(one)
      if (one.address !== null) print(`# ${one.address}${one.hasSecret ? '' : ' (no secret yet: `automation secret`)'}`)
      if (one.secrets.length > 0) print(`# secrets: ${one.secrets.join(', ')}`)
      print(writeAutomation(one.definition).trimEnd())
    })
  automation
    .command('pull')
    .description('Writes the automations of the site into a folder. Comparing that folder then shows no change.')
    .argument('<folder>', 'is made when it is not there')
    .option('--prune', 'remove files of the folder that the site does not have')
    .option('--json', 'print JSON')
    .action(async (folder: string, { prune, json }: { prune?: boolean } & Json) => {
      const { automations } = await openEditor().automations.list()
      mkdirSync(folder, { recursive: true })
      const written: string[] = []
      const names = new Set<string>()
      for (const { definition } of automations) {
        const name = automationFileName(definition)
        names.add(name)
        const path = join(folder, name)
        const text = writeAutomation(definition)
        if (existsSync(path) && readFileSync(path, 'utf8') === text) continue
        writeFileSync(path, text)
        written.push(name)
      }
      const extra = readdirSync(folder).filter((name) => isFile(name) && !names.has(name))
      if (prune) for (const name of extra) rmSync(join(folder, name))
      if (json) return printJson({ written, extra, pruned: prune === true })
      print(`${written.length} of ${automations.length} files were written to ${folder}.`)
      if (extra.length > 0)
        print(
          prune
            ? `Removed: ${extra.join(', ')}.`
            : `The site does not have: ${extra.join(', ')}. --prune removes them.`,
        )
    })
  automation
    .command('compare')
    .description(
      'Shows what adopting the files of a folder would do, and checks them against the model. Changes nothing. The exit code says whether one would be removed (8).',
    )
    .argument('<folder>', 'holds the YAML files')
    .option('--json', 'print JSON')
    .action(async (folder: string, { json }: Json) => {
      const compared = await openEditor().automations.compare(readFolder(folder))
      if (json) printJson(compared)
      else printChanges(compared.changes)
      Outcome.of({ isBlocked: false, breaks: compared.changes.some(({ does }) => does === 'removed') })
    })
  automation
    .command('adopt')
    .description(
      'Compares the files of a folder with the automations of the site, and makes them its automations. Removing one needs --remove.',
    )
    .argument('<folder>', 'holds the YAML files')
    .option('--remove', 'remove automations that the folder does not have, with their runs')
    .option('--json', 'print JSON')
    .action(async (folder: string, { remove, json }: { remove?: boolean } & Json) => {
      const { automations } = openEditor()
      const all = readFolder(folder)
      const { changes, versions } = await automations.compare(all)
      if (!json) printChanges(changes)
      if (!remove && changes.some(({ does }) => does === 'removed'))
        throw new UsageError(
          'The folder does not have some of the automations. Add --remove to remove them with their runs.',
        )
      if (changes.some(({ does }) => does !== 'same')) {
        await automations.adopt(all, versions)
        if (!json) print('Adopted.')
      }
      if (json) printJson({ changes })
    })
  automation
    .command('try')
    .description('Shows what an automation in a file would do. Everything is rolled back, and no address is called.')
    .argument('<file>')
    .option('--entries <ids>', 'the entries that it is started for', readList)
    .option('--body <file>', 'the body of a message, as JSON; - reads standard input')
    .option('--json', 'print JSON')
    .action(async (file: string, { entries, body, json }: { entries?: string[]; body?: string } & Json) => {
      const [definition] = readAutomationFiles([{ name: file, text: readText(file) }])
      const editor = openEditor()
      const tried = await editor.automations.try(definition!, {
        ...(entries ? { entries } : {}),
        ...(body === undefined ? {} : { body: readJson(body) }),
      })
      if (json) return printJson(tried)
      await printRuns(editor, [tried.run])
      printLog(tried.run.log)
      for (const item of tried.items) {
        print(`\n${item.title}: ${item.state}${item.message === '' ? '' : `, ${item.message}`}`)
        printLog(item.log)
      }
      for (const { method, address, body: sent } of tried.calls)
        print(`\nWould call ${method} ${address}\n${sent ?? ''}`)
      if (!tried.whole) print('\nIt has more to do than a try has time for.')
    })
  automation
    .command('run')
    .description('Starts an automation by hand, and prints the ids of its runs.')
    .argument('<name>')
    .option('--entries <ids>', 'the entries that it is started for', readList)
    .option('--json', 'print JSON')
    .action(async (name: string, { entries, json }: { entries?: string[] } & Json) => {
      const { runs } = await openEditor().automations.run(name, entries)
      if (json) return printJson({ runs })
      for (const id of runs) print(id)
    })
  automation
    .command('change')
    .description('Switches an automation off or on.')
    .argument('<name>')
    .option('--off', 'nothing starts it until it is on again')
    .option('--on', 'it is started again')
    .option('--json', 'print JSON')
    .action(async (name: string, { off, on, json }: { off?: boolean; on?: boolean } & Json) => {
      if ((off === true) === (on === true)) throw new UsageError('Say either --on or --off.')
      const changed = await openEditor().automations.enable(name, on === true)
      if (json) printJson(changed)
      else print(`${changed.name} is ${changed.enabled ? 'on' : 'off'}.`)
    })
  automation
    .command('secret')
    .description('Makes a new secret for the address of an automation and prints it. The earlier one stops working.')
    .argument('<name>')
    .option('--json', 'print JSON')
    .action(async (name: string, { json }: Json) => {
      const made = await openEditor().automations.makeSecret(name)
      if (json) return printJson(made)
      print(made.secret)
    })
  automation
    .command('set-secret')
    .description(
      'Sets a secret that calls of an automation use as `secrets.` and its name. It is asked for, or read from WISTERIA_SECRET, and never shown again.',
    )
    .argument('<name>')
    .argument('<secret>', 'such as token')
    .option('--json', 'print JSON')
    .action(async (name: string, secret: string, { json }: Json) => {
      const value = await readSecret('WISTERIA_SECRET', `${secret}:`)
      const changed = await openEditor().automations.setSecret(name, secret, value)
      if (json) printJson(changed)
      else print(`${changed.name} has: ${changed.secrets.join(', ')}`)
    })
  automation
    .command('remove-secret')
    .description('Removes a secret of the calls of an automation.')
    .argument('<name>')
    .argument('<secret>')
    .option('--json', 'print JSON')
    .action(async (name: string, secret: string, { json }: Json) => {
      await openEditor().automations.removeSecret(name, secret)
      if (json) printJson({ removed: secret })
      else print(`Removed: ${secret}`)
    })
  automation
    .command('remove')
    .description('Removes an automation with its runs.')
    .argument('<name>')
    .option('--json', 'print JSON')
    .action(async (name: string, { json }: Json) => {
      await openEditor().automations.remove(name)
      if (json) printJson({ removed: name })
      else print(`Removed: ${name}`)
    })
  addRuns(automation)
}
