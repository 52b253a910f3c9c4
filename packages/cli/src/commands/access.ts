import type { KeyScope, LocaleConsequences, Role, SiteSettings } from '@wisteria/core'
import type { Command } from 'commander'
import { openEditor, openService, readConnection } from '../connection.js'
import { readMap, readSecret } from '../input.js'
import { print, printJson, printTable, when } from '../output.js'

interface Json {
  readonly json?: boolean
}

const list = (text: string): string[] => text.split(',').map((one) => one.trim()).filter(Boolean) // prettier-ignore

export function addKey(program: Command): void {
  const key = program
    .command('key')
    .summary('access keys')
    .description('Access keys: secrets that let a program read or edit. Shown once, stored hashed.')
  key.command('list').description('Lists the keys of the site.').option('--json', 'print JSON').action(async ({ json }: Json) => {
    const { keys } = await openEditor().keys()
    if (json) return printJson({ keys })
    printTable(['label', 'scope', 'begins', 'last used', 'id'], keys.map((one) => [one.label + (one.revokedAt ? ' (revoked)' : ''), one.scope, one.prefix, when(one.lastUsedAt) || 'never', one.id]))
  }) // prettier-ignore
  key
    .command('create')
    .description('Makes a key and prints its secret, this once.')
    .requiredOption('--label <text>', 'what it is for')
    .requiredOption('--scope <scope>', 'published, draft or edit')
    .option('--json', 'print JSON')
    .action(async ({ label, scope, json }: { label: string; scope: KeyScope } & Json) => {
      const made = await openEditor().createKey({ label, scope })
      if (json) return printJson(made)
      print(made.secret)
    })
  key.command('revoke').description('Revokes a key, at once and for good.').argument('<id>').option('--json', 'print JSON').action(async (id: string, { json }: Json) => {
    await openEditor().revokeKey(id)
    if (json) printJson({ revoked: id })
    else print(`Revoked: ${id}`)
  }) // prettier-ignore
}

export function addMember(program: Command): void {
  const member = program
    .command('member')
    .summary('members and their roles')
    .description('Members of the site: owner, developer, editor, translator or viewer.')
  member.command('list').description('Lists the members of the site.').option('--json', 'print JSON').action(async ({ json }: Json) => {
    const { members } = await openEditor().members()
    if (json) return printJson({ members })
    printTable(['name', 'e-mail', 'role', 'limited to', 'account'], members.map((one) => [one.name, one.email, one.role, one.locales?.join(', '), one.account]))
  }) // prettier-ignore
  member
    .command('add')
    .description(
      'Makes somebody a member. With --name their account is made too; its password is asked for, or taken from WISTERIA_NEW_PASSWORD.',
    )
    .argument('<email>')
    .requiredOption('--role <role>', 'owner, developer, editor, translator or viewer')
    .option('--name <name>', 'for a new account')
    .option('--locales <tags>', 'limit them to these locales', list)
    .option('--json', 'print JSON')
    .action(
      async (
        email: string,
        { role, name, locales, json }: { role: Role; name?: string; locales?: string[] } & Json,
      ) => {
        const password =
          name === undefined ? undefined : await readSecret('WISTERIA_NEW_PASSWORD', `Password for ${email}`)
        const made = await openEditor().addMember({
          email,
          role,
          ...(name ? { name } : {}),
          ...(password ? { password } : {}),
          ...(locales ? { locales } : {}),
        })
        if (json) printJson(made)
        else print(`${made.name} is ${made.role} now.`)
      },
    )
  member
    .command('change')
    .description("Changes a member's role and limits.")
    .argument('<account>')
    .requiredOption('--role <role>', 'owner, developer, editor, translator or viewer')
    .option('--locales <tags>', 'limit them to these locales; no limit when left out', list)
    .option('--json', 'print JSON')
    .action(async (account: string, { role, locales, json }: { role: Role; locales?: string[] } & Json) => {
      const changed = await openEditor().changeMember(account, { role, locales: locales ?? null })
      if (json) printJson(changed)
      else print(`${changed.name} is ${changed.role} now.`)
    })
  member.command('remove').description('Ends a membership. The account stays.').argument('<account>').option('--json', 'print JSON').action(async (account: string, { json }: Json) => {
    await openEditor().removeMember(account)
    if (json) printJson({ removed: account })
    else print(`Removed: ${account}`)
  }) // prettier-ignore
}

