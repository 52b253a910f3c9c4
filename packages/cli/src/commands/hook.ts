import type { Command } from 'commander'
import { readList } from '../input.js'
import { openEditor } from '../connection.js'
import { print, printJson, printTable, when } from '../output.js'

interface Json {
  readonly json?: boolean
}

export function addHook(program: Command): void {
  const hook = program
    .command('hook')
    .summary('webhooks')
    .description('Webhooks: addresses that are told what changed.')
  hook
    .command('list')
    .description('Lists the webhooks and what waits for them.')
    .option('--json', 'print JSON')
    .action(async ({ json }: Json) => {
      const { webhooks } = await openEditor().webhooks()
      if (json) return printJson({ webhooks })
      if (webhooks.length === 0) return print('No webhooks yet. Add one to tell a front end what changed.')
      printTable(
        ['label', 'address', 'events', 'waiting', 'id'],
        webhooks.map((webhook) => [
          webhook.label,
          webhook.address,
          webhook.events?.join(' ') ?? 'every public change',
          webhook.waiting,
          webhook.id,
        ]),
      )
    })
  hook
    .command('create')
    .description('Subscribes an address and prints the secret that deliveries are signed with, this once.')
    .requiredOption('--label <text>', 'what it is for')
    .requiredOption('--address <url>', 'where events are sent')
    .option(
      '--events <types>',
      'e.g. entry.published,entry.unpublished; everything that changes something public when left out',
      readList,
    )
    .option('--json', 'print JSON')
    .action(async ({ label, address, events, json }: { label: string; address: string; events?: string[] } & Json) => {
      const created = await openEditor().createWebhook({ label, address, ...(events ? { events } : {}) })
      if (json) printJson(created)
      else print(created.secret)
    })
  hook
    .command('deliveries')
    .description('Lists the newest deliveries of a webhook, with their attempts.')
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
  hook
    .command('again')
    .description('Sends an event again.')
    .argument('<id>', 'the webhook')
    .argument('<delivery>')
    .option('--json', 'print JSON')
    .action(async (id: string, delivery: string, { json }: Json) => {
      await openEditor().sendAgain(id, delivery)
      if (json) printJson({ again: delivery })
      else print(`Sent again: ${delivery}`)
    })
  hook
    .command('remove')
    .description('Ends a subscription.')
    .argument('<id>')
    .option('--json', 'print JSON')
    .action(async (id: string, { json }: Json) => {
      await openEditor().removeWebhook(id)
      if (json) printJson({ removed: id })
      else print(`Removed: ${id}`)
    })
  hook
    .command('events')
    .description('Prints the event log after a sequence number.')
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
