import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { gunzipSync, gzipSync } from 'node:zlib'
import { Reader, Service, type Editor } from '@wisteria/client'
import type { Model, ModelFile, RichText } from '@wisteria/core'
import { Database } from '@wisteria/store'
import sqlite3 from 'sqlite3'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { asFiles, files } from './support/models.js'
import { ownerOf, start, startSmall } from './support/running.js'

const folder = new URL('fixtures/databases/', import.meta.url)
const earlier = readdirSync(folder).filter((name) => name.endsWith('.gz'))

const base = mkdtempSync(join(tmpdir(), 'wisteria-earlier-'))
afterAll(() => rmSync(base, { recursive: true, force: true }))

/** A data folder with the database of an earlier version. */
function folderOf(name: string): string {
  const data = mkdtempSync(join(base, 'data-'))
  writeFileSync(join(data, 'wisteria.db'), gunzipSync(readFileSync(new URL(name, folder))))
  return data
}

/** The schema of a database: columns by table, indexes, triggers. Columns added by `alter table` count like others. */
async function shapeOf(database: Database): Promise<unknown> {
  const columns = await database.all(
    `select m.name as of, c.name, lower(c.type) as type, c."notnull", c.dflt_value, c.pk from sqlite_master m, pragma_table_info(m.name) c
     where m.type = 'table' order by 1, 2`,
  )
  const others = await database.all(
    "select type, name, tbl_name, sql from sqlite_master where type <> 'table' and name not like 'fact%' order by 1, 2",
  )
  return { columns, others }
}

let fresh: unknown
beforeAll(async () => {
  const database = await Database.open({ file: join(mkdtempSync(join(base, 'fresh-')), 'wisteria.db') })
  fresh = await shapeOf(database)
  await database.close()
})

/** `KEEP_DATABASE=e2e/fixtures/databases/0016.db.gz npx vitest run e2e/earlierDatabases.test.ts` writes the next one. */
if (process.env['KEEP_DATABASE'])
  it('keeps one of this version', async () => {
    const { service, owner } = await startSmall()
    await fill(owner)
    await service.stop()
    writeFileSync(
      process.env['KEEP_DATABASE']!,
      gzipSync(readFileSync(join(service.folder, 'wisteria.db')), { level: 9 }),
    )
    await service.end()
  })

it('there is one for every migration but the newest', async () => {
  const migrations = new URL('../packages/store/src/migrations/', import.meta.url)
  const numbers = readdirSync(migrations)
    .flatMap((name) => /^\d{4}/.exec(name) ?? [])
    .sort()
  expect(earlier.map((name) => name.slice(0, 4))).toEqual(numbers.slice(0, -1))
})

it('an adoption that an earlier version began goes on', async () => {
  const data = folderOf('0010.db.gz')
  const driver = new sqlite3.Database(join(data, 'wisteria.db'))
  const task = { what: 'model', shelf: 's2', files: '[{"name":"a.yaml","text":""}]', consequences: [] }
  await new Promise<void>((resolve, reject) =>
    driver.run(
      `insert into jobs (id, site, kind, state, done, total, task, cursor, message, actor, created_at)
       select 'j1', id, 'adoption', 'running', 0, 1, ?, '', '', 'a', '2031' from sites`,
      [JSON.stringify(task)],
      (error) => (error ? reject(error) : resolve()),
    ),
  )
  await new Promise<void>((resolve) => driver.close(() => resolve()))
  const database = await Database.open({ file: join(data, 'wisteria.db') })
  const [job] = await database.all<{ task: string }>("select task from jobs where id = 'j1'")
  await database.close()
  expect(JSON.parse(job!.task)).toEqual({
    what: 'model',
    projection: 's2',
    files: [{ name: 'a.yaml', text: '' }],
    consequences: [],
  })
})

it('conditions and models of the earlier form are written in the one of now', async () => {
  const data = folderOf('0013.db.gz')
  const driver = new sqlite3.Database(join(data, 'wisteria.db'))
  const run = (sql: string, bindings: string[] = []) =>
    new Promise<void>((resolve, reject) => driver.run(sql, bindings, (error) => (error ? reject(error) : resolve())))
  await run(
    `insert into views (id, site, name, owner, shared, asks, created_at, updated_at)
     select 'v1', id, 'Mine', 'a', 1, ?, '2031', '2031' from sites`,
    [JSON.stringify({ where: '$state = "edited" and starts > $today - 2 days', sort: '-$updated' })],
  )
  await run(`update models set files = replace(files, 'type: museum', ?)`, ['type: museum\\n# lockIf: $state'])
  await run(`update models set model = replace(model, '"kind":"slug"', ?)`, ['"kind":"slug","lockIf":"$state = 1"'])
  await new Promise<void>((resolve) => driver.close(() => resolve()))
  const database = await Database.open({ file: join(data, 'wisteria.db') })
  const [view] = await database.all<{ asks: string }>("select asks from views where id = 'v1'")
  const [adopted] = await database.all<{ model: string; files: string }>('select model, files from models')
  await database.close()
  expect(JSON.parse(view!.asks)).toEqual({
    where: 'entry.state = "edited" and starts > today - 2 days',
    sort: '-entry.updated',
  })
  const { types } = JSON.parse(adopted!.model) as Model
  const fieldsOf = (name: string) => types.find((type) => type.name === name)!.fields
  expect(fieldsOf('activity').find(({ name }) => name === 'slug')).toMatchObject({ lockIf: 'entry.state = 1' })
  expect(fieldsOf('museum').find(({ name }) => name === 'town')).toMatchObject({ indexed: true })
  const texts = (JSON.parse(adopted!.files) as ModelFile[]).map(({ text }) => text).join('')
  expect(texts).toContain('town: { kind: text, indexed: true }')
  expect(texts).toContain('# lockIf: entry.state')
})

