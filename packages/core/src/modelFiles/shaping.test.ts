import { describe, expect, it } from 'vitest'
import { asFiles, files, makeModel, modelSite, refusal, settings } from '../../../../e2e/support/models.js'
import { documentOf, shapedFiles, shapedModel, shapedType } from '../../../../e2e/support/shaped.js'
import type { WisteriaError } from '../base/errors.js'
import { consequencesOf } from './consequences.js'
import { readModelFiles } from './files.js'
import { emptyModel, fieldNamed, fieldsAt, typeNamed, type Model } from '../model/model.js'
import { resolveModel } from './resolve.js'
import { ModelImpact, type StoredEntry } from '../adoption/modelImpact.js'
import { writeModelFile } from './write.js'
import type { TypeSource } from './schema.js'

const small = 'type: thing\nfields:\n  name: { kind: text }\n'
const problemsOf = async (text: string, more: Record<string, string> = {}, before: Model = emptyModel) =>
  (await refusal<WisteriaError>(() => makeModel({ thing: text, ...more }, before))).problems

describe('mistakes of shaping', () => {
  it.each<[string, string, RegExp]>([
    [
      'a section that is not there',
      '  x: { kind: text, section: whenn }',
      /`whenn` is not a section of thing. Name it in `sections:` first/,
    ],
    [
      'a rule with an unknown field',
      '  x: { kind: text, showIf: \'nme = "a"\' }',
      /`showIf`: `nme` is not a field of thing. Did you mean `name`\? \(column 1\)/,
    ],
    [
      'a rule that asks the time',
      '  d: { kind: date }\n  x: { kind: text, showIf: "d > today" }',
      /must not change by waiting/,
    ],
    [
      'a rule that asks the state',
      '  x: { kind: text, requireIf: \'entry.state = "new"\' }',
      /only `lockIf` may ask one, `entry.state`/,
    ],
    [
      'a rule through a reference',
      '  o: { kind: entry, accepts: [thing] }\n  x: { kind: text, showIf: \'o.name = "a"\' }',
      /only sees its own entry/,
    ],
    [
      'a rule that hides itself',
      "  x: { kind: text, showIf: 'x has value' }",
      /once hidden it could never be shown again/,
    ],
    [
      'a shared field that asks a localized one',
      "  l: { kind: text, localized: true }\n  x: { kind: text, showIf: 'l has value' }",
      /can only ask what they share/,
    ],
    ['a default of the wrong form', '  x: { kind: number, default: many }', /`default`: X must be a number/],
    [
      'a default that names an entry',
      '  x: { kind: entry, accepts: [thing], default: 01hz0000000000000000 }',
      /a model knows none/,
    ],
    [
      'a default worked out of nothing',
      '  x: { kind: number, default: { expression: today } }',
      /need a field of kind date or dateTime/,
    ],
    [
      'a default from a field of another kind',
      '  x: { kind: number, default: { expression: name } }',
      /`name` is of kind text, and this field is of kind number/,
    ],
    ['a unique list', '  x: { kind: text, many: true, unique: true }', /not a list/],
    ['a unique location', '  x: { kind: location, unique: true }', /not kind location/],
    [
      'a unique field in a repeated group',
      '  x: { kind: group, many: true, fields: { y: { kind: text, unique: true } } }',
      /not repeated/,
    ],
    [
      'a localized group',
      '  x: { kind: group, localized: true, fields: { y: { kind: text } } }',
      /localize the fields inside it/,
    ],
    ['a group without fields', '  x: { kind: group, fields: {} }', /X has no fields/],
    [
      'an unknown kind inside a group',
      '  x: { kind: group, fields: { y: { kind: txt } } }',
      /names no field kind. Did you mean `text`\?/,
    ],
    [
      'an unknown option inside a group',
      '  x: { kind: group, fields: { y: { kind: text, lenght: 1 } } }',
      /`lenght` is not an option of a field of kind text. Did you mean `length`\?/,
    ],
    [
      'a reserved name inside a group',
      '  x: { kind: group, fields: { and: { kind: text } } }',
      /`and` is a reserved name/,
    ],
    [
      'a limit for a block that is not accepted',
      '  x: { kind: block, accepts: [words], each: { word: { max: 1 } } }',
      /`word` is not among what the field accepts. Did you mean `words`\?/,
    ],
    [
      'metadata from a field that is not there',
      '  x: { kind: metadata, from: { title: nam } }',
      /`from.title` must name a field of kind text or longText. Did you mean `name`\?/,
    ],
    ['many metadata', '  x: { kind: metadata, many: true }', /holds one value/],
    [
      'a pattern that is none',
      "  x: { kind: text, pattern: { matches: '(', message: m } }",
      /is not a regular expression/,
    ],
    [
      'a pattern that takes for ever',
      "  x: { kind: text, pattern: { matches: '(?=a)b', message: m } }",
      /can take very long to match/,
    ],
    ['a name of another alphabet', '  название: { kind: text }', /is not a name/],
    [
      'a media type that is none',
      '  x: { kind: asset, accepts: [picture] }',
      /must be a media type such as `image\/\*`/,
    ],
    [
      'a schema that cannot be used',
      "  x: { kind: json, schema: { $ref: '#/nowhere' } }",
      /is not a JSON Schema that can be used/,
    ],
  ])('%s', async (_, field, message) => {
    const problems = await problemsOf(small + field + '\n', {
      words: 'block: words\nfields:\n  text: { kind: text }\n',
    })
    expect(problems.map((problem) => problem.message).join('\n')).toMatch(message)
    expect(problems[0]).toMatchObject({ file: 'thing.yaml', line: expect.any(Number) as number })
  })

  it('of blocks that nest: one may hold its own kind, one that must could never be finished', async () => {
    const box = (more: string) => ({
      box: `block: box\nfields:\n  inside: { kind: block, many: true, accepts: [box]${more} }\n`,
    })
    expect(makeModel({ thing: small, ...box('') }).blockTypes).toHaveLength(1)
    const [problem] = await problemsOf(small, box(', required: true'))
    expect(problem).toMatchObject({
      code: 'endless',
      message: expect.stringMatching(/could never be finished/) as string,
    })
    const two = {
      a: 'block: a\nfields:\n  x: { kind: block, accepts: [b], required: true }\n',
      b: 'block: b\nfields:\n  x: { kind: block, accepts: [a], required: true }\n',
    }
    expect((await problemsOf(small, two)).map((other) => other.code)).toEqual(['endless', 'endless'])
  })
  it('of size: 300 fields are fine, 401 are told kindly, a file of 5 MB too', async () => {
    const fields = (count: number) =>
      small + Array.from({ length: count - 1 }, (_, index) => `  f${index}: { kind: text }\n`).join('')
    expect(makeModel({ thing: fields(300) }).types[0]!.fields).toHaveLength(300)
    expect((await problemsOf(fields(401)))[0]?.message).toMatch(/401 fields, at most 400 fit/)
    expect((await problemsOf(small + '#'.repeat(5_000_000)))[0]?.message).toMatch(
      /at most 1,000,000 characters, and this one has 5,000,0\d\d/,
    )
  })
  it('of a condition 64 deep, and one deeper', async () => {
    const nested = (depth: number) =>
      `${small}  x: { kind: text, showIf: '${'('.repeat(depth)}name has value${')'.repeat(depth)}' }\n`
    expect(makeModel({ thing: nested(64) }).types).toHaveLength(1)
    expect((await problemsOf(nested(65)))[0]?.message).toMatch(/nests at most 64 deep/)
  })
  it('of names in GraphQL, of groups too', async () => {
    const clash = await problemsOf(
      'type: thing\nfields:\n  name: { kind: text }\n  part: { kind: group, fields: { a: { kind: text } } }\n',
      { thingPart: 'type: thingPart\nfields:\n  name: { kind: text }\n' },
    )
    expect(clash[0]?.message).toMatch(/would both be `ThingPart` in GraphQL/)
  })
  it('of renames that cannot be', async () => {
    const before = makeModel({ thing: small + '  x: { kind: text }\n' })
    expect((await problemsOf(small + '  x: { kind: text, was: name }\n', {}, before))[0]?.message).toMatch(
      /it cannot be both|still answers to it/,
    )
    const renamed = makeModel({ thing: small + '  y: { kind: text, was: x }\n' }, before)
    expect(
      (await problemsOf(small + '  y: { kind: text, was: x }\n  x: { kind: text }\n', {}, renamed))[0]?.message,
    ).toMatch(/`x` is the earlier name of `y`, which still answers to it/)
  })
  it('of a type with exactly one entry that has a parent', async () =>
    expect(
      (
        await problemsOf(
          'type: thing\ncardinality: one\nparent: up\nfields:\n  name: { kind: text }\n  up: { kind: entry, accepts: [thing] }\n',
        )
      )[0]?.message,
    ).toMatch(/cannot have a parent/))
})

