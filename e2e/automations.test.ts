import type { AutomationRunView } from '@wisteria/client'
import type { Automation } from '@wisteria/core'
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest'
import { asFiles, files } from './support/models.js'
import { eventually, startReceiver, startSmall, type SmallSite } from './support/running.js'
import { problemOf } from './support/webhooks.js'

let small: SmallSite
let shift = 0
const stops: (() => Promise<void>)[] = []
beforeAll(async () => {
  small = await startSmall({}, () => Date.now() + shift)
})
afterEach(async () => {
  const { automations } = await small.owner.automations.list()
  for (const { name } of automations) await small.owner.automations.remove(name)
  for (const stop of stops.splice(0)) await stop()
})
afterAll(() => small?.service.end())

const define = (automation: Automation) => small.owner.automations.set(automation)
const receive = async (...answer: Parameters<typeof startReceiver>) => {
  const receiver = await startReceiver(...answer)
  stops.push(receiver.stop)
  return receiver
}
const change = async (id: string, values: Readonly<Record<string, unknown>>) => {
  const { version } = await small.owner.entry(id)
  return small.owner.patch(id, version, values)
}
let number = 0
const activity = (title: string, more: object = {}) =>
  small.owner.create({
    type: 'activity',
    values: { title: { en: title }, slug: { en: `walk-${++number}` }, format: 'talk', ...more },
  })
/** Waits until an automation has so many runs, and all have ended. */
const ended = (name: string, count = 1): Promise<readonly AutomationRunView[]> =>
  eventually(
    async () => (await small.owner.automations.runs(name)).runs,
    (runs) => runs.length >= count && runs.every(({ state }) => state !== 'running'),
  )
const byHand = (steps: Automation['steps'], more: Partial<Automation> = {}): Automation => ({
  automation: 'by-hand',
  label: 'By hand',
  starts: { by: 'hand', on: 'site' },
  steps,
  ...more,
})

describe('an automation', () => {
  it('is started by an event that meets its condition, and knows what changed', async () => {
    await define({
      automation: 'talk-to-walk',
      label: 'A walk gets a page of its museum',
      starts: {
        by: 'event',
        events: ['entry.saved'],
        types: ['activity'],
        where: 'after.format = "walk" and before.format != "walk"',
      },
      steps: [
        {
          do: 'create',
          name: 'page',
          type: 'museum',
          key: 'town',
          values: { name: { en: '"Start of " & after.title & ", was a " & before.format' }, town: 'entry.id' },
        },
      ],
    })
    const talk = await activity('Harbour')
    await change(talk.id, { title: { en: 'Harbour tour' } })
    await change(talk.id, { format: 'walk' })
    const [run] = await ended('talk-to-walk')
    expect(run).toMatchObject({ state: 'done', message: '', step: 1, log: [{ do: 'create', outcome: 'created' }] })
    const { id } = run!.results['page'] as { id: string }
    const page = await small.owner.entry(id)
    expect(page.values).toMatchObject({ name: { en: 'Start of Harbour tour, was a talk' }, town: talk.id })
    // The same again: by its key the entry is found, and has the values already.
    await change(talk.id, { format: 'talk' })
    await change(talk.id, { format: 'walk' })
    const runs = await ended('talk-to-walk', 2)
    expect(runs[0]!.log).toMatchObject([{ do: 'create', outcome: 'unchanged', entry: id }])
  })

  it('is not started by what it led to: neither alone, nor two by each other', async () => {
    const adds = (name: string): Automation => ({
      automation: name,
      label: name,
      starts: { by: 'event', events: ['entry.saved'], types: ['museum'] },
      steps: [{ do: 'set', values: { town: `entry.town & " ${name}"` } }],
    })
    const { id } = await small.owner.create({ type: 'museum', values: { name: { en: 'Mill' }, town: 'Oud' } })
    await define(adds('one'))
    await change(id, { town: 'Nieuw' })
    expect(await ended('one')).toHaveLength(1)
    await define(adds('two'))
    await change(id, { town: 'Later' })
    // Both start by the save, and each once more by what the other did. A run begins in the transaction that causes it.
    const all = await eventually(
      async () => [
        ...(await small.owner.automations.runs('one')).runs,
        ...(await small.owner.automations.runs('two')).runs,
      ],
      (runs) => runs.length > 1 && runs.every(({ state }) => state === 'done'),
    )
    expect(all.map(({ automation, isCaused }) => `${automation} ${isCaused}`).sort()).toEqual([
      'one false',
      'one false',
      'one true',
      'two false',
      'two true',
    ])
  })

  it('goes through entries that a condition finds, and does each by itself', async () => {
    for (let index = 0; index < 120; index++)
      await activity(`Batch ${index}`, { format: index % 3 === 0 ? 'walk' : 'talk' })
    await define(
      byHand(
        [
          {
            do: 'each',
            name: 'walks',
            type: 'activity',
            where: 'format = "walk" and title starts with "Batch"',
            steps: [
              { do: 'set', if: 'not (item.title contains "13")', values: { title: { en: 'item.title & " (walk)"' } } },
              { do: 'publish', if: 'item.title = "Batch 0 (walk)"' },
              { do: 'set', if: 'item.title = "Batch 0 (walk)"', values: { slug: { en: '"not a slug!"' } } },
            ],
          },
          { do: 'compute', name: 'says', values: '"Did " & steps.walks.count' },
        ],
        { rights: { publish: true } },
      ),
    )
    await small.owner.automations.run('by-hand')
    const [run] = await ended('by-hand')
    expect(run).toMatchObject({ state: 'failed', total: 40, done: 39, failed: 1 })
    const { items } = await small.owner.automations.items(run!.id, { state: 'failed' })
    expect(items[0]).toMatchObject({ title: 'Batch 0', step: 2, log: [{ do: 'set' }, { do: 'publish' }] })
    expect(items[0]!.message).not.toBe('')
  })
})

