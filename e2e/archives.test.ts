import { createHash } from 'node:crypto'
import { readdirSync } from 'node:fs'
import { join } from 'node:path'
import { Reader, Service, type ArchiveContent, type Editor, type WisteriaProblem } from '@wisteria/client'
import { Database, siteNamed } from '@wisteria/store'
import fc from 'fast-check'
import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { act, liveThrough } from './support/histories.js'
import { often } from './support/length.js'
import { asFiles, files, refusal, settings } from './support/models.js'
import { eventually, startSmall, type SmallSite } from './support/running.js'

let here: SmallSite
let there: SmallSite
const databases = new Map<SmallSite, Database>()
beforeAll(async () => {
  for (const small of [(here = await startSmall()), (there = await startSmall({ maxArchive: 5 }))])
    databases.set(small, await Database.open({ file: join(small.service.folder, 'wisteria.db') }))
})
afterAll(async () => {
  for (const database of databases.values()) await database.close()
  for (const { service } of [here, there]) await service.end()
})

const serviceOf = ({ service, token }: SmallSite): Service => new Service({ baseUrl: service.baseUrl, token })

let sites = 0
/** A new site, with the small model or with nothing. */
async function newSite(small: SmallSite, isEmpty = false): Promise<Editor & { readonly name: string }> {
  const name = `s${++sites}`
  await serviceOf(small).createSite({ name, ...settings })
  const site = serviceOf(small).site(name)
  if (!isEmpty) await site.adoptModel((await site.compareModel(asFiles(files))).id)
  return Object.assign(site, { name })
}

type Parts = Record<string, Uint8Array>

const bytesOf = async (site: Editor, content?: ArchiveContent): Promise<Uint8Array<ArrayBuffer>> =>
  new Uint8Array(await (await site.archives.export(content)).arrayBuffer())
/** The files of an archive, read by another maker's library. */
const partsOf = async (site: Editor, content?: ArchiveContent): Promise<Parts> =>
  unzipSync(await bytesOf(site, content))
const zipped = (parts: Parts): Blob => new Blob([zipSync(parts)])
const linesOf = (parts: Parts, name: string): Record<string, unknown>[] =>
  strFromU8(parts[`${name}.jsonl`]!)
    .split('\n')
    .filter((line) => line !== '')
    .map((line) => JSON.parse(line) as Record<string, unknown>)
const withLines = (parts: Parts, name: string, lines: readonly object[]): Parts => ({
  ...parts,
  [`${name}.jsonl`]: strToU8(lines.map((line) => `${JSON.stringify(line)}\n`).join('')),
})

async function importInto(site: Editor, archive: Blob, ids: 'same' | 'new' = 'same') {
  const { job } = await site.archives.import(archive, ids)
  return eventually(
    async () => (await site.jobs()).jobs.find(({ id }) => id === job.id)!,
    ({ state }) => state !== 'running',
    60,
  )
}

/** Everything that content is answered from, but for who did what and the ids of sites and sets. */
async function storedOf(small: SmallSite, name: string): Promise<Record<string, string[]>> {
  const database = databases.get(small)!
  const { id, projection } = (await siteNamed(database, name))!
  const bySite = {
    entries: 'id, type, version, revision, created_at, updated_at, archived_at, deleted_at, region',
    revisions: 'entry, number, document, model_version, version, created_at, updated_at, sealed_at, origins',
    publications: 'entry, layer, revision, model_version, sequence, at, action',
    paths: 'path, locale, entry, current, since',
    models: 'version, model, files, consequences, sequence, at',
    settings: 'version, settings, sequence, at',
    assets: 'id, name, media_type, size, hash, width, height, alt, title, caption, focal_x, origins, revision',
  }
  const bySet = {
    published: '*',
    drafts: '*',
    published_values: '*',
    draft_values: '*',
    published_refs: '*',
    draft_refs: '*',
    translation_counts: '*',
  }
  const tables: Record<string, string[]> = {}
  const read = async (table: string, columns: string, where: string, of: string): Promise<void> => {
    const rows = await database.all<object>(`select ${columns} from ${table} where ${where} = ?`, [of])
    tables[table] = rows.map((row) => JSON.stringify({ ...row, projection: '' })).sort()
  }
  for (const [table, columns] of Object.entries(bySite)) await read(table, columns, 'site', id)
  for (const [table, columns] of Object.entries(bySet)) await read(table, columns, 'projection', projection)
  return tables
}

