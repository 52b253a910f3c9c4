import { mount, type VueWrapper } from '@vue/test-utils'
import type { Field, Listing } from '@wisteria/core'
import { flushPromises } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import { defineComponent, h, ref, type Component } from 'vue'
import ConditionLine from '../components/ConditionLine.vue'
import ConditionPieces from '../components/ConditionPieces.vue'
import { type } from '../../../../e2e/support/models.js'
import { provideWorkingCopy } from '../editor/workingCopy'
import { deskWith, entryOf } from '../testing/desk'
import EntryControl from './EntryControl.vue'
import ListingControl from './ListingControl.vue'

const activity = type('activity')
const museum = activity.fields.find((field) => field.name === 'museum')!
const listing: Field = {
  ...museum,
  id: 'f99',
  kind: 'listing',
  name: 'latest',
  label: 'Latest',
  options: { accepts: ['activity', 'person'], max: 5 },
}

/** A mounted control whose service gets its answers from the test, with its current value. */
function control(
  component: Component,
  field: Field,
  value: unknown,
  answers: Parameters<typeof deskWith>[1] = {},
  more: Record<string, unknown> = {},
) {
  const desk = deskWith({}, answers)
  const content = ref(value)
  const wrapper = mount(
    defineComponent({
      setup() {
        provideWorkingCopy(desk.copy)
        return () =>
          h(component, {
            id: 'x',
            field,
            value: content.value,
            locale: 'en',
            direction: 'ltr',
            ...more,
            onChange: (next: unknown) => (content.value = next),
          })
      },
    }),
    { attachTo: document.body, global: { stubs: { RouterLink: { template: '<a><slot /></a>' } } } },
  )
  return { ...desk, content, wrapper }
}
const selectOf = (wrapper: VueWrapper, label: string) =>
  wrapper
    .findAllComponents({ name: 'ElSelect' })
    .find((component) => component.props('ariaLabel') === label || component.attributes('aria-label') === label)!

describe('a list that fills itself', () => {
  it('begins with a type, keeps what goes with it, and shows what it finds now', async () => {
    const entries = vi.fn(() => Promise.resolve({ entries: [{ ...entryOf({}), title: 'Night Walk' }], next: null }))
    const { content, wrapper } = control(ListingControl, listing, undefined, { entries })
    selectOf(wrapper, 'Of which type').vm.$emit('update:modelValue', 'activity')
    await flushPromises()
    expect(content.value).toEqual({ type: 'activity', first: 3 })
    expect(wrapper.text()).toContain('Night Walk')
    selectOf(wrapper, 'Sorted by').vm.$emit('update:modelValue', 'starts')
    await flushPromises()
    await wrapper.find('.descending input').trigger('change')
    expect(content.value).toEqual({ type: 'activity', first: 3, sort: '-starts' })
    wrapper.findComponent(ConditionLine).vm.$emit('change', { where: 'format = "walk"' })
    const asked = { type: 'activity', first: 3, locale: 'en', where: 'format = "walk"', sort: '-starts' }
    await vi.waitFor(() => expect(entries.mock.lastCall).toEqual([asked]))
    // Another type has other fields.
    selectOf(wrapper, 'Of which type').vm.$emit('update:modelValue', 'person')
    await flushPromises()
    expect(content.value).toEqual({ type: 'person', first: 3 })
  })
  it('holds back a condition that cannot be read, keeps its text, and takes it as soon as it can be', async () => {
    const entries = vi.fn(() => Promise.resolve({ entries: [], next: null }))
    const start = { type: 'activity', first: 3, where: 'price > 3' } as Listing
    const { content, wrapper } = control(ListingControl, listing, start, { entries })
    const told = () => wrapper.findComponent(ListingControl).emitted('unreadable')?.at(-1)?.[0]
    const line = wrapper.findComponent(ConditionLine).find('input')
    await line.setValue('price >')
    expect(told()).toMatchObject({ text: 'price >', message: expect.stringContaining('Expected') as string })
    expect(content.value).toEqual(start)
    await line.setValue('price > 7 ')
    await flushPromises()
    expect([told(), content.value]).toEqual([undefined, { ...start, where: 'price > 7' }])
    // The space at the end is still being typed.
    expect((line.element as HTMLInputElement).value).toBe('price > 7 ')
    await line.setValue('price > x y')
    expect(told()).toBeDefined()
    selectOf(wrapper, 'Of which type').vm.$emit('update:modelValue', 'person')
    await flushPromises()
    expect(told()).toBeUndefined()
  })
  it('shows again what was typed before and is no condition', () => {
    const fault = { text: 'price >', message: 'Expected a value.' }
    const { wrapper } = control(
      ListingControl,
      listing,
      { type: 'activity', first: 3 },
      { entries: vi.fn(() => Promise.resolve({ entries: [], next: null })) },
      { fault },
    )
    expect((wrapper.findComponent(ConditionLine).find('input').element as HTMLInputElement).value).toBe('price >')
  })
  it('says when its condition cannot be asked', async () => {
    const entries = vi.fn(() => Promise.reject(new Error('`formt` is not a field of activity.')))
    const { wrapper } = control(
      ListingControl,
      listing,
      { type: 'activity', first: 3, where: 'formt = 1' },
      { entries },
    )
    await flushPromises()
    expect(wrapper.text()).toContain('`formt` is not a field of activity.')
  })
})