describe('renames', () => {
  const before = makeModel({ thing: small + '  x: { kind: number }\n' })
  const after = (fields: string, model = before) => makeModel({ thing: `type: thing\nfields:\n${fields}` }, model)
  it('keep the id and answer to the old name until the line is removed', () => {
    const renamed = after('  name: { kind: text }\n  y: { kind: number, was: x }\n')
    const thing = typeNamed(renamed, 'thing')!
    expect([fieldNamed(thing, 'x')?.id, fieldNamed(thing, 'y')?.id]).toEqual(['f2', 'f2'])
    const again = after('  name: { kind: text }\n  z: { kind: number, was: [y, x] }\n', renamed)
    expect(['x', 'y', 'z'].map((name) => fieldNamed(typeNamed(again, 'thing')!, name)?.id)).toEqual(['f2', 'f2', 'f2'])
    const retired = after('  name: { kind: text }\n  z: { kind: number, was: y }\n', again)
    expect(fieldNamed(typeNamed(retired, 'thing')!, 'x')).toBeUndefined()
    expect(consequencesOf(again, retired, {})).toEqual([
      { code: 'nameRetired', weight: 'breaking', place: 'thing.z', message: 'It no longer answers to `x`.' },
    ])
  })
  it('of types answer too', () => {
    const renamed = makeModel(
      { object: 'type: object\nwas: thing\nfields:\n  name: { kind: text }\n  x: { kind: number }\n' },
      before,
    )
    expect(typeNamed(renamed, 'thing')?.name).toBe('object')
    expect(
      consequencesOf(before, renamed, {}).map((consequence) => [consequence.code, consequence.weight]),
    ).toContainEqual(['typeRenamed', 'plain'])
  })
  it('are suggested where a field goes and a like one comes', () => {
    const [removed] = consequencesOf(
      makeModel(files),
      makeModel({ ...files, museum: files.museum.replace('town:', 'towns:') }, makeModel(files)),
      {},
    )
    expect(removed?.message).toMatch(/Is `towns` its new name\? Then say so there: `was: town`/)
  })
})

