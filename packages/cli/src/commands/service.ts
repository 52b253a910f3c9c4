import { Service } from '@wisteria/client'
import { flagOf, readOptions, serviceOptions, startService, variableOf, type RunningService } from '@wisteria/service'
import { Option, type Command } from 'commander'
import { readSecret } from '../input.js'
import { saveConnection, UsageError } from '../connection.js'
import { print, printJson, say } from '../output.js'

/** Stops once on the first signal; a second one ends the process where it stands. */
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

export function addServiceOptions(
  command: Command,
  names: readonly (keyof typeof serviceOptions)[] = Object.keys(serviceOptions) as (keyof typeof serviceOptions)[],
): Command {
  for (const name of names) {
    const option = serviceOptions[name]
    const flag = 'placeholder' in option ? `${flagOf(name)} <${option.placeholder}>` : flagOf(name)
    const fallback = option.default === '' || option.default === false ? '' : ` (default: ${String(option.default)})`
    command.addOption(new Option(flag, `${option.help}${fallback} [${variableOf(name)}]`))
  }
  return command
}

export function addServe(program: Command): void {
  addServiceOptions(program.command('serve'))
    .summary('run the service')
    .description('Runs the service. Every option may also stand in the environment; a flag goes before it.')
    .option('--json', 'print the address as JSON')
    .action(async (flags: Record<string, unknown>) => {
      const { json, ...given } = flags
      const service = await startService(readOptions(given, process.env))
      stopOnSignal(() => service.stop())
      announce(service, json === true)
    })
}

function announce(service: RunningService, json: boolean): void {
  if (json) return printJson({ baseUrl: service.baseUrl, begin: service.beginAddress ?? null })
  print(`Wisteria is at ${service.baseUrl}/console/`)
  if (service.beginAddress) print(`It has no owner yet. Create the first one here, once:\n  ${service.beginAddress}`)
}

export function addConnect(program: Command): void {
  program
    .command('connect')
    .summary('sign in to a service, for the commands that follow')
    .description(
      'Signs in and saves the connection. With --key it saves an access key instead. Secrets are asked for, or taken from the environment:\nWISTERIA_PASSWORD, or WISTERIA_TOKEN with --key.',
    )
    .argument('<url>', 'where the service is, e.g. http://localhost:4080')
    .option('--email <address>', 'your account')
    .option('--key', 'connect with an access key instead of an account')
    .option('--site <name>', 'the site to work on; your only one when left out')
    .option('--json', 'print JSON')
    .action(async (url: string, options: { email?: string; key?: boolean; site?: string; json?: boolean }) => {
      if (!URL.canParse(url) || !/^https?:/.test(url))
        throw new UsageError(`${url} is not an address such as http://localhost:4080.`)
      const baseUrl = url.replace(/\/+$/, '')
      const { token, site } = options.key
        ? await connectByKey(baseUrl, options.site)
        : await connectByAccount(baseUrl, options.email, options.site)
      const path = saveConnection({ url: baseUrl, site, token })
      if (options.json) printJson({ url: baseUrl, site, file: path })
      else print(`Connected to ${site} at ${baseUrl}. Saved in ${path}.`)
    })
}

async function connectByKey(baseUrl: string, site: string | undefined) {
  if (!site) throw new UsageError('Name the site that the key belongs to: --site NAME.')
  const token = await readSecret('WISTERIA_TOKEN', 'Access key')
  await new Service({ baseUrl, token }).site(site).settings()
  return { token, site }
}

async function connectByAccount(baseUrl: string, email: string | undefined, wanted: string | undefined) {
  if (!email) throw new UsageError('Name your account: --email you@example.org. Or connect with --key.')
  const signedIn = await new Service({ baseUrl }).signIn({
    email,
    password: await readSecret('WISTERIA_PASSWORD', `Password of ${email}`),
    as: 'token',
  })
  const names = signedIn.sites.map((site) => site.name)
  if (names.length === 0) throw new UsageError('This account is a member of no site.')
  if (wanted === undefined && names.length > 1) throw new UsageError(`Choose a site with --site: ${names.join(', ')}.`)
  const site = wanted ?? names[0]!
  if (!names.includes(site))
    throw new UsageError(`You are not a member of a site \`${site}\`. Your sites: ${names.join(', ')}.`)
  return { token: signedIn.token!, site }
}
