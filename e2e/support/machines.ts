import type { Editor, OrderView } from '@wisteria/client'
import { startTranslator, type RunningTranslator, type TranslatorOptions } from '@wisteria/demo'
import { eventually } from './running.js'

/** Simulated machines of a test, and the orders that they work on. */
export function machinesOf(owner: () => Editor) {
  const running: RunningTranslator[] = []
  const itemOf = async ({ id }: OrderView) => (await owner().ordering.orderEntries(id)).entries[0]!
  return {
    /** A machine with its connector. */
    async start(options: Omit<TranslatorOptions, 'port'> = {}, locales?: string[]) {
      const machine = await startTranslator({ port: 0, ...options })
      running.push(machine)
      const connector = await owner().ordering.addConnector({ label: 'Machine', address: machine.address, locales })
      machine.setSecret(connector.secret)
      return { machine, connector }
    },
    async end(): Promise<void> {
      for (const { id } of (await owner().ordering.connectors()).connectors) await owner().ordering.removeConnector(id)
      for (const machine of running.splice(0)) await machine.stop()
    },
    /** The first entry of an order. */
    itemOf,
    /** An order, once it has ended. */
    ended: ({ id }: OrderView) =>
      eventually(
        () => owner().ordering.orderWith(id),
        ({ state }) => state !== 'running',
      ),
    /** The first entry of an order, once the machine has it. */
    sent: (order: OrderView) =>
      eventually(
        () => itemOf(order),
        ({ state }) => state === 'sent',
      ),
  }
}
