import { Reader, Service, type Editor, type WisteriaProblem } from '@wisteria/client'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { refusal } from './support/models.js'
import { signIn, startDemo, type DemoWorld } from './support/running.js'

let demo: DemoWorld
let owner: Editor
let service: Service
let sites = 0
const problem = (work: () => unknown) => refusal<WisteriaProblem>(work)

beforeAll(async () => {
  demo = await startDemo()
  owner = await demo.as('maren@marram.example')
  const { baseUrl } = demo.service
  const { token } = await new Service({ baseUrl }).signIn({
    email: 'maren@marram.example',
    password: 'wind-from-the-west',
    as: 'token',
  })
  service = new Service({ baseUrl, token: token! })
})
afterAll(() => demo.service.end())

/** A new site in English and Dutch; with the demo's model unless it is to be empty. */
async function newSite(isEmpty = false): Promise<{ name: string; editor: Editor }> {
  const name = `dune${++sites}`
  await service.createSite({
    name,
    label: `Dune ${sites}`,
    defaultLocale: 'en',
    locales: [
      { tag: 'en', label: 'English', fallback: [] },
      { tag: 'nl', label: 'Nederlands', fallback: ['en'] },
    ],
    timeZone: 'Europe/Amsterdam',
  })
  const editor = service.site(name)
  if (!isEmpty) await editor.adoptModel((await editor.compareModelFrom('marram')).id)
  return { name, editor }
}
const list = async (editor: Editor, type: string) => (await editor.entries({ type, first: 100 })).entries

describe('the model of another site', () => {
  it('is compared as a whole, and adopted; afterwards there is no difference', async () => {
    const { editor } = await newSite(true)
    const proposal = await editor.compareModelFrom('marram')
    expect(proposal.canBeAdopted).toBe(true)
    expect(proposal.consequences.map(({ place }) => place)).toEqual(expect.arrayContaining(['activity', 'museum']))
    await editor.adoptModel(proposal.id)
    expect((await editor.compareModelFrom('marram')).consequences).toEqual([])
    expect((await editor.model()).types.map(({ name }) => name)).toContain('exhibition')
  })
  it('gives single types, and leaves the others as they are', async () => {
    const { editor } = await newSite()
    const { files } = await editor.model()
    const changed = files.map((file) =>
      file.name === 'person.yaml' ? { ...file, text: file.text.replace(/^label:.*$/m, 'label: Changed here') } : file,
    )
    await editor.adoptModel((await editor.compareModel(changed)).id)
    await owner.adoptModel(
      (
        await owner.compareModel(
          (await owner.model()).files.map((file) =>
            file.name === 'notice.yaml'
              ? { ...file, text: file.text.replace(/^label:.*$/m, 'label: Changed there') }
              : file,
          ),
        )
      ).id,
    )
    const whole = await editor.compareModelFrom('marram')
    expect(whole.consequences.map(({ place }) => place)).toEqual(expect.arrayContaining(['notice', 'person']))
    const one = await editor.compareModelFrom('marram', ['notice'])
    expect([...new Set(one.consequences.map(({ place }) => place))]).toEqual(['notice'])
    expect((await problem(() => editor.compareModelFrom('marram', ['notise']))).message).toMatch(
      /Did you mean `notice`\?/,
    )
  })
  it.each([
    ['that is not there', 'nowhere', 'notFound', /not a member of a site `nowhere`/],
    ['that is the same', 'self', 'badRequest', /another site than this one/],
  ])('is not one %s', async (_, from, code, message) => {
    const { name, editor } = await newSite(true)
    const refused = await problem(() => editor.compareModelFrom(from === 'self' ? name : from))
    expect(refused).toMatchObject({ code })
    expect(refused.message).toMatch(message)
  })
})