describe('what an entry refers to', () => {
  const searching = async (words: string) => {
    const search = vi.fn(() => Promise.resolve({ entries: [] }))
    const create = vi.fn(() =>
      Promise.resolve(entryOf({}, { id: '01hz0000000000000009', title: 'The Quay', type: 'museum' })),
    )
    const created = control(EntryControl, museum, undefined, { search, create })
    const select = created.wrapper.findComponent({ name: 'ElSelect' })
    await (select.props('remoteMethod') as (text: string) => Promise<void>)(words)
    await flushPromises()
    return { ...created, search, create }
  }
  it('is found by any of its words', async () => {
    const { search } = await searching('quay')
    expect(search.mock.calls).toEqual([['quay', { type: 'museum', first: 20 }]])
  })
  it('lists what changed last while nothing is written', async () => {
    const { search, editor } = await searching('  ')
    expect(search).not.toHaveBeenCalled()
    expect(editor.entries).toHaveBeenCalledWith({ type: 'museum', first: 20 })
  })
})

describe('a condition by choosing', () => {
  it('writes a test, and joins it to the condition on the line', async () => {
    const { site } = deskWith({})
    const wrapper = mount(ConditionLine, {
      props: { site, type: activity, asked: { where: 'price > 3 or free = true' } },
    })
    wrapper.findComponent(ConditionPieces).vm.$emit('add', 'format = "walk"')
    await flushPromises()
    expect(wrapper.emitted('change')).toEqual([[{ where: '(price > 3 or free = true) and format = "walk"' }]])
  })
  it('takes the place of words', async () => {
    const { site } = deskWith({})
    const wrapper = mount(ConditionLine, { props: { site, type: activity, asked: { search: 'salt' } } })
    wrapper.findComponent(ConditionPieces).vm.$emit('add', 'format = "walk"')
    await flushPromises()
    expect(wrapper.emitted('change')).toEqual([[{ where: 'format = "walk"' }]])
  })
  it('reads words as words, but not where only a condition makes sense', async () => {
    const { site } = deskWith({})
    const reads = async (onlyCondition: boolean, text: string) => {
      const wrapper = mount(ConditionLine, { props: { site, type: activity, asked: {}, onlyCondition } })
      await wrapper.find('input').setValue(text)
      return wrapper.find('.hint').text()
    }
    expect(await reads(false, 'salt')).toBe('Words: salt. Press Enter to search.')
    expect(await reads(true, 'salt')).toMatch(/`salt`|salt/)
    expect(await reads(true, 'entry.state = "new"')).toMatch(/entry.state/)
    expect(await reads(false, 'entry.state = "new"')).toBe('Condition. Press Enter to search.')
  })
})
