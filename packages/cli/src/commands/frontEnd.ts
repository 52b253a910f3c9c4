import type { Command } from 'commander'
import { openEditor } from '../connection.js'
import { readMap } from '../input.js'
import { print, printJson, printTable } from '../output.js'

interface Json {
  readonly json?: boolean
}

export function addFrontEnd(program: Command): void {
  const frontEnd = program
    .command('front-end')
    .summary('front ends and their previews')
    .description('Front ends: where previews are shown.')
  frontEnd
    .command('list')
    .description('Lists the front ends.')
    .option('--json', 'print JSON')
    .action(async ({ json }: Json) => {
      const { frontEnds } = await openEditor().frontEnds()
      if (json) return printJson({ frontEnds })
      printTable(
        ['name', 'label', 'origins', 'types'],
        frontEnds.map((frontEnd) => [
          frontEnd.name,
          frontEnd.label,
          frontEnd.origins.join(' '),
          Object.keys(frontEnd.enter).join(' '),
        ]),
      )
    })
  frontEnd
    .command('set')
    .description(
      'Registers a front end from a YAML file, or changes it:\n\n  label: Museum site\n  origins: [https://museums.example]\n  enter: { "*": "https://museums.example/preview/enter?code={code}&to={path}" }',
    )
    .argument('<name>')
    .requiredOption('--file <path>', 'YAML or JSON; - for standard input')
    .option('--json', 'print JSON')
    .action(async (name: string, { file, json }: { file: string } & Json) => {
      const saved = await openEditor().setFrontEnd(name, readMap(file) as never)
      if (json) printJson(saved)
      else print(`${saved.label} is registered.`)
    })
  frontEnd
    .command('remove')
    .description('Removes a front end; its preview grants end.')
    .argument('<name>')
    .option('--json', 'print JSON')
    .action(async (name: string, { json }: Json) => {
      await openEditor().removeFrontEnd(name)
      if (json) printJson({ removed: name })
      else print(`Removed: ${name}`)
    })
}
