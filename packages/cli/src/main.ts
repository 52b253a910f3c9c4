#!/usr/bin/env node
import { runCommand } from './run.js'

// Packages check themselves all the while otherwise; the service is loaded later, and finds it said.
process.env['NODE_ENV'] ??= 'production'

// Whoever reads what is printed may have seen enough: that is no mistake.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code === 'EPIPE') process.exit(0)
  throw error
})

process.exitCode = await runCommand(process.argv.slice(2))
