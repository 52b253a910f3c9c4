import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { makeModel, model } from '../../../../e2e/support/models.js'
import { shapedModel } from '../../../../e2e/support/shaped.js'
import { completeCondition } from '../conditions/complete.js'
import { WisteriaError } from '../base/errors.js'
import { ownersInside, typeNamed, type Model } from '../model/model.js'
import { readSelection } from './check.js'
import { completeSelection } from './complete.js'
import { renditionAddress, renditionFor, renditionSides, renditionSize } from './options.js'
import { parseSelection, selectionLimits } from './parse.js'
import { askedFields, everything, type Selection } from './selection.js'
import { often } from '../../../../e2e/support/length.js'

const activity = typeNamed(model, 'activity')!
const tour = typeNamed(shapedModel, 'tour')!
const blockNamed = (name: string) => model.blockTypes.find((blockType) => blockType.name === name)!

/** A selection as a nested list of names, to look at it. */
function shown(selection: Selection, owner = activity, current: Model = model, depth = 3): unknown[] {
  return (selection.of(owner) ?? []).map(({ name, field: _, inside, ...more }) => {
    const said = Object.keys(more).length > 0 ? [more] : []
    if (!inside || depth === 0) return said.length > 0 ? [name, ...said] : name
    const next = current.types
      .filter((type) => inside.of(type))
      .map((type) => [type.name, ...shown(inside, type, current, depth - 1)])
    return [name, ...said, ...next]
  })
}

const refusalOf = (text: string, current: Model = model, owner = activity): string => {
  try {
    readSelection(text, current, [owner])
  } catch (error) {
    expect(error).toBeInstanceOf(WisteriaError)
    expect((error as WisteriaError).code).toBe('badSelection')
    return (error as WisteriaError).message
  }
  throw new Error(`${text} was taken`)
}

