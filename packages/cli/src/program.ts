import { version } from '@wisteria/service'
import { Command } from 'commander'
import { addFrontEnd, addHook, addKey, addLocale, addMember, addSite } from './commands/access.js'
import { addDemo } from './commands/demo.js'
import { addEntry } from './commands/entry.js'
import { addModel } from './commands/model.js'
import { addQuery } from './commands/query.js'
import { addConnect, addServe } from './commands/service.js'
import { exitCodes } from './problems.js'

/** The whole command line. */
export function buildProgram(): Command {
  const program = new Command('wisteria')
    .description('Wisteria keeps a team’s content apart from the pages that show it.')
    .version(version)
    .showSuggestionAfterError()
    .exitOverride()
    .addHelpText('after', `\nExit codes:\n${Object.entries(exitCodes).map(([code, meaning]) => `  ${code}  ${meaning}`).join('\n')}\n`) // prettier-ignore
  for (const add of [
    addServe,
    addDemo,
    addConnect,
    addModel,
    addEntry,
    addQuery,
    addKey,
    addMember,
    addHook,
    addFrontEnd,
    addLocale,
    addSite,
  ])
    add(program)
  return program
}