export function addHook(program: Command): void {
  const hook = program
    .command('hook')
    .summary('webhooks')
    .description('Webhooks: addresses that are told what changed.')
  hook.command('list').description('Lists the webhooks and what waits for them.').option('--json', 'print JSON').action(async ({ json }: Json) => {
    const { webhooks } = await openEditor().webhooks()
    if (json) return printJson({ webhooks })
    if (webhooks.length === 0) return print('No webhooks yet. Add one to tell a front end what changed.')
    printTable(['label', 'address', 'events', 'waiting', 'id'], webhooks.map((one) => [one.label, one.address, one.events?.join(' ') ?? 'every public change', one.waiting, one.id]))
  }) // prettier-ignore
  hook
    .command('create')
    .description('Subscribes an address and prints the secret that deliveries are signed with, this once.')
    .requiredOption('--label <text>', 'what it is for')
    .requiredOption('--address <url>', 'where events are sent')
    .option(
      '--events <types>',
      'e.g. entry.published,entry.unpublished; everything that changes something public when left out',
      list,
    )
    .option('--json', 'print JSON')
    .action(async ({ label, address, events, json }: { label: string; address: string; events?: string[] } & Json) => {
      const made = await openEditor().createWebhook({ label, address, ...(events ? { events } : {}) })
      if (json) printJson(made)
      else print(made.secret)
    })
  hook.command('deliveries').description('Lists the newest deliveries of a webhook, with their attempts.').argument('<id>').option('--json', 'print JSON').action(async (id: string, { json }: Json) => {
    const { deliveries } = await openEditor().deliveries(id)
    if (json) return printJson({ deliveries })
    if (deliveries.length === 0) return print('Nothing was sent yet.')
    printTable(['event', 'type', 'status', 'attempts', 'last answer', 'id'], deliveries.map((one) => [one.sequence, one.type, one.status, one.attempts.length, one.attempts.at(-1)?.status ?? one.attempts.at(-1)?.error, one.id]))
  }) // prettier-ignore
  hook.command('again').description('Sends an event again.').argument('<id>', 'the webhook').argument('<delivery>').option('--json', 'print JSON').action(async (id: string, delivery: string, { json }: Json) => {
    await openEditor().sendAgain(id, delivery)
    if (json) printJson({ again: delivery })
    else print(`Sent again: ${delivery}`)
  }) // prettier-ignore
  hook.command('remove').description('Ends a subscription.').argument('<id>').option('--json', 'print JSON').action(async (id: string, { json }: Json) => {
    await openEditor().removeWebhook(id)
    if (json) printJson({ removed: id })
    else print(`Removed: ${id}`)
  }) // prettier-ignore
  hook.command('events').description('Prints the event log after a sequence number.').option('--after <n>', 'a sequence number', '0').option('--json', 'print JSON').action(async ({ after, json }: { after: string } & Json) => {
    const { events } = await openEditor().events(Number(after) || 0)
    if (json) return printJson({ events })
    printTable(['number', 'when', 'event', 'about', 'by'], events.map((one) => [String(one['sequence']), when(String(one['time'])), String(one['type']), String(one['subject'] ?? ''), String((one['data'] as { actor: string }).actor)]))
  }) // prettier-ignore
}

export function addFrontEnd(program: Command): void {
  const frontEnd = program
    .command('front-end')
    .summary('front ends and their previews')
    .description('Front ends: where previews are shown.')
  frontEnd.command('list').description('Lists the front ends.').option('--json', 'print JSON').action(async ({ json }: Json) => {
    const { frontEnds } = await openEditor().frontEnds()
    if (json) return printJson({ frontEnds })
    printTable(['name', 'label', 'origins', 'types'], frontEnds.map((one) => [one.name, one.label, one.origins.join(' '), Object.keys(one.enter).join(' ')]))
  }) // prettier-ignore
  frontEnd
    .command('set')
    .description(
      'Registers a front end from a YAML file, or changes it:\n\n  label: Museum site\n  origins: [https://museums.example]\n  enter: { "*": "https://museums.example/preview/enter?code={grant}&to={path}" }',
    )
    .argument('<name>')
    .requiredOption('--file <path>', 'YAML or JSON; - for standard input')
    .option('--json', 'print JSON')
    .action(async (name: string, { file, json }: { file: string } & Json) => {
      const made = await openEditor().setFrontEnd(name, readMap(file) as never)
      if (json) printJson(made)
      else print(`${made.label} is registered.`)
    })
  frontEnd.command('remove').description('Removes a front end; its preview grants end.').argument('<name>').option('--json', 'print JSON').action(async (name: string, { json }: Json) => {
    await openEditor().removeFrontEnd(name)
    if (json) printJson({ removed: name })
    else print(`Removed: ${name}`)
  }) // prettier-ignore
}

