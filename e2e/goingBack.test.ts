import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Reader, type Editor } from '@wisteria/client'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { runIn } from './support/commands.js'
import { asFiles, files } from './support/models.js'
import { startSmall, type SmallSite } from './support/running.js'

let small: SmallSite
let owner: Editor
let folder: string
beforeAll(async () => {
  small = await startSmall()
  owner = small.owner
  folder = mkdtempSync(join(tmpdir(), 'wisteria-back-'))
})
afterAll(async () => {
  rmSync(folder, { recursive: true, force: true })
  await small.service.end()
})

const adopt = async (texts: Record<string, string>) => owner.adoptModel((await owner.compareModel(asFiles(texts))).id)
const public_ = async (id: string) => {
  const reader = new Reader({ baseUrl: small.service.baseUrl, site: 'marram', token: small.token })
  return (await reader.entry('museum', id))!.values
}
const run = (...args: string[]) =>
  runIn(folder, ['model', ...args], {
    WISTERIA_URL: small.service.baseUrl,
    WISTERIA_SITE: 'marram',
    WISTERIA_TOKEN: small.token,
  })

describe('a field that was removed', () => {
  it('comes back with its values, in drafts and in public', async () => {
    const { id } = await owner.create({
      type: 'museum',
      values: { name: { en: 'Lighthouse', nl: 'Vuurtoren' }, town: 'Tern Bay' },
    })
    await owner.publish(id)
    const without = files.museum
      .replace('  town: { kind: text, indexed: true }\n', '')
      .replace('  name: {', '  title: { was: name,')
      .replace('namedBy: name', 'namedBy: title')
      .replace('from: name', 'from: title')
    const person = files.person.replace('home: {', 'home: {')
    await adopt({ ...files, museum: without, person })
    expect(await public_(id)).not.toHaveProperty('town')
    expect((await owner.entry(id)).values).toMatchObject({ title: { en: 'Lighthouse' } })
    // Somebody goes on working meanwhile.
    await owner.patch(id, (await owner.entry(id)).version, { title: { ar: 'المنارة' } })
    const revision = (await owner.revisions(id)).revisions.at(-1)!.number
    expect((await owner.revision(id, revision)).gone).toEqual([
      { label: 'Town', pointer: '/values/town', kind: 'text', locale: null, value: 'Tern Bay' },
    ])
    const proposal = await owner.compareModelVersion(1)
    expect(
      proposal.consequences
        .filter((consequence) => consequence.place === 'museum.town')
        .map(({ code, weight }) => [code, weight]),
    ).toEqual([
      ['fieldAdded', 'plain'],
      ['valuesRestored', 'plain'],
    ])
    expect(proposal.consequences.some((consequence) => consequence.code === 'fieldRemoved')).toBe(false)
    await owner.adoptModel(proposal.id)
    expect((await owner.entry(id)).values).toMatchObject({
      town: 'Tern Bay',
      name: { en: 'Lighthouse', nl: 'Vuurtoren', ar: 'المنارة' },
    })
    expect(await public_(id)).toMatchObject({ town: 'Tern Bay', name: 'Lighthouse' })
    expect(await owner.rebuild()).toMatchObject({ rows: expect.any(Number) as number })
    expect(await public_(id)).toMatchObject({ town: 'Tern Bay', name: 'Lighthouse' })
  })
  it('comes back from the command line too, and from files that were pulled', async () => {
    const { id } = await owner.create({ type: 'museum', values: { name: { en: 'Saltworks' }, town: 'Greyflats' } })
    const { version } = await owner.model()
    await adopt({ ...files, museum: files.museum.replace('  town: { kind: text, indexed: true }\n', '') })
    expect((await run('compare', '--at', String(version))).out).toMatch(
      /museum\.town +2 entries have an earlier value for it, which returns/,
    )
    expect((await run('compare')).err).toMatch(
      /Name either a folder of model files, an earlier version with --at, or another site with --from-site/,
    )
    expect((await run('compare', '--at', '99')).err).toMatch(/There is no version `99` of the model/)
    expect((await run('pull', join(folder, 'old'), '--at', String(version))).code).toBe(0)
    expect(readFileSync(join(folder, 'old', 'museum.yaml'), 'utf8')).toContain(`namesOf: ${version}`)
    expect((await run('adopt', join(folder, 'old'), '--breaking')).out).toMatch(/Adopted/)
    expect((await owner.entry(id)).values).toMatchObject({ town: 'Greyflats' })
    expect((await run('compare', join(folder, 'old'))).out).toMatch(/^No change/)
  })
  it('asks for one of the three: files, a version, or another site', async () => {
    const answer = await fetch(`${small.service.baseUrl}/edit/v1/sites/marram/model/proposals`, {
      method: 'POST',
      body: '{}',
      headers: { Authorization: `Bearer ${small.token}`, 'Content-Type': 'application/json' },
    })
    expect([answer.status, ((await answer.json()) as { detail: string }).detail]).toEqual([
      400,
      'Send either `files`, the `version` to go back to, or the site to take the model `from`.',
    ])
  })
})

describe('a new block', () => {
  it('begins with its defaults, where nothing is said of it', async () => {
    const quote =
      "block: quote\nfields:\n  text: { kind: text, localized: true, default: 'Said' }\n  by: { kind: text, default: Somebody }\n"
    await adopt({ ...files, quote })
    const created = await owner.create({ type: 'activity', values: { title: { en: 'A' }, body: [{ block: 'quote' }] } })
    expect(created.values['body']).toMatchObject([{ values: { text: { en: 'Said' }, by: 'Somebody' } }])
    const edited = await owner.edit(created.id, created.version, [
      { do: 'insert', at: ['body'], item: { block: 'quote' } },
      { do: 'insert', at: ['body'], item: { block: 'quote', values: { text: { nl: 'Zei' } } } },
    ])
    expect((edited.values['body'] as { values: unknown }[]).map((block) => block.values)).toEqual([
      { text: { en: 'Said' }, by: 'Somebody' },
      { text: { en: 'Said' }, by: 'Somebody' },
      { text: { nl: 'Zei' } },
    ])
  })
})
