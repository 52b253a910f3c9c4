import { CommanderError } from 'commander'
import { Outcome } from './outcome.js'
import { report } from './problems.js'
import { buildProgram, requireCommand } from './program.js'

/**
 * Runs a command.
 * @param args the words after `wisteria`.
 * @returns the exit code. `serve` and `demo` keep running after it.
 */
export async function runCommand(args: readonly string[]): Promise<number> {
  try {
    const program = buildProgram()
    requireCommand(program, args[0])
    await program.parseAsync(args, { from: 'user' })
    return 0
  } catch (error) {
    if (error instanceof Outcome) return error.exitCode
    // Commander has printed the error already; help and version are no errors.
    if (error instanceof CommanderError) return error.exitCode === 0 ? 0 : 2
    return report(error, args.includes('--json'))
  }
}
