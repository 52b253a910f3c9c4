import type { Delivery, Editor, WisteriaProblem } from '@wisteria/client'
import { afterAll, afterEach, beforeAll } from 'vitest'
import { refusal } from './models.js'
import { eventually, startReceiver, startSmall, type SmallSite } from './running.js'

export const hour = 3_600_000

/** A body that a webhook got. */
export type Body = Readonly<Record<string, unknown>> & {
  readonly type: string
  readonly data: { readonly events?: readonly Body[]; readonly fields?: readonly string[] }
}
export const bodyOf = ({ body }: { body: string }): Body => JSON.parse(body) as Body
export const bodies = (receiver: { received: readonly { body: string }[] }): Body[] => receiver.received.map(bodyOf)
export const problemOf = (work: () => Promise<unknown>) => refusal<WisteriaProblem>(work)

/** A site for the tests of a file, whose webhooks and receivers go after each test, and whose clock can be shifted. */
export function useWebhookSite() {
  let small: SmallSite
  const stops: (() => Promise<void>)[] = []
  const world = {
    /** In milliseconds. */
    shift: 0,
    get small(): SmallSite {
      return small
    },
    get owner(): Editor {
      return small.owner
    },
    receive: async (...answer: Parameters<typeof startReceiver>) => {
      const receiver = await startReceiver(...answer)
      stops.push(receiver.stop)
      return receiver
    },
    activity: (title: string, more: object = {}) =>
      small.owner.create({
        type: 'activity',
        values: {
          title: { en: title },
          slug: { en: title.toLowerCase().replaceAll(' ', '-') },
          format: 'talk',
          ...more,
        },
      }),
    deliveriesOf: async (webhook: string): Promise<readonly Delivery[]> =>
      (await small.owner.webhooks.deliveries(webhook)).deliveries,
    /** Waits until everything was accepted. */
    settled: (webhook: string) =>
      eventually(
        () => world.deliveriesOf(webhook),
        (all) => all.length > 0 && all.every(({ status }) => status === 'delivered'),
      ),
    /** Waits until nothing waits: what was given up stays so. */
    settledBut: (webhook: string) =>
      eventually(
        () => world.deliveriesOf(webhook),
        (all) => all.every(({ status }) => status !== 'waiting'),
      ),
  }
  beforeAll(async () => {
    small = await startSmall({ metrics: true }, () => Date.now() + world.shift)
  })
  afterEach(async () => {
    for (const { id } of (await small.owner.webhooks.list()).webhooks) await small.owner.webhooks.remove(id)
    for (const stop of stops.splice(0)) await stop()
  })
  afterAll(() => small.service.end())
  return world
}
