import { mount } from '@vue/test-utils'
import { readRichText, type Field, type Phrasing, type RichText } from '@wisteria/core'
import { describe, expect, it } from 'vitest'
import { defineComponent, h, nextTick } from 'vue'
import { shapedModel, shapedType } from '../../../../e2e/support/shaped.js'
import FieldSet from '../editor/FieldSet.vue'
import { createWorkingCopy, provideWorkingCopy } from '../editor/workingCopy'
import { deskWith, entryOf } from '../testing/desk'
import { readJson } from './jsonText'
import { fromNodes, newBlockId, toNodes } from './richTextNodes'
import { readSpan } from './spans'

const tour = shapedType('tour')

/** The form of a tour, or of some of its fields, with its values. */
function form(
  names: readonly string[],
  values: Record<string, unknown>,
  more: Partial<Parameters<typeof entryOf>[1]> = {},
) {
  const { site } = deskWith(
    {},
    {
      asset: () =>
        Promise.resolve({
          id: 'p',
          name: 'lamp.png',
          address: 'http://x/assets/lamp.png',
          mediaType: 'image/png',
          size: 1,
          width: 1,
          height: 1,
          alt: { en: 'A lamp' },
        }),
    },
  )
  const copy = createWorkingCopy({ ...site, model: shapedModel }, tour, entryOf(values, more))
  const owner = { ...tour, fields: tour.fields.filter((field: Field) => names.includes(field.name)) }
  const Desk = defineComponent({
    setup() {
      provideWorkingCopy(copy)
      return () => h(FieldSet, { owner, container: copy.values, locale: 'en', pointer: '/values' })
    },
  })
  return { copy, form: mount(Desk, { attachTo: document.body }) }
}

describe('forms that only ask what applies', () => {
  it('show a field where its rule holds, and say what is kept where it does not', async () => {
    const { copy, form: wrapper } = form(['format', 'place', 'forAll'], {
      format: 'walk',
      place: { latitude: 52, longitude: 4 },
    })
    expect(wrapper.text()).toContain('Place')
    copy.values['format'] = 'talk'
    await nextTick()
    expect(wrapper.findAll('label').map((element) => element.text())).not.toContain('Place *')
    expect(wrapper.find('.kept').text()).toContain(
      'Place: hidden from readers, because format = "walk" does not hold. The values are kept.',
    )
    expect(copy.values['place']).toEqual({ latitude: 52, longitude: 4 })
  })
  it('need a field where its rule says so', async () => {
    const { copy, form: wrapper } = form(['format', 'place', 'forAll'], { format: 'walk' })
    const mark = () =>
      wrapper
        .findAll('label')
        .find((element) => element.text().startsWith('Place'))!
        .text()
    expect(mark()).toBe('Place *')
    copy.values['forAll'] = true
    await nextTick()
    expect(mark()).toBe('Place')
  })
  it('hide a section as a whole, fold it, and lock what is locked', async () => {
    const { copy, form: wrapper } = form(['format', 'price', 'code', 'meta'], { format: 'concert', code: 'SH-1' })
    expect(
      wrapper.findAll('h2').map((element) =>
        element
          .text()
          .replace(/[▾\s]+/g, ' ')
          .trim(),
      ),
    ).toEqual(['Tickets', 'Notes 1 field'])
    await wrapper.findAll('h2 button')[0]!.trigger('click')
    expect(wrapper.findAll('h2 button')[0]!.attributes('aria-expanded')).toBe('false')
    expect(wrapper.text()).toContain('Locked while entry.state != "new".')
    expect(wrapper.find('textarea').attributes('disabled')).toBeDefined()
    copy.values['format'] = 'talk'
    await nextTick()
    expect(wrapper.findAll('h2')).toHaveLength(1)
  })
  it('hold groups: one, and many that are added and filled', async () => {
    const { copy, form: wrapper } = form(['venue', 'sessions'], {})
    const seats = wrapper.find('#field-values-venue-seats input')
    await seats.setValue('12')
    await nextTick()
    expect(copy.values['venue']).toEqual({ seats: 12 })
    await wrapper
      .findAll('.add button')
      .find((element) => element.text().endsWith('Add to Sessions'))!
      .trigger('click')
    expect(copy.values['sessions']).toMatchObject([{ values: {} }])
    expect(copy.edits.value.map((edit) => [edit.do, edit.at.join('/')])).toEqual([
      ['set', 'venue.seats'],
      ['insert', 'sessions'],
    ])
  })
})

