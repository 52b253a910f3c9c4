import type { RunningService } from '@wisteria/service'
import { flagOf, readOptions, serviceOptions, variableOf } from '@wisteria/service/options'
import { Option, type Command } from 'commander'
import { print, printJson, say } from '../output.js'

/** Stops once on the first signal; a second one ends the process at once. */
export function stopOnSignal(stop: () => Promise<void>): void {
  let stopping = false
  const onSignal = (): void => {
    if (stopping) process.exit(130)
    stopping = true
    say('Stopping.')
    stop().then(
      () => process.exit(0),
      (error: unknown) => {
        say(String(error))
        process.exit(1)
      },
    )
  }
  process.on('SIGINT', onSignal)
  process.on('SIGTERM', onSignal)
}

type OptionName = keyof typeof serviceOptions

/** Adds options of the service to a command; `defaults` replace the service's own. */
export function addServiceOptions(
  command: Command,
  names: readonly OptionName[] = Object.keys(serviceOptions) as OptionName[],
  defaults: Readonly<Partial<Record<OptionName, string>>> = {},
): Command {
  for (const name of names) {
    const option = serviceOptions[name]
    const flag = 'placeholder' in option ? `${flagOf(name)} <${option.placeholder}>` : flagOf(name)
    const value = defaults[name] ?? option.default
    const fallback = value === '' || value === false ? '' : ` (default: ${String(value)})`
    command.addOption(new Option(flag, `${option.help}${fallback} [${variableOf(name)}]`))
  }
  return command
}

export function addServe(program: Command): void {
  addServiceOptions(program.command('serve'))
    .summary('run the service')
    .description('Runs the service. Every option can also be an environment variable; a flag overrides it.')
    .option('--json', 'print the address as JSON')
    .action(async (flags: Record<string, unknown>) => {
      const { json, ...given } = flags
      const options = readOptions(given, process.env)
      const { startService } = await import('@wisteria/service')
      const service = await startService(options)
      stopOnSignal(() => service.stop())
      announce(service, json === true)
    })
}

function announce(service: RunningService, json: boolean): void {
  if (json) return printJson({ baseUrl: service.baseUrl, setUp: service.setUpAddress ?? null })
  print(`Wisteria is at ${service.baseUrl}/console/`)
  if (service.setUpAddress) print(`It has no owner yet. Create the first one here, once:\n  ${service.setUpAddress}`)
}
