import type { NewWebhook, WebhookChange } from '@wisteria/client'
import type { Merge } from '@wisteria/core'
import { InvalidArgumentError, type Command } from 'commander'
import { readList, readText } from '../input.js'
import { openEditor, UsageError } from '../connection.js'
import { Outcome } from '../outcome.js'
import { print, printJson, printTable, when } from '../output.js'
import { addDeliveries } from './delivery.js'

interface Json {
  readonly json?: boolean
}
interface Subscription {
  readonly events?: string[]
  readonly where?: string
  readonly merge?: Merge
}
interface CreateOptions extends Subscription, Json {
  readonly label: string
  readonly address: string
  readonly headers?: string
}
interface ChangeOptions extends Subscription, Json {
  readonly label?: string
  readonly address?: string
  readonly allEvents?: boolean
  readonly always?: boolean
  readonly headers?: string
  readonly withoutHeader?: string[]
  readonly on?: boolean
  readonly off?: boolean
  readonly resume?: boolean
}

const readMerge = (text: string): Merge => {
  if (text === 'none' || text === 'entry' || text === 'act') return text
  throw new InvalidArgumentError('Say none, entry or act.')
}

/** Adds the options of what a webhook receives. */
const withSubscription = (command: Command): Command =>
  command
    .option('--events <types>', 'e.g. entry.published,entry.withdrawn; when left out: every public change', readList)
    .option('--where <condition>', 'over the entry: before.title != after.title and entry.format = "walk"')
    .option('--merge <how>', 'none; entry (those of an entry that wait, as one); act (those of one act)', readMerge)

/** Adds the option for headers of a webhook, which are secret: so they come from a file, and not from an argument. */
const withHeaders = (command: Command): Command =>
  command.option('--headers <file>', 'further headers, one `Name: value` a line; - reads standard input')

/** What the options of a subscription say. */
const subscriptionFrom = ({ events, where, merge }: Subscription): Pick<NewWebhook, 'events' | 'where' | 'merge'> => ({
  ...(events ? { events } : {}),
  ...(where === undefined ? {} : { where }),
  ...(merge === undefined ? {} : { merge }),
})