describe('consequences of form', () => {
  const change = (from: string, to: string, counts: Record<string, number> = {}) => {
    const text = shapedFiles.tour.replace(from, to)
    expect(text).not.toBe(shapedFiles.tour)
    return consequencesOf(
      shapedModel,
      resolveModel(readModelFiles(asFiles({ ...shapedFiles, tour: text })), shapedModel, modelSite),
      counts,
    )
  }
  const some = { [shapedType('tour').id]: 1200 }
  it.each<[string, string, string, RegExp]>([
    [
      'guides: { kind: entry, accepts: [guide], many: true }',
      'guides: { kind: entry, accepts: [guide] }',
      'graphqlChanged',
      /`Tour.guides` changes from a list of a single type to a single type/,
    ],
    [
      'lead: { kind: entry, accepts: [guide] }',
      'lead: { kind: entry, accepts: [guide, tour] }',
      'graphqlChanged',
      /from a single type to a union of several/,
    ],
    [
      'takes: { kind: timeSpan, range: { max: PT8H } }',
      'takes: { kind: timeSpan, range: { max: PT8H }, indexed: true }',
      'indexBuilt',
      /An index is built over 1,200 entries/,
    ],
    [
      'shade: { kind: colour }',
      'shade: { kind: location }',
      'fieldReshaped',
      /values of kind colour cannot become of kind location/,
    ],
    ['room: { kind: text, localized: true }', 'room: { kind: text }', 'fieldReshaped', /to one value for all locales/],
    ['seats: { kind: number, integer: true', 'seats: { kind: number', 'fieldChanged', /Another integer/],
  ])('%s becomes %s', (from, to, code, message) =>
    expect(change(from, to, some).find((change) => change.code === code)?.message).toMatch(message),
  )
  it('of how many entries a type has', () => {
    const house = (text: string, counts = {}) =>
      consequencesOf(shapedModel, makeModel({ ...shapedFiles, house: text }, shapedModel), counts)
    expect(house(shapedFiles.house.replace('cardinality: one', 'plural: houses'))[0]).toMatchObject({
      code: 'cardinalityChanged',
      weight: 'breaking',
      message: expect.stringMatching(/readers get a list/) as string,
    })
    const guides = makeModel(
      { ...shapedFiles, guide: shapedFiles.guide.replace('namedBy', 'cardinality: one\nnamedBy') },
      shapedModel,
    )
    expect(consequencesOf(shapedModel, guides, { [shapedType('guide').id]: 2 })[0]).toMatchObject({
      code: 'cardinalityChanged',
      weight: 'refused',
    })
  })
})