describe('controls of the kinds', () => {
  const typed = async (name: string, text: string, index = 0) => {
    const { copy, form: wrapper } = form(['format', 'forAll', name], { format: 'walk' })
    const inputs = wrapper.findAll(`[id^="field-values-${name}"] input, [id^="field-values-${name}"] textarea`)
    await inputs[index]!.setValue(text)
    return { value: copy.values[name], text: wrapper.text() }
  }
  it('take a length of time as people write it', async () =>
    expect((await typed('takes', '1 h 30 min')).value).toBe('PT1H30M'))
  it('keep what does not fit on the line, and say so', async () => {
    const wrong = await typed('site', 'marram.example')
    expect([wrong.value, wrong.text]).toEqual([undefined, expect.stringContaining('This must be a web address')])
  })
  it('take both degrees at once', async () =>
    expect((await typed('place', '52.98, 4.72')).value).toEqual({ latitude: 52.98, longitude: 4.72 }))
  it('take JSON, and say where it is none yet', async () => {
    expect((await typed('extra', '{"seats": 3}')).value).toEqual({ seats: 3 })
    expect((await typed('extra', '{"seats": "x"}')).text).toContain('does not fit its schema at `/seats`')
    expect((await typed('extra', '{"seats":')).text).toContain('This is not valid JSON')
  })
  it('choose many, in the order in which they were chosen', async () => {
    const { copy, form: wrapper } = form(['themes'], {})
    const boxes = wrapper.findAll('input[type=checkbox]')
    await boxes[2]!.setValue(true)
    await boxes[0]!.setValue(true)
    expect((copy.values['themes'] as { value: string }[]).map((item) => item.value)).toEqual(['light', 'sea'])
  })
  it('show a file, and take it away', async () => {
    const { copy, form: wrapper } = form(['cover'], { cover: 'p'.repeat(20) })
    await nextTick()
    await nextTick()
    expect(wrapper.find('img').attributes()).toMatchObject({
      src: expect.stringMatching(/^\/assets\/lamp\.png\?h=192/) as string,
      alt: 'A lamp',
    })
    await wrapper.find('button[aria-label="Remove lamp.png"]').trigger('click')
    expect(copy.values['cover']).toBeUndefined()
  })
})

describe('texts that mean something', () => {
  it.each([
    ['90 minutes', 'PT1H30M'],
    ['1h30m', 'PT1H30M'],
    ['2 days, 3 h', 'P2DT3H'],
    ['1 week', 'P7D'],
    ['PT5M', 'PT5M'],
    ['pt5m', 'PT5M'],
    ['soon', undefined],
    ['1 h and a bit', undefined],
    ['', undefined],
  ])('%j is %s', (text, span) => expect(readSpan(text)).toBe(span))
  it('says where JSON ends too early', () => {
    expect(readJson('{\n  "a": x }')).toEqual({ wrong: 'This is not valid JSON: line 2, column 8.' })
    expect(readJson(' ')).toEqual({ value: undefined })
  })
})

describe('rich text in its editor', () => {
  const text = (value: string) => ({ type: 'text' as const, value })
  let count = 0
  const data = () => ({ id: `b${++count}` })
  const paragraph = (...children: Phrasing[]) => ({ type: 'paragraph' as const, data: data(), children })
  const image = { type: 'image' as const, url: '', data: { asset: 'c'.repeat(20) } }
  const entry = (...children: Phrasing[]): Phrasing => ({
    type: 'link',
    url: '',
    data: { entry: 'a'.repeat(20) },
    children,
  })
  const document: RichText = {
    type: 'root',
    children: [
      { type: 'heading', depth: 3, data: data(), children: [text('Room'), image] },
      paragraph(
        text('Lit'),
        { type: 'break' },
        text('every '),
        {
          type: 'strong',
          children: [{ type: 'emphasis', children: [text('night'), { type: 'inlineCode', value: 'x' }] }],
        },
        { type: 'link', url: '/x', title: 'There', children: [text(' by '), image] },
        entry(text('her')),
        entry(),
        { type: 'link', url: '', data: { asset: 'c'.repeat(20) }, children: [text('plan')] },
      ),
      {
        type: 'list',
        ordered: true,
        start: 3,
        spread: false,
        data: data(),
        children: [
          {
            type: 'listItem',
            spread: true,
            data: data(),
            children: [
              paragraph(text('one')),
              {
                type: 'list',
                ordered: false,
                spread: true,
                data: data(),
                children: [{ type: 'listItem', spread: false, data: data(), children: [paragraph(text('in'))] }],
              },
            ],
          },
        ],
      },
      { type: 'blockquote', data: data(), children: [paragraph(text('It kept us.'))] },
      { type: 'code', lang: 'ts', meta: 'x=1', value: 'a\nb', data: data() },
      { type: 'thematicBreak', data: data() },
      paragraph(entry()),
      paragraph(image),
      paragraph({ type: 'link', url: '/x', children: [image] }),
    ],
  }
  it('is of the one form in which it is stored', () => expect(readRichText(document, newBlockId)).toEqual({ document }))
  it('goes in and comes out as it was', () => expect(fromNodes(toNodes(document))).toEqual(document))
  it('is nothing when nothing is in it', () => {
    expect(fromNodes(toNodes({ type: 'root', children: [] }))).toBeUndefined()
    expect(fromNodes({ type: 'doc', content: [{ type: 'paragraph' }, { type: 'unknown' }] })).toBeUndefined()
  })
  it('is without the empty paragraph that is only there to write on', () => {
    const rule = { type: 'horizontalRule', attrs: { id: 'r' } }
    expect(fromNodes({ type: 'doc', content: [rule, { type: 'paragraph' }] })?.children).toEqual([
      { type: 'thematicBreak', data: { id: 'r' } },
    ])
  })
  it('joins runs that look the same', () =>
    expect(
      fromNodes({
        type: 'doc',
        content: [
          {
            type: 'paragraph',
            attrs: { id: 'b1' },
            content: [
              { type: 'text', text: 'a' },
              { type: 'text', text: 'b', marks: [{ type: 'underline' }] },
            ],
          },
        ],
      }),
    ).toEqual({ type: 'root', children: [{ type: 'paragraph', data: { id: 'b1' }, children: [text('ab')] }] }))
})
