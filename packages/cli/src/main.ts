#!/usr/bin/env node
import { CommanderError } from 'commander'
import { report } from './problems.js'
import { buildProgram } from './program.js'

try {
  await buildProgram().parseAsync()
} catch (error) {
  // Commander has said what is wrong with the words of a command; help and version are no mistakes.
  if (error instanceof CommanderError) process.exitCode = error.exitCode === 0 ? 0 : 2
  else process.exitCode = report(error, process.argv.includes('--json'))
}
