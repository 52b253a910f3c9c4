import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Editor, ImportView, TranslationExport, TranslationFormat, WisteriaProblem } from '@wisteria/client'
import readSheets from 'read-excel-file/node'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import writeXlsxFile from 'write-excel-file/node'
import { js2xliff, xliff2js } from 'xliff'
import { runIn } from './support/commands.js'
import { asFiles, files, refusal } from './support/models.js'
import { startSmall, type SmallSite } from './support/running.js'
import { boldText, dutchUnits, nightWalk, shownUnits } from './support/translations.js'
import { openInTool } from './support/xliffTool.js'

/* Files for translators, out and back: XLIFF with an independent library, tables, and everything that goes wrong on the way. */

let small: SmallSite
let owner: Editor
const folder = mkdtempSync(join(tmpdir(), 'wisteria-files-'))
const problem = (work: () => unknown) => refusal<WisteriaProblem>(work)

beforeAll(async () => {
  small = await startSmall()
  owner = small.owner
  const tale =
    'type: tale\nfields:\n  title: { kind: text, localized: true }\n  text: { kind: richText, localized: true }\n  others: { kind: entry, accepts: [tale], many: true }\n'
  const { id } = await owner.compareModel(asFiles({ ...files, tale }))
  await owner.adoptModel(id)
})
afterAll(async () => {
  await small.service.end()
  rmSync(folder, { recursive: true, force: true })
})

let walkTitle = ''
/** A walk; `walkTitle` is that of the newest. */
async function walk(): Promise<string> {
  const created = await nightWalk(owner)
  walkTitle = created.title
  return created.id
}
/** An entry with rich text: a bold word and a line break. */
const tale = async (): Promise<string> =>
  (await owner.create({ type: 'tale', values: { title: { en: 'A tale' }, text: { en: boldText(true) } } })).id
const exported = async (order: Partial<TranslationExport> = {}): Promise<string> =>
  (await owner.translations.export({ locale: 'nl', ...order })).response.text()
const read = (content: string | Buffer, format: TranslationFormat = 'xliff', locale = 'nl') =>
  owner.translations.readImport(locale, format, 'dutch', new Blob([content as BlobPart]))
async function apply({ id }: ImportView, overwrite = false): Promise<ImportView> {
  await owner.waitFor(await owner.translations.applyImport(id, overwrite))
  return owner.translations.import(id)
}
const unitsOf = (id: string) => dutchUnits(owner, id)
/** Puts a target behind the source of a unit. */
const translated = (xliff: string, source: string, target: string): string =>
  xliff.replace(`<source>${source}</source>`, `<source>${source}</source><target>${target}</target>`)

