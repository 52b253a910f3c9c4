import { describe, expect, it } from 'vitest'
import { asFiles, files, makeModel, model, modelSite, refusal } from '../../../../e2e/support/models.js'
import type { WisteriaError } from '../base/errors.js'
import { consequencesOf } from './consequences.js'
import { readModelFiles } from './files.js'
import { emptyModel, isLocalized, typeNamed } from '../model/model.js'
import { resolveModel } from './resolve.js'

const problemsOf = async (texts: Record<string, string>) =>
  (await refusal<WisteriaError>(() => makeModel(texts))).problems

describe('reading model files', () => {
  it('makes types, blocks and fields with what the files say', () => {
    const activity = typeNamed(model, 'activity')!
    expect(activity.graphql).toEqual({ type: 'Activity', one: 'activity', many: 'activities' })
    expect(activity.namedBy).toBe('title')
    expect(activity.fields.map((field) => field.name).slice(0, 4)).toEqual(['title', 'slug', 'format', 'museum'])
    expect(activity.fields.find((field) => field.name === 'format')).toMatchObject({
      label: 'Format',
      required: true,
      localized: false,
      many: false,
      indexed: true,
    })
    expect(activity.fields.find((field) => field.name === 'body')).toMatchObject({
      many: true,
      indexed: false,
      count: { max: 3 },
    })
    expect(isLocalized(model, activity)).toBe(true)
    expect(isLocalized(model, typeNamed(model, 'person')!)).toBe(false)
  })

  it.each([
    [
      'an unknown option, with the nearest',
      'type: a\nfields:\n  title: { kind: text, lenght: { max: 3 } }',
      3,
      24,
      /`lenght` is not an option of a field of kind text. Did you mean `length`\?/,
    ],
    [
      'an unknown kind, with the nearest',
      'type: a\nfields:\n  title:\n    kind: texts',
      4,
      11,
      /names no field kind. Did you mean `text`\? The kinds are text, /,
    ],
    [
      'an option of the wrong form',
      'type: a\nfields:\n  title: { kind: text, required: maybe }',
      3,
      34,
      /`fields.title.required` must be true or false/,
    ],
    [
      'a wrong option of a kind',
      'type: a\nfields:\n  title: { kind: text }\n  n: { kind: number, range: { min: 5, max: 1 } }',
      4,
      29,
      /min is more than max/,
    ],
    ['a bad name', 'type: a\nfields:\n  Title: { kind: text }', 3, 3, /`Title` is not a name/],
    [
      'a name of our own',
      'type: a\nfields:\n  title: { kind: text }\n  locale: { kind: text }',
      4,
      3,
      /`locale` is a reserved name/,
    ],
    ['a twofold key', 'type: a\nfields:\n  title: { kind: text }\n  title: { kind: text }', 4, 3, /unique/],
    ['broken YAML', 'type: a\nfields: {', 2, 10, /./],
    ['a file that is no type', 'name: a', 1, 1, /begins with `type: name` or `block: name`/],
    ['a missing part', 'type: a', 1, 1, /`fields` is missing/],
    [
      'a type that is not there',
      'type: a\nfields:\n  title: { kind: text }\n  to: { kind: entry, accepts: [museums] }',
      4,
      32,
      /`museums` is not a type of this model/,
    ],
    [
      'a naming field that is not there',
      'type: a\nnamedBy: titel\nfields:\n  title: { kind: text }',
      2,
      10,
      /Did you mean `title`\?/,
    ],
    [
      'a type without a name for its entries',
      'type: a\nfields:\n  n: { kind: number }',
      3,
      3,
      /needs a field of kind text/,
    ],
    [
      'an unknown locale',
      "type: a\npath: { de: '/x/{slug}' }\nfields:\n  title: { kind: text }\n  slug: { kind: slug }",
      2,
      9,
      /`de` is not a locale of this site \(en, nl, nl-BE, ar\)/,
    ],
    [
      'a pattern without a slash',
      "type: a\npath: { en: 'x/{slug}' }\nfields:\n  title: { kind: text }\n  slug: { kind: slug }",
      2,
      13,
      /must begin with `\/`/,
    ],
    [
      'a placeholder that is no field',
      "type: a\npath: { en: '/x/{slugg}' }\nfields:\n  title: { kind: text }\n  slug: { kind: slug }",
      2,
      13,
      /Did you mean `slug`\?/,
    ],
    [
      'a pattern that gives all one path',
      "type: a\npath: { en: '/x' }\nfields:\n  title: { kind: text }",
      2,
      13,
      /needs a placeholder/,
    ],
    [
      'a count without many',
      'type: a\nfields:\n  title: { kind: text, count: { max: 2 } }',
      3,
      31,
      /`count` belongs to a field with `many: true`/,
    ],
    [
      'a slug from nowhere',
      'type: a\nfields:\n  title: { kind: text }\n  slug: { kind: slug, from: name }',
      4,
      29,
      /`from` must name a field of kind text/,
    ],
  ])('tells of %s, at its line and column', async (_, text, line, column, message) => {
    const [problem] = await problemsOf({ a: text })
    expect(problem?.message).toMatch(message)
    expect([problem?.file, problem?.line, problem?.column]).toEqual(['a.yaml', line, column])
  })

  it('tells of every mistake at once, in every file', async () => {
    const problems = await problemsOf({
      a: 'type: a\nfields:\n  x: { kind: wrong }\n  Y: { kind: text }',
      b: 'block: b\nfieds: {}',
    })
    expect(problems.map((problem) => problem.file)).toEqual(expect.arrayContaining(['a.yaml', 'a.yaml', 'b.yaml']))
    expect(problems.length).toBeGreaterThanOrEqual(3)
  })

  it('refuses names that clash, in the model or in GraphQL', async () => {
    expect(
      (
        await problemsOf({ a: 'type: a\nfields: { t: { kind: text } }', b: 'type: a\nfields: { t: { kind: text } }' })
      )[0]?.message,
    ).toMatch(/another type named `a`/)
    expect((await problemsOf({ a: 'type: sheep\nplural: sheep\nfields: { t: { kind: text } }' }))[0]?.message).toMatch(
      /both be `sheep` in GraphQL/,
    )
    expect((await problemsOf({ a: 'type: entry\nfields: { t: { kind: text } }' }))[0]?.message).toMatch(
      /is a reserved name/,
    )
  })

  it('refuses nothing at all, and a file that is far too large', async () => {
    expect((await refusal(() => readModelFiles([]))).message).toMatch(/no files/)
    expect((await problemsOf({ a: 'type: a\n' + '#'.repeat(1_000_001) }))[0]?.code).toBe('tooLarge')
  })
})

