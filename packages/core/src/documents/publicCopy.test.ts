import { expect, it } from 'vitest'
import { emptyModel } from '../model/model.js'
import { readModelFiles } from '../modelFiles/files.js'
import { resolveModel } from '../modelFiles/resolve.js'
import { publicCopy } from './publicCopy.js'

const settings = {
  label: 'Marram',
  defaultLocale: 'en',
  timeZone: 'UTC',
  locales: ['en', 'nl'].map((tag) => ({ tag, label: tag, fallback: [] })),
}
const model = resolveModel(
  readModelFiles([
    {
      name: 'walk.yaml',
      text: `
type: walk
namedBy: title
fields:
  title: { kind: text, localized: true }
  isPaid: { kind: boolean }
  price: { kind: number, showIf: 'isPaid = true' }
  next: { kind: entry, many: true, accepts: [walk] }
`,
    },
  ]),
  emptyModel,
  { locales: ['en', 'nl'], defaultLocale: 'en', timeZone: 'UTC' },
)
const [walk] = model.types
const [title, isPaid, price, next] = walk!.fields.map(({ id }) => id) as [string, string, string, string]

it('has what is public, and no draft, hidden value or reference to what is not public', () => {
  const [open, closed] = ['0'.repeat(20), '1'.repeat(20)]
  const document = {
    [title]: { en: 'Dune walk', nl: 'Duinwandeling', fy: 'Dúnkuier' },
    [isPaid]: false,
    [price]: 12,
    [next]: [
      { id: 'a', value: open },
      { id: 'b', value: closed },
    ],
    f900: 'Of a field that is gone',
  }
  const copy = publicCopy(
    model,
    walk!,
    { shared: document, locales: { en: document, fy: document } },
    settings,
    (id) => id === open,
  )
  expect(copy).toEqual({
    [title]: { en: 'Dune walk' },
    [isPaid]: false,
    [next]: [{ id: 'a', value: open }],
  })
})
