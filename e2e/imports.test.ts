import type { Editor, EntryImportView, MappingGiven, WisteriaProblem } from '@wisteria/client'
import { utils, write } from '@e965/xlsx'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { asFiles, files, refusal } from './support/models.js'
import { startSmall, type SmallSite } from './support/running.js'

/** The same letters as in UTF-8, one byte each. */
const windows1252 = (text: string): Blob => new Blob([Buffer.from(text.replaceAll('€', '\x80'), 'latin1')])
const artefact = `type: artefact
namedBy: name
fields:
  name: { kind: text, localized: true, required: true }
  slug: { kind: slug, from: name, localized: true }
  number: { kind: text, unique: true, label: Inventory number }
  weight: { kind: number, unit: kg }
  found: { kind: date }
  tags: { kind: text, many: true }
  story: { kind: richText, localized: true }
  museum: { kind: entry, accepts: [museum] }
  near: { kind: entry, many: true, accepts: [artefact] }
  leaflet: { kind: asset }
  body: { kind: block, many: true, accepts: [quote] }
`

let small: SmallSite
let owner: Editor
beforeAll(async () => {
  small = await startSmall({})
  owner = small.owner
  await owner.adoptModel((await owner.compareModel(asFiles({ ...files, artefact }))).id)
  for (const name of ['The Boatyard', 'The Saltworks'])
    await owner.create({ type: 'museum', values: { name: { en: name } } })
})
afterAll(() => small.service.end())

const problemOf = (work: () => Promise<unknown>) => refusal<WisteriaProblem>(work)
const read = (text: string | Blob, more: Parameters<Editor['imports']['read']>[1] = {}) =>
  owner.imports.read(typeof text === 'string' ? new Blob([text]) : text, { name: 'artefacts.csv', ...more })
const finish = async (id: string, work: 'check' | 'run' | 'undo'): Promise<EntryImportView> => {
  await owner.waitFor(await owner.imports[work](id))
  return owner.imports.get(id)
}
const failures = async (id: string) =>
  (await owner.imports.rows(id, { outcome: 'failed', first: 500 })).rows.map(({ line, problems }) => [
    line,
    ...problems,
  ])
const countOf = async (where = 'number has value') =>
  (await owner.entries({ type: 'artefact', where, first: 1, count: true })).count
const withNumber = async (number: string) => {
  const { entries } = await owner.entries({ type: 'artefact', where: `number = "${number}"` })
  return entries[0] && owner.entry(entries[0].id)
}