it('rich text of the earlier form is read in the form of now, and everything counts as changed', async () => {
  const service = await start({}, folderOf('0011.db.gz'))
  const { email, password } = ownerOf
  const { token } = await new Service({ baseUrl: service.baseUrl }).signIn({ email, password, as: 'token' })
  const owner = new Service({ baseUrl: service.baseUrl, token: token! }).site('marram')
  const { secret } = await owner.createKey({ label: 'Test', scope: 'published' })
  const reader = new Reader({ baseUrl: service.baseUrl, site: 'marram', token: secret })
  const read = async () => (await reader.entries('tale', {})).entries[0]!
  const before = await read()
  const html = (await reader.entries('tale', { richText: 'html' })).entries[0]!.values['text']
  expect(html).toBe(
    '<h2>The lamp</h2>\n<p>Lit <em>every</em> night at the <a href="/museums/lighthouse" title="Lighthouse">lighthouse</a></p>\n<ul>\n<li><del>of glass</del></li>\n</ul>\n<p><a href="/museums/lighthouse" title="Lighthouse">Lighthouse</a></p>',
  )
  const types = (document: unknown) => (document as RichText).children.map(({ type, data }) => `${type} ${data.id}`)
  const published = ['heading b1', 'paragraph b2', 'list b3', 'paragraph b6']
  expect(types(before.values['text'])).toEqual(published)
  // Words are found, and references are known, as before.
  expect((await owner.search('lamp')).entries.map(({ id }) => id)).toContain(before.id)
  const copy = await owner.entry(before.id)
  expect(types((copy.values['text'] as { en: unknown }).en)).toEqual([...published, 'thematicBreak b7'])
  expect(copy.states['en']).toBe('edited')
  // A revision keeps its own form, and is compared in today's: the rule was added, and nothing else.
  const compared = await owner.compare(copy.id, {})
  expect(compared.differences.map(({ at, how }) => [at, how])).toEqual([[['text'], 'changed']])
  // Earlier saves can no longer be merged with, and later ones can.
  const item = { type: 'paragraph', children: [{ type: 'text', value: 'New' }] }
  const insert = { do: 'insert', at: ['text'], locale: 'en', item } as const
  await expect(owner.edit(copy.id, copy.version - 1, [insert])).rejects.toMatchObject({ code: 'stale' })
  await owner.edit(copy.id, copy.version, [insert])
  const bold = { type: 'heading', depth: 3, children: [{ type: 'text', value: 'The lamp' }] }
  const merged = await owner.edit(copy.id, copy.version, [{ do: 'set', at: ['text', 'b1'], locale: 'en', value: bold }])
  expect([merged.merged, types((merged.values['text'] as { en: unknown }).en).length]).toEqual([true, 6])
  expect(await read()).toEqual(before)
  await owner.rebuild()
  expect(await read()).toEqual(before)
  const events = (await owner.events()).events.map(({ type }) => type)
  expect(events.filter((type) => type === 'site.restored')).toEqual(['site.restored'])
  await service.end()
})