export function addWebhook(program: Command): void {
  const webhook = program
    .command('webhook')
    .summary('addresses that are told what changed')
    .description('Webhooks: addresses that are told what changed.')
  webhook
    .command('list')
    .description('Lists webhooks, with how many events wait for each, and since when.')
    .option('--json', 'print JSON')
    .action(async ({ json }: Json) => {
      const { webhooks } = await openEditor().webhooks.list()
      if (json) return printJson({ webhooks })
      if (webhooks.length === 0) return print('No webhooks yet. Add one to tell a front end what changed.')
      printTable(
        ['label', 'state', 'address', 'events', 'where', 'waiting', 'oldest', 'id'],
        webhooks.map(({ label, enabled, pausedAt, address, events, where, waiting, oldest, id }) => [
          label,
          !enabled ? 'off' : pausedAt === null ? 'on' : `paused ${when(pausedAt)}`,
          address,
          events?.join(' ') ?? 'every public change',
          where ?? '',
          waiting,
          oldest === null ? '' : when(oldest),
          id,
        ]),
      )
      for (const { label, problem } of webhooks) if (problem !== null) print(`${label}: ${problem}`)
    })
  withHeaders(
    withSubscription(
      webhook
        .command('create')
        .description(
          'Adds a webhook and prints the secret that its deliveries are signed with. The secret is shown only now.',
        )
        .requiredOption('--label <text>', 'what it is for')
        .requiredOption('--address <url>', 'where events are sent'),
    ),
  )
    .option('--json', 'print JSON')
    .action(async ({ label, address, headers, json, ...subscription }: CreateOptions) => {
      const created = await openEditor().webhooks.create({
        label,
        address,
        ...subscriptionFrom(subscription),
        ...(headers === undefined ? {} : { headers: readHeaders(headers) }),
      })
      if (json) printJson(created)
      else print(created.secret)
    })
  withHeaders(
    withSubscription(
      webhook
        .command('change')
        .description('Changes a webhook, switches it off and on, or resumes it. Its secret stays.')
        .argument('<id>')
        .option('--label <text>', 'what it is for')
        .option('--address <url>', 'where events are sent'),
    ),
  )
    .option('--all-events', 'every public change')
    .option('--always', 'without a condition')
    .option('--without-header <names>', 'removes headers', readList)
    .option('--off', 'send nothing until it is on again; what happens meanwhile is not sent later')
    .option('--on', 'send again')
    .option('--resume', 'send what waits, where it is paused')
    .option('--json', 'print JSON')
    .action(async (id: string, options: ChangeOptions) => {
      const changed = await openEditor().webhooks.change(id, changeFrom(options))
      if (options.json) return printJson(changed)
      const state = !changed.enabled ? 'off' : changed.pausedAt === null ? 'on' : 'paused'
      print(`Changed: ${changed.label} (${changed.id}), ${state}, ${changed.address}`)
    })
  webhook
    .command('secret')
    .description('Adds a signing secret and prints it. Earlier ones stay valid for a while.')
    .argument('<id>')
    .option('--keep-hours <n>', 'how long earlier secrets stay valid', '24')
    .option('--json', 'print JSON')
    .action(async (id: string, { keepHours, json }: { keepHours: string } & Json) => {
      if (!/^\d{1,4}$/.test(keepHours)) throw new UsageError('--keep-hours is a whole number of hours.')
      const changed = await openEditor().webhooks.addSecret(id, Number(keepHours))
      if (json) printJson(changed)
      else print(changed.secret)
    })
  webhook
    .command('end-secret')
    .description('Ends an earlier secret now.')
    .argument('<id>', 'the webhook')
    .argument('<secret>', 'the id of the secret, as `webhook list --json` prints it')
    .option('--json', 'print JSON')
    .action(async (id: string, secret: string, { json }: Json) => {
      await openEditor().webhooks.endSecret(id, secret)
      if (json) printJson({ ended: secret })
      else print(`Ended: ${secret}`)
    })
  withSubscription(
    webhook.command('preview').description('Prints what a webhook with these options would get. Nothing is sent.'),
  )
    .option('--json', 'print JSON')
    .action(async ({ json, ...subscription }: Subscription & Json) => {
      const { body, real } = await openEditor().webhooks.preview(subscriptionFrom(subscription))
      if (json) return printJson({ body, real })
      if (!real) print('There is no such event yet. This one is made up:')
      print(JSON.stringify(body, null, 2))
    })
  webhook
    .command('test')
    .description('Sends a sample to a webhook now, and prints the answer.')
    .argument('<id>')
    .option('--json', 'print JSON')
    .action(async (id: string, { json }: Json) => {
      const outcome = await openEditor().webhooks.test(id)
      const { status, took, answer, error } = outcome
      if (json) printJson(outcome)
      else if (status === null) print(`No answer after ${took} ms: ${error ?? ''}`)
      else print(`${status} in ${took} ms${answer === '' ? '' : `\n${answer}`}`)
      Outcome.ofCall(outcome)
    })
  webhook
    .command('remove')
    .description('Removes a webhook. Events that wait for it are not sent.')
    .argument('<id>')
    .option('--json', 'print JSON')
    .action(async (id: string, { json }: Json) => {
      await openEditor().webhooks.remove(id)
      if (json) printJson({ removed: id })
      else print(`Removed: ${id}`)
    })
  addDeliveries(webhook)
  webhook
    .command('events')
    .description('Prints the event log, from the event after a sequence number.')
    .option('--after <n>', 'a sequence number', '0')
    .option('--json', 'print JSON')
    .action(async ({ after, json }: { after: string } & Json) => {
      const { events } = await openEditor().events(Number(after) || 0)
      if (json) return printJson({ events })
      printTable(
        ['number', 'when', 'event', 'about', 'by'],
        events.map((event) => [
          String(event['sequence']),
          when(String(event['time'])),
          String(event['type']),
          String(event['subject'] ?? ''),
          String((event['data'] as { actor: string }).actor),
        ]),
      )
    })
}

function changeFrom(options: ChangeOptions): WebhookChange {
  const { label, address, events, allEvents, where, always, headers, withoutHeader, on, off, resume } = options
  if (on && off) throw new UsageError('Say --on or --off, not both.')
  if (events && allEvents) throw new UsageError('Say --events or --all-events, not both.')
  if (where !== undefined && always) throw new UsageError('Say --where or --always, not both.')
  const removed = Object.fromEntries((withoutHeader ?? []).map((name) => [name, null]))
  const set = headers === undefined ? {} : readHeaders(headers)
  const change: WebhookChange = {
    ...(label === undefined ? {} : { label }),
    ...(address === undefined ? {} : { address }),
    ...subscriptionFrom(options),
    ...(allEvents ? { events: null } : {}),
    ...(always ? { where: null } : {}),
    ...(headers === undefined && withoutHeader === undefined ? {} : { headers: { ...removed, ...set } }),
    ...(on || off ? { enabled: on === true } : {}),
    ...(resume ? { paused: false as const } : {}),
  }
  if (Object.keys(change).length === 0) throw new UsageError('Say what to change, e.g. --address URL.')
  return change
}

/** The headers in a file, one a line. @throws UsageError with the line that is none. */
function readHeaders(file: string): Record<string, string> {
  const lines = readText(file).split(/\r?\n/)
  return Object.fromEntries(
    lines.flatMap((line, index) => {
      if (line.trim() === '') return []
      const colon = line.indexOf(':')
      if (colon < 1) throw new UsageError(`Line ${index + 1} of ${file} is not \`Name: value\`.`)
      return [[line.slice(0, colon).trim(), line.slice(colon + 1).trim()]]
    }),
  )
}
