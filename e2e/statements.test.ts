import { Service, type Editor } from '@wisteria/client'
import { Database, watchStatements } from '@wisteria/store'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { files, asFiles, settings } from './support/models.js'
import { startReceiver, startSmall, type SmallSite } from './support/running.js'

/** SQLite's own statements, which are none of ours. */
const isOwn = (sql: string): boolean => !sql.startsWith('--')

/** Tables with few rows, however much content a site has. */
const fewRows =
  /^(sites|webhooks|automations|front_ends|keys|memberships|accounts|models|settings|json_each|value|g|w|schedules)$/
/** Whether a step of a plan reads all of a table, or all that a site, or an edition of it, has there. */
function walksEverything(detail: string): boolean {
  const [, how, table, by] = /^(SCAN|SEARCH) (\S+)(?:.*\(([^)]*)\))?/.exec(detail) ?? []
  // A type's own index is for lists of that type: the tree reads all of the types that have parents.
  if (how === undefined || fewRows.test(table!) || detail.includes('USING INDEX fact_')) return false
  return how === 'SCAN'
    ? !detail.includes('VIRTUAL TABLE')
    : /^(site|projection|projection=\? AND (locale|type)|site=\? AND \w*(locale|status|state))=\?$/.test(by ?? '')
}

let statements: string[] = []
let small: SmallSite
let owner: Editor
const receivers: Awaited<ReturnType<typeof startReceiver>>[] = []

/** Waits until nothing that was begun before, such as a delivery, is under way. */
async function quiet(): Promise<void> {
  for (let before = -1; before !== statements.length;) {
    before = statements.length
    await new Promise((resolve) => setTimeout(resolve, 150))
  }
}

/** The statements of one request, with its session, idempotency and transaction. */
async function counted<Result>(
  work: () => Promise<Result>,
): Promise<{ count: number; result: Result; texts: string[] }> {
  await quiet()
  statements = []
  const result = await work()
  // A statement that deletes rows of other tables by cascade is reported once for each of them.
  const texts = statements.filter(isOwn).filter((sql, index, all) => sql !== all[index - 1])
  // Statements of background loops after a commit.
  const end = texts.findIndex((sql) => /^commit/i.test(sql))
  const before = texts.slice(0, end + 1)
  return { count: before.length, result, texts: before }
}

/** Steps of plans that read more rows the more content a site has. */
async function walksOf(texts: readonly string[]): Promise<string[]> {
  const asked = await Database.open({ file: join(small.service.folder, 'wisteria.db') })
  const walks: string[] = []
  for (const sql of new Set(texts.filter((text) => /^(select|insert|update|delete|with)/i.test(text.trim()))))
    for (const { detail } of await asked.all<{ detail: string }>(`explain query plan ${sql}`))
      if (walksEverything(detail)) walks.push(`${detail}: ${sql.replaceAll(/\s+/g, ' ').slice(0, 300)}`)
  await asked.close()
  return walks
}

let number = 0
let museum: string
const blocks = (count: number) =>
  Array.from({ length: count }, (_, index) => ({ block: 'heading', values: { text: { en: `Heading ${index}` } } }))

/** Saves and publishes an entry with so many blocks, and counts the second time: the first prepares statements. */
async function day(blockCount: number): Promise<{ save: number; publish: number; texts: string[] }> {
  const name = `day-${number++}`
  const created = await owner.create({
    type: 'activity',
    values: {
      title: { en: name },
      slug: { en: name },
      format: 'walk',
      tags: ['dark', 'outside'],
      museum,
      body: blocks(blockCount),
    },
  })
  await owner.publish(created.id, undefined)
  let { version } = await owner.edit(created.id, created.version + 1, [{ do: 'set', at: ['price'], value: 1 }])
  const saved = await counted(() =>
    owner.edit(created.id, version, [{ do: 'set', at: ['title'], locale: 'en', value: `${name}!` }], `key-${name}`),
  )
  version = saved.result.version
  const published = await counted(() => owner.publish(created.id, { version }))
  expect(saved.result).toMatchObject({ check: { problems: [] } })
  return { save: saved.count, publish: published.count, texts: [...saved.texts, '', ...published.texts] }
}

/** The fewest of three runs: a background loop, such as giving up on a webhook, may add statements to one of them. */
async function fewestOn(blockCount: number): Promise<{ save: number; publish: number }> {
  const days = [await day(blockCount), await day(blockCount), await day(blockCount)]
  return { save: Math.min(...days.map(({ save }) => save)), publish: Math.min(...days.map(({ publish }) => publish)) }
}

