import { readOptions, variableOf } from '@wisteria/service/options'
import type { Command } from 'commander'
import { addServiceOptions } from './serve.js'

/** The defaults of the demo. */
const demoDefaults = { data: './data/demo', logLevel: 'warn' } as const

interface Flags {
  readonly data?: string
  readonly port?: string
  readonly logLevel?: string
  readonly fresh?: boolean
  readonly json?: boolean
}

/** The mail server that `demo-outside` simulates. */
const demoMail = { mailServer: 'smtp://127.0.0.1:4704', mailFrom: 'wisteria@marram.example' }

export function addDemo(program: Command): void {
  addServiceOptions(program.command('demo'), ['data', 'port', 'logLevel'], demoDefaults)
    .summary('run the service with the demo world')
    .description(
      'Runs the service with Marram Coast Museums, three museums that do not exist, their sample front end on the next port, and a simulated machine that translates on the one after it.',
    )
    .option('--fresh', 'start over, and discard all changes')
    .option('--json', 'print the addresses as JSON')
    .action(async ({ fresh, json, ...given }: Flags) => {
      const defaults = Object.fromEntries(
        Object.entries({ ...demoDefaults, ...demoMail }).map(([name, value]) => [variableOf(name), value]),
      )
      // Its own front end is on this machine, so its webhooks may reach it here.
      const options = readOptions({ ...given, allowPrivateAddresses: true }, { ...defaults, ...process.env })
      const { runDemo } = await import('../runDemo.js')
      await runDemo(options, { fresh, json })
    })
}
