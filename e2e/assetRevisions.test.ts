import type { Editor, WisteriaProblem } from '@wisteria/client'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { asFiles, files, refusal } from './support/models.js'
import { picture } from './support/pictures.js'
import { startSmall, type SmallSite } from './support/running.js'

let small: SmallSite
let owner: Editor
const problem = (work: () => unknown) => refusal<WisteriaProblem>(work)

beforeAll(async () => {
  small = await startSmall()
  owner = small.owner
  const withPicture = { ...files, museum: files.museum + "  picture: { kind: asset, accepts: ['image/*'] }\n" }
  await owner.adoptModel((await owner.compareModel(asFiles(withPicture))).id)
})
afterAll(() => small.service.end())

describe('revisions of a file', () => {
  it('are kept of its texts and of its bytes, each with who and what', async () => {
    const { id, revision } = await owner.uploadAsset('boat.png', await picture())
    expect(revision).toBe(1)
    expect((await owner.changeAsset(id, { alt: { en: 'A boat' } })).revision).toBe(2)
    // A change without a difference makes no revision and no event.
    const { sequence } = await owner.events()
    expect((await owner.changeAsset(id, { alt: { en: 'A boat' } })).revision).toBe(2)
    expect((await owner.replaceAsset(id, await picture())).revision).toBe(2)
    expect((await owner.events(sequence)).events).toEqual([])
    await owner.changeAsset(id, { alt: { nl: 'Een boot' }, focalPoint: { x: 0.2, y: 0.5 } })
    await owner.replaceAsset(id, await picture(100, 100, 'webp'))
    const { revisions, next } = await owner.assetRevisions(id)
    expect(revisions.map((state) => [state.revision, state.changed, state.width])).toEqual([
      [4, ['file'], 100],
      [3, ['alt', 'focalPoint'], 400],
      [2, ['alt'], 400],
      [1, [], 400],
    ])
    expect([next, revisions.every(({ by }) => by.startsWith('account:'))]).toEqual([null, true])
    const page = await owner.assetRevisions(id, { first: 2 })
    expect([page.revisions.map((state) => state.revision), page.next]).toEqual([[4, 3], 3])
    const last = await owner.assetRevisions(id, { before: 3, first: 2 })
    expect([last.revisions.map((state) => [state.revision, state.changed]), last.next]).toEqual([
      [
        [2, ['alt']],
        [1, []],
      ],
      null,
    ])
  })
  it('come back as a whole, or their file or texts alone; pages that hold it hear of it', async () => {
    const { id } = await owner.uploadAsset('boat.png', await picture())
    await owner.changeAsset(id, { name: 'ship.png', alt: { en: 'A boat' } })
    const museum = await owner.create({ type: 'museum', values: { name: { en: 'Afloat' }, picture: id } })
    await owner.publish(museum.id)
    await owner.replaceAsset(id, await picture(100, 100))
    const { sequence } = await owner.events()
    expect(await owner.restoreAsset(id, 1, 'file')).toMatchObject({
      revision: 4,
      name: 'ship.png',
      width: 400,
      alt: { en: 'A boat' },
    })
    const [event] = (await owner.events(sequence)).events as {
      type: string
      data: { affected: { groups: string[] } }
    }[]
    expect([event!.type, event!.data.affected.groups]).toEqual(['asset.changed', expect.arrayContaining([`a.${id}`])])
    expect(await owner.restoreAsset(id, 3, 'texts')).toMatchObject({ revision: 4, width: 400 })
    expect(await owner.restoreAsset(id, 1)).toMatchObject({ revision: 5, name: 'boat.png', width: 400, alt: {} })
    expect(await owner.restoreAsset(id, 3)).toMatchObject({ revision: 6, name: 'ship.png', width: 100 })
  })
  it('have their own bytes, for members alone', async () => {
    const { id } = await owner.uploadAsset('boat.png', await picture())
    await owner.replaceAsset(id, await picture(100, 100))
    const at = (revision: number | string, token = small.token) =>
      fetch(`${small.service.baseUrl}/edit/v1/sites/marram/assets/${id}/revisions/${revision}/file`, {
        headers: token ? { Authorization: `Bearer ${token}` } : {},
      })
    const first = await at(1)
    expect([first.status, first.headers.get('content-type'), first.headers.get('cache-control')]).toEqual([
      200,
      'image/png',
      'private, no-cache',
    ])
    expect((await sharp(Buffer.from(await first.arrayBuffer())).metadata()).width).toBe(400)
    expect([(await at(1, '')).status, (await at(3)).status, (await at('x')).status, (await at('1.5')).status]).toEqual([
      401, 404, 400, 400,
    ])
    expect((await problem(() => owner.restoreAsset(id, 9))).message).toMatch(
      /no revision 9 of boat.png; the newest is 2/,
    )
    expect((await problem(() => owner.restoreAsset(id, 1.5))).status).toBe(400)
    expect((await problem(() => owner.restoreAsset('x'.repeat(20), 1))).status).toBe(404)
  })
})
