#!/usr/bin/env node
import { runCommand } from './run.js'

// Packages would check themselves continually otherwise; the service is loaded later, and reads it.
process.env['NODE_ENV'] ??= 'production'

// The reader of a pipe may close it early: that is no error.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code === 'EPIPE') process.exit(0)
  throw error
})

process.exitCode = await runCommand(process.argv.slice(2))
