import type { Editor, WisteriaProblem } from '@wisteria/client'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { asFiles, files, refusal } from './support/models.js'
import { startSmall, type SmallSite } from './support/running.js'

/** The referrers of an entry or an asset are found in stored documents, not only in what is shown. */

let small: SmallSite
let owner: Editor
const problem = async (work: () => unknown) => (await refusal<WisteriaProblem>(work)).message
const usersOf = async (id: string) => (await owner.usage(id)).usedBy.map(({ id: user, ...where }) => [user, where])

const conditional = files.activity
  .replace('museum: { kind: entry,', "museum: { kind: entry, showIf: 'not free = true',")
  .replace('day: {', "picture: { kind: asset, accepts: ['text/*'] }\n  day: {")

beforeAll(async () => {
  small = await startSmall()
  owner = small.owner
  await owner.adoptModel((await owner.compareModel(asFiles({ ...files, activity: conditional }))).id)
})
afterAll(() => small.service.end())

let count = 0
const museum = () => owner.create({ type: 'museum', values: { name: { en: `Museum ${++count}` } } })
const activity = (values: Record<string, unknown>) =>
  owner.create({ type: 'activity', values: { title: { en: `Walk ${++count}` }, format: 'walk', ...values } })
const asset = () => owner.uploadAsset(`notes-${++count}.txt`, new Blob([`notes ${count}`]))
const set = async (id: string, at: string, value: unknown) =>
  owner.edit(id, (await owner.entry(id)).version, [{ do: 'set', at: [at], value }])

describe('an entry', () => {
  it('is not deleted while a hidden value refers to it', async () => {
    const target = await museum()
    const holder = await activity({ museum: target.id })
    await set(holder.id, 'free', true)
    expect(await usersOf(target.id)).toMatchObject([
      [holder.id, { inWorkingCopy: true, inPublic: false, inBin: false }],
    ])
    expect(await problem(() => owner.delete(target.id))).toBe(
      `Other entries refer to it: “${holder.title}”. Remove the references first.`,
    )
    // So the value is whole when it is shown again.
    expect((await set(holder.id, 'free', false)).values).toMatchObject({ museum: target.id })
  })
  it('is not deleted while a removed field refers to it, so that going back finds it', async () => {
    const target = await museum()
    const holder = await activity({ museum: target.id })
    const without = conditional.replace(/ {2}museum: .*\n/, '')
    const before = (await owner.model()).version
    await owner.adoptModel((await owner.compareModel(asFiles({ ...files, activity: without }))).id)
    expect(await problem(() => owner.delete(target.id))).toContain(`“${holder.title}”`)
    await owner.adoptModel((await owner.compareModelVersion(before)).id)
    expect((await owner.entry(holder.id)).values).toMatchObject({ museum: target.id })
  })
  it('is deleted after what referred to it, and deleted permanently only when that has gone', async () => {
    const target = await museum()
    const holder = await activity({ museum: target.id })
    await owner.delete(holder.id)
    await owner.delete(target.id)
    expect(await problem(() => owner.deletePermanently(target.id))).toBe(
      `Other entries refer to it: “${holder.title}” (deleted). Remove the references, or delete those entries permanently, first.`,
    )
    // Restored alone, it has a broken reference; it can be saved all the same.
    await owner.restoreFromBin(holder.id)
    expect((await set(holder.id, 'price', 3)).values).toMatchObject({ museum: target.id, price: 3 })
    expect(await problem(() => owner.deletePermanently(target.id))).toContain(`“${holder.title}”.`)
    await set(holder.id, 'museum', (await museum()).id)
    await owner.deletePermanently(target.id)
  })
})

describe('an asset', () => {
  it('is not deleted while an entry in the bin holds it', async () => {
    const { id } = await asset()
    const holder = await activity({ picture: id })
    await owner.delete(holder.id)
    expect((await owner.assetUsage(id)).usedBy).toMatchObject([{ id: holder.id, inWorkingCopy: true, inBin: true }])
    expect(await problem(() => owner.deleteAsset(id))).toBe(
      `Entries use it: “${holder.title}” (deleted). Remove it from them first.`,
    )
    await owner.restoreFromBin(holder.id)
    expect((await owner.entry(holder.id)).values).toMatchObject({ picture: id })
  })
  it('that only older revisions hold is deleted when one says so', async () => {
    const { id } = await asset()
    const holder = await activity({ picture: id })
    await owner.publish(holder.id)
    await set(holder.id, 'picture', (await asset()).id)
    // The published edition still has it.
    expect(await problem(() => owner.deleteAsset(id, { revisions: 'ignore' }))).toContain('Entries use it')
    await owner.publish(holder.id)
    expect((await owner.assetUsage(id)).usedBy).toMatchObject([
      { id: holder.id, inWorkingCopy: false, inPublic: false, inRevisions: [1] },
    ])
    expect(await problem(() => owner.deleteAsset(id))).toBe(
      `Older revisions of “${holder.title}” use it. Delete it with \`revisions=ignore\` if they may lose it.`,
    )
    await owner.deleteAsset(id, { revisions: 'ignore' })
    expect(await problem(() => owner.asset(id))).toContain('There is no asset')
  })
})