describe('an XLIFF file', () => {
  it('has a line for each text, with state, place, limit and address, and comes back', async () => {
    const id = await walk()
    const file = await exported({ ids: [id] })
    expect(file).toMatch(/<xliff [^>]*version="2.1" srcLang="en" trgLang="nl"/)
    expect(file).toMatch(new RegExp(`<file id="${id}\\.1\\.1" original="marram/activity/${id}"`))
    expect(file).toMatch(/<note id="n1" category="place">Body › Quote 2 › Text<\/note>/)
    expect(file).toMatch(/slr:sizeRestriction="\d+"/)
    expect(file).toContain(`/console/marram/entry/${id}?locale=nl`)
    const planned = await read(
      translated(translated(file, 'Bring a torch', 'Neem een lamp'), 'Dark is not empty.', 'Leeg?'),
    )
    expect(planned).toMatchObject({ state: 'read', entries: 1, outcomes: { taken: 2, untranslated: 2 } })
    expect(shownUnits(await unitsOf(id))).toMatchObject({ 'body/h1/text': '–, missing' })
    expect((await apply(planned)).outcomes).toEqual({ taken: 2, untranslated: 2 })
    expect(shownUnits(await unitsOf(id))).toMatchObject({
      title: '–, missing',
      'body/h1/text': 'Neem een lamp, current',
      'body/q1/text': 'Leeg?, current',
    })
  })
  it('survives another maker’s library, with its inline codes and notes, and takes what was edited there', async () => {
    const id = await tale()
    const file = await exported({ ids: [id] })
    const js = (await xliff2js(file)) as {
      resources: Record<string, Record<string, { source: unknown; target?: unknown; note?: unknown }>>
    }
    const [units] = Object.values(js.resources)
    const [key, unit] = Object.entries(units!).find(([, { source }]) => Array.isArray(source))!
    expect(unit.note).toContain('Text')
    const pieces = unit.source as (string | { Span?: { contents: unknown } })[]
    unit.target = pieces.map((piece) =>
      typeof piece === 'string'
        ? piece.replace('It was ', 'Het was ').replace(' and', ' en').replace('late.', 'laat.')
        : piece.Span
          ? { Span: { ...piece.Span, contents: 'donker' } }
          : piece,
    )
    units![key] = unit
    const back = (await js2xliff(js)) as string
    expect(back).not.toContain('version="1.2"')
    const planned = await read(back)
    expect(planned.outcomes).toMatchObject({ taken: 1 })
    await apply(planned)
    expect((await owner.entry(id)).values['text']).toMatchObject({
      nl: {
        children: [
          {
            children: [
              { type: 'text', value: 'Het was ' },
              { type: 'strong', children: [{ type: 'text', value: 'donker' }] },
              { type: 'text', value: ' en' },
              { type: 'break' },
              { type: 'text', value: 'laat.' },
            ],
          },
        ],
      },
    })
    // The second time nothing changes.
    const { version } = await owner.entry(id)
    const again = await apply(await read(back))
    expect(again.outcomes).toEqual({ unchanged: 1, untranslated: 1 })
    expect((await owner.entry(id)).version).toBe(version)
  })
  it('has states that another maker’s library reads and sets, and keeps everything else beside them', async () => {
    const id = await tale()
    const walked = await walk()
    // One text is current, one outdated, others are missing.
    const units = await unitsOf(walked)
    const [title, heading] = ['title', 'body/h1/text'].map(
      (place) => units.find(({ at }) => at.join('/') === place)!.unit,
    )
    await owner.translations.save(walked, {
      locale: 'nl',
      texts: [
        { unit: title!, text: 'Nachtwandeling' },
        { unit: heading!, text: 'Neem een zaklamp mee' },
      ],
    })
    const { version } = await owner.entry(walked)
    await owner.edit(walked, version, [
      { do: 'set', at: ['body', 'h1', 'text'], locale: 'en', value: 'Bring a good torch' },
    ])
    const file = await exported({ ids: [walked, id], units: 'all' })
    const theirs = openInTool(file)
    const stateOf = new Map<string, string>()
    theirs.forEachTransUnit((unit) => {
      const source = unit.sourceContent()
      stateOf.set(source, unit.targetState())
      if (source === 'Dark is not empty.') {
        unit.translate('Donker is niet leeg.')
        unit.setTargetState('final')
      }
      // Looked at, and right as it is.
      if (source === 'Bring a good torch') unit.setTargetState('translated')
    })
    expect(Object.fromEntries(stateOf)).toMatchObject({
      [walkTitle]: 'translated',
      'Bring a good torch': 'new',
      'Dark is not empty.': 'new',
    })
    const back = theirs.editedContent()
    for (const kept of [
      /<note id="n1" category="place">Body › Heading 1 › Text<\/note>/,
      /<pc id="\w+"/,
      /<ph id="\w+"/,
    ])
      expect(back).toMatch(kept)
    const states = (xliff: string) => [...xliff.matchAll(/<segment [^>]*?state="(\w+)"/g)].map(([, state]) => state)
    expect(states(back).filter((state) => state === 'final')).toHaveLength(1)
    const planned = await read(back)
    expect(planned.outcomes).toMatchObject({ taken: 1, confirmed: 1 })
    await apply(planned)
    expect(shownUnits(await unitsOf(walked))).toMatchObject({
      title: 'Nachtwandeling, current',
      'body/h1/text': 'Neem een zaklamp mee, current',
      'body/q1/text': 'Donker is niet leeg., current',
    })
    // What is exported now says so to the library.
    const after = openInTool(await exported({ ids: [walked], units: 'all' }))
    const left: string[] = []
    after.forEachTransUnit((unit) => {
      if (unit.targetState() === 'new') left.push(unit.sourceContent())
    })
    expect(left).not.toContain('Bring a good torch')
    expect(left).not.toContain('Dark is not empty.')
  })
  it('takes what still matches, marks what has another source by now, and overwrites no newer work', async () => {
    const id = await walk()
    const file = await exported({ ids: [id] })
    const { version } = await owner.entry(id)
    // Meanwhile one text changes in the source, and another is translated here.
    await owner.edit(id, version, [{ do: 'set', at: ['body', 'h1', 'text'], locale: 'en', value: 'Bring a lamp' }])
    const title = (await unitsOf(id)).find(({ at }) => at[0] === 'title')!
    await owner.translations.save(id, { locale: 'nl', texts: [{ unit: title.unit, text: 'Hier vertaald' }] })
    let back = translated(file, 'Bring a torch', 'Neem een zaklamp')
    back = translated(back, 'Dark is not empty.', 'Donker is niet leeg.')
    back = translated(back, walkTitle, 'Daar vertaald')
    const planned = await read(back)
    expect(planned.outcomes).toEqual({ taken: 1, takenOutdated: 1, newer: 1, untranslated: 1 })
    const { texts } = await owner.translations.importTexts(planned.id, ['newer', 'takenOutdated'])
    const lineOf = (words: string) => file.split('\n').findIndex((line) => line.includes(`<source>${words}`)) + 1
    expect(texts.map(({ line, outcome }) => [line, outcome])).toEqual([
      [lineOf(walkTitle), 'newer'],
      [lineOf('Bring a torch'), 'takenOutdated'],
    ])
    await apply(planned)
    const units = await unitsOf(id)
    expect(shownUnits(units)).toMatchObject({
      title: 'Hier vertaald, current',
      'body/h1/text': 'Neem een zaklamp, outdated',
      'body/q1/text': 'Donker is niet leeg., current',
    })
    // The source that it was made from comes from the file: no revision has it.
    expect(units.find(({ state }) => state === 'outdated')!.sourceThen).toEqual(['Bring a torch'])
    expect((await apply(await read(back), true)).outcomes).toMatchObject({ taken: 1, unchanged: 2 })
    expect(shownUnits(await unitsOf(id))).toMatchObject({ title: 'Daar vertaald, current' })
    const applied = await problem(() => owner.translations.applyImport(planned.id))
    expect([applied.status, applied.message]).toEqual([409, expect.stringContaining('applied already')])
  })
  it('does not bring back what was removed or marked here meanwhile', async () => {
    const id = await walk()
    const [heading, quote] = (await unitsOf(id)).filter(({ at }) => at[0] === 'body')
    await owner.translations.save(id, { locale: 'nl', texts: [{ unit: heading!.unit, text: 'Neem een lamp' }] })
    const file = await exported({ ids: [id], units: 'all' })
    await owner.translations.save(id, {
      locale: 'nl',
      texts: [{ unit: heading!.unit, text: '' }],
      empty: [quote!.unit],
    })
    const back = translated(file, 'Dark is not empty.', 'Leeg')
    expect((await read(back)).outcomes).toEqual({ newer: 2, untranslated: 2 })
  })
  it('of entries that are not there is refused before it begins', async () => {
    const id = await walk()
    const none = await problem(() => exported({ ids: [id, '0123456789abcdefghij'] }))
    expect([none.status, none.message]).toEqual([404, expect.stringContaining('no entry `0123456789abcdefghij`')])
  })
  it('confirms an outdated text that comes back as translated, and was left as it is', async () => {
    const id = await walk()
    const saved = await owner.translations.save(id, {
      locale: 'nl',
      texts: (await unitsOf(id)).filter(({ kind }) => kind !== 'slug').map(({ unit }) => ({ unit, text: 'Tekst' })),
    })
    await owner.edit(id, saved.version, [{ do: 'set', at: ['title'], locale: 'en', value: 'Dawn Walk' }])
    const file = await exported({ ids: [id] })
    expect(file).toMatch(/state="initial" subState="wisteria:outdated"/)
    expect(file).toContain(`The source was: ${walkTitle}`)
    const left = await read(file)
    expect(left.outcomes).toEqual({ unchanged: 1 })
    const reviewed = await read(file.replace('state="initial" subState="wisteria:outdated"', 'state="reviewed"'))
    expect(reviewed.outcomes).toEqual({ confirmed: 1 })
    await apply(reviewed)
    expect(shownUnits(await unitsOf(id))).toMatchObject({ title: 'Tekst, current' })
  })
  it('leaves out none of many entries that one refers to', async () => {
    const others = await Promise.all(
      Array.from({ length: 60 }, (_, index) =>
        owner.create({ type: 'tale', values: { title: { en: `Tale ${index}` } } }).then(({ id }) => id),
      ),
    )
    const { id } = await owner.create({ type: 'tale', values: { title: { en: 'Tales' }, others } })
    const files = [...(await exported({ ids: [id], follow: 1 })).matchAll(/<file id="(\w+)\./g)].map(([, file]) => file)
    expect(files.sort()).toEqual([id, ...others].sort())
  })
  it('gathers entries that others refer to, each once', async () => {
    const museum = (await owner.create({ type: 'museum', values: { name: { en: 'The Boatyard' } } })).id
    const ids = [await walk(), await walk()]
    for (const id of ids) await owner.patch(id, (await owner.entry(id)).version, { museum })
    const files = [...(await exported({ ids, follow: 1 })).matchAll(/<file id="(\w+)\./g)].map(([, id]) => id)
    expect(files).toEqual([...ids, museum])
  })

  const head =
    '<?xml version="1.0"?>\n<xliff xmlns="urn:oasis:names:tc:xliff:document:2.0" version="2.0" srcLang="en" trgLang="nl">'
  const unit = (id: string, inside = '<segment><source>a</source><target>b</target></segment>') =>
    `<unit id="${id}">${inside}</unit>`
  const file = (units: string, id = '0123456789abcdefghij.1') => `${head}\n<file id="${id}">${units}</file></xliff>`
  it.each<[string, string, RegExp]>([
    ['nothing', '', /empty/],
    ['no XML', 'title,translation', /Line 1/],
    ['broken XML', `${head}<file id="a"><unit`, /Line 2/],
    ['other XML', '<html/>', /no XLIFF file: it begins with `<html>`/],
    ['XLIFF 1.2', '<xliff xmlns="urn:oasis:names:tc:xliff:document:1.2" version="1.2"/>', /XLIFF 2.0 or 2.1 is needed/],
    [
      'a document type',
      '<!DOCTYPE xliff [<!ENTITY x SYSTEM "file:///etc/passwd">]>\n<xliff/>',
      /document type is not allowed/,
    ],
    ['an entity', file(unit('f1::', '<segment><source>&x;</source></segment>')), /Line 3.*entity/i],
    ['another target', `${head.replace('"nl"', '"de"')}</xliff>`, /into de, and not into nl/],
    ['another source', `${head.replace('"en"', '"fr"')}</xliff>`, /translated from fr/],
    ['a unit twice', file(unit('f1::') + unit('f1::')), /`f1::` is there twice/],
    [
      'an entry twice',
      file(unit('f1::')).replace('</xliff>', '') + `<file id="0123456789abcdefghij.2"></file></xliff>`,
      /is there twice/,
    ],
    ['a foreign id', file(unit('f1::'), 'src/app.html'), /no id of a file/],
    ['a foreign unit', file(unit('title')), /no id of a unit/],
    [
      'an unknown state',
      file(unit('f1::', '<segment state="done"><source>a</source></segment>')),
      /no state of XLIFF 2/,
    ],
    ['an unclosed code', file(unit('f1::', '<segment><source>a<sc id="1"/></source></segment>')), /is not closed/],
    ['no texts', file(''), /no texts/],
  ])('that is or has %s is refused with its place, and nothing of it is kept', async (_, content, message) => {
    const before = (await owner.translations.imports()).imports.length
    const refused = await problem(() => read(content))
    expect(refused.status).toBe(422)
    expect(refused.message).toMatch(message)
    expect((await owner.translations.imports()).imports).toHaveLength(before)
  })
  it('of another site, with unknown texts or without a code is read, and says so text by text', async () => {
    const id = await tale()
    const good = await exported({ ids: [id] })
    const other = await read(good.replaceAll(id, '0123456789abcdefghij'))
    expect(other.outcomes).toEqual({ unknown: 2 })
    expect((await owner.translations.importTexts(other.id)).texts[0]!.message).toMatch(/no such entry on/)
    const without = good.replace(/(<source>It was .*?<\/source>)/, '$1<target>Het was donker en laat.</target>')
    const faulty = await read(without)
    expect(faulty.outcomes).toEqual({ faulty: 1, untranslated: 1 })
    expect((await owner.translations.importTexts(faulty.id, ['faulty'])).texts[0]!.message).toMatch(/Code 1 .* missing/)
  })
  it('with segments that a tool has cut, split codes and annotations is put together again', async () => {
    const id = await walk()
    const good = await exported({ ids: [id] })
    const cut = good.replace(
      /<segment [^>]*><source>Dark is not empty.<\/source><\/segment>/,
      `<segment state="final"><source>Dark</source><target><mrk id="m1" type="term">Donker</mrk></target></segment>
       <ignorable><source> </source></ignorable>
       <segment state="translated"><source>is not empty.</source><target>is niet leeg<cp hex="002E"/></target></segment>`,
    )
    await apply(await read(cut))
    expect(shownUnits(await unitsOf(id))).toMatchObject({ 'body/q1/text': 'Donker is niet leeg., current' })
  })
})

describe('a table', () => {
  it('goes out and comes back as CSV, also with semicolons, and never as a formula', async () => {
    const { id } = await owner.create({ type: 'museum', values: { name: { en: '=1+1' } } })
    const csv = await exported({ ids: [id], format: 'csv' })
    expect(csv).toContain("'=1+1")
    const back = csv
      .split('\r\n')
      .map((line) => line.replaceAll(',', ';').replace("'=1+1;;", "'=1+1;'=2+2;"))
      .join('\r\n')
    await apply(await read(back, 'csv'))
    expect(shownUnits(await unitsOf(id))).toMatchObject({ name: '=2+2, current' })
  })
  it('keeps an apostrophe of its own before a sign of a formula', async () => {
    const { id } = await owner.create({ type: 'museum', values: { name: { en: "'=1", nl: "'=2" } } })
    const csv = await exported({ ids: [id], format: 'csv', units: 'all' })
    expect((await read(csv, 'csv')).outcomes).toEqual({ unchanged: 2 })
  })
  it('goes out and comes back as XLSX, with inline codes', async () => {
    const id = await tale()
    const { response } = await owner.translations.export({ locale: 'nl', ids: [id], format: 'xlsx' })
    const path = join(folder, 'dutch.xlsx')
    writeFileSync(path, Buffer.from(await response.arrayBuffer()))
    const [sheet] = await readSheets(path)
    const rows = sheet!.data.map((row) => row.map((cell) => (cell === null ? '' : String(cell))))
    expect(rows[0]).toContain('translation (nl)')
    const at = rows[0]!.indexOf('translation (nl)')
    const row = rows.find((cells) => cells.includes('It was <1>dark</1> and<2/>late.'))!
    row[at] = 'Het was <1>donker</1> en<2/>laat.'
    await writeXlsxFile(rows.map((cells) => cells.map((value) => ({ value, type: String })))).toFile(path)
    const planned = await read(readFileSync(path), 'xlsx')
    expect(planned.outcomes).toEqual({ taken: 1, untranslated: 1 })
    await apply(planned)
    expect(shownUnits(await unitsOf(id))).toMatchObject({ text: 'Het was <1>donker</1> en<2/>laat., current' })
  })
  it.each<[string, string, TranslationFormat, RegExp]>([
    ['nothing', '', 'csv', /empty/],
    ['no heads', 'a,b\r\n1,2\r\n', 'csv', /no column `entry`/],
    ['a wrong id', 'entry,unit,translation\r\nx,f1#,b\r\n', 'csv', /Row 2: `x` is no id/],
    [
      'a text twice',
      `entry,unit,translation\r\n${'0123456789abcdefghij.1,f1#,b\r\n'.repeat(2)}`,
      'csv',
      /Row 3.*twice/,
    ],
    ['an open quote', 'entry,unit,translation\r\n"0123', 'csv', /no CSV table/],
    ['an unclosed code', 'entry,unit,translation\r\n0123456789abcdefghij.1,f1#,<1>b\r\n', 'csv', /Row 2: `<1>` has no/],
    ['no workbook', 'PK', 'xlsx', /no XLSX workbook/],
  ])('that is or has %s is refused with its row', async (_, content, format, message) => {
    expect((await problem(() => read(content, format))).message).toMatch(message)
  })
})

describe('the commands', () => {
  it('export and import, with the lines of what is not taken', async () => {
    const id = await walk()
    const run = (...words: string[]) =>
      runIn(folder, words, {
        WISTERIA_URL: small.service.baseUrl,
        WISTERIA_SITE: 'marram',
        WISTERIA_TOKEN: small.token,
      })
    const path = join(folder, 'dutch.xlf')
    const out = await run('translate', 'export', path, '--locale', 'nl', '--ids', id)
    expect(out.err).toMatch(/Wrote .*dutch.xlf: 1 entry/)
    const nowhere = await run('translate', 'export', join(folder, 'no', 'dutch.xlf'), '--locale', 'nl')
    expect([nowhere.code, nowhere.err]).toEqual([2, expect.stringMatching(/dutch.xlf cannot be written/)])
    const none = await run('translate', 'import', join(folder, 'none.xlf'), '--locale', 'nl')
    expect([none.code, none.err]).toEqual([2, expect.stringMatching(/there is no such file/)])
    writeFileSync(path, translated(readFileSync(path, 'utf8'), 'Bring a torch', 'Lamp <pc id="9">mee</pc>'))
    const tried = await run('translate', 'import', path, '--locale', 'nl', '--dry-run')
    expect(tried.code).toBe(9)
    expect(tried.out).toMatch(/1 not taken: wrong codes/)
    const line =
      readFileSync(path, 'utf8')
        .split('\n')
        .findIndex((text) => text.includes('<pc id="9">')) + 1
    expect(tried.out).toMatch(new RegExp(`\\n${line} .*Code 9 is not in the source`))
    writeFileSync(path, readFileSync(path, 'utf8').replace('<pc id="9">mee</pc>', 'mee'))
    const done = await run('translate', 'import', path, '--locale', 'nl')
    expect(done.out).toMatch(/1 taken; 3 not translated/)
    expect(shownUnits(await unitsOf(id))).toMatchObject({ 'body/h1/text': 'Lamp mee, current' })
  })
})
