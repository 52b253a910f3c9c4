import { type Editor, type WisteriaProblem } from '@wisteria/client'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { asFiles, files, refusal } from './support/models.js'
import { startSmall, type SmallSite } from './support/running.js'
import { shownUnits } from './support/translations.js'

let small: SmallSite
let owner: Editor
let uploads = 0
const problem = (work: () => unknown) => refusal<WisteriaProblem>(work)

beforeAll(async () => {
  small = await startSmall()
  owner = small.owner
  const museum = `${files.museum}  picture: { kind: asset }\n`
  await owner.adoptModel((await owner.compareModel(asFiles({ ...files, museum }))).id)
})
afterAll(() => small.service.end())

const upload = async (alt: Record<string, string>) => {
  const { id } = await owner.uploadAsset(`lens ${++uploads}.txt`, new File([`lens ${uploads}`], 'lens.txt'))
  return owner.changeAsset(id, { alt, caption: { en: 'Made in 1897' } })
}
const of = async (id: string, locale = 'nl') => shownUnits((await owner.translations.ofAsset(id, locale)).units)
const { save } = { save: (id: string, change: object) => owner.translations.saveAsset(id, { locale: 'nl', ...change }) }

describe('the texts of a file', () => {
  it('are translated like those of an entry, each with its state', async () => {
    const { id, revision } = await upload({ en: 'The lens' })
    const translation = await owner.translations.ofAsset(id, 'nl')
    expect(translation).toMatchObject({
      entry: id,
      type: 'asset',
      title: 'lens 1.txt',
      version: revision,
      source: 'en',
    })
    expect(translation.units.map(({ labels }) => labels)).toEqual([['Alternative text'], ['Caption']])
    expect(translation.progress.units).toEqual({ missing: 2, outdated: 0, done: 0 })
    const saved = await save(id, { base: revision, texts: [{ unit: 'alt#', text: 'De lens' }] })
    expect(shownUnits(saved.units)).toEqual({ alt: 'De lens, current', caption: '–, missing' })
    expect((await owner.asset(id)).alt).toEqual({ en: 'The lens', nl: 'De lens' })
    expect((await owner.asset(id)).revision).toBe(revision + 1)
  })
  it('are outdated when their source changes, with the source that they were made from', async () => {
    const { id } = await upload({ en: 'The lens', nl: 'De lens' })
    await owner.changeAsset(id, { alt: { en: 'The great lens' } })
    const [unit] = (await owner.translations.ofAsset(id, 'nl', { units: 'todo' })).units
    expect(unit).toMatchObject({ unit: 'alt#', state: 'outdated', sourceThen: ['The lens'] })
    expect(unit!.since).not.toBeNull()
    // Still right: no other revision, and nobody is told.
    const { revision } = await owner.asset(id)
    await save(id, { stillRight: ['alt#'] })
    expect([await of(id), (await owner.asset(id)).revision]).toEqual([
      { alt: 'De lens, current', caption: '–, missing' },
      revision,
    ])
    await save(id, { needsNone: ['caption#'] })
    expect(await of(id)).toMatchObject({ caption: '–, notNeeded' })
    await save(id, { needed: ['caption#'] })
    expect(await of(id)).toMatchObject({ caption: '–, missing' })
  })
  it('are as fresh as they were then when a revision is restored', async () => {
    const { id, revision } = await upload({ en: 'The lens', nl: 'De lens' })
    await owner.changeAsset(id, { alt: { en: 'The great lens', nl: 'De grote lens' } })
    await owner.restoreAsset(id, revision, 'texts')
    expect(await of(id)).toMatchObject({ alt: 'De lens, current' })
    await owner.changeAsset(id, { alt: { en: 'The great lens' } })
    await owner.changeAsset(id, { alt: { nl: 'Iets anders' } })
    expect(await of(id)).toMatchObject({ alt: 'Iets anders, current' })
  })
  it('come with the entries that hold it, once', async () => {
    const { id } = await upload({ en: 'The lens' })
    const museum = await owner.create({ type: 'museum', values: { name: { en: 'Lighthouse' }, picture: id } })
    const view = await owner.translations.of(museum.id, 'nl')
    expect(view.entries.map(({ type, entry }) => [type, entry])).toEqual([
      ['museum', museum.id],
      ['asset', id],
    ])
    await save(id, {
      texts: [
        { unit: 'alt#', text: 'De lens' },
        { unit: 'caption#', text: 'Gemaakt in 1897' },
      ],
    })
    const todo = await owner.translations.of(museum.id, 'nl', { units: 'todo' })
    expect(todo.entries.map(({ type }) => type)).toEqual(['museum'])
  })
  it('keep what two people write in different texts, and ask about the same one', async () => {
    const { id, revision } = await upload({ en: 'The lens' })
    await save(id, { base: revision, texts: [{ unit: 'alt#', text: 'De lens' }] })
    await save(id, { base: revision, texts: [{ unit: 'caption#', text: 'Uit 1897' }] })
    expect(await of(id)).toEqual({ alt: 'De lens, current', caption: 'Uit 1897, current' })
    expect(await problem(() => save(id, { base: revision, texts: [{ unit: 'alt#', text: 'Anders' }] }))).toMatchObject({
      code: 'editConflict',
    })
  })
  it('go out in files with the entries that hold them, and come back', async () => {
    const { id } = await upload({ en: 'The lens' })
    const museum = await owner.create({ type: 'museum', values: { name: { en: 'Mill' }, picture: id } })
    const other = await owner.create({ type: 'museum', values: { name: { en: 'Tower' }, picture: id } })
    const order = { locale: 'nl', ids: [museum.id, other.id] }
    const texts = await (await owner.translations.export(order)).response.text()
    // Once, though two entries hold it.
    expect(texts.match(new RegExp(`original="marram/asset/${id}"`, 'g'))).toHaveLength(1)
    const back = (file: string) => owner.translations.readImport('nl', 'xliff', 'dutch', new Blob([file]))
    const translated = (text: string) =>
      texts.replace('<source>The lens</source>', `<source>The lens</source><target>${text}</target>`)
    const planned = await back(translated('De lens'))
    expect(planned.outcomes).toMatchObject({ taken: 1 })
    const apply = async (file: string) => {
      const read = await back(file)
      await owner.waitFor(await owner.translations.applyImport(read.id))
      return (await owner.translations.import(read.id)).outcomes
    }
    expect(await apply(translated('De lens'))).toMatchObject({ taken: 1 })
    expect(await of(id)).toMatchObject({ alt: 'De lens, current' })
    // Twice changes nothing; newer work stays; a source that has changed meanwhile is marked.
    const { revision } = await owner.asset(id)
    expect(await apply(translated('De lens'))).toMatchObject({ unchanged: 1 })
    expect((await owner.asset(id)).revision).toBe(revision)
    await owner.changeAsset(id, { alt: { nl: 'Onze lens' } })
    expect(await apply(translated('De lens uit het bestand'))).not.toHaveProperty('taken')
    expect(await of(id)).toMatchObject({ alt: 'Onze lens, current' })
    await owner.changeAsset(id, { alt: { en: 'The great lens', nl: null } })
    expect(await apply(translated('De lens'))).toMatchObject({ takenOutdated: 1 })
    expect((await owner.translations.ofAsset(id, 'nl')).units[0]).toMatchObject({
      state: 'outdated',
      sourceThen: ['The lens'],
    })
  })
  it('are refused where they do not fit, and nothing is saved then', async () => {
    const { id } = await upload({ en: 'The lens' })
    const long = await problem(() =>
      save(id, {
        texts: [
          { unit: 'caption#', text: 'Uit 1897' },
          { unit: 'alt#', text: 'x'.repeat(1001) },
        ],
      }),
    )
    expect([long.status, long.problems[0]?.message]).toEqual([422, expect.stringMatching(/more than 1000 characters/)])
    expect((await problem(() => save(id, { texts: [{ unit: 'title#', text: 'Lens' }] }))).problems[0]?.code).toBe(
      'unknownUnit',
    )
    expect((await problem(() => save(id, { empty: ['alt#'] }))).status).toBe(409)
    expect((await problem(() => save(id, { locale: 'en', texts: [] }))).status).toBe(400)
    expect((await problem(() => owner.translations.ofAsset('nothing', 'nl'))).status).toBe(404)
    expect(await of(id)).toEqual({ alt: '–, missing', caption: '–, missing' })
  })
})
