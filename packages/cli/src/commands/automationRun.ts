import type { AutomationItemView, AutomationRunView, AutomationStepRecord, Editor } from '@wisteria/client'
import type { Command } from 'commander'
import { actorNames } from '../actors.js'
import { openEditor, UsageError } from '../connection.js'
import { print, printJson, printTable, when } from '../output.js'

interface Json {
  readonly json?: boolean
}

const states = ['running', 'done', 'failed', 'stopped'] as const
const itemStates = ['waiting', 'done', 'failed'] as const

const oneOf = <Name extends string>(names: readonly Name[], text: string | undefined): Name | undefined => {
  if (text === undefined) return undefined
  const name = names.find((known) => known === text)
  if (!name) throw new UsageError(`--state is one of ${names.join(', ')}.`)
  return name
}

/** Prints runs, one a line. */
export async function printRuns(editor: Editor, runs: readonly AutomationRunView[]): Promise<void> {
  const nameOf = await actorNames(editor)
  printTable(
    ['run', 'began', 'state', 'items', 'failed', 'started by', 'message'],
    runs.map(({ id, createdAt, state, total, done, failed, startedBy, message }) => [
      id,
      when(createdAt),
      state,
      total === 0 ? '' : `${done} of ${total}`,
      failed === 0 ? '' : failed,
      nameOf(startedBy),
      message,
    ]),
  )
}

/** Prints what steps did, one a line. Steps count from 1 for people. */
export const printLog = (log: readonly AutomationStepRecord[]): void => {
  if (log.length === 0) return
  printTable(
    ['step', 'what', 'when', 'result'],
    log.map(({ step, do: what, at, isSkipped, entry, outcome, status, until }) => [
      step + 1,
      what,
      when(at),
      isSkipped ? 'skipped' : [outcome, entry, status, until && `until ${when(until)}`].filter(Boolean).join(' '),
    ]),
  )
}

/** Adds the commands about runs. */
export function addRuns(automation: Command): void {
  automation
    .command('runs')
    .description('Lists the newest runs of an automation.')
    .argument('<name>')
    .option('--state <state>', states.join(', '))
    .option('--json', 'print JSON')
    .action(async (name: string, { state, json }: { state?: string } & Json) => {
      const editor = openEditor()
      const { runs } = await editor.automations.runs(name, { state: oneOf(states, state) })
      if (json) return printJson({ runs })
      if (runs.length === 0) return print('No runs.')
      await printRuns(editor, runs)
    })
  automation
    .command('run-log')
    .description('Shows what the steps of a run did, and each of its items.')
    .argument('<run>')
    .option('--state <state>', `only items that are ${itemStates.join(', ')}`)
    .option('--json', 'print JSON')
    .action(async (id: string, { state, json }: { state?: string } & Json) => {
      const editor = openEditor()
      const { automations } = editor
      const asked = oneOf(itemStates, state)
      const run = await automations.getRun(id)
      const items: AutomationItemView[] = []
      for (let from: number | null = 0; from !== null;) {
        const page = await automations.items(id, { from, first: 500, state: asked })
        items.push(...page.items)
        from = page.next
      }
      if (json) return printJson({ ...run, items })
      await printRuns(editor, [run])
      printLog(run.log)
      if (items.length === 0) return
      printTable(
        ['item', 'what', 'entry', 'state', 'steps', 'message'],
        items.map(({ position, title, entry, state: now, log, message }) => [
          position + 1,
          title,
          entry ?? '',
          now,
          log.map(({ do: what, isSkipped, outcome }) => (isSkipped ? `(${what})` : (outcome ?? what))).join(', '),
          message,
        ]),
      )
    })
  automation
    .command('stop')
    .description('Stops a run. What it has done stays done.')
    .argument('<run>')
    .option('--json', 'print JSON')
    .action(async (id: string, { json }: Json) => {
      const editor = openEditor()
      const run = await editor.automations.stop(id)
      if (json) printJson(run)
      else await printRuns(editor, [run])
    })
  automation
    .command('retry')
    .description('Goes on with a run that failed or was stopped. What was done is not done again.')
    .argument('<run>')
    .option('--json', 'print JSON')
    .action(async (id: string, { json }: Json) => {
      const editor = openEditor()
      const run = await editor.automations.retry(id)
      if (json) printJson(run)
      else await printRuns(editor, [run])
    })
}
