import { Validator, type Schema } from '@cfworker/json-schema'
import { describe, expect, it } from 'vitest'
import { files, makeModel, settings } from '../../../../e2e/support/models.js'
import { kindNamed } from '../fields/kinds.js'
import { isListForReaders, shapeOf } from '../model/model.js'
import { jsonSchemaOf } from '../printing/jsonSchema.js'
import { sampleEntries } from '../printing/samples.js'
import { typeScriptOf } from '../printing/typescript.js'
import { upgradeDocument } from '../documents/upgrade.js'
import {
  holdsListings,
  noReferences,
  collectReferences,
  resolveReferences,
  type ReferenceSource,
} from '../documents/resolveReferences.js'

const model = makeModel({
  ...files,
  latest: `
block: latest
fields:
  entries: { kind: listing, accepts: [activity, person], max: 5 }
  inside: { kind: block, accepts: [latest], many: true }
`,
  front: `
type: front
fields:
  title: { kind: text }
  top: { kind: listing, accepts: [activity] }
  side: { kind: group, fields: { news: { kind: listing, accepts: [person] } } }
  rows: { kind: group, many: true, fields: { news: { kind: listing, accepts: [person] } } }
  body: { kind: block, accepts: [latest], many: true }
`,
})
const front = model.types.find((type) => type.name === 'front')!
const top = front.fields.find((field) => field.name === 'top')!
const listing = (first: number) => ({ type: 'activity', first })
const values = {
  title: 'Front',
  top: listing(1),
  side: { news: listing(2) },
  rows: [{ id: 'r', values: { news: listing(3) } }],
  body: [
    {
      id: 'b',
      block: 'latest',
      values: {
        entries: listing(4),
        inside: [{ id: 'c', block: 'latest', values: { entries: listing(5), inside: [] } }],
      },
    },
  ],
}
const reachable: ReferenceSource = {
  typeOf: () => undefined,
  asset: () => undefined,
  listed: ({ first }) => [{ id: `found-${first}`, type: 'activity' }],
  richText: 'document',
  links: { entry: () => undefined, asset: () => undefined },
}

describe('lists that fill themselves', () => {
  it('are found at any depth, once each', () => {
    const listingsIn = (values: Record<string, unknown>) => {
      const reached = noReferences()
      collectReferences(model, front, values, reached)
      return reached.listings.map(({ listing }) => listing.first)
    }
    expect(listingsIn(values)).toEqual([1, 2, 3, 4, 5])
    expect(listingsIn({ title: 'Front', top: null })).toEqual([])
    expect(holdsListings(model, front)).toBe(true)
    expect(
      holdsListings(
        model,
        model.types.find((type) => type.name === 'museum')!,
      ),
    ).toBe(false)
  })
  it('are lists for readers, filled where they stand', () => {
    expect([isListForReaders(top), shapeOf(top)]).toEqual([true, { is: 'reference', to: ['activity'], filled: true }])
    const resolved = resolveReferences(model, front, values, reachable) as typeof values
    expect(resolved.top).toEqual([{ id: 'found-1', type: 'activity' }])
    expect(resolved.rows[0]!.values.news).toEqual([{ id: 'found-3', type: 'activity' }])
    expect(JSON.stringify(resolved.body)).toContain('found-5')
    expect(resolveReferences(model, front, { title: 'x' }, reachable)['top']).toEqual([])
  })
  it('have types, a schema and samples as lists of references', () => {
    expect(typeScriptOf(model)).toMatch(/top: ReferenceTo<'activity'>\[\]/)
    const { entries, problems } = sampleEntries(model, settings, { seed: 3, each: 2 })
    expect(problems).toEqual([])
    const schema = jsonSchemaOf(model, front, 'https://content.example/front.json')
    for (const entry of entries['front']!)
      expect(new Validator(schema as Schema, '2020-12', false).validate(entry.values).errors).toEqual([])
  })
  it('take one form, and say when it is another or lists too much', () => {
    const kind = kindNamed('listing')
    const options = { accepts: ['activity'], max: 5 }
    for (const good of [listing(3), { ...listing(1), where: 'format = "walk"', sort: '-starts' }])
      expect(kind.checkForm(good, options)).toBeUndefined()
    for (const bad of [
      null,
      'activity',
      {},
      { type: 'activity' },
      listing(0),
      listing(101),
      { ...listing(1), other: 1 },
      { ...listing(1), where: '' },
    ])
      // prettier-ignore
      expect(kind.checkForm(bad, options)).toMatch(/must be `{ type, where, sort, first }`/)
    expect(kind.checkRules(listing(6), options)).toEqual([expect.objectContaining({ code: 'tooMany' })])
    expect(kind.checkRules(listing(5), options)).toEqual([])
  })
})

describe('a list that was stored in an earlier form', () => {
  const stored = (where: string, sort?: string) => ({ type: 'activity', first: 3, where, ...(sort ? { sort } : {}) })
  it('is read in the form of now, wherever it stands, and otherwise is the same object', () => {
    const idOf = (name: string) => front.fields.find((field) => field.name === name)!.id
    const now = stored('starts >= today', '-entry.updated')
    const document = { [idOf('top')]: stored('starts >= $today and $published < $now - 2 days', '-$updated,title') }
    expect(upgradeDocument(model, front, document, model.version)).toEqual({
      [idOf('top')]: stored('starts >= today and entry.published < now - 2 days', '-entry.updated,title'),
    })
    const { first, ...more } = now
    expect(upgradeDocument(model, front, { [idOf('top')]: { ...more, limit: first } }, model.version)).toEqual({
      [idOf('top')]: now,
    })
    const asNow = { [idOf('top')]: now }
    expect(upgradeDocument(model, front, asNow, model.version)).toBe(asNow)
  })
})