describe('internal ids', () => {
  it('are unique, and kept as long as the name is', () => {
    const ids = [...model.types, ...model.blockTypes].flatMap((owner) => [
      owner.id,
      ...owner.fields.map((field) => field.id),
    ])
    expect(new Set(ids).size).toBe(ids.length)
    const again = makeModel(files, model)
    expect(again.types.map((type) => type.id)).toEqual(model.types.map((type) => type.id))
    expect(again.nextId).toBe(model.nextId)
    expect(again.version).toBe(model.version + 1)
  })

  it('follow a rename by `was:`, and are never given out again', () => {
    const renamed = makeModel(
      { ...files, museum: files.museum.replace('town: { kind: text', 'place: { kind: text, was: town') },
      model,
    )
    const before = typeNamed(model, 'museum')!.fields.find((field) => field.name === 'town')!
    expect(typeNamed(renamed, 'museum')!.fields.find((field) => field.name === 'place')!.id).toBe(before.id)
    const { person: _, ...without } = { ...files, activity: files.activity.replace(/ {2}speakers.*\n/, '') }
    const smaller = makeModel(without, model)
    const back = makeModel(files, smaller)
    expect(typeNamed(back, 'person')!.id).not.toBe(typeNamed(model, 'person')!.id)
  })

  it('keep the names in GraphQL when a type is renamed', () => {
    const renamed = makeModel(
      {
        ...files,
        person: files.person.replace('type: person', 'type: human\nwas: person'),
        activity: files.activity.replace('accepts: [person]', 'accepts: [human]'),
      },
      model,
    )
    expect(typeNamed(renamed, 'human')!.graphql).toEqual({ type: 'Person', one: 'person', many: 'people' })
  })
})

describe('consequences', () => {
  const compare = (texts: Record<string, string>, counts: Record<string, number> = {}, inBin = {}) =>
    consequencesOf(model, resolveModel(readModelFiles(asFiles(texts)), model, modelSite), counts, inBin)
  const some = { [typeNamed(model, 'museum')!.id]: 3 }

  it('are none for the same files', () => expect(compare(files, some)).toEqual([]))
  it('of a first model are what is new', () =>
    expect(consequencesOf(emptyModel, model, {}).every((consequence) => consequence.weight === 'plain')).toBe(true))

  it.each([
    ['fieldAdded', 'plain', { museum: files.museum + '  phone: { kind: text }\n' }],
    ['fieldRemoved', 'breaking', { museum: files.museum.replace(/ {2}town.*\n/, '') }],
    ['fieldRenamed', 'plain', { museum: files.museum.replace('town: { kind: text', 'place: { kind: text, was: town') }],
    [
      'fieldReshaped',
      'refused',
      { museum: files.museum.replace('town: { kind: text, indexed: true }', 'town: { kind: location }') },
    ],
    [
      'fieldReshaped',
      'breaking',
      { museum: files.museum.replace('town: { kind: text', 'town: { kind: text, localized: true') },
    ],
    ['fieldChanged', 'plain', { museum: files.museum.replace('max: 40', 'max: 50') }],
    ['typeChanged', 'breaking', { museum: files.museum.replace("'/museums/{slug}'", "'/places/{slug}'") }],
    ['typeChanged', 'plain', { museum: files.museum.replace('namedBy: name', 'namedBy: name\nlabel: A museum') }],
  ])('tell of %s (%s)', (code, weight, change) => {
    expect(compare({ ...files, ...change }, some)[0]).toMatchObject({ code, weight })
  })

  it('refuse to remove a type that has entries, and allow it without', () => {
    const { person: _, ...rest } = { ...files, activity: files.activity.replace(/ {2}speakers.*\n/, '') }
    const [person] = model.types.filter((type) => type.name === 'person')
    expect(compare(rest, { [person!.id]: 10 })[0]).toMatchObject({
      code: 'typeRemoved',
      weight: 'refused',
      message: expect.stringContaining('10 entries') as string,
    })
    const goes = (inBin = {}) => compare(rest, {}, inBin).find((change) => change.code === 'typeRemoved')
    expect(goes()).toMatchObject({ weight: 'breaking', message: 'The type is removed. It has no entries.' })
    expect(goes({ [person!.id]: 1 })).toMatchObject({
      weight: 'breaking',
      message: expect.stringContaining('1 entry in the bin with it') as string,
    })
  })

  it('put the worst first', () => {
    const weights = compare(
      {
        ...files,
        museum: files.museum.replace(
          'town: { kind: text, indexed: true }',
          'town: { kind: location }\n  phone: { kind: text }',
        ),
      },
      some,
    ).map((change) => change.weight)
    expect(weights).toEqual(['refused', 'breaking', 'plain', 'plain'])
  })
})