describe.each(earlier)('the database %s', (name) => {
  it('gets the same shape as a new one, with no broken foreign key', async () => {
    const database = await Database.open({ file: join(folderOf(name), 'wisteria.db') })
    try {
      expect(await shapeOf(database)).toEqual(fresh)
      expect(await database.all('pragma foreign_key_check')).toEqual([])
      expect(await database.all('pragma integrity_check')).toEqual([{ integrity_check: 'ok' }])
    } finally {
      await database.close()
    }
  })

  it('goes on: read, found, changed, published, rebuilt to the same bytes', async () => {
    const service = await start({}, folderOf(name))
    try {
      const { email, password } = ownerOf
      const { token } = await new Service({ baseUrl: service.baseUrl }).signIn({ email, password, as: 'token' })
      const owner = new Service({ baseUrl: service.baseUrl, token: token! }).site('marram')
      const { secret } = await owner.createKey({ label: 'Test', scope: 'published' })
      const reader = new Reader({ baseUrl: service.baseUrl, site: 'marram', token: secret })
      const walk = (
        await reader.entries('activity', { where: 'museum.name = "Lighthouse"', pick: '*, museum(name, town)' })
      ).entries[0]!
      expect(walk.values).toMatchObject({
        title: 'Night walk',
        museum: { values: { name: 'Lighthouse', town: 'Ebbing' } },
        body: [
          { id: expect.stringMatching(/^[0-9a-z]{8}$/) as string, block: 'heading', values: { text: 'Bring a lamp' } },
        ],
      })
      // Its draft was changed, and that is still to be published.
      const museum = (await owner.entries({ type: 'museum', first: 5 })).entries[0]!
      expect((await owner.entry(museum.id)).values).toMatchObject({ town: 'Marram' })
      expect((await owner.search('lighthouse')).entries.map(({ id }) => id)).toContain(museum.id)
      // Its referrers are known from before.
      expect((await owner.usage(museum.id)).usedBy.map(({ title }) => title)).toEqual(
        expect.arrayContaining(['Night walk', 'Ada Reed']),
      )
      await owner.publish(museum.id)
      expect((await reader.entry('museum', museum.id))!.values).toMatchObject({ town: 'Marram' })
      const paths: string[] = []
      for await (const { path } of reader.paths({ locale: 'en' })) paths.push(path)
      expect(paths).toEqual(expect.arrayContaining(['/visit', '/visit/tickets']))
      const bytes = async () =>
        (
          await fetch(`${service.baseUrl}/read/v1/marram/entries/page?locales=every`, {
            headers: { Authorization: `Bearer ${secret}` },
          })
        ).text()
      const before = await bytes()
      await owner.rebuild()
      expect(before).toContain('Kaartjes')
      expect(await bytes()).toBe(before)
    } finally {
      await service.stop()
    }
  })
})

/** The content of each of these databases. */
async function fill(owner: Editor): Promise<void> {
  const create = async (type: string, values: Record<string, unknown>) => (await owner.create({ type, values })).id
  const museum = await create('museum', { name: { en: 'Lighthouse', nl: 'Vuurtoren' }, town: 'Ebbing' })
  await owner.publish(museum)
  await owner.edit(museum, (await owner.entry(museum)).version, [{ do: 'set', at: ['town'], value: 'Marram' }])
  const person = await create('person', { name: 'Ada Reed', home: museum })
  await owner.publish(person)
  const walk = await create('activity', {
    title: { en: 'Night walk', nl: 'Avondwandeling' },
    format: 'walk',
    museum,
    speakers: [person],
    tags: ['dark', 'dunes'],
    starts: '2031-05-04T20:00:00+02:00',
    price: 7.5,
    free: false,
    summary: { en: 'Along the dunes.' },
    body: [{ block: 'heading', values: { text: { en: 'Bring a lamp' } } }],
  })
  await owner.publish(walk)
  const above = await create('page', { title: { en: 'Visit', nl: 'Bezoek' } })
  await owner.publish(above)
  await owner.publish(await create('page', { title: { en: 'Tickets', nl: 'Kaartjes' }, inPage: above }))
  const draft = await create('page', { title: { en: 'Draft page' } })
  const gone = await create('page', { title: { en: 'Withdrawn page' } })
  await owner.publish(gone)
  await owner.withdraw(gone)
  await owner.archive(await create('page', { title: { en: 'Archived page' } }))
  await owner.delete(await create('activity', { title: { en: 'Deleted talk' }, format: 'talk', museum }))
  await owner.addAsset({
    name: 'notes.txt',
    content: Buffer.from('Notes on a lamp').toString('base64'),
    alt: { en: 'Notes' },
  })
  await owner.webhooks.create({ label: 'Front end', address: 'http://127.0.0.1:9/hear' })
  await owner.createKey({ label: 'Front end', scope: 'published' })
  await owner.schedule(draft, { does: 'publish', at: new Date(Date.now() + 9 * 365 * 86_400_000).toISOString() })
  await owner.saveView({ name: 'Walks', asks: { type: 'activity', where: 'format = "walk"' } })
  const withTales = asFiles({
    ...files,
    tale: 'type: tale\nfields:\n  title: { kind: text }\n  text: { kind: richText, localized: true, accepts: [museum] }\n',
  })
  await owner.adoptModel((await owner.compareModel(withTales)).id)
  const paragraph = (...children: unknown[]) => ({ type: 'paragraph', children })
  const text = (value: string) => ({ type: 'text', value })
  const story = {
    type: 'root',
    children: [
      { type: 'heading', depth: 2, children: [text('The lamp')] },
      paragraph(text('Lit '), { type: 'emphasis', children: [text('every')] }, text(' night at the '), {
        type: 'link',
        url: '',
        data: { entry: museum },
        children: [text('lighthouse')],
      }),
      paragraph({ type: 'link', url: '', data: { entry: museum }, children: [] }),
    ],
  }
  const tale = await create('tale', { title: 'A tale', text: { en: story } })
  await owner.publish(tale)
  const end = { type: 'thematicBreak' }
  await owner.edit(tale, (await owner.entry(tale)).version, [{ do: 'insert', at: ['text'], locale: 'en', item: end }])
}
