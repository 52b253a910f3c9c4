import type { Proposal } from '@wisteria/client'
import type { Command } from 'commander'
import { openEditor, UsageError } from '../connection.js'
import { readModelFolder } from '../input.js'
import { print, printJson, printTable } from '../output.js'

const marks = { refused: 'refused', breaking: 'breaking', plain: '' } as const

function printConsequences({ consequences, base }: Proposal): void {
  if (consequences.length === 0) return print(`No change: the files describe the model as it stands (version ${base}).`)
  printTable(
    ['', 'place', 'what happens'],
    consequences.map((one) => [marks[one.weight], one.place, one.message]),
  )
}

export function addModel(program: Command): void {
  const model = program
    .command('model')
    .summary('read, compare and adopt the model')
    .description('The model: content types and block types, one YAML file each. The folder is the whole model.')
  model
    .command('show')
    .description('Lists the types of the model in force and their fields.')
    .option('--json', 'print the whole model as JSON')
    .action(async ({ json }: { json?: boolean }) => {
      const found = await openEditor().model()
      if (json) return printJson(found)
      if (found.version === 0) return print('There is no model yet. Adopt one: `wisteria model adopt FOLDER`.')
      print(`Model version ${found.version}`)
      for (const [what, types] of [
        ['type', found.types],
        ['block', found.blockTypes],
      ] as const)
        for (const type of types) {
          print(`\n${what} ${type.name} (${type.label})`)
          printTable(
            ['field', 'kind', ''],
            type.fields.map((field) => [
              field.name,
              field.kind,
              [field.required && 'required', field.localized && 'localized', field.many && 'many']
                .filter(Boolean)
                .join(', '),
            ]),
          )
        }
    })
  model
    .command('compare')
    .description('Shows every consequence of adopting the files of a folder. Changes nothing.')
    .argument('<folder>', 'holds the YAML files')
    .option('--json', 'print JSON')
    .action(async (folder: string, { json }: { json?: boolean }) => {
      const proposal = await openEditor().compareModel(readModelFolder(folder))
      if (json) printJson(proposal)
      else printConsequences(proposal)
    })
  model
    .command('adopt')
    .description(
      'Compares the files of a folder with the model, shows what will happen, and adopts them. What breaks somebody needs --breaking.',
    )
    .argument('<folder>', 'holds the YAML files')
    .option('--breaking', 'adopt it although something breaks')
    .option('--json', 'print JSON')
    .action(async (folder: string, { breaking, json }: { breaking?: boolean; json?: boolean }) => {
      const editor = openEditor()
      const proposal = await editor.compareModel(readModelFolder(folder))
      if (!json) printConsequences(proposal)
      if (!proposal.canBeAdopted) throw new UsageError('It cannot be adopted: see what is marked refused.')
      if (proposal.consequences.length === 0)
        return json ? printJson({ version: proposal.base, consequences: [] }) : undefined
      if (!breaking && proposal.consequences.some((one) => one.weight === 'breaking'))
        throw new UsageError('Something breaks for those who read it. Adopt it all the same with --breaking.')
      const adopted = await editor.adoptModel(proposal.id)
      if (json) printJson({ ...adopted, consequences: proposal.consequences })
      else print(`Adopted: the model is at version ${adopted.version}.`)
    })
}
