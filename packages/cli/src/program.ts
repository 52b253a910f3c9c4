import { readFileSync } from 'node:fs'
import { didYouMean } from '@wisteria/core'
import { Command } from 'commander'
import { addServe } from './commands/serve.js'
import { addDemo } from './commands/demo.js'
import { addDemoOutside } from './commands/demoOutside.js'
import { addDemoTranslator } from './commands/demoTranslator.js'
import { addKey } from './commands/key.js'
import { addMcp } from './commands/mcp.js'
import { addMember } from './commands/member.js'
import { addImport } from './commands/import.js'
import { addAutomation } from './commands/automation.js'
import { addWebhook } from './commands/webhook.js'
import { addSchedule } from './commands/schedule.js'
import { addFrontEnd } from './commands/frontEnd.js'
import { addLocale } from './commands/locale.js'
import { addRegion } from './commands/region.js'
import { addSite } from './commands/site.js'
import { addAccount } from './commands/account.js'
import { addCompletion } from './commands/completion.js'
import { addConnector } from './commands/connector.js'
import { addConnect } from './commands/connect.js'
import { addAsset } from './commands/asset.js'
import { addEntry } from './commands/entry.js'
import { addJob } from './commands/job.js'
import { addModel } from './commands/model.js'
import { addQuery } from './commands/query.js'
import { addTranslate } from './commands/translate.js'
import { addTypes } from './commands/types.js'
import { addView } from './commands/view.js'
import { addRestored } from './commands/restored.js'
import { UsageError } from './connection.js'
import { addDryRuns } from './dryRun.js'
import { addExamples } from './examples.js'
import { exitCodes } from './problems.js'

const { version } = JSON.parse(readFileSync(new URL('../package.json', import.meta.url), 'utf8')) as { version: string }

/** In the order of the help. */
const commands = [
  addServe,
  addDemo,
  addDemoTranslator,
  addDemoOutside,
  addConnect,
  addModel,
  addTypes,
  addEntry,
  addSchedule,
  addAsset,
  addView,
  addImport,
  addTranslate,
  addConnector,
  addJob,
  addQuery,
  addKey,
  addMember,
  addMcp,
  addAccount,
  addRestored,
  addWebhook,
  addAutomation,
  addFrontEnd,
  addLocale,
  addRegion,
  addSite,
  addCompletion,
]

/** @throws UsageError for a word that is no command, also with `--help`. */
export function requireCommand(program: Command, asked: string | undefined): void {
  const names = [...program.commands.flatMap((command) => [command.name(), ...command.aliases()]), 'help']
  if (asked === undefined || asked.startsWith('-') || names.includes(asked)) return
  throw new UsageError(
    `\`${asked.slice(0, 60)}\` is not a command.${didYouMean(asked, names)} \`wisteria --help\` lists them.`,
  )
}

/** The command line. Modules that only one command needs, above all the service, are loaded when it runs. */
export function buildProgram(): Command {
  const program = new Command('wisteria')
    .description('Wisteria keeps a team’s content apart from the pages that show it.')
    .version(version)
    .showSuggestionAfterError()
    .exitOverride()
    .addHelpText(
      'after',
      `\nExit codes:\n${Object.entries(exitCodes)
        .map(([code, meaning]) => `  ${code}  ${meaning}`)
        .join('\n')}\n`,
    )
  for (const add of commands) add(program)
  addDryRuns(program)
  addExamples(program)
  return program
}
