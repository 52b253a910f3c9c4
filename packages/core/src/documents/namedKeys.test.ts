import fc from 'fast-check'
import { expect, it } from 'vitest'
import { emptyModel, type Model } from '../model/model.js'
import { readModelFiles } from '../modelFiles/files.js'
import { resolveModel } from '../modelFiles/resolve.js'
import type { Document } from './document.js'
import { withNamedKeys, withStoredKeys } from './namedKeys.js'

const model: Model = resolveModel(
  readModelFiles([
    {
      name: 'page.yaml',
      text: `
type: page
namedBy: title
fields:
  title: { kind: text, localized: true }
  contact: { kind: group, fields: { phone: { kind: text }, note: { kind: text, localized: true } } }
  rooms: { kind: group, many: true, fields: { name: { kind: text } } }
  parts: { kind: block, accepts: [quote], many: true }
  words: { kind: block, accepts: [quote], many: true, localized: true }
`,
    },
    {
      name: 'quote.yaml',
      text: `
block: quote
fields:
  text: { kind: text, localized: true }
  parts: { kind: block, accepts: [quote], many: true }
`,
    },
  ]),
  emptyModel,
  { locales: ['en', 'nl'], defaultLocale: 'en', timeZone: 'UTC' },
)
const type = model.types[0]!
const field = (name: string): string => type.fields.find((candidate) => candidate.name === name)!.id
const quote = model.blockTypes[0]!

it('writes names for ids, also inside groups, blocks and locales', () => {
  const group = type.fields.find(({ name }) => name === 'contact')!
  const named = withNamedKeys(model, type, {
    [field('title')]: { en: 'Mill', nl: null },
    [field('contact')]: { [group.fields![1]!.id]: { en: 'ring' } },
    [field('words')]: { nl: [{ id: 'x', block: quote.id, values: { [quote.fields[0]!.id]: 'Ja' } }] },
    f900: { kept: true },
  })
  expect(named).toEqual({
    title: { en: 'Mill', nl: null },
    contact: { note: { en: 'ring' } },
    words: { nl: [{ id: 'x', block: 'quote', values: { text: 'Ja' } }] },
    '#f900': { kept: true },
  })
})

it('refuses a name that the model does not have', () => {
  expect(() => withStoredKeys(model, type, { tittle: 'x' })).toThrow('`tittle` is not a name in page.')
})

it('reads what it writes, whatever the document is', () => {
  const ids = [...type.fields, ...type.fields.flatMap((one) => one.fields ?? []), ...quote.fields].map(({ id }) => id)
  const key = fc.oneof(fc.constantFrom(...ids), fc.constantFrom('f900', '#f1', 'title', 'en', '#', ''))
  const { document } = fc.letrec<{ value: unknown; document: Document }>((tie) => ({
    value: fc.oneof(
      { depthSize: 'small' },
      fc.jsonValue({ maxDepth: 1 }),
      tie('document'),
      fc.dictionary(fc.constantFrom('en', 'nl'), tie('value')),
      fc.array(
        fc.record(
          { id: fc.string(), block: fc.constantFrom(quote.id, 'b900', 'quote', 7), values: tie('document') },
          { requiredKeys: ['id', 'values'] },
        ),
        { maxLength: 3 },
      ),
    ),
    document: fc.dictionary(key, tie('value'), { maxKeys: 5 }),
  }))
  fc.assert(
    fc.property(document, (stored) => {
      const text = JSON.stringify(withNamedKeys(model, type, stored))
      expect(withStoredKeys(model, type, JSON.parse(text) as Document)).toEqual(JSON.parse(JSON.stringify(stored)))
    }),
    { numRuns: 500 },
  )
})
