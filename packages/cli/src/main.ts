#!/usr/bin/env node
import { CommanderError } from 'commander'
import { report } from './problems.js'
import { buildProgram, requireCommand } from './program.js'

// Packages check themselves all the while otherwise; the service is loaded later, and finds it said.
process.env['NODE_ENV'] ??= 'production'

// Whoever reads what is printed may have seen enough: that is no mistake.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code === 'EPIPE') process.exit(0)
  throw error
})

try {
  const program = await buildProgram(process.argv[2])
  requireCommand(program, process.argv[2])
  await program.parseAsync()
} catch (error) {
  // Commander has said what is wrong with the words of a command; help and version are no mistakes.
  if (error instanceof CommanderError) process.exitCode = error.exitCode === 0 ? 0 : 2
  else process.exitCode = report(error, process.argv.includes('--json'))
}
