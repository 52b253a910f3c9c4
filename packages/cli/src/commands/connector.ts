import type { RuleEvent } from '@wisteria/core'
import { ruleEvents } from '@wisteria/core'
import type { Command } from 'commander'
import { openEditor, UsageError } from '../connection.js'
import { readList } from '../input.js'
import { print, printJson, printTable } from '../output.js'

interface Json {
  readonly json?: boolean
}

interface ConnectorOptions extends Json {
  readonly label?: string
  readonly address?: string
  readonly locales?: string[]
  readonly allLocales?: boolean
  readonly on?: boolean
  readonly off?: boolean
}

interface RuleOptions extends Json {
  readonly label: string
  readonly after: string
  readonly type: string
  readonly where?: string
  readonly locales?: string[]
  readonly publish?: boolean
}

const onOrOff = ({ on, off }: { on?: boolean; off?: boolean }): boolean | undefined => {
  if (on && off) throw new UsageError('Say --on or --off, not both.')
  return on ? true : off ? false : undefined
}

export function addConnector(program: Command): void {
  const connector = program
    .command('connector')
    .summary('machines and agencies that translate')
    .description('Connectors: addresses of machines and agencies that translate, and rules that order from them.')
  connector
    .command('list')
    .description('Lists connectors.')
    .option('--json', 'print JSON')
    .action(async ({ json }: Json) => {
      const { connectors } = await openEditor().ordering.connectors()
      if (json) return printJson({ connectors })
      if (connectors.length === 0) return print('No connectors yet. Add one to order translations from a machine.')
      printTable(
        ['label', 'state', 'locales', 'address', 'id'],
        connectors.map(({ label, enabled, locales, address, id }) => [
          label,
          enabled ? 'on' : 'off',
          locales?.join(' ') ?? 'all',
          address,
          id,
        ]),
      )
    })
  connector
    .command('add')
    .description(
      'Adds a connector and prints the secret that requests to it are signed with. The secret is shown only now.',
    )
    .requiredOption('--label <text>', 'its name')
    .requiredOption('--address <url>', 'where texts are sent')
    .option('--locales <tags>', 'the locales that it translates into, e.g. nl,ar; all when left out', readList)
    .option('--json', 'print JSON')
    .action(async ({ label, address, locales, json }: Required<ConnectorOptions>) => {
      const added = await openEditor().ordering.addConnector({ label, address, locales })
      if (json) printJson(added)
      else print(added.secret)
    })
  connector
    .command('change')
    .description('Changes a connector, or switches it off and on. Its secret stays.')
    .argument('<connector>', 'its id or its label')
    .option('--label <text>', 'its name')
    .option('--address <url>', 'where texts are sent')
    .option('--locales <tags>', 'the locales that it translates into', readList)
    .option('--all-locales', 'it translates into all')
    .option('--off', 'send nothing and ask for nothing until it is on again')
    .option('--on', 'send again')
    .option('--json', 'print JSON')
    .action(async (named: string, { json, ...options }: ConnectorOptions) => {
      const { label, address, locales, allLocales } = options
      if (locales && allLocales) throw new UsageError('Say --locales or --all-locales, not both.')
      const enabled = onOrOff(options)
      const change = {
        ...(label === undefined ? {} : { label }),
        ...(address === undefined ? {} : { address }),
        ...(allLocales ? { locales: null } : locales ? { locales } : {}),
        ...(enabled === undefined ? {} : { enabled }),
      }
      if (Object.keys(change).length === 0) throw new UsageError('Say what to change, e.g. --address URL.')
      const changed = await openEditor().ordering.changeConnector(named, change)
      if (json) printJson(changed)
      else print(`Changed: ${changed.label} (${changed.id}), ${changed.enabled ? 'on' : 'off'}, ${changed.address}`)
    })
  connector
    .command('remove')
    .description('Removes a connector with its rules and its orders. Translations that come back later are not taken.')
    .argument('<connector>', 'its id or its label')
    .option('--json', 'print JSON')
    .action(async (named: string, { json }: Json) => {
      await openEditor().ordering.removeConnector(named)
      if (json) printJson({ removed: named })
      else print(`Removed: ${named}`)
    })
  connector
    .command('rules')
    .description('Lists rules that order translations by themselves.')
    .option('--json', 'print JSON')
    .action(async ({ json }: Json) => {
      const editor = openEditor()
      const { rules } = await editor.ordering.rules()
      if (json) return printJson({ rules })
      if (rules.length === 0) return print('No rules yet. Add one to have entries translated after an event.')
      const { connectors } = await editor.ordering.connectors()
      printTable(
        ['label', 'state', 'after', 'entries', 'by', 'into', 'result', 'id'],
        rules.map((rule) => [
          rule.label,
          rule.enabled ? (rule.problem ?? 'on') : 'off',
          rule.event,
          rule.where === null ? rule.type : `${rule.type} with ${rule.where}`,
          connectors.find(({ id }) => id === rule.connector)?.label ?? rule.connector,
          rule.locales?.join(' ') ?? 'all',
          rule.publish ? 'published' : 'draft',
          rule.id,
        ]),
      )
    })
  connector
    .command('add-rule')
    .description(
      'Adds a rule: after an event, entries that meet a condition are translated. A result triggers no rule.',
    )
    .argument('<connector>', 'its id or its label')
    .requiredOption('--label <text>', 'the name of the rule')
    .requiredOption('--after <event>', ruleEvents.join(' or '))
    .requiredOption('--type <name>', 'the type of the entries')
    .option('--where <condition>', 'which entries, e.g. \'themes = "sea"\'; all of the type when left out')
    .option('--locales <tags>', 'all that the connector translates into, when left out', readList)
    .option('--publish', 'publish the translations; otherwise they are drafts, ready for review')
    .option('--json', 'print JSON')
    .action(async (connector: string, { json, after, ...options }: RuleOptions) => {
      if (!(ruleEvents as readonly string[]).includes(after))
        throw new UsageError(`--after is ${ruleEvents.join(' or ')}, not “${after}”.`)
      const rule = await openEditor().ordering.addRule({ ...options, connector, event: after as RuleEvent })
      if (json) printJson(rule)
      else print(`Added: ${rule.label} (${rule.id})`)
    })
  connector
    .command('change-rule')
    .description('Switches a rule off and on.')
    .argument('<rule>', 'its id')
    .option('--off', 'order nothing until it is on again')
    .option('--on', 'order again')
    .option('--json', 'print JSON')
    .action(async (id: string, { json, ...options }: ConnectorOptions) => {
      const enabled = onOrOff(options)
      if (enabled === undefined) throw new UsageError('Say --on or --off.')
      const rule = await openEditor().ordering.enableRule(id, enabled)
      if (json) printJson(rule)
      else print(`Changed: ${rule.label}, ${rule.enabled ? 'on' : 'off'}`)
    })
  connector
    .command('remove-rule')
    .description('Removes a rule. Its orders go on.')
    .argument('<rule>', 'its id')
    .option('--json', 'print JSON')
    .action(async (id: string, { json }: Json) => {
      await openEditor().ordering.removeRule(id)
      if (json) printJson({ removed: id })
      else print(`Removed: ${id}`)
    })
}