describe('weighing what is stored', () => {
  const stored = (id: string, values: object, isPublic = true): StoredEntry => {
    const written = { document: documentOf('tour', values), modelVersion: shapedModel.version }
    return {
      id,
      type: shapedType('tour').id,
      copy: written,
      ...(isPublic ? { layers: { shared: written, locales: { en: written } } } : {}),
    }
  }
  const fine = { title: { en: 'Night walk' }, format: 'talk' }
  const weigh = (from: string, to: string, ...entries: StoredEntry[]) => {
    const text = shapedFiles.tour.replace(from, to)
    expect(text).not.toBe(shapedFiles.tour)
    const weighing = new ModelImpact(shapedModel, makeModel({ ...shapedFiles, tour: text }, shapedModel), settings)
    for (const entry of entries) weighing.add(entry)
    return weighing
      .consequences()
      .map(({ code, weight, place, entries: concerned }) => [
        code,
        weight,
        place,
        concerned?.count,
        concerned?.first[0]?.because,
      ])
  }
  it('finds values that would be lost, also in groups', () => {
    expect(
      weigh(
        '  site: { kind: webAddress }\n',
        '',
        stored('a', { ...fine, site: 'https://a.example' }),
        stored('b', fine),
      ),
    ).toEqual([['valuesLost', 'breaking', 'tour.site', 1, undefined]])
    expect(
      weigh(
        '      seats: { kind: number, integer: true, indexed: true }\n',
        '',
        stored('a', { ...fine, venue: { seats: 1 } }),
      ),
    ).toEqual([['valuesLost', 'breaking', 'tour.venue.seats', 1, undefined]])
  })
  it('finds values that cannot be converted, with the reason', () =>
    expect(
      weigh(
        'mail: { kind: email, localized: true }',
        'mail: { kind: number, localized: true }',
        stored('a', { ...fine, mail: { en: 'a@b.example' } }),
      ),
    ).toEqual([['valuesRefused', 'refused', 'tour.mail', 1, '"a@b.example" cannot become of kind number']]))
  it('finds what would no longer be valid, of what is public', () => {
    expect(weigh('max: 60', 'max: 5', stored('a', fine), stored('b', fine, false))).toEqual([
      ['valuesInvalid', 'breaking', 'tour.title', 1, 'Title in en has 10 characters, at most 5 fit.'],
    ])
    expect(
      weigh('options: [sea, salt, light]', 'options: [sea, light]', stored('a', { ...fine, themes: ['salt'] })),
    ).toEqual([['valuesInvalid', 'breaking', 'tour.themes', 1, 'Themes is not one of sea, light.']])
  })
  it('finds what a new rule would hide, and what would be there twice', () => {
    expect(
      weigh(
        'site: { kind: webAddress }',
        'site: { kind: webAddress, showIf: \'format = "walk"\' }',
        stored('a', { ...fine, site: 'https://a.example' }),
      ),
    ).toEqual([['valuesHidden', 'breaking', 'tour.site', 1, undefined]])
    expect(
      weigh(
        'title: { kind: text,',
        'title: { kind: text, unique: true,',
        stored('a', fine),
        stored('b', fine),
        stored('c', { ...fine, title: { en: 'Other' } }),
      ),
    ).toEqual([['valuesTwice', 'breaking', 'tour.title', 1, undefined]])
  })
  it('finds blocks whose type goes', () => {
    const { words: _, ...rest } = {
      ...shapedFiles,
      box: shapedFiles.box.replace('[words, box]', '[box]'),
      tour: shapedFiles.tour.replace('[words, box]', '[box]').replace(/ {2}lead2.*\n/, ''),
    }
    const weighing = new ModelImpact(shapedModel, makeModel(rest, shapedModel), settings)
    weighing.add(stored('a', { ...fine, body: [{ block: 'words', values: { text: { en: 'x' } } }] }))
    expect(weighing.consequences()[0]).toMatchObject({
      code: 'valuesLost',
      weight: 'refused',
      message: expect.stringMatching(/a block `words`/) as string,
    })
  })
  it('looks at nothing when nothing is read otherwise', () =>
    expect(
      new ModelImpact(
        shapedModel,
        makeModel({ ...shapedFiles, tour: shapedFiles.tour.replace('help: A way', 'help: The way') }, shapedModel),
        settings,
      ).types.size,
    ).toBe(0))
})