export function addLocale(program: Command): void {
  const locale = program
    .command('locale')
    .summary('locales, fallbacks and time zone')
    .description('The locales of the site, each with its whole fallback chain.')
  locale.command('list').description('Lists the locales.').option('--json', 'print JSON').action(async ({ json }: Json) => {
    const { name: _, open: __, modelVersion: ___, sequence: ____, publicGeneration: _____, ...settings } = await openEditor().settings()
    if (json) return printJson(settings)
    printTable(['locale', 'label', 'falls back to', ''], settings.locales.map((one) => [one.tag, one.label, one.fallback.join(', '), one.tag === settings.defaultLocale ? 'default' : '']))
    print(`\nTime zone ${settings.timeZone}`)
  }) // prettier-ignore
  locale
    .command('set')
    .description(
      'Sets label, locales and time zone from a YAML file, as `locale list --json` prints them. Everything public is rebuilt.',
    )
    .requiredOption('--file <path>', 'YAML or JSON; - for standard input')
    .option('--retire <tags>', 'withdraw these locales, which the file no longer has; their texts are kept', list)
    .option('--json', 'print JSON')
    .action(async ({ file, retire, json }: { file: string; retire?: string[] } & Json) => {
      const settings = await openEditor().setLocales(readMap(file) as unknown as SiteSettings, retire)
      if (json) printJson(settings)
      else print(`Locales: ${settings.locales.map((one) => one.tag).join(', ')}`)
    })
  locale
    .command('compare')
    .description(
      'Says what the settings in a YAML file would do: locales that come and go, and what is public in them.',
    )
    .requiredOption('--file <path>', 'YAML or JSON; - for standard input')
    .option('--json', 'print JSON')
    .action(async ({ file, json }: { file: string } & Json) => {
      const found = await openEditor().compareLocales(readMap(file) as unknown as SiteSettings)
      if (json) return printJson(found)
      printLocaleConsequences(found)
    })
}

const count = (number: number, one: string, many: string): string => `${number} ${number === 1 ? one : many}`

function printLocaleConsequences(found: LocaleConsequences): void {
  const { added, retired, fallbacksChanged, timeZoneChanged, defaultChanged } = found
  for (const tag of added) print(`${tag} is added.`)
  for (const one of retired) {
    print(`${one.tag} is retired:`)
    if (one.refused !== null) print(`  refused: ${one.refused}`)
    print(`  withdrawn in ${count(one.public, 'entry', 'entries')}, of which ${count(one.only, 'is', 'are')} public in no other locale; ${count(one.paths, 'URL stops', 'URLs stop')} working`)
    print(`  ${count(one.drafts, 'working copy has texts', 'working copies have texts')} in it, which are kept`)
    if (one.schedules > 0) print(`  ${count(one.schedules, 'schedule names it, and would fail', 'schedules name it, and would fail')}`)
  }
  for (const tag of fallbacksChanged) print(`${tag} has other fallbacks.`)
  if (timeZoneChanged) print('The time zone changes.')
  if (defaultChanged) print(`${defaultChanged.to} becomes the default locale.${defaultChanged.refused === null ? '' : `\n  refused: ${defaultChanged.refused}`}`)
  if (added.length + retired.length + fallbacksChanged.length === 0 && !timeZoneChanged && !defaultChanged) print('Nothing changes for readers.')
} // prettier-ignore

export function addSite(program: Command): void {
  const site = program
    .command('site')
    .summary('sites of the service')
    .description('Sites: each with its own model, entries, locales and keys.')
  site.command('list').description('Lists the sites that you are a member of.').option('--json', 'print JSON').action(async ({ json }: Json) => {
    const { sites } = await openService().session()
    if (json) return printJson({ sites })
    printTable(['site', 'label', 'your role', ''], sites.map((one) => [one.name, one.label, one.role, one.name === readConnection().site ? 'connected' : '']))
  }) // prettier-ignore
  site
    .command('create')
    .description('Creates a site from a YAML file: name, label, defaultLocale, locales, timeZone.')
    .requiredOption('--file <path>', 'YAML or JSON; - for standard input')
    .option('--json', 'print JSON')
    .action(async ({ file, json }: { file: string } & Json) => {
      const made = await openService().createSite(readMap(file) as never)
      if (json) printJson(made)
      else print(`Created: ${made.name}`)
    })
  site
    .command('open')
    .description('Opens the published edition to readers without a key; with --close only keys read it.')
    .option('--close', 'close it')
    .option('--json', 'print JSON')
    .action(async ({ close, json }: { close?: boolean } & Json) => {
      const changed = await openEditor().setOpen(!close)
      if (json) printJson(changed)
      else print(changed.open ? 'The published edition is open.' : 'The published edition needs a key.')
    })
  site.command('rebuild').description('Makes the rows of the published edition anew from its publications.').option('--json', 'print JSON').action(async ({ json }: Json) => {
    const { rows } = await openEditor().rebuild()
    if (json) printJson({ rows })
    else print(`Rebuilt: ${rows} rows.`)
  }) // prettier-ignore
}