describe('values', () => {
  it('that were read are written as they are: references, files, lists', async () => {
    const museum = await small.owner.create({ type: 'museum', values: { name: { en: 'Read' }, town: 'Oud' } })
    const person = await small.owner.create({ type: 'person', values: { name: 'Nel' } })
    const { id } = await activity('Read', { museum: museum.id, speakers: [person.id], tags: ['dark'], price: 4 })
    await define(
      byHand(
        [
          {
            do: 'create',
            name: 'copy',
            type: 'activity',
            values: {
              title: { en: '"Copy of " & entry.title' },
              slug: { en: '"copy"' },
              format: 'entry.format',
              museum: 'entry.museum',
              speakers: 'entry.speakers',
              tags: 'entry.tags',
              price: 'entry.price * 2',
              summary: { en: 'entry.summary' },
            },
          },
          { do: 'set', entry: 'steps.copy', values: { price: null } },
        ],
        { starts: { by: 'hand', on: 'entry', types: ['activity'] } },
      ),
    )
    await small.owner.automations.run('by-hand', [id])
    const [run] = await ended('by-hand')
    expect(run!.message).toBe('')
    const copy = await small.owner.entry((run!.results['copy'] as { id: string }).id)
    expect(copy.values).toMatchObject({ title: { en: 'Copy of Read' }, format: 'talk', museum: museum.id })
    expect(copy.values['speakers']).toMatchObject([{ value: person.id }])
    expect(copy.values['tags']).toMatchObject([{ value: 'dark' }])
    expect(copy.values).not.toHaveProperty('price')
    expect(copy.values).not.toHaveProperty('summary')
  })
})

describe('calls', () => {
  it('are tried again with the same id, and their answer is used', async () => {
    const receiver = await receive((_, count) => (count < 3 ? 503 : 200))
    await define(
      byHand([
        {
          do: 'call',
          name: 'told',
          address: `"${receiver.address}"`,
          headers: { 'X-Token': '"Bearer " & secrets.token' },
          body: { said: '"hello"', number: 3, list: ['1 + 1', true] },
        },
        { do: 'compute', name: 'status', values: 'steps.told.status' },
      ]),
    )
    await small.owner.automations.setSecret('by-hand', 'token', 'quiet')
    await small.owner.automations.run('by-hand')
    await eventually(
      () => Promise.resolve(receiver.received.length),
      (count) => count >= 1,
    )
    const [run] = await eventually(
      async () => (await small.owner.automations.runs('by-hand')).runs,
      (runs) => runs[0]?.state === 'done',
    )
    expect(run!.results['status']).toBe(200)
    expect(new Set(receiver.received.map(({ headers }) => headers['idempotency-key'])).size).toBe(1)
    expect(receiver.received[0]!.headers['x-token']).toBe('Bearer quiet')
    expect(JSON.parse(receiver.received[0]!.body)).toEqual({ said: 'hello', number: 3, list: [2, true] })
    const stored = JSON.stringify(await small.owner.automations.get('by-hand'))
    expect(stored).not.toContain('quiet')
  })
})

