import type { WebhookChange } from '@wisteria/client'
import type { Command } from 'commander'
import { readList } from '../input.js'
import { openEditor, UsageError } from '../connection.js'
import { print, printJson, printTable, when } from '../output.js'

interface WebhookOptions extends Json {
  label?: string
  address?: string
  events?: string[]
  allEvents?: boolean
  on?: boolean
  off?: boolean
}
interface Json {
  readonly json?: boolean
}

export function addWebhook(program: Command): void {
  const webhook = program
    .command('webhook')
    .summary('addresses that are told what changed')
    .description('Webhooks: addresses that are told what changed.')
  webhook
    .command('list')
    .description('Lists webhooks, with how many events wait for each.')
    .option('--json', 'print JSON')
    .action(async ({ json }: Json) => {
      const { webhooks } = await openEditor().webhooks()
      if (json) return printJson({ webhooks })
      if (webhooks.length === 0) return print('No webhooks yet. Add one to tell a front end what changed.')
      printTable(
        ['label', 'state', 'address', 'events', 'waiting', 'id'],
        webhooks.map(({ label, enabled, address, events, waiting, id }) => [
          label,
          enabled ? 'on' : 'off',
          address,
          events?.join(' ') ?? 'every public change',
          waiting,
          id,
        ]),
      )
    })
  webhook
    .command('create')
    .description(
      'Adds a webhook and prints the secret that its deliveries are signed with. The secret is shown only now.',
    )
    .requiredOption('--label <text>', 'what it is for')
    .requiredOption('--address <url>', 'where events are sent')
    .option('--events <types>', 'e.g. entry.published,entry.withdrawn; when left out: every public change', readList)
    .option('--json', 'print JSON')
    .action(async ({ label, address, events, json }: { label: string; address: string; events?: string[] } & Json) => {
      const created = await openEditor().createWebhook({ label, address, ...(events ? { events } : {}) })
      if (json) printJson(created)
      else print(created.secret)
    })
  webhook
    .command('change')
    .description('Changes a webhook, or switches it off and on. Its secret stays.')
    .argument('<id>')
    .option('--label <text>', 'what it is for')
    .option('--address <url>', 'where events are sent')
    .option('--events <types>', 'e.g. entry.published,entry.withdrawn', readList)
    .option('--all-events', 'every public change')
    .option('--off', 'send nothing until it is on again; what happens meanwhile is not sent later')
    .option('--on', 'send again')
    .option('--json', 'print JSON')
    .action(async (id: string, { json, allEvents, events, on, off, label, address }: WebhookOptions) => {
      if (on && off) throw new UsageError('Say --on or --off, not both.')
      if (events && allEvents) throw new UsageError('Say --events or --all-events, not both.')
      const change: WebhookChange = {
        ...(label === undefined ? {} : { label }),
        ...(address === undefined ? {} : { address }),
        ...(allEvents ? { events: null } : events ? { events } : {}),
        ...(on || off ? { enabled: on === true } : {}),
      }
      if (Object.keys(change).length === 0) throw new UsageError('Say what to change, e.g. --address URL.')
      const changed = await openEditor().changeWebhook(id, change)
      if (json) printJson(changed)
      else print(`Changed: ${changed.label} (${changed.id}), ${changed.enabled ? 'on' : 'off'}, ${changed.address}`)
    })
  webhook
    .command('deliveries')
    .description('Lists the newest deliveries of a webhook.')
    .argument('<id>')
    .option('--json', 'print JSON')
    .action(async (id: string, { json }: Json) => {
      const { deliveries } = await openEditor().deliveries(id)
      if (json) return printJson({ deliveries })
      if (deliveries.length === 0) return print('Nothing was sent yet.')
      printTable(
        ['event', 'type', 'status', 'attempts', 'last answer', 'id'],
        deliveries.map((delivery) => [
          delivery.sequence,
          delivery.type,
          delivery.status,
          delivery.attempts.length,
          delivery.attempts.at(-1)?.status ?? delivery.attempts.at(-1)?.error,
          delivery.id,
        ]),
      )
    })
  webhook
    .command('resend')
    .description('Sends an event again.')
    .argument('<id>', 'the webhook')
    .argument('<delivery>')
    .option('--json', 'print JSON')
    .action(async (id: string, delivery: string, { json }: Json) => {
      await openEditor().resend(id, delivery)
      if (json) printJson({ resent: delivery })
      else print(`Sent again: ${delivery}`)
    })
  webhook
    .command('remove')
    .description('Removes a webhook. Events that wait for it are not sent.')
    .argument('<id>')
    .option('--json', 'print JSON')
    .action(async (id: string, { json }: Json) => {
      await openEditor().removeWebhook(id)
      if (json) printJson({ removed: id })
      else print(`Removed: ${id}`)
    })
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