describe('a semicolon file of a Western spreadsheet', () => {
  const rows = 1_000
  const isBad = (number: number) => number % 25 === 1 && number <= 37 * 25
  const line = (number: number, mended = false): string =>
    [
      `A-${number}`,
      `Vuurtoren “${number}” – è €`.replace('“', '"').replace('”', '"').replace('–', '-'),
      !mended && isBad(number) ? 'zwaar' : `1.${String(number % 1000).padStart(3, '0')},5`,
      `${(number % 28) + 1}-3-1931`,
      number % 2 ? 'the boatyard' : 'The Saltworks',
      'glas|oud',
    ]
      .map((cell) => (cell.includes('"') ? `"${cell.replaceAll('"', '""')}"` : cell))
      .join(';')
  const heads = 'Inventory number;Name (nl);Weight;Found;Museum;Tags'
  const table = (mended = false) =>
    windows1252([heads, ...Array.from({ length: rows }, (_, index) => line(index + 1, mended))].join('\r\n'))
  let made: EntryImportView

  it('is read as it was written, and its columns find their fields', async () => {
    made = await read(table())
    expect(made).toMatchObject({
      source: { format: 'csv', encoding: 'windows-1252', delimiter: ';' },
      rows,
      state: 'read',
      mapping: {
        type: 'artefact',
        key: 'number',
        decimal: ',',
        dates: 'dmy',
        columns: [
          { from: 'Inventory number', to: 'number' },
          { from: 'Name (nl)', to: 'name:nl' },
          { from: 'Weight', to: 'weight' },
          { from: 'Found', to: 'found' },
          { from: 'Museum', to: 'museum', by: 'name' },
          { from: 'Tags', to: 'tags', separator: '|' },
        ],
      },
    })
    const { rows: first } = await owner.imports.preview(made.id, { first: 2 })
    expect(first[1]).toMatchObject({
      line: 3,
      outcome: 'created',
      title: 'Vuurtoren "2" - è €',
      values: { number: 'A-2', weight: 1002.5, found: '1931-03-03', tags: ['glas', 'oud'] },
    })
  })

  it('is checked whole before anything changes, with row and column of each problem', async () => {
    const checked = await finish(made.id, 'check')
    expect(checked).toMatchObject({ state: 'checked', outcomes: { created: rows - 37, failed: 37 } })
    expect(await countOf()).toBe(0)
    const [first, ...others] = await failures(made.id)
    expect(first).toEqual([2, { column: 'Weight', message: '`zwaar` is no number.' }])
    expect(others).toHaveLength(36)
  })

  it('is imported but for the bad rows, which come back as a file with the reasons', async () => {
    const done = await finish(made.id, 'run')
    expect(done).toMatchObject({ state: 'done', outcomes: { created: rows - 37, failed: 37 } })
    expect(await countOf()).toBe(rows - 37)
    const museum = await withNumber('A-3')
    expect(museum!.values).toMatchObject({ name: { nl: 'Vuurtoren "3" - è €' }, weight: 1003.5, found: '1931-03-04' })
    const failed = await owner.imports.failed(made.id)
    const text = await failed.text()
    expect(text.split('\r\n')).toHaveLength(39)
    expect(text).toMatch(/^\uFEFF?Inventory number;Name \(nl\);Weight;Found;Museum;Tags;import problem\r\nA-1;/)
    expect(text).toContain('Weight: `zwaar` is no number.')
    // Mended, and sent as it is: the column with the reasons goes nowhere.
    const mended = await read(text.replaceAll('zwaar', '12,5'))
    expect(mended.rows).toBe(37)
    expect((await finish(mended.id, 'run')).outcomes).toEqual({ created: 37 })
    expect(await countOf()).toBe(rows)
  })

  it('changes nothing when it is imported again', async () => {
    const { sequence } = await owner.events(0, 1)
    const again = await read(table(true))
    // Those that were mended above have another weight.
    expect((await finish(again.id, 'run')).outcomes).toEqual({ updated: 37, unchanged: rows - 37 })
    expect((await owner.events(0, 1)).sequence).toBe(sequence + 37)
    const third = await read(table(true))
    expect((await finish(third.id, 'run')).outcomes).toEqual({ unchanged: rows })
    expect((await owner.events(0, 1)).sequence).toBe(sequence + 37)
  })

  it('is undone, but for what was changed since', async () => {
    const changed = (await withNumber('A-2'))!
    await owner.patch(changed.id, changed.version, { weight: 7 })
    const undone = await finish(made.id, 'undo')
    expect(undone).toMatchObject({ state: 'undone', undone: { undone: rows - 38, refused: 1 } })
    // The mended rows came from another file.
    expect(await countOf()).toBe(38)
    const { rows: all } = await owner.imports.rows(made.id, { first: 3 })
    expect(all.map(({ undone }) => undone)).toEqual([null, 'Somebody changed it since. It stays as it is.', ''])
    expect((await withNumber('A-2'))!.values['weight']).toBe(7)
    const again = await finish(made.id, 'undo')
    expect(again.undone).toEqual({ undone: 0, refused: 1 })
  })
}, 120_000)