describe('a selection', () => {
  it.each([
    ['title, format', ['title', 'format']],
    [' title ,\n format ', ['title', 'format']],
    ['museum', ['museum']],
    ['museum(name)', [['museum', ['museum', 'name']]]],
    ['museum(name), museum(town)', [['museum', ['museum', 'name', 'town']]]],
    ['museum, museum(name)', [['museum', ['museum', 'name']]]],
    ['speakers(first: 2, name)', [['speakers', { first: 2 }, ['person', 'name']]]],
    ['title, title', ['title']],
  ])('%s', (text, wanted) => expect(shown(readSelection(text, model, [activity]))).toEqual(wanted))

  it('takes all fields, and says more of some', () => {
    const names = shown(readSelection('*, museum(name)', model, [activity]))
    expect(names).toHaveLength(activity.fields.length)
    expect(names).toContainEqual(['museum', ['museum', 'name']])
  })

  it('takes a field as one type has it, whatever another has of that name', () => {
    const site = makeModel({
      walk: 'type: walk\nfields:\n  title: { kind: text }\n  guide: { kind: entry, accepts: [walk] }\n',
      talk: 'type: talk\nfields:\n  title: { kind: text }\n  guide: { kind: text, many: true }\n',
    })
    const selection = readSelection('title, guide(title)', site, site.types)
    expect(shown(selection, typeNamed(site, 'walk'), site)).toEqual(['title', ['guide', ['walk', 'title']]])
    expect(shown(selection, typeNamed(site, 'talk'), site)).toEqual(['title', 'guide'])
    // A field that none of the types has is still an error, and so is one named for a single type only.
    expect(() => readSelection('title(x)', site, site.types)).toThrow(/nothing inside/)
    expect(() => readSelection('@talk(guide(title))', site, site.types)).toThrow(/nothing inside/)
  })

  it('takes what is inside blocks by their types, and what they share', () => {
    const body = readSelection('body(@heading(text), @quote)', model, [activity]).of(activity)![0]!.inside!
    const named = (name: string) => body.of(blockNamed(name))?.map((chosen) => chosen.name)
    const [other] = model.blockTypes.filter(({ name }) => name !== 'heading' && name !== 'quote')
    expect(named('heading')).toEqual(['text'])
    expect(named('quote')!.length).toBeGreaterThan(0)
    if (other) expect(named(other.name) ?? []).toEqual([])
  })

  it('goes into groups with dots or parentheses', () => {
    const group = (text: string) =>
      readSelection(text, shapedModel, [tour])
        .of(tour)!
        .map(({ name, field, inside }) => [name, inside?.of(field as never)?.map((chosen) => chosen.name)])
    expect(group('venue.seats, venue.door')).toEqual(group('venue(seats, door)'))
  })

  it.each([
    ['', /Nothing is chosen/],
    ['titel', /`titel` is not a field of activity. Did you mean `title`\?.*\(column 1\)/],
    ['title, museum(nam)', /`nam` is not a field of museum. Did you mean `name`\?.*\(column 15\)/],
    ['title,', /The name of a field is missing before the end/],
    ['title format', /A `,` is missing before `f`/],
    ['museum(name', /A `,` or `\)` is missing before the end/],
    ['museum()', /The name of a field is missing before `\)`/],
    ['title(name)', /`title` has nothing inside to choose from: it is of kind text/],
    ['title(as: html)', /`title` takes no options/],
    ['museum(first: 2)', /`museum` takes no options/],
    ['speakers(first: 0)', /`first` must be a whole number from 1 to 1000, not 0/],
    ['speakers(first: 1), speakers(first: 2)', /`first` of `speakers` is given twice/],
    ['speakers(frist: 1)', /`frist` is not an option of `speakers`. Did you mean `first`\?/],
    ['as: html', /An option goes in the parentheses of a field/],
    ['museum(@person(name))', /`person` cannot be here: museum can/],
    ['body(heading)', /`heading` is not a field but what may be here: write `@heading\(…\)`/],
    ['title, @', /The name of a type or block is missing after `@`/],
    ['"title"', /The name of a field is missing before `"`/],
    ['title\n, titel', /\(line 2, column 3\)/],
    [`${'museum('.repeat(12)}name`, /nests at most 8 deep/],
    ['x'.repeat(5000), /longer than 4000 characters/],
    [Array.from({ length: selectionLimits.items + 1 }, () => '*').join(','), /at most 300 items/],
  ])('%j is refused', (text, message) => expect(refusalOf(text)).toMatch(message))

  it('is refused in bounded time, however it is made', () => {
    for (const text of ['('.repeat(4000), '*,'.repeat(2000), 'a.'.repeat(2000), '@'.repeat(4000), 'body('.repeat(800)])
      expect(() => parseSelection(text)).toThrow(WisteriaError)
  })

  it('of everything follows references as deep as it is told', () => {
    const deep = (depth: number) =>
      everything(model, depth)
        .of(activity)!
        .find(({ name }) => name === 'museum')!
    expect(deep(0).inside).toBeUndefined()
    expect(deep(1).inside!.of(typeNamed(model, 'museum')!)!.length).toBeGreaterThan(2)
    expect(everything(model, 1)).toBe(everything(model, 1))
  })
})

describe('a rendition', () => {
  it('has the size that its picture will have', () => {
    expect(renditionSize(1000, 500, { w: 400 })).toEqual({ width: 400, height: 200 })
    expect(renditionSize(1000, 500, { w: 4000 })).toEqual({ width: 1000, height: 500 })
    expect(renditionSize(1000, 500, { w: 300, h: 300, fit: 'cover' })).toEqual({ width: 320, height: 320 })
    expect(renditionSize(null, null, { w: 300 })).toEqual({ width: null, height: null })
    expect(renditionAddress('/a.png?v=1', { w: 3, format: 'webp' })).toBe('/a.png?v=1&w=16&format=webp')
    expect([renditionAddress('/a.png', { h: 20 }), renditionAddress('/a.png', {})]).toEqual(['/a.png?h=32', '/a.png'])
  })
})

describe('the sizes of renditions', () => {
  it('are not many, and keep the proportions that were asked for', () => {
    const sizes = new Set(Array.from({ length: 4000 }, (_, index) => renditionFor({ w: index + 1 }).w))
    expect([...sizes]).toEqual([...renditionSides])
    for (const [w, h] of [
      [16, 9],
      [300, 200],
      [1200, 630],
      [500, 500],
      [9, 16],
      [3840, 2160],
    ] as const) {
      const rendition = renditionFor({ w, h, fit: 'cover' })
      expect(
        rendition.w! >= w && Math.abs(rendition.h! / rendition.w! - h / w) < 0.003 + 0.5 / rendition.w!,
        `${w} ${h} ${JSON.stringify(rendition)}`,
      ).toBe(true)
      expect(renditionFor(rendition)).toEqual(rendition)
    }
  })
})

