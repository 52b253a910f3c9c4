import type { Command } from 'commander'
import { completionScript, shells, type Shell } from '../completion.js'
import { UsageError } from '../connection.js'
import { print } from '../output.js'

export function addCompletion(program: Command): void {
  program
    .command('completion')
    .summary('print a script that completes words in a shell')
    .description(
      'Prints a script for bash, zsh or fish that completes commands and options. Its first line says where it goes.',
    )
    .argument('<shell>', 'bash, zsh or fish')
    .action((shell: string) => {
      if (!(shells as readonly string[]).includes(shell))
        throw new UsageError(`\`${shell}\` is not a shell that is known: ${shells.join(', ')}.`)
      print(completionScript(program, shell as Shell))
    })
}