describe('an import', () => {
  const mapping = (columns: MappingGiven['columns'], more: Partial<MappingGiven> = {}): MappingGiven => ({
    type: 'artefact',
    columns,
    ...more,
  })

  it('takes JSON Lines and arrays, with references created where they are missing, and to rows before', async () => {
    const lines = [
      { number: 'J-1', name: { en: 'Lens', nl: 'Lens' }, museum: 'New museum', story: 'The *oldest*' },
      { number: 'J-2', name: { en: 'Lamp' }, museum: 'new museum', near: ['J-1'] },
    ]
    for (const text of [lines.map((one) => JSON.stringify(one)).join('\n'), JSON.stringify(lines)]) {
      const made = await read(text, { type: 'artefact' })
      const set = await owner.imports.setMapping(made.id, {
        ...made.mapping!,
        key: 'number',
        columns: made.mapping!.columns.map((column) =>
          column.to === 'museum'
            ? { ...column, create: true }
            : column.to === 'near'
              ? { ...column, by: 'number' }
              : column,
        ),
      })
      expect(set.mapping!.columns.map(({ to }) => to)).toEqual(['number', 'name:en', 'museum', 'story:en', 'near'])
      // A whole value by locale goes into the field itself.
      const columns = set.mapping!.columns.map((column) =>
        column.from === 'name' ? { ...column, to: 'name' } : column,
      )
      await owner.imports.setMapping(made.id, { ...set.mapping!, columns })
      const done = await finish(made.id, 'run')
      expect(await failures(made.id)).toEqual([])
      expect(done.outcomes).toEqual(text.startsWith('[') ? { unchanged: 2 } : { created: 2 })
    }
    const [lens, lamp] = [(await withNumber('J-1'))!, (await withNumber('J-2'))!]
    expect(lens.values).toMatchObject({ name: { en: 'Lens', nl: 'Lens' } })
    expect(lamp.values).toMatchObject({ museum: lens.values['museum'], near: [{ value: lens.id }] })
    expect((await owner.entry(lens.values['museum'] as string)).values).toMatchObject({ name: { en: 'New museum' } })
  })

  it('takes a workbook of another maker, with its days, numbers and choices of sheets', async () => {
    const book = utils.book_new()
    utils.book_append_sheet(book, utils.aoa_to_sheet([['nothing here']]), 'Notes')
    const rows = [
      ['Inventory number', 'Name', 'Weight', 'Found', 'Name'],
      ['X-1', 'Buoy', 12.5, new Date(Date.UTC(1931, 4, 4)), 'twice'],
      [],
      ['X-2', 'Été', 7, '24-12-1931', ''],
      ['X-3', true, 'seven', null, ''],
    ]
    utils.book_append_sheet(book, utils.aoa_to_sheet(rows, { cellDates: true, UTC: true }), 'Catalogue')
    const file = new Blob([new Uint8Array(write(book, { type: 'buffer', bookType: 'xlsx' }) as Buffer)])
    expect((await problemOf(() => read(file, { sheet: 'Katalog' }))).message).toBe(
      'The workbook has no sheet “Katalog”. It has Notes, Catalogue.',
    )
    const made = await read(file, { name: 'catalogue.xlsx', sheet: 'Catalogue' })
    expect(made).toMatchObject({
      source: { format: 'xlsx', sheet: 'Catalogue', sheets: ['Notes', 'Catalogue'] },
      heads: ['Inventory number', 'Name', 'Weight', 'Found', 'Name (2)'],
      rows: 3,
    })
    expect((await finish(made.id, 'run')).outcomes).toEqual({ created: 2, failed: 1 })
    expect(await failures(made.id)).toEqual([[5, { column: 'Weight', message: '`seven` is no number.' }]])
    expect((await withNumber('X-1'))!.values).toMatchObject({ weight: 12.5, found: '1931-05-04', name: { en: 'Buoy' } })
    expect((await withNumber('X-2'))!.values).toMatchObject({ weight: 7, found: '1931-12-24', name: { en: 'Été' } })
  })

  it('takes back what was exported, in each format, and changes nothing', async () => {
    const { sequence } = await owner.events(0, 1)
    for (const format of ['csv', 'xlsx', 'jsonLines'] as const) {
      const { entries, response } = await owner.imports.export({
        type: 'artefact',
        format,
        where: 'number starts with "J-"',
      })
      expect([format, entries]).toEqual([format, 2])
      const made = await read(await response.blob(), { type: 'artefact' })
      expect(made.mapping).toMatchObject({ key: 'entry.id' })
      const done = await finish(made.id, 'run')
      expect(await failures(made.id)).toEqual([])
      expect([format, done.outcomes]).toEqual([format, { unchanged: 2 }])
    }
    expect((await owner.events(0, 1)).sequence).toBe(sequence)
    const some = await owner.imports.export({
      type: 'artefact',
      columns: ['number', 'name:nl'],
      where: 'number = "J-1"',
    })
    expect(await some.response.text()).toMatch(/^\uFEFF?number,name:nl\r\nJ-1,Lens\r\n$/)
    const wrong = await problemOf(() => owner.imports.export({ type: 'artefact', columns: ['nam'] }))
    expect(wrong.message).toBe('`columns`: `nam` is not a field of Artefact. Did you mean `name`?')
  })

  it('undoes what it changed to what it was, and deletes what it created for references', async () => {
    const { id, version } = (await withNumber('J-1'))!
    await owner.patch(id, version, { weight: 5 })
    const made = await read('number,weight,museum\nJ-1,6,Another museum\n')
    await owner.imports.setMapping(
      made.id,
      mapping(
        [
          { from: 'number', to: 'number' },
          { from: 'weight', to: 'weight' },
          { from: 'museum', to: 'museum', by: 'name', create: true },
        ],
        { key: 'number' },
      ),
    )
    expect((await finish(made.id, 'check')).outcomes).toEqual({ updated: 1 })
    expect((await finish(made.id, 'run')).outcomes).toEqual({ updated: 1 })
    const { museum } = (await owner.entry(id)).values as { museum: string }
    expect((await owner.entry(id)).values).toMatchObject({ weight: 6 })
    expect((await finish(made.id, 'undo')).undone).toEqual({ undone: 1, refused: 0 })
    expect((await owner.entry(id)).values).toMatchObject({ weight: 5 })
    expect((await problemOf(() => owner.entry(museum))).status).toBe(404)
  })

  it('only creates, or only updates, where it is told to, and empties what is empty', async () => {
    const text = 'number,weight,Name\nJ-1,,x\nJ-9,2,New\n'
    const columns = [
      { from: 'number', to: 'number' },
      { from: 'weight', to: 'weight' },
    ]
    const outcomes = async (more: Partial<MappingGiven>) => {
      const made = await read(text)
      await owner.imports.setMapping(made.id, mapping(columns, { key: 'number', ...more }))
      return (await finish(made.id, 'check')).outcomes
    }
    expect(await outcomes({ mode: 'create' })).toEqual({ left: 1, created: 1 })
    expect(await outcomes({ mode: 'update' })).toEqual({ unchanged: 1, left: 1 })
    expect(await outcomes({ mode: 'update', emptyClears: true })).toEqual({ updated: 1, left: 1 })
  })

  it('keeps mappings by name', async () => {
    const kept = mapping([{ from: 'No', to: 'number' }], { key: 'number' })
    await owner.imports.keepMapping('Catalogue', kept)
    expect((await owner.imports.mappings()).mappings).toMatchObject([{ name: 'Catalogue', mapping: kept }])
    expect((await read('No\nJ-1\n', { mapping: 'Catalogue' })).mapping).toMatchObject(kept)
    expect((await problemOf(() => read('No\nJ-1\n', { mapping: 'Other' }))).message).toBe(
      'There is no mapping “Other”.',
    )
    await owner.imports.forgetMapping('Catalogue')
    expect((await owner.imports.mappings()).mappings).toEqual([])
  })

  it.each([
    ['', {}, 'The file is empty.'],
    ['  \n', {}, /no heads|empty/],
    ['a,b\n', {}, 'The file has heads, and no rows.'],
    ['a,b\n1,"2\n3,4', {}, /^The file is no CSV table, line \d+: /],
    ['{"a":1}\n{a}', {}, /^Line 2 is no JSON: /],
    ['{"a":1}\n[1]', {}, 'Line 2 is no JSON object.'],
    ['[1]', {}, 'Element 1 is no JSON object.'],
    ['[{', {}, /^The file is no JSON: /],
    ['PK nonsense', {}, 'The file is no XLSX workbook: it cannot be unpacked.'],
    ['a,b\n1,2', { encoding: 'klingon' }, /^`klingon` is no encoding/],
    ['a,b\n1,2', { type: 'artefacts' }, /^`artefacts` is not a type/],
  ] as const)('refuses a file that it cannot read, and keeps nothing of it: %j', async (text, more, message) => {
    const before = (await owner.imports.list()).imports.length
    const { message: said } = await problemOf(() => read(text, more))
    if (typeof message === 'string') expect(said).toBe(message)
    else expect(said).toMatch(message)
    expect((await owner.imports.list()).imports).toHaveLength(before)
  })

  it('says what is wrong where rows fit no type, or the mapping does not fit them', async () => {
    const made = await read('foo,bar\n1,2\n')
    expect(made.mapping).toBeNull()
    expect((await problemOf(() => owner.imports.run(made.id))).message).toMatch(/^No type fits/)
    const wrong = await problemOf(() => owner.imports.setMapping(made.id, mapping([{ from: 'fo', to: 'nam' }])))
    expect(wrong.problems.map(({ pointer }) => pointer)).toEqual(['/columns/0/from'])
  })

  it('tells keys that are empty, twice there, or wrong, and what breaks a rule of a field', async () => {
    const made = await read('number,found,story\n,2031-01-01,\nK-1,2031-02-30,\nK-2,,ok\nK-2,,twice\n')
    const done = await finish(made.id, 'run')
    expect(done.outcomes).toEqual({ failed: 2, created: 1, updated: 1 })
    expect(await failures(made.id)).toEqual([
      [2, { column: 'number', message: 'Inventory number is the key, and it is empty or wrong here.' }],
      [3, { column: 'found', message: expect.stringMatching(/^`2031-02-30` is no day/) as string }],
    ])
  })

  it('is checked as it would go: rows may refer to rows above, and two rows to one new key', async () => {
    const made = await read('number,near,Name\nC-1,,First\nC-2,c-1,Second\nC-2,C-1|C-2,Second again\nC-3,C-9,Third\n')
    const columns = made.mapping!.columns.map((column) => (column.to === 'near' ? { ...column, by: 'number' } : column))
    await owner.imports.setMapping(made.id, { ...made.mapping!, key: 'number', columns })
    const outcomes = { created: 2, updated: 1, failed: 1 }
    expect((await finish(made.id, 'check')).outcomes).toEqual(outcomes)
    expect(await failures(made.id)).toEqual([
      [5, { column: 'near', message: 'There is no Artefact with `C-9` as number.' }],
    ])
    expect((await finish(made.id, 'run')).outcomes).toEqual(outcomes)
  })

  it('takes files by their names, and blocks as JSON', async () => {
    const { id } = await owner.uploadAsset('lens.txt', new File(['a lens'], 'lens.txt'))
    for (const text of ['one', 'two']) await owner.uploadAsset('twice.txt', new File([text], 'twice.txt'))
    const body = JSON.stringify([{ block: 'quote', values: { text: { en: 'Mind the step' } } }])
    const made = await read(
      [
        { name: 'By name', file: 'lens.txt', body },
        { name: 'By id', file: id },
        { name: 'Twice', file: 'twice.txt' },
        { name: 'None', file: 'none.txt' },
        { name: 'No block', body: JSON.stringify([{ block: 'quotes', values: {} }]) },
      ]
        .map((row) => JSON.stringify(row))
        .join('\n'),
      { type: 'artefact' },
    )
    await owner.imports.setMapping(made.id, {
      type: 'artefact',
      columns: [
        { from: 'name', to: 'name' },
        { from: 'file', to: 'leaflet' },
        { from: 'body', to: 'body' },
      ],
    })
    expect((await finish(made.id, 'run')).outcomes).toEqual({ created: 2, failed: 3 })
    const [first] = (await owner.imports.rows(made.id, { outcome: 'created' })).rows
    expect((await owner.entry(first!.entry!)).values).toMatchObject({
      leaflet: id,
      body: [{ block: 'quote', values: { text: { en: 'Mind the step' } } }],
    })
    expect(await failures(made.id)).toEqual([
      [3, { column: 'file', message: 'There are 2 files named `twice.txt`. Name one by its id.' }],
      [4, { column: 'file', message: 'There is no file `none.txt` on this site.' }],
      [5, { column: 'body', message: expect.stringContaining('quotes') as string }],
    ])
  })

  it('stops, goes on where it was, and is undone from there too', async () => {
    const rows = 400
    const lines = Array.from({ length: rows }, (_, index) => `S-${index + 1},Stopped ${index + 1}`)
    const made = await read(['number,Name', ...lines].join('\n'))
    const stopAfter = async (work: 'run' | 'undo', rows: number) => {
      const job = await owner.imports[work](made.id)
      await expect
        .poll(async () => (await owner.job(job.id)).done, { interval: 10, timeout: 60_000 })
        .toBeGreaterThan(rows)
      await owner.stopJob(job.id)
      return owner.imports.get(made.id)
    }
    const stopped = await stopAfter('run', 150)
    expect(stopped.state).toBe('stopped')
    expect(stopped.outcomes.created).toBeLessThan(rows)
    const half = await stopAfter('undo', 0)
    expect([half.state, half.undone.undone > 0]).toEqual(['stopped', true])
    // What is undone stays undone: the rest of the rows come.
    const done = await finish(made.id, 'run')
    expect(done).toMatchObject({ state: 'done', outcomes: { created: rows } })
    expect(await countOf('number starts with "S-"')).toBe(rows - half.undone.undone)
    expect((await finish(made.id, 'undo')).state).toBe('undone')
    expect(await countOf('number starts with "S-"')).toBe(0)
  })

  it('is not begun twice, not changed afterwards, and not undone before', async () => {
    const made = await read('number\nL-1\n')
    expect((await problemOf(() => owner.imports.undo(made.id))).message).toBe('Nothing of it has been imported.')
    await finish(made.id, 'run')
    expect((await problemOf(() => owner.imports.run(made.id))).message).toMatch(/imported already/)
    expect((await problemOf(() => owner.imports.setMapping(made.id, made.mapping!))).status).toBe(409)
    await owner.imports.remove(made.id)
    expect((await problemOf(() => owner.imports.get(made.id))).status).toBe(404)
  })
})
