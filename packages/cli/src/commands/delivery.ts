import type { Delivery, DeliveryAttempt } from '@wisteria/client'
import type { Command } from 'commander'
import { openEditor, UsageError } from '../connection.js'
import { print, printJson, printTable, say, when } from '../output.js'

interface Json {
  readonly json?: boolean
}
interface SpanOptions extends Json {
  readonly from?: string
  readonly to?: string
  readonly missed?: boolean
}

const statuses = ['waiting', 'delivered', 'failed'] as const

/** What came of an attempt, in a word or two. */
const outcomeOf = ({ status, error }: DeliveryAttempt): string | number => status ?? error ?? ''

/** Commands for what was sent to a webhook, or waits. */
export function addDeliveries(webhook: Command): void {
  webhook
    .command('deliveries')
    .description('Lists the newest deliveries of a webhook.')
    .argument('<id>')
    .option('--status <status>', 'waiting, delivered or failed')
    .option('--first <n>', 'how many', '100')
    .option('--json', 'print JSON')
    .action(async (id: string, { status, first, json }: { status?: string; first: string } & Json) => {
      if (status !== undefined && !(statuses as readonly string[]).includes(status))
        throw new UsageError(`--status is ${statuses.join(', ')}.`)
      const { deliveries, next } = await openEditor().webhooks.deliveries(id, {
        ...(status === undefined ? {} : { status: status as Delivery['status'] }),
        first: Number(first),
      })
      if (json) return printJson({ deliveries, next })
      if (deliveries.length === 0) return print('Nothing was sent yet.')
      printTable(
        ['event', 'type', 'events', 'status', 'attempts', 'last answer', 'next', 'id'],
        deliveries.map((delivery) => [
          delivery.sequence,
          delivery.type,
          delivery.events,
          delivery.status,
          delivery.attempts.length,
          delivery.attempts.length === 0 ? '' : outcomeOf(delivery.attempts.at(-1)!),
          delivery.nextAt === null ? '' : when(delivery.nextAt),
          delivery.id,
        ]),
      )
      if (next !== null) say(`There are older ones: --first ${Number(first) * 2}.`)
    })
  webhook
    .command('delivery')
    .description('Prints one delivery: of each attempt what was sent, and what came back.')
    .argument('<id>', 'the webhook')
    .argument('<delivery>')
    .option('--json', 'print JSON')
    .action(async (id: string, delivery: string, { json }: Json) => {
      const full = await openEditor().webhooks.delivery(id, delivery)
      if (json) return printJson(full)
      print(`${full.type} (event ${full.sequence}): ${full.status}`)
      for (const attempt of full.attempts) {
        print(`\n${when(attempt.at)}, ${attempt.took} ms: ${outcomeOf(attempt)}`)
        for (const [name, value] of Object.entries(attempt.headers)) print(`> ${name}: ${value}`)
        print(attempt.body === null ? '> (the events are no longer kept)' : `> ${JSON.stringify(attempt.body)}`)
        if (attempt.answer !== '') print(`< ${attempt.answer}`)
      }
    })
  webhook
    .command('resend')
    .description('Sends a delivery again, or all events of a span of time.')
    .argument('<id>', 'the webhook')
    .argument('[delivery]')
    .option('--from <time>', 'the beginning of a span, e.g. 2031-05-04T08:00:00Z')
    .option('--to <time>', 'its end; now when left out')
    .option('--missed', 'of a span, only what was not accepted')
    .option('--json', 'print JSON')
    .action(async (id: string, delivery: string | undefined, { from, to, missed, json }: SpanOptions) => {
      if ((delivery === undefined) === (from === undefined))
        throw new UsageError('Name a delivery, or a span with --from.')
      if (delivery !== undefined) {
        await openEditor().webhooks.resend(id, delivery)
        return json ? printJson({ resent: delivery }) : print(`Sent again: ${delivery}`)
      }
      const { resent } = await openEditor().webhooks.resendSpan(id, { from: from!, to, onlyMissed: missed })
      if (json) printJson({ resent })
      else print(`Sent again: ${resent} deliver${resent === 1 ? 'y' : 'ies'}`)
    })
}