describe('what could be written', () => {
  const picks = (text: string) =>
    completeSelection(text, text.length, model, [activity]).suggestions.map(({ label }) => label)
  it.each([
    ['', ['title', 'museum']],
    ['title, mu', ['museum']],
    ['museum(', ['name', 'town']],
    ['museum(name, ', ['town']],
    ['museum(name), ', ['format']],
    ['speakers(', ['name', 'first: ']],
    ['body(', ['@heading', '@quote']],
    ['body(@heading(', ['text']],
  ])('in the selection %j', (text, wanted) => expect(picks(text)).toEqual(expect.arrayContaining(wanted)))

  const asks = (text: string) =>
    completeCondition(text, text.length, model, [activity], ['type', 'updated']).suggestions.map(({ label }) => label)
  it.each([
    ['', ['title', 'museum', 'entry.updated', 'not']],
    ['museum.', ['museum.name', 'museum.town']],
    ['format ', ['=', 'in']],
    ['format = ', ['"talk"', '"walk"']],
    ['format in ["talk", ', ['"walk"']],
    ['title ', ['contains', 'starts with']],
    ['starts >= ', ['now', 'today']],
    ['format = "talk" ', ['and', 'or']],
    ['format = "talk" and not (', ['title']],
    ['any speakers (', ['name']],
    ['any speakers (name has value) and ', ['format']],
  ])('in the condition %j', (text, wanted) => expect(asks(text)).toEqual(expect.arrayContaining(wanted)))
  it('in a condition on a choice is nothing that does not go with it', () => {
    expect(asks('format ')).not.toContain('contains')
    expect(asks('any speakers (')).not.toContain('format')
  })
})

describe('what is chosen as a whole, of models at random', () => {
  const field = fc.oneof(
    fc.constant('{ kind: text, localized: true }'),
    fc.constant('{ kind: richText }'),
    fc
      .record({ many: fc.boolean(), of: fc.uniqueArray(fc.constantFrom('b0', 'b1', 'b2'), { minLength: 1 }) })
      .map(({ many, of }) => `{ kind: block, many: ${many}, accepts: [${of.join(', ')}] }`),
    fc
      .record({ many: fc.boolean(), of: fc.uniqueArray(fc.constantFrom('x', 'y'), { minLength: 1 }) })
      .map(({ many, of }) => `{ kind: entry, many: ${many}, accepts: [${of.join(', ')}] }`),
    fc
      .boolean()
      .map(
        (many) =>
          `{ kind: group, many: ${many}, fields: { inner: { kind: block, many: true, accepts: [b0, b1] }, word: { kind: text } } }`,
      ),
  )
  const owner = (head: string, name = '') =>
    fc
      .array(field, { minLength: 1, maxLength: 4 })
      .map((fields) => `${head}\nfields:\n${name}${fields.map((field, index) => `  f${index}: ${field}`).join('\n')}\n`)
  const named = '  title: { kind: text }\n'
  const owners = fc.record({
    x: owner('type: x', named),
    y: owner('type: y', named),
    b0: owner('block: b0'),
    b1: owner('block: b1'),
    b2: owner('block: b2'),
  })

  it('ends, however blocks hold each other, and reaches every field once', () => {
    fc.assert(
      fc.property(owners, (texts) => {
        const aliased = makeModel(texts)
        for (const type of aliased.types)
          for (const text of ['*', '*, f0', ...type.fields.map((field) => field.name)]) {
            const selection = readSelection(text, aliased, [type])
            const asked = askedFields(selection, [type], (owner) => ownersInside(aliased, owner))
            const top = asked.filter(
              (field) => field.owner === type.id && type.fields.some(({ id }) => id === field.field),
            )
            expect(top.length).toBe(text.startsWith('*') ? type.fields.length : 1)
            expect(new Set(asked.map((field) => `${field.owner} ${field.field}`)).size).toBe(asked.length)
          }
      }),
      { numRuns: often(100, 2000) },
    )
  })
})