describe('content of another site', () => {
  it('is planned first: how much, and what is left out', async () => {
    const { editor } = await newSite()
    const plan = await editor.planCopy({ from: 'marram', types: ['activity'], references: false })
    expect(plan.types).toEqual([{ type: 'activity', entries: 15, refused: [] }])
    expect(plan.referencesLeftOut).toBeGreaterThan(10)
    expect(plan.localesLeftOut).toContain('ar')
    const whole = await editor.planCopy({ from: 'marram', types: ['activity'] })
    expect(whole.types.map(({ type }) => type)).toEqual(expect.arrayContaining(['activity', 'museum', 'person']))
    expect(whole.referencesLeftOut).toBe(0)
    expect(whole.assets.count).toBeGreaterThan(0)
    expect(whole.assets.bytes).toBeGreaterThan(1000)
    expect(await list(editor, 'activity')).toEqual([])
  })

  it('is copied with what it refers to, under ids of its own, and published as it was', async () => {
    const { name, editor } = await newSite()
    const job = await editor.waitFor(await editor.copy({ from: 'marram' }, true))
    expect([job.state, job.message]).toEqual(['done', expect.stringMatching(/^\d+ done(, \d+ skipped)?\.$/)])
    const [there, here] = await Promise.all([list(owner, 'activity'), list(editor, 'activity')])
    expect(here.map(({ title }) => title).sort()).toEqual(there.map(({ title }) => title).sort())
    expect(here.map(({ id }) => id)).not.toEqual(expect.arrayContaining([there[0]!.id]))
    const { secret } = await editor.createKey({ label: 'Website', scope: 'published' })
    const read = (site: string, token: string) =>
      new Reader({ baseUrl: demo.service.baseUrl, site, token }).entries('activity', {
        pick: 'title, slug, museum(name, picture(name, alt)), speakers(name), body(*)',
        sort: 'title',
        first: 100,
        locale: 'nl',
        richText: 'text',
      })
    const [original, copy] = await Promise.all([read('marram', demo.seeded.keys.published), read(name, secret)])
    const bare = (page: typeof original) =>
      JSON.stringify(page.entries.map(({ path, values }) => ({ path, values })))
        .replaceAll(/"(id|address|publishedAt|updatedAt|entry)":"[^"]*"/g, '""')
        .replaceAll(/[0-9a-z]{20}/g, '')
    expect(copy.entries.length).toBe(original.entries.length)
    expect(bare(copy)).toBe(bare(original))
    // A picture is a file of its own site, with the same bytes.
    const { assets } = await editor.assets({})
    expect(assets.length).toBeGreaterThan(3)
    expect((await fetch(assets[0]!.address)).status).toBe(200)
  })

  it('fills the only entry of a type once, and never overwrites it', async () => {
    const { editor } = await newSite()
    const copyIt = async () =>
      editor.waitFor(await editor.copy({ from: 'marram', types: ['visitorInfo'], references: false }))
    expect((await copyIt()).message).toBe('1 done.')
    expect((await editor.entry('visitorInfo')).values).not.toEqual({})
    const again = await copyIt()
    expect(again.message).toBe('0 done, 1 refused.')
    const { items } = await editor.bulkItems(again.id)
    expect(items[0]!.message).toMatch(/has been written here already/)
  })

  it('that does not fit the model is refused with the reason, entry by entry', async () => {
    const { editor } = await newSite()
    const { files } = await editor.model()
    const without = files.map((file) =>
      file.name === 'person.yaml' ? { ...file, text: file.text.replace(/\n {2}role:[^\n]*/, '') } : file,
    )
    const proposal = await editor.compareModel(without)
    await editor.adoptModel(proposal.id)
    const plan = await editor.planCopy({ from: 'marram', types: ['person', 'notice'], references: false })
    const people = plan.types.find(({ type }) => type === 'person')!
    expect(people.refused[0]).toMatchObject({ message: expect.stringContaining('role') as string })
    const job = await editor.waitFor(
      await editor.copy({ from: 'marram', types: ['person', 'notice'], references: false }),
    )
    expect(job.message).toMatch(/^1 done, \d+ refused\.$/)
    expect(await list(editor, 'person')).toHaveLength(people.entries - people.refused[0]!.entries)
  })

  it('leaves nothing of a refused entry behind: neither a reference to it nor a file that others refer to', async () => {
    const { editor } = await newSite()
    const picture = Buffer.from(
      'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
      'base64',
    )
    const asset = await owner.addAsset({ name: 'dot.png', content: picture.toString('base64') })
    const person = await owner.create({ type: 'person', values: { name: 'Nel Zeeraket', role: { en: 'Keeper' } } })
    const shown = (name: string) => owner.create({ type: 'museum', values: { name: { en: name }, picture: asset.id } })
    const [one, two] = [await shown('The Mill'), await shown('The Sluice')]
    const walk = await owner.create({
      type: 'activity',
      values: { title: { en: 'Mill walk' }, museum: two.id, speakers: [person.id] },
    })
    // Neither a museum with a town nor a person with a role fits here.
    const { files } = await editor.model()
    const without = files.map((file) =>
      file.name === 'person.yaml' ? { ...file, text: file.text.replace(/\n {2}role:[^\n]*/, '') } : file,
    )
    await editor.adoptModel((await editor.compareModel(without)).id)
    const ids = [person.id, one.id, two.id, walk.id]
    const job = await editor.waitFor(await editor.copy({ from: 'marram', ids }))
    expect(job.message).toBe('3 done, 1 refused.')
    const [copy] = await list(editor, 'activity')
    expect((await editor.entry(copy!.id)).values['speakers'] ?? []).toEqual([])
    const museums = await Promise.all((await list(editor, 'museum')).map(({ id }) => editor.entry(id)))
    const pictures = museums.map(({ values }) => values['picture'] as string)
    expect(new Set(pictures).size).toBe(1)
    expect((await editor.asset(pictures[0]!)).name).toBe('dot.png')
  })

  it('publishes what is public there, and keeps as a draft what nobody has published', async () => {
    const { name, editor } = await newSite()
    const { id } = await owner.create({ type: 'page', values: { title: { en: 'Dunes' } } })
    await owner.publish(id, { locales: ['en'] })
    await owner.patch(id, (await owner.entry(id)).version, { title: { en: 'Secret dunes' } })
    const job = await editor.waitFor(await editor.copy({ from: 'marram', ids: [id], references: false }, true))
    expect(job.message).toBe('2 done.')
    const [copy] = await list(editor, 'page')
    const entry = await editor.entry(copy!.id)
    expect([entry.states['en'], entry.values['title']]).toEqual(['edited', { en: 'Secret dunes' }])
    const { secret } = await editor.createKey({ label: 'Website', scope: 'published' })
    const reader = new Reader({ baseUrl: demo.service.baseUrl, site: name, token: secret })
    expect((await reader.entry('page', copy!.id))!.values['title']).toBe('Dunes')
  })

  it('is refused for others, and for what makes no sense', async () => {
    const { editor } = await newSite()
    const ilse = await signIn(demo.service.baseUrl, 'ilse@marram.example')
    const { name } = await newSite(true)
    // Not a member there: she does not learn that the site exists.
    expect(await problem(() => ilse.planCopy({ from: name }))).toMatchObject({ code: 'notFound' })
    const key = new Service({ baseUrl: demo.service.baseUrl, token: demo.seeded.keys.edit }).site('marram')
    expect(await problem(() => key.copy({ from: name }))).toMatchObject({ code: 'notFound' })
    expect(await problem(() => editor.planCopy({ from: 'marram', types: ['activty'] }))).toMatchObject({
      code: 'notFound',
    })
    const wrong = { from: 'marram', where: 'price > 1' }
    expect((await problem(() => editor.planCopy(wrong))).message).toMatch(/needs exactly one type/)
    const both = { from: 'marram', ids: ['01hz0000000000000000'], types: ['page'] }
    expect((await problem(() => editor.planCopy(both))).message).toMatch(/either `ids`/)
    expect(
      await problem(() => editor.copy({ from: 'marram', types: ['page'], where: 'title = "nothing"' })),
    ).toMatchObject({ code: 'conflict' })
  })
})
