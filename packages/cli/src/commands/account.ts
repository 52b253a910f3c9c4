import type { ManagedAccount } from '@wisteria/client'
import type { OperationName, OperationResult } from '@wisteria/service'
import { Option, type Command } from 'commander'
import { openService, UsageError } from '../connection.js'
import { readSecret } from '../input.js'
import { print, printJson, printTable, when } from '../output.js'

interface Options {
  readonly json?: boolean
  /** The data folder of a service on this machine: no sign-in is needed then. */
  readonly data?: string
  readonly baseUrl?: string
}

interface Change {
  readonly name?: string
  readonly language?: string
  readonly timeZone?: string
}

/** Does an operation on a service of this machine, whether it runs or not. Loads the service, which takes most of a second. */
async function onMachine<Name extends OperationName>(
  { data, baseUrl }: Options,
  name: Name,
  body: unknown,
): Promise<OperationResult<Name>> {
  const { operate, readOptions } = await import('@wisteria/service')
  return operate(readOptions({ data, baseUrl }, process.env), name, body)
}

export function addAccount(program: Command): void {
  const account = program
    .command('account')
    .summary('passwords and accounts')
    .description(
      'Your own account, and those that you manage. With --data, on the machine of the service, no sign-in is needed, and any account can be managed.',
    )
  account
    .command('password')
    .description('Changes your password. It asks, or takes WISTERIA_PASSWORD and WISTERIA_NEW_PASSWORD.')
    .option('--json', 'print JSON')
    .action(async ({ json }: Options) => {
      const current = await readSecret('WISTERIA_PASSWORD', 'Your password now')
      const password = await readSecret('WISTERIA_NEW_PASSWORD', 'Your new password')
      await openService().changePassword({ current, password })
      if (json) printJson({ changed: true })
      else print('Your password is changed. Your other sessions have ended.')
    })
  account
    .command('change')
    .description('Changes your name, the language of the console and the time zone that it shows times in.')
    .option('--name <name>', 'your name')
    .option('--language <tag>', 'the language of the console; "" for that of the browser')
    .option('--time-zone <zone>', 'a time zone such as Europe/Amsterdam; "" for that of the browser')
    .option('--json', 'print JSON')
    .action(async ({ name, language, timeZone, json }: Change & Options) => {
      if (name === undefined && language === undefined && timeZone === undefined)
        throw new UsageError('Say what to change: --name, --language or --time-zone.')
      const { account } = await openService().session()
      const changed = await openService().changeAccount({
        name: name ?? account.name,
        language: language === undefined ? account.language : language || null,
        timeZone: timeZone === undefined ? account.timeZone : timeZone || null,
      })
      if (json) return printJson(changed.account)
      const { language: tag, timeZone: zone } = changed.account
      print(`${changed.account.name}, language ${tag ?? 'of the browser'}, time zone ${zone ?? 'of the browser'}.`)
    })
  account
    .command('sessions')
    .description('Lists where you are signed in.')
    .option('--json', 'print JSON')
    .action(async ({ json }: Options) => {
      const { sessions } = await openService().sessions()
      if (json) return printJson({ sessions })
      printTable(
        ['since', 'last used', 'with', 'id'],
        sessions.map(({ id, agent, createdAt, seenAt, current }) => [
          when(createdAt),
          when(seenAt),
          `${agent ?? 'not known'}${current ? ' (this one)' : ''}`,
          id,
        ]),
      )
    })
  account
    .command('end-session')
    .description('Ends one of your sessions at once.')
    .argument('<id>')
    .option('--json', 'print JSON')
    .action(async (id: string, { json }: Options) => {
      await openService().endSession(id)
      if (json) printJson({ ended: id })
      else print(`Ended: ${id}`)
    })
  account
    .command('sign-out')
    .description('Signs you out everywhere; with an e-mail and --data, somebody else.')
    .argument('[email]')
    .addOption(data())
    .option('--json', 'print JSON')
    .action(async (email: string | undefined, options: Options) => {
      if ((email === undefined) !== (options.data === undefined))
        throw new UsageError('To sign somebody else out, name their e-mail and the folder of the service with --data.')
      if (email === undefined) await openService().signOutEverywhere()
      else await onMachine(options, 'signOut', { email })
      if (options.json) printJson({ signedOut: true })
      else
        print(
          email === undefined
            ? 'You are signed out everywhere. Sign in here again with `wisteria connect`.'
            : `${email} is signed out everywhere.`,
        )
    })
  account
    .command('list')
    .description('Lists the accounts that you manage; with --data, all of them.')
    .addOption(data())
    .option('--json', 'print JSON')
    .action(async (options: Options) => {
      const accounts = options.data
        ? await onMachine(options, 'accounts', {})
        : (await openService().accounts()).accounts
      if (options.json) return printJson({ accounts })
      if (accounts.length === 0) return print('You manage no accounts.')
      printTable(
        ['e-mail', 'name', 'sites', ''],
        accounts.map((account) => [
          account.email,
          account.name,
          account.sites.map(({ name, role }) => `${name} (${role})`).join(', '),
          [account.operator ? 'operator' : '', account.disabledAt ? `disabled ${when(account.disabledAt)}` : '']
            .filter(Boolean)
            .join(', '),
        ]),
      )
    })
  account
    .command('link')
    .description(
      'Makes a one-time link, valid for 24 hours, for somebody who forgot their password to set a new one. Give it only to them.',
    )
    .argument('<email>')
    .addOption(data())
    .option('--base-url <url>', 'with --data: where the service is reached, if it does not run')
    .option('--json', 'print JSON')
    .action(async (email: string, options: Options) => {
      const link = options.data
        ? await onMachine(options, 'passwordLink', { email })
        : await openService().makePasswordLink((await managed(email)).id)
      if (options.json) return printJson(link)
      print(`${link.address}\nIt works once, until ${when(link.expiresAt)}.`)
    })
  account
    .command('reset')
    .description(
      'Sets the password of an account, on the machine of the service. It asks, or takes WISTERIA_NEW_PASSWORD.',
    )
    .argument('<email>')
    .addOption(data().makeOptionMandatory())
    .option('--json', 'print JSON')
    .action(async (email: string, options: Options) => {
      const password = await readSecret('WISTERIA_NEW_PASSWORD', `New password for ${email}`)
      const changed = await onMachine(options, 'setPassword', { email, password })
      if (options.json) printJson(changed)
      else print(`The password of ${changed.name} is changed. Their sessions have ended.`)
    })
  for (const disabled of [true, false])
    account
      .command(disabled ? 'disable' : 'enable')
      .description(
        disabled
          ? 'Disables an account: its sessions end at once, and it cannot sign in.'
          : 'Enables a disabled account.',
      )
      .argument('<email>')
      .addOption(data())
      .option('--json', 'print JSON')
      .action(async (email: string, options: Options) => {
        const changed = options.data
          ? await onMachine(options, 'setDisabled', { email, disabled })
          : await openService().setAccountDisabled((await managed(email)).id, disabled)
        if (options.json) printJson(changed)
        else print(`The account of ${changed.name} is ${disabled ? 'disabled' : 'enabled'}.`)
      })
}

const data = (): Option =>
  new Option('--data <folder>', 'the data folder of a service on this machine, whether it runs or not')

/** @throws UsageError for an account that the user does not manage. */
async function managed(email: string): Promise<ManagedAccount> {
  const { accounts } = await openService().accounts()
  const match = accounts.find((account) => account.email === email.trim().toLowerCase())
  if (!match)
    throw new UsageError(
      `You do not manage an account ${email}. \`wisteria account list\` lists those that you manage.`,
    )
  return match
}