describe('writing model files', () => {
  const read = (text: string) => readModelFiles([{ name: 'x.yaml', text }]).types[0]!.source
  it('writes what reads as the same, whatever the type', () => {
    for (const [name, text] of Object.entries(shapedFiles)) {
      const { types, blocks } = readModelFiles([{ name, text: text.trimStart() }])
      const source = [...types, ...blocks][0]!.source as TypeSource
      const written = writeModelFile(source)
      const again = readModelFiles([written])
      expect([...again.types, ...again.blocks][0]!.source, name).toEqual(source)
    }
    expect(
      consequencesOf(
        shapedModel,
        makeModel(
          Object.fromEntries(
            Object.entries(shapedFiles).map(([name, text]) => [
              name,
              writeModelFile(
                [
                  ...readModelFiles([{ name, text: text.trimStart() }]).types,
                  ...readModelFiles([{ name, text: text.trimStart() }]).blocks,
                ][0]!.source as TypeSource,
              ).text,
            ]),
          ),
          shapedModel,
        ),
        {},
      ),
    ).toEqual([])
  })
  const text =
    '# Boats.\ntype: trip\n\nfields:\n  # What it is called.\n  title: { kind: text, required: true } # always\n  price: { kind: number,   unit: EUR }\n'
  const file = { name: 'trip.yaml', text }
  it('leaves a file alone that says it already', () => expect(writeModelFile(read(text), file)).toBe(file))
  it('changes only what differs: comments and the form of the rest stay', () => {
    const source = read(text)
    const changed = writeModelFile(
      {
        ...source,
        label: 'Boat trip',
        fields: {
          price: { ...source.fields['price']!, unit: 'guilders' },
          title: source.fields['title']!,
          day: { kind: 'date' },
        },
      },
      file,
    ).text
    expect(changed).toContain('# Boats.')
    expect(changed).toContain('# What it is called.')
    expect(changed).toContain('# always')
    expect(changed).toContain('unit: guilders')
    expect(changed).toContain('day: { kind: date }')
    expect(Object.keys(read(changed).fields)).toEqual(['price', 'title', 'day'])
    expect(read(changed).label).toBe('Boat trip')
  })
  it('writes fields on a line each', () =>
    expect(writeModelFile(read(text)).text).toMatch(/^ {2}title: \{ kind: text, required: true \}$/m))
})

describe('paths into groups', () => {
  it('lead through them and nowhere else', () => {
    expect(fieldsAt(shapedType('tour'), 'venue.door.code')?.map((field) => field.name)).toEqual([
      'venue',
      'door',
      'code',
    ])
    expect([fieldsAt(shapedType('tour'), 'lead.name'), fieldsAt(shapedType('tour'), 'venue.x')]).toEqual([
      undefined,
      undefined,
    ])
  })
})
