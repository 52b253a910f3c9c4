import { Validator, type Schema } from '@cfworker/json-schema'
import ts from 'typescript'
import { describe, expect, it } from 'vitest'
import { makeModel, settings } from '../../../../e2e/support/models.js'
import { shapedModel, shapedType } from '../../../../e2e/support/shaped.js'
import { jsonSchemaOf } from './jsonSchema.js'
import { sampleEntries, sampleValues } from './samples.js'
import { typeScriptOf } from './typescript.js'
import { wordFitting } from './wordFitting.js'

const problemsIn = (schema: unknown, value: unknown): string[] =>
  new Validator(schema as Schema, '2020-12', false)
    .validate(value)
    .errors.map((error) => `${error.instanceLocation} ${error.error}`)

describe('sample entries', () => {
  const { entries, problems } = sampleEntries(shapedModel, settings, { seed: 4, each: 3 })
  it('are valid, as many as asked for, and one of a type that has one', () => {
    expect(problems).toEqual([])
    expect(Object.fromEntries(Object.entries(entries).map(([type, all]) => [type, all.length]))).toEqual({
      tour: 3,
      guide: 3,
      house: 1,
    })
  })
  it('are the same for the same seed, and others for another', () => {
    expect(sampleEntries(shapedModel, settings, { seed: 4, each: 3 }).entries).toEqual(entries)
    expect(sampleEntries(shapedModel, settings, { seed: 5, each: 3 }).entries).not.toEqual(entries)
  })
  it('refer to each other, and fit patterns', () => {
    const guides = entries['guide']!.map((guide) => guide.id)
    for (const tour of entries['tour']!) {
      expect(guides).toContain((tour.values['lead'] as { id: string }).id)
      expect(tour.values['code']).toMatch(/^[A-Z]{2}-\d+$/)
    }
  })
  it('fit the JSON Schema of their type, in every locale', () => {
    for (const type of shapedModel.types)
      for (const locale of ['en', 'ar'])
        for (const entry of sampleEntries(shapedModel, settings, { seed: 2, each: 4, locale }).entries[type.name]!)
          expect(
            problemsIn(jsonSchemaOf(shapedModel, type, 'https://marram.example/x.json'), entry.values),
            type.name,
          ).toEqual([])
  })
  it('say so when a pattern is too clever for them', () => {
    const clever = (more: string) =>
      makeModel({
        thing: `type: thing\nfields:\n  name: { kind: text, required: true, pattern: { matches: '\\bz.{3}q', message: must be clever }${more} }\n`,
      })
    expect(sampleEntries(clever(''), settings).problems[0]?.message).toMatch(/Give the field an `example` that fits/)
    expect(sampleEntries(clever(', example: zabcq'), settings).problems).toEqual([])
  })
  it('are there for a form too', () =>
    expect(sampleValues(shapedModel, shapedType('tour'), settings)).toMatchObject({
      title: { en: expect.any(String) as string },
      venue: { seats: expect.any(Number) as number },
    }))
})

describe('JSON Schema', () => {
  const schema = jsonSchemaOf(shapedModel, shapedType('tour'), 'https://marram.example/tour.json')
  const sample = sampleEntries(shapedModel, settings).entries['tour']![0]!.values
  it('refuses what readers never get', () => {
    for (const [name, value] of [
      ['price', 'x'],
      ['format', 'wolk'],
      ['venue', null],
      ['lead', { id: 'x' }],
      ['sessions', [{ values: {} }]],
      ['extra', { seats: 'x' }],
      ['body', [{ id: 'a', block: 'wrods', values: {} }]],
    ] as const)
      // prettier-ignore
      expect(problemsIn(schema, { ...sample, [name]: value }), name).not.toEqual([])
    expect(problemsIn(schema, { ...sample, more: 1 })).not.toEqual([])
  })
  it('keeps old names, marked as deprecated', () => {
    const model = makeModel({ thing: 'type: thing\nfields:\n  name: { kind: text, was: title }\n' })
    expect(jsonSchemaOf(model, model.types[0]!, 'x')).toMatchObject({
      properties: { title: { deprecated: true } },
      required: ['name', 'title'],
    })
  })
})

describe('TypeScript', () => {
  /** The compiler's errors in a program that uses the types. */
  const compile = (types: string, use: string): string[] => {
    const sources: Record<string, string> = {
      'content.ts': types,
      'use.ts': `import type { Content } from './content.js'\n${use}`,
    }
    const options = {
      strict: true,
      noEmit: true,
      target: ts.ScriptTarget.ES2022,
      module: ts.ModuleKind.ESNext,
      moduleResolution: ts.ModuleResolutionKind.Bundler,
      types: [],
    }
    const host = ts.createCompilerHost(options)
    const source = (name: string) => sources[name.split('/').at(-1)!]
    const program = ts.createProgram(['/made/use.ts'], options, {
      ...host,
      getSourceFile: (name, version) => {
        const text = source(name)
        return text === undefined ? host.getSourceFile(name, version) : ts.createSourceFile(name, text, version)
      },
      fileExists: (name) => source(name) !== undefined || host.fileExists(name),
      readFile: (name) => source(name) ?? host.readFile(name),
      directoryExists: (name) => name.startsWith('/made') || host.directoryExists!(name),
    })
    return ts
      .getPreEmitDiagnostics(program)
      .map((diagnostic) => ts.flattenDiagnosticMessageText(diagnostic.messageText, ' '))
  }
  const types = typeScriptOf(shapedModel)
  it('compiles, and knows each kind', () => {
    const use = `
      declare const tour: Content['tour']
      const title: string | null = tour.title
      const tags: string[] = tour.tags
      const format: 'talk' | 'walk' | 'concert' | null = tour.format
      const code: string | null = tour.venue.door.code
      const lead: 'guide' | undefined = tour.lead?.type
      for (const block of tour.body) { if (block.block === 'words') { const text: string | null = block.values.text } else { const inside = block.values.inside } }
      for (const session of tour.sessions) { const stops: (number | null)[] = session.values.stops.map((stop) => stop.values.minutes) }
      const latitude: number | undefined = tour.place?.latitude
      const bold = tour.story?.children[0]?.data.id
      declare const house: Content['house']
      const name: string | null = house.name`
    expect(compile(types, use)).toEqual([])
  }, 60_000)
  it('refuses what is not so', () => {
    const errors = compile(
      types,
      "declare const tour: Content['tour']\nconst a: string = tour.title\nconst b = tour.titel\nconst c: 'wolk' = tour.format!\nconst d: string = tour.lead!.name",
    )
    expect(errors).toHaveLength(4)
  }, 60_000)
  it('takes required fields to be there only when told to', () => {
    const trusting = typeScriptOf(shapedModel, { trustRequired: true })
    expect(trusting).toMatch(/^ {2}title: string$/m)
    // A value that a rule may hide can be missing.
    expect(trusting).toMatch(/^ {2}place: Location \| null$/m)
  })
})

describe('words that fit', () => {
  it.each(['[A-Z]{2}-\\d{3,5}', '(SH|OC|GF)-\\d{3}', '\\d\\d:\\d\\d', '\\+?[\\d ]{6,20}', '[^0-9]x*y+', 'a(b|c){2}'])(
    '%s',
    (pattern) => {
      for (const seed of [1, 2, 9]) expect(wordFitting(pattern, seed)).toMatch(new RegExp(`^(?:${pattern})$`, 'u'))
    },
  )
})
