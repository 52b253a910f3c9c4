import type { Editor, WisteriaProblem } from '@wisteria/client'
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest'
import { machinesOf } from './support/machines.js'
import { refusal } from './support/models.js'
import { eventually, startSmall, type SmallSite } from './support/running.js'
import { nightWalk } from './support/translations.js'

let small: SmallSite
let owner: Editor
let museum: string
const machines = machinesOf(() => owner)
const problem = (work: () => unknown) => refusal<WisteriaProblem>(work)

beforeAll(async () => {
  small = await startSmall()
  owner = small.owner
  museum = (await owner.create({ type: 'museum', values: { name: { en: 'The Lighthouse' } } })).id
})
afterAll(() => small.service.end())
afterEach(() => machines.end())

const walk = async (more = {}): Promise<string> => (await nightWalk(owner, { museum, ...more })).id

describe('a rule', () => {
  it('orders after an event what meets its condition, publishes the result, and is not triggered by it', async () => {
    await machines.start({}, ['nl'])
    const rule = await owner.ordering.addRule({
      label: 'Free walks',
      connector: 'Machine',
      event: 'entry.published',
      type: 'activity',
      where: 'price = 0',
      publish: true,
    })
    const [free, paid] = [await walk({ price: 0 }), await walk({ price: 5 })]
    for (const id of [paid, free]) await owner.publish(id, { locales: ['en'] })
    const [order] = await eventually(
      async () => (await owner.ordering.orders()).orders.filter(({ rule: by }) => by === rule.id),
      (orders) => orders[0]?.state === 'done',
    )
    expect((await machines.itemOf(order!)).message).toBe('3 taken. Published.')
    expect((await owner.entry(free)).states['nl']).toBe('public')
    expect((await owner.entry(paid)).states['nl']).toBe('new')
    await new Promise((resolve) => setTimeout(resolve, 500))
    expect((await owner.ordering.orders()).orders.filter(({ rule: by }) => by === rule.id)).toHaveLength(1)
    await owner.ordering.enableRule(rule.id, false)
    const another = await walk({ price: 0 })
    await owner.publish(another, { locales: ['en'] })
    await new Promise((resolve) => setTimeout(resolve, 300))
    expect((await owner.ordering.orders()).orders.filter(({ rule: by }) => by === rule.id)).toHaveLength(1)
    await owner.ordering.removeRule(rule.id)
    expect((await owner.ordering.rules()).rules).toEqual([])
  })
  it('publishes nothing that somebody else has not published yet', async () => {
    await machines.start({ seconds: 1 }, ['nl'])
    await owner.ordering.addRule({
      label: 'All',
      connector: 'Machine',
      event: 'entry.published',
      type: 'activity',
      publish: true,
    })
    const id = await walk()
    await owner.publish(id, { locales: ['en'] })
    const { version } = await owner.entry(id)
    await owner.patch(id, version, { price: 99 })
    const [order] = await eventually(
      async () => (await owner.ordering.orders()).orders,
      ([newest]) => newest?.state === 'done',
    )
    expect((await machines.itemOf(order!)).message).toBe(
      '3 taken. Ready for review, and not published: Shared values have changes that nobody has published.',
    )
    expect((await owner.entry(id)).states['nl']).toBe('new')
  })
  it('says why it could do nothing, and is refused for what it could never do', async () => {
    await machines.start({}, ['nl'])
    const rule = { label: 'x', connector: 'Machine', event: 'entry.saved', type: 'activity' } as const
    expect(await problem(() => owner.ordering.addRule({ ...rule, where: 'nothing = 1' }))).toMatchObject({
      code: 'badCondition',
    })
    expect(await problem(() => owner.ordering.addRule({ ...rule, locales: ['ar'] }))).toMatchObject({
      code: 'conflict',
    })
    expect(await problem(() => owner.ordering.addRule({ ...rule, type: 'activty' }))).toMatchObject({
      code: 'notFound',
    })
    const made = await owner.ordering.addRule(rule)
    await owner.ordering.changeConnector('Machine', { enabled: false })
    const id = await walk()
    const { version } = await owner.entry(id)
    await owner.patch(id, version, { price: 1 })
    const [told] = await eventually(
      async () => (await owner.ordering.rules()).rules.filter(({ id }) => id === made.id),
      ([now]) => now?.problem !== null,
    )
    expect(told!.problem).toBe('Machine is switched off.')
  })
})