describe('what is wrong with one', () => {
  it('is said at its place, with every problem', async () => {
    const problem = await problemOf(() =>
      define(
        byHand([
          { do: 'create', type: 'activty', values: { title: { en: 'tite' } } },
          { do: 'set', values: { town: '1 +' } },
          { do: 'each', type: 'museum', where: 'tonw = "x"', steps: [{ do: 'set', values: { town: 'item.nam' } }] },
        ]),
      ),
    )
    expect(problem.problems.map(({ pointer }) => pointer)).toEqual([
      '/automations/0/steps/0/values/title/en',
      '/automations/0/steps/0/type',
      '/automations/0/steps/1/values/town',
      '/automations/0/steps/1',
      '/automations/0/steps/2/where',
      '/automations/0/steps/2/steps/0/values/town',
    ])
  })
})

describe('a run', () => {
  it('waits, is stopped, and goes on where it was', async () => {
    await define(
      byHand([
        { do: 'compute', name: 'first', values: 1 },
        { do: 'wait', until: 'now + 2 hours' },
        { do: 'compute', name: 'second', values: 'steps.first + 1' },
      ]),
    )
    const [id] = (await small.owner.automations.run('by-hand')).runs
    const waits = await eventually(
      () => small.owner.automations.getRun(id!),
      ({ step }) => step === 2,
    )
    expect(waits).toMatchObject({ state: 'running', log: [{ do: 'compute' }, { do: 'wait' }] })
    expect((await small.owner.automations.stop(id!)).state).toBe('stopped')
    expect((await problemOf(() => small.owner.automations.stop(id!))).message).toMatch(/ended already/)
    // What is left of the wait is waited for.
    expect((await small.owner.automations.retry(id!)).nextAt).toBe(waits.nextAt)
    shift = 3 * 3_600_000
    const [run] = await ended('by-hand')
    shift = 0
    expect(run).toMatchObject({ state: 'done', results: { first: 1, second: 2 } })
    expect((await problemOf(() => small.owner.automations.retry(id!))).message).toMatch(/nothing to try again/)
  })

  it('goes on after its wait', async () => {
    await define(
      byHand([
        { do: 'wait', until: 'now + 2 hours' },
        { do: 'compute', name: 'is', values: '"over"' },
      ]),
    )
    const [id] = (await small.owner.automations.run('by-hand')).runs
    await eventually(
      () => small.owner.automations.getRun(id!),
      ({ step }) => step === 1,
    )
    shift = 3 * 3_600_000
    const [run] = await ended('by-hand')
    shift = 0
    expect(run!.results).toEqual({ is: 'over' })
  })

  it('tries what failed again, and does nothing twice', async () => {
    await define(
      byHand([
        {
          do: 'each',
          in: '["a", "b", "c"]',
          steps: [
            { do: 'create', name: 'made', type: 'museum', values: { name: { en: '"Retry " & item' } } },
            { do: 'publish', entry: 'steps.made', if: 'item = "b"' },
          ],
        },
      ]),
    )
    const [id] = (await small.owner.automations.run('by-hand')).runs
    // It has no right to publish.
    const [run] = await ended('by-hand')
    expect(run).toMatchObject({ state: 'failed', done: 2, failed: 1 })
    expect(run!.message).toBe('1 of 3 items failed. What they could not do can be tried again.')
    const [failed] = (await small.owner.automations.items(id!, { state: 'failed' })).items
    expect(failed!.message).toMatch(/The rights of this automation do not include this: publish/)
    await small.owner.automations.retry(id!)
    expect((await ended('by-hand'))[0]).toMatchObject({ done: 2, failed: 1 })
    const { count } = await small.owner.entries({ type: 'museum', where: 'name starts with "Retry"', count: true })
    expect(count).toBe(3)
  })

  it('goes on with what it began with where the automation is changed meanwhile', async () => {
    await define(
      byHand([
        { do: 'wait', until: 'now + 2 hours' },
        { do: 'compute', name: 'was', values: '"first"' },
      ]),
    )
    const [id] = (await small.owner.automations.run('by-hand')).runs
    await small.owner.automations.set(byHand([{ do: 'compute', name: 'was', values: '"second"' }]), 1)
    await small.owner.automations.stop(id!)
    await small.owner.automations.retry(id!)
    shift = 3 * 3_600_000
    const [run] = await ended('by-hand')
    shift = 0
    expect(run).toMatchObject({ version: 1, results: { was: 'first' } })
  })
})

