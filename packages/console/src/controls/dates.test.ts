import { mount } from '@vue/test-utils'
import type { Field } from '@wisteria/core'
import { describe, expect, it } from 'vitest'
import { defineComponent, h, ref } from 'vue'
import { type } from '../../../../e2e/support/models.js'
import { provideWorkingCopy } from '../editor/workingCopy'
import { deskWith } from '../testing/desk'
import DateControl from './DateControl.vue'

const starts = type('activity').fields.find(({ name }) => name === 'starts')!

/** The control of a time on a site in Europe/Amsterdam. */
function control(value: string | undefined, options: Record<string, unknown> = {}) {
  const { copy } = deskWith({})
  const content = ref<unknown>(value)
  const field: Field = { ...starts, options: { ...starts.options, ...options } }
  const wrapper = mount(
    defineComponent({
      setup() {
        provideWorkingCopy(copy)
        return () =>
          h(DateControl, {
            id: 'x',
            field,
            value: content.value,
            locale: 'en',
            direction: 'ltr',
            onChange: (next: unknown) => (content.value = next),
          })
      },
    }),
    { attachTo: document.body },
  )
  const date = () => wrapper.findComponent(DateControl)
  const pick = async (text: string | null) => {
    wrapper.findComponent({ name: 'ElDatePicker' }).vm.$emit('update:modelValue', text)
    await wrapper.vm.$nextTick()
  }
  return { content, wrapper, pick, fault: () => date().emitted('unreadable')?.at(-1)?.[0] }
}

describe('a time on the clocks of the site', () => {
  it('that is skipped is told, and not saved as another', async () => {
    const { content, pick, fault } = control('2031-03-29T10:00:00+01:00')
    await pick('2031-03-30T02:30:00')
    expect(content.value).toBe('2031-03-29T10:00:00+01:00')
    expect(fault()).toEqual({
      text: '2031-03-30T02:30:00',
      message:
        '02:30 does not exist on 30 Mar 2031 in Europe/Amsterdam: the clocks go forward then. Choose another time.',
    })
    await pick('2031-03-30T03:30:00')
    expect([content.value, fault()]).toEqual(['2031-03-30T03:30:00+02:00', undefined])
  })
  it.each([
    [{}, ''],
    [{ withZone: true }, '[Europe/Amsterdam]'],
  ])('that comes twice is asked about (%j)', async (options, zone) => {
    const { content, pick, wrapper } = control(undefined, options)
    await pick('2031-05-04T20:30:00')
    expect(wrapper.text()).not.toContain('comes twice')
    await pick('2031-10-26T02:30:00')
    expect(content.value).toBe(`2031-10-26T02:30:00+02:00${zone}`)
    expect(wrapper.text()).toContain('This time comes twice, because the clocks go back. Which one?')
    const radios = wrapper.findAll<HTMLInputElement>('input[type=radio]')
    expect(radios.map(({ element }) => element.checked)).toEqual([true, false])
    await radios[1]!.setValue(true)
    expect(content.value).toBe(`2031-10-26T02:30:00+01:00${zone}`)
    expect(radios.map(({ element }) => element.checked)).toEqual([false, true])
  })
})
