import { mount } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'
import { defineComponent, h, nextTick, ref } from 'vue'
import { model, type } from '../../../../e2e/support/models.js'
import { provideWorkingCopy } from '../editor/workingCopy'
import { deskWith } from '../testing/desk'
import NestedControl from './NestedControl.vue'
import { copied, copyItem, fitsInto, withNewHandles, type CopiedItem } from './blockClipboard'
import { moved, movedTo } from './reordering'

const activity = type('activity')
const body = activity.fields.find((field) => field.name === 'body')!
const block = (id: string, text: string, of = 'quote'): CopiedItem => ({
  id,
  block: of,
  values: { text: { en: text } },
})

beforeEach(() => {
  localStorage.clear()
  copied.value = undefined
})

/** The mounted control, with its current value. */
function mounted(items: CopiedItem[]) {
  const { copy } = deskWith({ body: items })
  const value = ref<unknown>(items)
  const around = defineComponent({
    setup() {
      provideWorkingCopy(copy)
      return () =>
        h(
          NestedControl,
          {
            id: 'x',
            field: body,
            value: value.value,
            locale: 'en',
            direction: 'ltr',
            pointer: '/values/body',
            insideLocale: false,
            onChange: (next: unknown) => (value.value = next),
          },
          { inside: ({ pointer }: { pointer: string }) => h('input', { class: 'inside', 'data-at': pointer }) },
        )
    },
  })
  const wrapper = mount(around, { attachTo: document.body })
  const tell = (...pointers: string[]) =>
    (copy.saveProblems.value = pointers.map((pointer) => ({ code: 'required', pointer, message: 'Text is empty.' })))
  const ids = () => ((value.value as CopiedItem[] | undefined) ?? []).map((block) => block.id)
  const head = (index: number) => wrapper.findAll('header')[index]!
  return { wrapper, ids, head, tell, items: () => (value.value as CopiedItem[] | undefined) ?? [] }
}

describe('a list of blocks', () => {
  it('is folded and unfolded, one or all, and says the first words of what is folded', async () => {
    const { wrapper, head } = mounted([block('a', 'Dark is not empty.'), block('b', 'Two'), block('c', 'Three')])
    expect(wrapper.findAll('.inside').length).toBe(3)
    await head(0).trigger('keydown', { key: 'ArrowLeft' })
    expect(wrapper.findAll('.inside').length).toBe(2)
    expect(head(0).find('.first').text()).toBe('Dark is not empty.')
    await wrapper.find('.all button').trigger('click')
    expect(wrapper.findAll('.inside').length).toBe(0)
    await wrapper.find('.all button').trigger('click')
    expect(wrapper.findAll('.inside').length).toBe(3)
  })
  it('folds a block with a problem when told, and leaves it alone when the problem goes', async () => {
    const { wrapper, tell } = mounted([block('a', ''), block('b', 'Two'), block('c', 'Three')])
    tell('/values/body/0/values/text/en')
    await nextTick()
    await wrapper.find('.all button').trigger('click')
    expect(wrapper.findAll('.inside').length).toBe(0)
    await wrapper.find('.all button').trigger('click')
    tell()
    await nextTick()
    expect(wrapper.findAll('.inside').length).toBe(3)
  })
  it('opens a block in which a problem turns up, and folds none in which somebody writes', async () => {
    const { wrapper, tell, head } = mounted([block('a', ''), block('b', 'Two'), block('c', 'Three')])
    await wrapper.find('.all button').trigger('click')
    tell('/values/body/1/values/text/en')
    await nextTick()
    expect(wrapper.findAll('.inside').map((element) => element.attributes('data-at'))).toEqual([
      '/values/body/1/values',
    ])
    wrapper.find<HTMLInputElement>('.inside').element.focus()
    await wrapper.find('.all button').trigger('click')
    await head(1).trigger('keydown', { key: 'ArrowLeft' })
    expect(wrapper.findAll('.inside').map((element) => element.attributes('data-at'))).toEqual([
      '/values/body/1/values',
    ])
    tell()
    await nextTick()
    expect(wrapper.findAll('.inside').length).toBe(1)
  })
  it('is copied, cut, pasted and duplicated by keys, within what fits', async () => {
    const { wrapper, ids, head, items } = mounted([block('a', 'One'), block('b', 'Two')])
    await head(0).trigger('keydown', { key: 'd', ctrlKey: true })
    expect(ids().length).toBe(3)
    expect([items()[1]!.values, items()[1]!.id === 'a']).toEqual([{ text: { en: 'One' } }, false])
    // Three are as many as fit.
    await head(0).trigger('keydown', { key: 'd', ctrlKey: true })
    expect(ids().length).toBe(3)
    await head(2).trigger('keydown', { key: 'x', ctrlKey: true })
    expect(ids().length).toBe(2)
    await head(0).trigger('keydown', { key: 'v', ctrlKey: true })
    expect(items().map((item) => (item.values['text'] as { en: string }).en)).toEqual(['One', 'Two', 'One'])
    await head(1).trigger('keydown', { key: 'Delete' })
    expect(ids().length).toBe(2)
    expect(wrapper.text()).toContain('Paste')
  })
  it('is reordered by dragging', async () => {
    const { wrapper, ids, head } = mounted([block('a', 'One'), block('b', 'Two'), block('c', 'Three')])
    await head(2).trigger('dragstart')
    await wrapper.findAll('.block')[0]!.trigger('dragover')
    await wrapper.findAll('.block')[0]!.trigger('drop')
    expect(ids()).toEqual(['c', 'a', 'b'])
  })
})

describe('the clipboard of blocks', () => {
  it('takes what the field accepts, on the same site', () => {
    copyItem('marram', body, block('a', 'One'))
    expect(fitsInto(model, 'marram', body)).toBe(true)
    expect(fitsInto(model, 'elsewhere', body)).toBe(false)
    copyItem('marram', body, block('a', 'One', 'panel'))
    expect(fitsInto(model, 'marram', body)).toBe(false)
    expect(JSON.parse(localStorage.getItem('wisteria block')!)).toMatchObject({ of: 'panel' })
  })
  it('gives every item an id of its own, at any depth', () => {
    const nested = {
      id: 'a',
      block: 'quote',
      values: { inside: [{ id: 'b', block: 'quote', values: {} }], tags: [{ id: 'c', value: 'x' }] },
    }
    const renewed = withNewHandles(model, nested) as typeof nested
    const ids = [renewed.id, renewed.values.inside[0]!.id, renewed.values.tags[0]!.id]
    expect(new Set([...ids, 'a', 'b', 'c']).size).toBe(6)
    expect(renewed.values.tags[0]!.value).toBe('x')
  })
})

describe('moving in a list', () => {
  it('goes a step, or to a place, and stops at the ends', () => {
    expect(moved(['a', 'b'], 0, 1)).toEqual(['b', 'a'])
    expect(moved(['a', 'b'], 0, -1)).toBeUndefined()
    expect(movedTo(['a', 'b', 'c'], 0, 2)).toEqual(['b', 'c', 'a'])
    for (const [from, to] of [
      [1, 1],
      [5, 0],
      [0, 3],
      [0, -1],
    ] as const)
      expect(movedTo(['a', 'b', 'c'], from, to)).toBeUndefined()
  })
})
