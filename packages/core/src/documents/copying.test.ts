import { describe, expect, it } from 'vitest'
import { documentOf, ref, shapedModel, shapedType, tours } from '../../../../e2e/support/shaped.js'
import { locales } from '../../../../e2e/support/models.js'
import { printValues } from './names.js'
import { copyDocument, type CopyMap } from './copying.js'

const tour = shapedType('tour')
const same: CopyMap = { entry: (id) => id, asset: (id) => id, locale: () => true }
const copied = (values: unknown, map: Partial<CopyMap>) =>
  printValues(shapedModel, tour, copyDocument(shapedModel, tour, documentOf('tour', values), { ...same, ...map }))

describe('a copy of a document', () => {
  it.each(tours.filter(({ type }) => type === 'tour').map(({ id, values }) => [id, values] as const))(
    'is the same where nothing is mapped: %s',
    (_, values) => {
      const document = documentOf('tour', values)
      expect(copyDocument(shapedModel, tour, document, same)).toEqual(document)
    },
  )

  it('refers to what its references are mapped to, at any depth', () => {
    const map: Partial<CopyMap> = { entry: (id) => (id === ref('anna') ? ref('nora') : undefined) }
    const values = copied(
      {
        guides: [
          { id: 'g1', value: ref('anna') },
          { id: 'g2', value: ref('bert') },
        ],
        lead: ref('bert'),
        venue: { door: { code: 'A1', keeper: ref('anna') } },
        sessions: [{ id: 's1', values: { weekday: 'monday', host: ref('bert') } }],
        body: [{ id: 'b1', block: 'box', values: { guide: ref('anna') } }],
      },
      map,
    )
    expect(values).toEqual({
      guides: [{ id: 'g1', value: ref('nora') }],
      venue: { door: { code: 'A1', keeper: ref('nora') } },
      sessions: [{ id: 's1', values: { weekday: 'monday' } }],
      body: [{ id: 'b1', block: 'box', values: { guide: ref('nora') } }],
    })
  })

  it('maps links and pictures in texts, and leaves the text of a link without target', () => {
    const link = (to: string) => ({
      type: 'link',
      url: '',
      data: { entry: ref(to) },
      children: [{ type: 'text', value: to }],
    })
    const story = (...children: object[]) => ({
      en: { type: 'root', children: [{ type: 'paragraph', data: { id: 'p1' }, children }] },
    })
    const picture = { type: 'image', url: '', data: { asset: ref('lens') } }
    const values = copied(
      { story: story(link('anna'), { type: 'text', value: ' and ' }, link('bert'), picture) },
      { entry: (id) => (id === ref('anna') ? ref('nora') : undefined), asset: () => undefined },
    ) as { story: { en: { children: { children: { type: string; data?: object }[] }[] } } }
    const [paragraph] = values.story.en.children
    expect(paragraph!.children.map(({ type, data }) => [type, data ?? null])).toEqual([
      ['link', { entry: ref('nora') }],
      ['text', null],
      ['text', null],
    ])
  })

  it('has the locales that are wanted, and no other', () => {
    const values = {
      title: { en: 'Walk', nl: 'Wandeling' },
      mail: { nl: 'a@b.example' },
      venue: { room: { nl: 'Zaal' } },
    }
    const map = { locale: (tag: string) => tag !== 'nl' }
    expect(copied(values, map)).toEqual({ title: { en: 'Walk' }, venue: {} })
    expect(locales).toContain('nl')
  })
})
