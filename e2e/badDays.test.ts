import { Reader, type Editor, type WisteriaProblem } from '@wisteria/client'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { asFiles, files, refusal } from './support/models.js'
import { eventually, startReceiver, startSmall, type SmallSite } from './support/running.js'

let small: SmallSite
let owner: Editor
let now = Date.parse('2031-03-12T09:00:00Z')
const minute = 60_000

const problem = (work: () => unknown) => refusal<WisteriaProblem>(work)
const shaped = {
  ...files,
  activity: files.activity
    .replace('count: { max: 3 }', 'count: { max: 600 }')
    .replace('accepts: [person], many: true', 'accepts: [person, activity], many: true'),
}
const reader = () => new Reader({ baseUrl: small.service.baseUrl, site: 'marram', token: small.token })

beforeAll(async () => {
  small = await startSmall({}, () => now)
  owner = small.owner
  await owner.adoptModel((await owner.compareModel(asFiles(shaped))).id)
})
afterAll(() => small.service.end())

describe('much at once', () => {
  it('is 500 blocks, moved, changed, compared and published', async () => {
    const body = Array.from({ length: 500 }, (_, index) => ({
      id: `b${index}`,
      block: 'quote',
      values: { text: { en: `Wave ${index}` } },
    }))
    const { id } = await owner.create({ type: 'activity', values: { title: { en: 'Long' }, format: 'walk', body } })
    const { version } = await owner.publish(id)
    await owner.edit(id, version, [
      { do: 'move', at: ['body', 'b499'], after: null },
      { do: 'set', at: ['body', 'b250', 'text'], locale: 'en', value: 'Wave two hundred and fifty' },
      { do: 'remove', at: ['body', 'b0'] },
    ])
    const { differences } = await owner.compare(id)
    expect(differences.map(({ how, at }) => `${how} ${at.join('/')}`).sort()).toEqual([
      'changed body/b250/text',
      'moved body/b499',
      'removed body/b0',
    ])
    await owner.publish(id)
    const shown = (await reader().entry('activity', id))!.values as { body: { id: string }[] }
    expect([shown.body.length, shown.body[0]!.id]).toEqual([499, 'b499'])
  })
  it('is a text of a megabyte, found by its words', async () => {
    const summary = `${'dune '.repeat(190_000)} samphire`
    const { id } = await owner.create({
      type: 'activity',
      values: { title: { en: 'Much' }, format: 'walk', summary: { en: summary } },
    })
    await owner.publish(id)
    expect(((await reader().entry('activity', id))!.values as { summary: string }).summary.length).toBe(summary.length)
    expect((await owner.search('dune')).entries.map((entry) => entry.id)).toContain(id)
  })
  it('is more than a request may be, and is refused as a whole', async () => {
    const values = { title: { en: 'Too much' }, summary: { en: 'x'.repeat(11_000_000) } }
    const refused = await problem(() => owner.create({ type: 'activity', values }))
    expect([refused.status, refused.message]).toEqual([413, expect.stringMatching(/at most 10 MB/)])
  })
})

describe('an entry that refers to itself', () => {
  it('is read, published, counted and deleted like any other', async () => {
    const { id } = await owner.create({ type: 'activity', values: { title: { en: 'Ouroboros' }, format: 'walk' } })
    await owner.edit(id, 1, [{ do: 'insert', at: ['speakers'], item: { value: id }, after: null }])
    await owner.publish(id)
    const shown = (await reader().entry('activity', id))!.values as { speakers: { id: string }[] }
    expect(shown.speakers).toEqual([{ id, type: 'activity' }])
    expect((await owner.usage(id)).usedBy).toEqual([])
    await owner.withdraw(id)
    await owner.delete(id)
    expect((await owner.restoreFromBin(id)).id).toBe(id)
  })
})