beforeAll(async () => {
  watchStatements((sql) => statements.push(sql))
  small = await startSmall()
  owner = small.owner
  const many = files.activity.replace('count: { max: 3 }', 'count: { max: 100 }')
  await owner.adoptModel((await owner.compareModel(asFiles({ ...files, activity: many }))).id)
})
afterAll(async () => {
  watchStatements(undefined)
  await small.service.end()
  for (const { stop } of receivers) await stop()
})

describe('how many statements it takes', () => {
  let few: Awaited<ReturnType<typeof day>>
  it('to save and to publish: few', async () => {
    museum = (await owner.create({ type: 'museum', values: { name: { en: 'Lighthouse' } } })).id
    await owner.publish(museum)
    await day(1)
    few = await day(1)
    // The count includes real work: at least the transaction and its rows.
    expect(few.texts.filter((sql) => /^begin/i.test(sql)).length).toBe(2)
    expect(few.save, few.texts.join('\n')).toBeLessThanOrEqual(25)
    expect(few.publish, few.texts.join('\n')).toBeLessThanOrEqual(31)
  })
  it('to save and to publish, and none walks what grows with the site', async () => {
    expect(await walksOf(few.texts)).toEqual([])
  })
  it('to look at an entry, to use it elsewhere, and to change what it shows: none of them walks either', async () => {
    const { id } = await owner.create({
      type: 'activity',
      values: { title: { en: 'Seen' }, slug: { en: 'seen' }, format: 'walk', museum },
    })
    const { version } = await owner.publish(id)
    const asset = await owner.uploadAsset('notes.txt', new Blob(['notes']))
    await quiet()
    statements = []
    const page = async (slug: string) =>
      (await owner.create({ type: 'page', values: { title: { en: slug }, slug: { en: slug } } })).id
    const at = new Date(Date.now() + 86_400_000).toISOString()
    await owner.entry(id)
    await Promise.all([
      owner.consequences(id),
      owner.withdrawalConsequences(id),
      owner.usage(museum),
      owner.schedules({ entry: id }),
      owner.presence(id),
      owner.revisions(id),
      owner.compare(id),
    ])
    await owner.changeAsset(asset.id, { alt: { en: 'Notes' } })
    await owner.assetUsage(asset.id)
    const copy = await owner.duplicate(id)
    await owner.schedule(id, { does: 'withdraw', at })
    await owner.withdraw(id, { version })
    await owner.archive(id)
    await owner.reactivate(id)
    await owner.delete(copy.id)
    await owner.restoreFromBin(copy.id)
    await owner.delete(copy.id)
    await owner.deletePermanently(copy.id)
    await owner.deleteAsset(asset.id)
    const [above, below] = [await page('above'), await page('below')]
    await owner.place(below, { parent: above, after: null })
    await owner.publish(above)
    await owner.publish(below)
    await owner.patch(above, 2, { slug: { en: 'moved' } })
    await owner.consequences(above)
    await owner.publish(above)
    await quiet()
    expect(await walksOf(statements.filter(isOwn))).toEqual([])
  })
  it('as many with forty blocks', async () => {
    const { save, publish } = await fewestOn(40)
    expect([save, publish]).toEqual([few.save, few.publish])
  })
  it('as many with five webhooks', async () => {
    for (let count = 0; count < 5; count++) {
      // They accept deliveries, and never answer: their work is not counted here.
      const receiver = await startReceiver(() => new Promise<number>(() => undefined))
      receivers.push(receiver)
      await owner.webhooks.create({ label: `Webhook ${count}`, address: receiver.address })
    }
    const { save, publish } = await fewestOn(1)
    // Looking for webhooks is one; queueing for all that are found is another.
    expect([save, publish]).toEqual([few.save, few.publish + 1])
  })
  it('as many in forty locales, with these webhooks', async () => {
    const tags = Intl.supportedValuesOf('currency')
      .slice(0, 36)
      .map((_, index) => `en-x-l${index}`)
    const locales = [...settings.locales, ...tags.map((tag) => ({ tag, label: tag, fallback: ['en'] }))]
    await new Service({ baseUrl: small.service.baseUrl, token: small.token })
      .site('marram')
      .setLocales({ ...settings, locales })
    const { save, publish } = await fewestOn(1)
    expect([save, publish]).toEqual([few.save, few.publish + 1])
  })
})
