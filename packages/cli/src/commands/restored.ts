import type { Command } from 'commander'
import { print, printJson } from '../output.js'

export function addRestored(program: Command): void {
  program
    .command('restored')
    .summary('after you restored data from a copy')
    .description(
      'Tells front ends, caches and webhooks that everything may have changed. Run it after you restored a data folder from a copy.',
    )
    .requiredOption('--data <folder>', 'the data folder of a service on this machine, whether it runs or not')
    .option('--json', 'print JSON')
    .action(async ({ data, json }: { data: string; json?: boolean }) => {
      const { operate, readOptions } = await import('@wisteria/service')
      const { sites } = await operate(readOptions({ data }, process.env), 'restored', {})
      if (json) printJson({ sites })
      else print(`Readers of ${sites === 1 ? 'one site' : `${sites} sites`} are told to read everything again.`)
    })
}