describe('a set of automations', () => {
  it('is compared first, and adopted only as it was compared', async () => {
    const [one, two] = [
      byHand([{ do: 'compute', values: 1 }]),
      byHand([{ do: 'compute', values: 2 }], { automation: 'two' }),
    ]
    await define(one)
    const changed = { ...one, label: 'Otherwise' }
    const { changes, versions } = await small.owner.automations.compare([changed, two])
    expect(changes.map(({ name, does, parts }) => [name, does, parts])).toEqual([
      ['by-hand', 'changed', ['label']],
      ['two', 'added', []],
    ])
    await small.owner.automations.enable('by-hand', false)
    await small.owner.automations.set({ ...one, label: 'By another' }, 1)
    expect((await problemOf(() => small.owner.automations.adopt([changed, two], versions))).message).toMatch(
      /Compare again/,
    )
    expect((await problemOf(() => small.owner.automations.set(changed, 1))).message).toMatch(/is there in version 2/)
    const again = await small.owner.automations.compare([two])
    expect(again.changes.map(({ does }) => does)).toEqual(['added', 'removed'])
    await small.owner.automations.adopt([two], again.versions)
    expect((await small.owner.automations.list()).automations.map(({ name }) => name)).toEqual(['two'])
  })
})

describe('a try', () => {
  it('says what would happen, and changes nothing', async () => {
    const { id } = await small.owner.create({ type: 'museum', values: { name: { en: 'Tried' } } })
    const before = (await small.owner.events(0)).events.length
    const tried = await small.owner.automations.try(
      byHand(
        [
          { do: 'wait', until: 'now + 2 days' },
          {
            do: 'each',
            in: 'trigger.entries',
            steps: [
              { do: 'set', values: { town: 'item.name & " Town"' } },
              { do: 'call', address: '"http://127.0.0.1:9/" & item.town', body: { to: 'item.town' } },
            ],
          },
        ],
        { starts: { by: 'hand', on: 'list', types: ['museum'] } },
      ),
      { entries: [id] },
    )
    expect(tried).toMatchObject({
      whole: true,
      run: { state: 'done', total: 1 },
      items: [
        {
          title: 'Tried',
          state: 'done',
          log: [
            { do: 'set', outcome: 'updated' },
            { do: 'call', status: 200 },
          ],
        },
      ],
      calls: [{ method: 'POST', address: 'http://127.0.0.1:9/Tried Town', body: '{"to":"Tried Town"}' }],
    })
    expect(tried.events.map(({ type }) => type)).toEqual(['entry.saved'])
    expect((await small.owner.entry(id)).values['town']).toBeUndefined()
    expect((await small.owner.events(0)).events.length).toBe(before)
    expect((await small.owner.automations.list()).automations).toEqual([])
  })
})

describe('rights', () => {
  it('are those of the automation, and never more than whoever defines it has', async () => {
    await define(
      byHand([{ do: 'create', type: 'museum', values: { name: { en: '"Not allowed"' } } }], {
        rights: { types: ['activity'] },
      }),
    )
    await small.owner.automations.run('by-hand')
    const [run] = await ended('by-hand')
    expect(run!.message).toMatch(/limited to entries of activity; this is of museum/)
    // What it does stands in the log under its name.
    await small.owner.automations.set(
      byHand([{ do: 'create', name: 'made', type: 'museum', values: { name: { en: '"Allowed"' } } }]),
      1,
    )
    await small.owner.automations.run('by-hand')
    const runs = await ended('by-hand', 2)
    const { id } = runs[0]!.results['made'] as { id: string }
    const { actor } = await small.owner.automations.get('by-hand')
    expect(actor).toMatch(/^automation:/)
    expect((await small.owner.entry(id)).createdBy).toBe(actor)
  })
})

describe('a model', () => {
  it('that breaks an automation says so before it is adopted, and its runs say why they fail', async () => {
    await define(byHand([{ do: 'create', type: 'person', values: { name: '"Ada"', born: 'now - 1 day' } }]))
    const before = (await small.owner.model()).version
    const bornless = asFiles({ ...files, person: files.person.replace(/^ {2}born:.*\n/m, '') })
    const proposal = await small.owner.compareModel(bornless)
    const broken = proposal.consequences.filter(({ code }) => code === 'automationBroken')
    expect(broken).toEqual([
      {
        code: 'automationBroken',
        weight: 'breaking',
        place: 'automations',
        message: expect.stringMatching(
          /^The automation “By hand” would no longer fit, so its runs would fail: .*born/,
        ) as string,
      },
    ])
    await small.owner.adoptModel(proposal.id)
    try {
      await small.owner.automations.run('by-hand')
      const [run] = await ended('by-hand')
      expect([run!.state, run!.message]).toEqual(['failed', expect.stringMatching(/born/)])
    } finally {
      await small.owner.adoptModel((await small.owner.compareModelVersion(before)).id)
    }
  })
})
