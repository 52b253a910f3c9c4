import { Service, type Editor, type WisteriaProblem } from '@wisteria/client'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { asFiles, files, refusal } from './support/models.js'
import { ownerOf, start, startSmall, type SmallSite } from './support/running.js'

let small: SmallSite
let owner: Editor
let now = Date.parse('2031-03-12T09:00:00Z')

const problem = (work: () => unknown) => refusal<WisteriaProblem>(work)
const day = 86_400_000

let pages = 0
const page = async (parent?: string) => {
  pages++
  const values = { title: { en: `Page ${pages}`, nl: `Pagina ${pages}` }, ...(parent ? { inPage: parent } : {}) }
  return owner.create({ type: 'page', values })
}
const listed = async (where?: string) =>
  (await owner.entries({ type: 'page', first: 100, ...(where ? { where } : {}) })).entries.map(({ id }) => id)

beforeAll(async () => {
  small = await startSmall({}, () => now)
  owner = small.owner
})
afterAll(() => small.service.end())

describe('archiving', () => {
  it('withdraws what is public, leaves the lists, and lets nothing change until it is reactivated', async () => {
    const { id } = await page()
    const { version } = await owner.publish(id)
    const archived = await owner.archive(id, { version })
    expect([archived.state, archived.states['nl']]).toEqual(['archived', 'archived'])
    expect(await listed()).not.toContain(id)
    expect(await listed('entry.state = "archived"')).toEqual([id])
    const edit = [{ do: 'set', at: ['title'], locale: 'en', value: 'Other' } as const]
    for (const work of [() => owner.edit(id, archived.version, edit), () => owner.publish(id), () => owner.archive(id)])
      expect((await problem(work)).message).toMatch(/archive/)
    const out = await owner.reactivate(id)
    expect([out.state, out.values]).toEqual(['withdrawn', archived.values])
    expect(await listed()).toContain(id)
    expect((await problem(() => owner.reactivate(id))).message).toBe('The entry is not archived.')
  })
  it('asks what to do with the pages below', async () => {
    const above = await page()
    await owner.publish(above.id)
    const below = await page(above.id)
    await owner.publish(below.id)
    expect((await problem(() => owner.archive(above.id))).message).toContain(`“${below.title}”`)
    expect((await owner.entry(above.id)).state).toBe('public')
    await owner.archive(above.id, { withChildren: true })
    expect((await owner.entry(below.id)).state).toBe('withdrawn')
  })
  it('tells who listens', async () => {
    const { id } = await page()
    await owner.archive(id)
    await owner.reactivate(id)
    const { events } = await owner.events(0, 500)
    expect(events.filter((event) => event['subject'] === `entries/${id}`).map((event) => event['type'])).toEqual([
      'entry.created',
      'entry.archived',
      'entry.reactivated',
    ])
  })
})

describe('the bin', () => {
  it('keeps what was deleted with its history, and gives it back', async () => {
    const created = await page()
    const edited = await owner.edit(created.id, 1, [{ do: 'set', at: ['title'], locale: 'en', value: 'Dunes' }])
    await owner.delete(created.id)
    expect((await problem(() => owner.entry(created.id))).status).toBe(404)
    expect(await listed()).not.toContain(created.id)
    expect((await owner.search('Dunes')).entries).toEqual([])
    const [binned] = (await owner.bin()).entries
    expect(binned).toMatchObject({ id: created.id, title: 'Dunes', type: 'page' })
    expect(Date.parse(binned!.goesAt) - Date.parse(binned!.deletedAt)).toBe(30 * day)
    const back = await owner.restoreFromBin(created.id)
    expect(back.values).toEqual(edited.values)
    expect((await owner.search('Dunes')).entries.map(({ id }) => id)).toEqual([created.id])
    expect((await owner.revisions(created.id)).revisions.length).toBeGreaterThan(0)
    expect((await problem(() => owner.restoreFromBin(created.id))).status).toBe(404)
  })
  it('refuses to take what others refer to, and what is public', async () => {
    const above = await page()
    await page(above.id)
    expect((await problem(() => owner.delete(above.id))).message).toMatch(/refer to it: “Page \d+”/)
    const { id } = await page()
    await owner.publish(id)
    expect((await problem(() => owner.delete(id))).message).toBe('The entry is public. Withdraw it first.')
  })
  it('lets nobody refer to what lies in it', async () => {
    const gone = await page()
    await owner.delete(gone.id)
    expect((await problem(() => page(gone.id))).problems[0]?.code).toBe('unknownEntry')
  })
  it('is told of before its type goes, which takes it along', async () => {
    const before = asFiles()
    const note = 'type: note\nfields:\n  title: { kind: text, required: true }\n'
    await owner.adoptModel((await owner.compareModel(asFiles({ ...files, note }))).id)
    const { id } = await owner.create({ type: 'note', values: { title: 'Mind the step' } })
    const told = async () => (await owner.compareModel(before)).consequences.find(({ place }) => place === 'note')
    expect(await told()).toMatchObject({ weight: 'refused', message: expect.stringContaining('1 entry') as string })
    await owner.delete(id)
    expect(await told()).toMatchObject({ weight: 'breaking', message: expect.stringContaining('in the bin') as string })
    await owner.adoptModel((await owner.compareModel(before)).id)
    expect((await owner.bin()).entries.map((entry) => entry.id)).not.toContain(id)
    expect((await problem(() => owner.restoreFromBin(id))).status).toBe(404)
  })
  it('is emptied one by one, and by itself after thirty days', async () => {
    const [now1, later] = [await page(), await page()]
    await owner.delete(now1.id)
    await owner.delete(later.id)
    await owner.deletePermanently(now1.id)
    expect((await owner.bin()).entries.map(({ id }) => id)).not.toContain(now1.id)
    expect((await problem(() => owner.deletePermanently(now1.id))).status).toBe(404)
    // The service tidies up when it starts.
    now += 31 * day
    const again = await startSmallAt(small)
    expect((await again.bin()).entries).toEqual([])
    expect((await problem(() => again.restoreFromBin(later.id))).status).toBe(404)
  })
})

/** The same data under a service that has just started, with the same clock; the session of the owner has long ended. */
async function startSmallAt(of: SmallSite): Promise<Editor> {
  await of.service.stop()
  const service = await start({}, of.service.folder, () => now)
  small = { ...of, service }
  const { email, password } = ownerOf
  const { token } = await new Service({ baseUrl: service.baseUrl }).signIn({ email, password, as: 'token' })
  return new Service({ baseUrl: service.baseUrl, token: token! }).site('marram')
}
