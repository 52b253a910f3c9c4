import type { Command } from 'commander'
import { print, printJson } from '../output.js'

export function addRestored(program: Command): void {
  program
    .command('restored')
    .summary('after putting data back from a copy')
    .description(
      'Tells a data folder that its database was put back from a copy: front ends, caches and webhooks hear that everything may have changed. The service notices it by itself if only the database file was put back.',
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
