import type { OrderView } from '@wisteria/core'
import type { Command } from 'commander'
import { openEditor, UsageError } from '../connection.js'
import { print, printJson, printTable, progress, when } from '../output.js'

interface Json {
  readonly json?: boolean
}

interface OrderOptions extends Json {
  readonly from: string
  readonly locale: string
  readonly type?: string
  readonly where?: string
  readonly search?: string
  readonly publish?: boolean
  readonly all?: boolean
  readonly wait?: boolean
}

/** The pause between two questions, in milliseconds. */
const pause = 500

const inWords = ({ done, failed, total, state, words }: OrderView): string =>
  `${done} of ${total} ${total === 1 ? 'entry' : 'entries'} translated${failed > 0 ? `, ${failed} failed` : ''}, ${words} ${words === 1 ? 'word' : 'words'} sent${state === 'stopped' ? '; stopped' : ''}`

/** Adds the commands for translations that machines and agencies make. */
export function addTranslateOrders(translate: Command): void {
  translate
    .command('order')
    .description('Orders translations from a connector. They come back as drafts that are ready for review.')
    .argument('[ids...]', 'entries; those of --type, --where and --search when left out')
    .requiredOption('--from <connector>', 'its id or its label')
    .requiredOption('--locale <tag>', 'the locale to translate into')
    .option('--type <name>', 'entries of this type')
    .option('--where <condition>', 'entries that meet it')
    .option('--search <words>', 'entries that contain them')
    .option('--all', 'all entries with texts to translate')
    .option('--publish', 'publish the translations')
    .option('--wait', 'wait until everything has come back or failed')
    .option('--json', 'print JSON')
    .action(async (ids: string[], { json, from, all, wait, ...options }: OrderOptions) => {
      const { type, where, search } = options
      const isLimited = [type, where, search].some((value) => value !== undefined)
      if (ids.length > 0 && (isLimited || all))
        throw new UsageError('Name entries, or --type, --where, --search or --all.')
      if (ids.length === 0 && !isLimited && !all)
        throw new UsageError('Name entries, or say which by --type, --where or --search; --all takes all of the site.')
      const { ordering } = openEditor()
      let order = await ordering.order({ ...options, connector: from, ...(ids.length > 0 ? { ids } : {}) })
      while (wait && order.state === 'running') {
        await new Promise((resolve) => setTimeout(resolve, pause))
        const before = order
        order = await ordering.orderWith(order.id)
        if (order.done + order.failed > before.done + before.failed)
          progress(order.done + order.failed, order.total, `translating into ${order.locale}`)
      }
      if (json) printJson(order)
      else if (wait) print(`${inWords(order)}. \`wisteria translate orders ${order.id}\` shows them.`)
      else print(`Ordered: ${order.id}, ${order.total} ${order.total === 1 ? 'entry' : 'entries'} into ${order.locale}`)
    })
  translate
    .command('orders')
    .description('Lists the newest orders, or the entries of one, each with its result.')
    .argument('[order]', 'its id')
    .option('--json', 'print JSON')
    .action(async (id: string | undefined, { json }: Json) => {
      const { ordering } = openEditor()
      if (id === undefined) {
        const { orders } = await ordering.orders()
        if (json) return printJson({ orders })
        if (orders.length === 0) return print('Nothing was ordered yet.')
        const { connectors } = await ordering.connectors()
        return printTable(
          ['when', 'by', 'into', 'state', 'how far', 'id'],
          orders.map((order) => [
            when(order.createdAt),
            connectors.find(({ id }) => id === order.connector)?.label ?? order.connector,
            order.locale,
            order.state,
            inWords(order),
            order.id,
          ]),
        )
      }
      const order = await ordering.orderWith(id)
      const entries = []
      for (let after: number | null = 0; after !== null;) {
        const page: Awaited<ReturnType<typeof ordering.orderEntries>> = await ordering.orderEntries(id, after)
        entries.push(...page.entries)
        after = page.next
      }
      if (json) return printJson({ ...order, entries })
      print(inWords(order))
      printTable(
        ['entry', 'state', 'texts', 'result', 'id'],
        entries.map(({ title, state, texts, message, entry }) => [title, state, texts, message, entry]),
      )
    })
  translate
    .command('retry')
    .description('Sends the entries of an order that failed once more.')
    .argument('<order>', 'its id')
    .option('--json', 'print JSON')
    .action(async (id: string, { json }: Json) => {
      const order = await openEditor().ordering.retryOrder(id)
      if (json) printJson(order)
      else print(`Sent again: ${inWords(order)}`)
    })
  translate
    .command('stop')
    .description('Stops an order: translations that come back later are not taken.')
    .argument('<order>', 'its id')
    .option('--json', 'print JSON')
    .action(async (id: string, { json }: Json) => {
      const order = await openEditor().ordering.stopOrder(id)
      if (json) printJson(order)
      else print(`Stopped: ${inWords(order)}`)
    })
}