async function all<Item>(items: AsyncIterable<Item>): Promise<Item[]> {
  const list: Item[] = []
  for await (const item of items) list.push(item)
  return list
}

/** The bytes of many reads. */
async function answersOf(small: SmallSite, site: Editor, name: string, edition: 'published' | 'draft') {
  const { secret } = await site.createKey({ label: 'Reads', scope: edition })
  const reader = new Reader({ baseUrl: small.service.baseUrl, site: name, token: secret, edition })
  const answers: Record<string, string> = {}
  for (const type of ['page', 'museum', 'activity'])
    for (const locale of ['en', 'nl', 'nl-BE', 'ar'])
      answers[`${type} ${locale}`] = JSON.stringify(
        (await reader.entries(type, { locale, count: true, first: 50 })).entries,
      )
  answers['search'] = JSON.stringify(await reader.search('wind'))
  answers['paths'] = JSON.stringify(await all(reader.paths()))
  return answers
}

const someActs = fc.array(act, { minLength: 15, maxLength: 40 })

describe('an archive of a site', () => {
  it('comes back the same, whatever happened on the site: rows, histories and answers', async () => {
    await fc.assert(
      fc.asyncProperty(someActs, fc.integer({ min: 0, max: 1000 }), async (acts, round) => {
        const site = await newSite(here)
        const [first = ''] = await liveThrough(site, acts, round)
        const picture = await sharp({ create: { width: 8, height: 4, channels: 3, background: '#135' } })
          .png()
          .toBuffer()
        const asset = await site.uploadAsset('Boat.PNG', new Blob([new Uint8Array(picture)]))
        await site.changeAsset(asset.id, { alt: { en: 'A boat', nl: 'Een boot' } })
        await site.delete(first).catch(() => undefined)
        await site.saveView({ name: 'Walks', asks: { type: 'activity' }, shared: true })
        await site.translations.setGlossary([{ term: 'lamp', translations: { nl: { use: 'lamp' } } }])
        const copy = await newSite(there, true)
        const before = await partsOf(site)
        expect(await importInto(copy, zipped(before))).toMatchObject({ state: 'done' })

        expect(await storedOf(there, copy.name)).toEqual(await storedOf(here, site.name))
        for (const edition of ['published', 'draft'] as const)
          expect(await answersOf(there, copy, copy.name, edition)).toEqual(
            await answersOf(here, site, site.name, edition),
          )
        const after = await partsOf(copy)
        // Who did what is said by names, where their accounts are not known.
        const people = (parts: Parts) => new Map(linesOf(parts, 'people').map(({ actor, name }) => [actor, name]))
        const [then, now] = [people(before), people(after)]
        for (const part of Object.keys(before).filter((name) => name.endsWith('.jsonl') && name !== 'people.jsonl')) {
          const named = (parts: Parts, names: ReadonlyMap<unknown, unknown>) =>
            strFromU8(parts[part]!).replace(/"account:\w+"/g, (actor) => String(names.get(actor.slice(1, -1))))
          expect(named(after, now), part).toBe(named(before, then))
        }
        expect(Object.keys(after).filter((name) => name.startsWith('files/'))).toEqual(
          Object.keys(before).filter((name) => name.startsWith('files/')),
        )
        // The rows are what their history says.
        const built = await storedOf(there, copy.name)
        await copy.rebuild()
        expect((await storedOf(there, copy.name))['published']).toEqual(built['published'])
      }),
      { numRuns: often(3, 20) },
    )
  }, 300_000)

  it('of what is public comes back the same for readers, and has nothing else in it', async () => {
    await fc.assert(
      fc.asyncProperty(someActs, fc.integer({ min: 0, max: 1000 }), async (acts, round) => {
        const site = await newSite(here)
        const [first = ''] = await liveThrough(site, acts, round)
        const page = await site.entry(first)
        await site.patch(first, page.version, { title: { en: 'Unseen draft' } })
        const parts = await partsOf(site, 'public')
        const everything = Object.entries(parts)
          .map(([, bytes]) => strFromU8(bytes))
          .join('\n')
        expect(everything).not.toContain('Unseen draft')
        expect(everything).not.toContain('maren@marram.example')
        const copy = await newSite(there, true)
        expect(await importInto(copy, zipped(parts))).toMatchObject({ state: 'done' })
        // When bytes last changed is not known without the history.
        const timeless = (answers: Record<string, string>) =>
          Object.fromEntries(
            Object.entries(answers).map(([name, text]) => [name, text.replace(/"updatedAt":"[^"]*"/g, '')]),
          )
        expect(timeless(await answersOf(there, copy, copy.name, 'published'))).toEqual(
          timeless(await answersOf(here, site, site.name, 'published')),
        )
        const built = await storedOf(there, copy.name)
        await copy.rebuild()
        expect((await storedOf(there, copy.name))['published']).toEqual(built['published'])
        expect((await storedOf(there, copy.name))['published_refs']).toEqual(built['published_refs'])
      }),
      { numRuns: often(3, 20) },
    )
  }, 300_000)

  it('is copied to the same service with new ids, and with the people that are known', async () => {
    const site = await newSite(here)
    const museum = await site.create({ type: 'museum', values: { name: { en: 'Mill' }, slug: { en: 'mill' } } })
    const walk = await site.create({
      type: 'activity',
      values: { title: { en: 'Walk' }, format: 'walk', museum: museum.id },
    })
    const archive = new Blob([await bytesOf(site)])
    const copy = await newSite(here, true)
    const taken = await refusal<WisteriaProblem>(() => copy.archives.import(archive))
    expect([taken.status, taken.message]).toEqual([409, expect.stringContaining('is on this service already')])
    expect(await importInto(copy, archive, 'new')).toMatchObject({ state: 'done' })
    const { entries } = await copy.entries({ type: 'activity' })
    const [copied] = entries
    expect(copied!.id).not.toBe(walk.id)
    const values = (await copy.entry(copied!.id)).values
    expect(values['museum']).not.toBe(museum.id)
    expect((await copy.entry(values['museum'] as string)).values).toMatchObject({ name: { en: 'Mill' } })
    expect((await copy.entry(copied!.id)).updatedBy).toBe(walk.updatedBy)
    // The original is as it was.
    expect((await site.entry(walk.id)).values['museum']).toBe(museum.id)
  })

  it('switches off what sends anything, and has no secrets', async () => {
    const site = await newSite(here)
    const { secret } = await site.webhooks.create({
      label: 'Site',
      address: 'http://127.0.0.1:9/hooks',
      headers: { 'X-Key': 'sea-secret' },
    })
    await site.createKey({ label: 'Key', scope: 'edit' })
    const parts = await partsOf(site)
    const text = Object.values(parts)
      .map((bytes) => strFromU8(bytes))
      .join('\n')
    expect(text).not.toContain(secret)
    expect(text).not.toContain('sea-secret')
    const copy = await newSite(there, true)
    await importInto(copy, zipped(parts))
    const { webhooks } = await copy.webhooks.list()
    expect(webhooks).toMatchObject([{ label: 'Site', enabled: false }])
  })

  it('tells caches and followers of the site that everything has changed', async () => {
    const site = await newSite(here)
    const page = await site.create({ type: 'page', values: { title: { en: 'Dune' }, slug: { en: 'dune' } } })
    await site.publish(page.id)
    const copy = await newSite(there, true)
    const before = await copy.settings()
    await importInto(copy, new Blob([await bytesOf(site)]))
    const { events } = await copy.events()
    expect(events.at(-1)).toMatchObject({ type: 'site.restored', data: { affected: { all: true } } })
    const after = await copy.settings()
    expect(after.publicGeneration.split('.')[0]).not.toBe(before.publicGeneration.split('.')[0])
    // It keeps its name, and is closed until somebody opens it.
    expect(after).toMatchObject({ name: copy.name, open: false, modelVersion: 1 })
    // The next act goes on where the archive ends.
    await copy.publish(page.id).catch(() => undefined)
    const saved = await copy.entry(page.id)
    await copy.patch(page.id, saved.version, { title: { en: 'Dunes' } })
    await copy.publish(page.id)
    expect((await copy.entry(page.id)).states).toMatchObject({ en: 'public' })
  })
})

describe('an import of an archive that cannot be', () => {
  let parts: Parts
  let copy: Editor & { readonly name: string }
  beforeAll(async () => {
    const site = await newSite(here)
    for (const title of ['One', 'Two', 'Three']) {
      const page = await site.create({
        type: 'page',
        values: { title: { en: title }, slug: { en: title.toLowerCase() } },
      })
      await site.publish(page.id)
    }
    await site.uploadAsset('notes.txt', new Blob(['Notes of the keeper.']))
    parts = await partsOf(site)
    copy = await newSite(there, true)
  })

  /** Nothing of an archive is on the site. */
  async function expectNothing(): Promise<void> {
    const stored = await storedOf(there, copy.name)
    for (const table of ['entries', 'revisions', 'publications', 'paths', 'models', 'assets'])
      expect(stored[table], table).toEqual([])
    expect(readdirSync(join(there.service.folder, 'archives'))).toEqual([])
  }
  const head = () => JSON.parse(strFromU8(parts['archive.json']!)) as Record<string, unknown>
  const withHead = (change: object): Parts => ({
    ...parts,
    'archive.json': strToU8(JSON.stringify({ ...head(), ...change })),
  })
  const without = (name: string): Parts => Object.fromEntries(Object.entries(parts).filter(([part]) => part !== name))

  it.each<[name: string, archive: () => Blob, message: string | RegExp]>([
    ['nothing', () => new Blob([]), 'no ZIP file, or it is damaged'],
    ['no ZIP file', () => new Blob(['{"format":"wisteria-archive"}']), 'no ZIP file, or it is damaged'],
    ['a ZIP file that is cut off', () => zipped(parts).slice(0, 2000), 'no ZIP file, or it is damaged'],
    ['another ZIP file', () => zipped({ 'a.txt': strToU8('a') }), 'it has no archive.json'],
    ['another format', () => zipped(withHead({ format: 'other' })), 'archive.json does not say so'],
    ['a newer form', () => zipped(withHead({ version: 2 })), 'has form 2, and this service reads up to 1'],
    ['a damaged head', () => zipped(withHead({ content: 'all' })), '`content`'],
    ['a part that is missing', () => zipped(without('revisions.jsonl')), 'lacks revisions.jsonl'],
    ['no model', () => zipped(withLines(parts, 'models', [])), 'lacks version 1, which is in force'],
    [
      'a model that is not what its files say',
      () =>
        zipped(
          withLines(
            parts,
            'models',
            linesOf(parts, 'models').map((line) => ({
              ...line,
              model: { ...(line['model'] as object), types: [] },
            })),
          ),
        ),
      'The model',
    ],
    ['settings without locales', () => zipped(withLines(parts, 'settings', [{ version: 1, settings: {} }])), 'damaged'],
    [
      'a line that is no JSON',
      () => zipped({ ...parts, 'entries.jsonl': strToU8(`${strFromU8(parts['entries.jsonl']!)}{"id":\n`) }),
      'entries.jsonl, line 4 is no JSON object.',
    ],
    ['too much', () => new Blob([new Uint8Array(6_000_000)]), '`--max-archive`'],
  ])('refuses %s at once', async (_, archive, message) => {
    const refused = await refusal<WisteriaProblem>(() => copy.archives.import(archive()))
    expect(refused.status).toBeLessThan(500)
    expect(refused.message).toMatch(message)
    await expectNothing()
  })

  it.each<[name: string, archive: () => Blob, message: string]>([
    [
      'an unknown member',
      () => zipped(withLines(parts, 'paths', [{ ...linesOf(parts, 'paths')[0], extra: 1 }])),
      'paths.jsonl, line 1: It has `extra`',
    ],
    [
      'a member of another kind',
      () => zipped(withLines(parts, 'entries', [{ ...linesOf(parts, 'entries')[0], version: 'two' }])),
      'entries.jsonl, line 1: `version` must be a whole number.',
    ],
    [
      'an unknown type',
      () => zipped(withLines(parts, 'entries', [{ ...linesOf(parts, 'entries')[0], type: 'ship' }])),
      '`ship` is no type of the model in the archive.',
    ],
    [
      'an unknown field',
      () =>
        zipped(
          withLines(
            parts,
            'revisions',
            linesOf(parts, 'revisions').map((line) => ({ ...line, values: { titel: { en: 'x' } } })),
          ),
        ),
      '`titel` is not a name in page.',
    ],
    [
      'an entry without its newest revision',
      () => zipped(withLines(parts, 'revisions', linesOf(parts, 'revisions').slice(1))),
      'lacks revision 1 of entry',
    ],
    [
      'a revision of an entry of another site',
      () =>
        zipped(
          withLines(parts, 'revisions', [
            ...linesOf(parts, 'revisions'),
            { ...linesOf(parts, 'revisions')[0], entry: '0'.repeat(20), number: 9 },
          ]),
        ),
      'It is about entry 00000000000000000000, which the archive does not have.',
    ],
    [
      'other bytes than a file had',
      () => {
        const name = Object.keys(parts).find((part) => part.startsWith('files/'))!
        return zipped({ ...parts, [name]: strToU8('Something else.') })
      },
      'has other bytes than its name says',
    ],
    [
      'a file that is missing',
      () => zipped(without(Object.keys(parts).find((part) => part.startsWith('files/'))!)),
      'the archive lacks the file',
    ],
    [
      'two entries with one id',
      () => zipped(withLines(parts, 'entries', [linesOf(parts, 'entries')[0]!, linesOf(parts, 'entries')[0]!])),
      'entries.jsonl, lines 1 to 2: A line repeats another one.',
    ],
  ])('fails with %s, and leaves nothing behind', async (_, archive, message) => {
    const job = await importInto(copy, archive())
    expect(job).toMatchObject({ state: 'failed', message: expect.stringContaining(message) as string })
    await expectNothing()
  })

  it('only looks at it in a dry run', async () => {
    const { archive, job } = await copy.archives.check(zipped(parts))
    expect([archive.site.label, archive.counts['entries'], job.kind]).toEqual([settings.label, 3, 'siteImport'])
    await expectNothing()
    expect((await copy.jobs()).jobs.some(({ id }) => id === job.id)).toBe(false)
  })

  it('is refused where the site has something, and while one is under way', async () => {
    const used = await newSite(there)
    const refused = await refusal<WisteriaProblem>(() => used.archives.import(zipped(parts)))
    expect([refused.status, refused.message]).toEqual([409, expect.stringContaining('without a model')])
    const both = await Promise.allSettled([copy.archives.import(zipped(parts)), copy.archives.import(zipped(parts))])
    expect(both.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected'])
    const adopting = await refusal<WisteriaProblem>(async () =>
      copy.adoptModel((await copy.compareModel(asFiles(files))).id),
    )
    expect(adopting.status).toBe(409)
  })

  it('is for owners', async () => {
    const { secret } = await here.owner.createKey({ label: 'Edit', scope: 'edit' })
    const program = new Service({ baseUrl: here.service.baseUrl, token: secret }).site('marram')
    for (const call of [() => program.archives.export(), () => program.archives.import(zipped(parts))])
      expect((await refusal<WisteriaProblem>(call)).status).toBe(403)
  })
})

it('says the digests of its files in their names', async () => {
  const site = await newSite(here)
  await site.uploadAsset('notes.txt', new Blob(['Notes of the keeper.']))
  const parts = await partsOf(site)
  for (const [name, bytes] of Object.entries(parts).filter(([part]) => part.startsWith('files/')))
    expect(name).toBe(`files/${createHash('sha256').update(bytes).digest('hex')}.txt`)
})