describe('words of every kind', () => {
  it.each([
    ['emoji', 'Bring a 🔦 and a 👩‍🚀', '🔦'],
    ['right to left', 'نزهة الفجر على الشاطئ', 'الفجر'],
    ['both directions', 'The Night نزهة Walk', 'نزهة'],
    ['marks upon marks', 'Z̸̢͠a̵̡͝l̶͜͝go', 'Z̸̢͠a̵̡͝l̶͜͝go'],
    ['a joiner alone', 'a\u200db', 'a'],
  ])('come back as they were: %s', async (_, title, word) => {
    const { id } = await owner.create({
      type: 'activity',
      values: { title: { en: title }, slug: { en: `kind-${title.length}` }, format: 'walk' },
    })
    await owner.publish(id)
    expect(((await reader().entry('activity', id))!.values as { title: string }).title).toBe(title)
    const { entries } = await owner.entries({
      type: 'activity',
      where: `title contains ${JSON.stringify(word)}`,
      first: 100,
    })
    expect(entries.map((entry) => entry.id)).toContain(id)
  })
})

describe('a clock that jumps', () => {
  it('back and forth loses nothing, and what is planned is done once when its time has come', async () => {
    const created = await owner.create({ type: 'museum', values: { name: { en: 'Clockhouse' } } })
    const { version } = await owner.publish(created.id)
    const plan = await owner.schedule(created.id, { does: 'withdraw', at: new Date(now + 60 * minute).toISOString() })
    now -= 24 * 60 * minute
    const saved = await owner.edit(created.id, version, [
      { do: 'set', at: ['name'], locale: 'en', value: 'Clock house' },
    ])
    const published = await owner.publish(created.id, { version: saved.version })
    expect([published.state, published.title]).toEqual(['public', 'Clock house'])
    expect((await owner.schedules({ entry: created.id })).schedules.map(({ id }) => id)).toEqual([plan.id])
    now += 26 * 60 * minute
    await owner.create({ type: 'person', values: { name: 'A tick' } })
    await eventually(
      async () => (await owner.entry(created.id)).state,
      (state) => state === 'withdrawn',
    )
    const { events } = await owner.events(0, 500)
    const sequences = events.map((event) => Number(event['sequence']))
    expect(sequences).toEqual([...sequences].sort((a, b) => a - b))
    const downs = events.filter(
      (event) => event['type'] === 'entry.withdrawn' && event['subject'] === `entries/${created.id}`,
    )
    expect(downs.length).toBe(1)
  })

  it('far ahead and back holds up no delivery and no run that began meanwhile', async () => {
    const receiver = await startReceiver((_, count) => (count === 1 ? 503 : 204))
    const { id } = await owner.webhooks.create({
      label: 'Ahead',
      address: receiver.address,
      events: ['entry.created'],
    })
    await owner.automations.set({
      automation: 'ahead',
      label: 'Ahead',
      starts: { by: 'event', events: ['entry.created'], types: ['person'] },
      steps: [
        { do: 'call', address: `"http://127.0.0.1:1/nobody"`, name: 'answer' },
        { do: 'compute', values: '1' },
      ],
    })
    const ahead = 2 * 24 * 60 * minute
    now += ahead
    await owner.create({ type: 'person', values: { name: 'From the future' } })
    await receiver.until(1)
    await eventually(
      async () => (await owner.automations.runs('ahead')).runs[0],
      (run) => run?.state === 'running' && run.nextAt !== null && Date.parse(run.nextAt) > now,
    )
    now -= ahead
    // The attempt that failed is made again, though its time is days ahead.
    await eventually(
      async () => (await owner.webhooks.deliveries(id)).deliveries[0]?.status,
      (status) => status === 'delivered',
      40,
    )
    expect(new Set(receiver.received.map(({ headers }) => headers['webhook-id'])).size).toBe(1)
    const [run] = (await owner.automations.runs('ahead')).runs
    await eventually(
      async () => (await owner.automations.getRun(run!.id)).nextAt,
      (at) => at === null || Date.parse(at) < now + 24 * 60 * minute,
      40,
    )
    await owner.webhooks.remove(id)
    await receiver.stop()
  }, 120_000)
})
