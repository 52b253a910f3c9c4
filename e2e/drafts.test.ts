import { Reader, type Editor } from '@wisteria/client'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { asFiles, files } from './support/models.js'
import { startSmall, type SmallSite } from './support/running.js'

let small: SmallSite
let owner: Editor
const reader = (edition: 'draft' | 'published') =>
  new Reader({ baseUrl: small.service.baseUrl, site: 'marram', token: small.token, edition })

beforeAll(async () => {
  small = await startSmall()
  owner = small.owner
  const withPicture = { ...files, museum: files.museum + '  picture: { kind: asset }\n' }
  await owner.adoptModel((await owner.compareModel(asFiles(withPicture))).id)
})
afterAll(() => small.service.end())

describe('a reader of drafts', () => {
  it('reads drafts by GraphQL too, unless a field says otherwise', async () => {
    const { id, version } = await owner.create({ type: 'museum', values: { name: { en: 'Lighthouse' } } })
    await owner.publish(id)
    await owner.patch(id, version + 1, { name: { en: 'Lighthouse, edited' } })
    const query = `query ($id: String!) { museum(id: $id) { name } again: museum(id: $id, edition: PUBLISHED) { name } museums { nodes { name } } }`
    const asked = await reader('draft').graphql(query, { id })
    expect(asked).toEqual({
      museum: { name: 'Lighthouse, edited' },
      again: { name: 'Lighthouse' },
      museums: { nodes: [{ name: 'Lighthouse, edited' }] },
    })
    expect(await reader('published').graphql(query, { id })).toMatchObject({ museum: { name: 'Lighthouse' } })
    const { secret } = await owner.createKey({ label: 'Public', scope: 'published' })
    const key = new Reader({ baseUrl: small.service.baseUrl, site: 'marram', token: secret, edition: 'draft' })
    await expect(key.graphql(query, { id })).rejects.toThrow(/does not include this/)
  })
  it('learns since when an entry has been public, and can ask by it', async () => {
    const { id, version } = await owner.create({ type: 'person', values: { name: 'Ada' } })
    const draft = async () => (await reader('draft').entry('person', id))!
    expect((await draft()).publishedAt).toBeNull()
    await owner.publish(id)
    const since = (await reader('published').entry('person', id))!.publishedAt
    expect((await draft()).publishedAt).toBe(since)
    await owner.patch(id, version + 1, { name: 'Ada, edited' })
    expect((await draft()).publishedAt).toBe(since)
    const { entries } = await reader('draft').entries('person', {
      where: `entry.published >= "${since!.slice(0, 10)}"`,
    })
    expect(entries.map((entry) => entry.id)).toEqual([id])
    await owner.withdraw(id)
    expect((await draft()).publishedAt).toBeNull()
  })
})

describe('what client caches key by', () => {
  it('is another id for each locale that texts differ in', async () => {
    const file = new Blob(['<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"/>'])
    const asset = await owner.uploadAsset('mark.svg', file)
    await owner.changeAsset(asset.id, { alt: { en: 'A mark', nl: 'Een merk' } })
    const { id } = await owner.create({ type: 'museum', values: { name: { en: 'Boatyard' }, picture: asset.id } })
    await owner.publish(id)
    const part = 'id picture { id assetId alt }'
    interface Shown {
      id: string
      picture: { id: string; assetId: string; alt: string }
    }
    const { en, nl } = await reader('published').graphql<{ en: Shown; nl: Shown }>(
      `query ($id: String!) { en: museum(id: $id, locale: "en") { ${part} } nl: museum(id: $id, locale: "nl") { ${part} } }`,
      { id },
    )
    expect([en.picture.alt, nl.picture.alt]).toEqual(['A mark', 'Een merk'])
    expect([en.picture.assetId, nl.picture.assetId]).toEqual([asset.id, asset.id])
    expect(new Set([en.id, nl.id, en.picture.id, nl.picture.id]).size).toBe(4)
    // Every id of the schema is one of an entry or an asset in its locale.
    const { __schema } = await reader('published').graphql<{
      __schema: {
        types: {
          name: string
          kind: string
          fields: { name: string; type: { ofType: { name: string } | null } }[] | null
        }[]
      }
    }>('{ __schema { types { name kind fields { name type { ofType { name } } } } } }')
    const bare = __schema.types.filter(
      (type) =>
        type.kind === 'OBJECT' && type.fields?.some((field) => field.name === 'id' && field.type.ofType?.name !== 'ID'),
    )
    expect(bare.map((type) => type.name)).toEqual([])
  })
})
