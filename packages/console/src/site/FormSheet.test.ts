import { mount } from '@vue/test-utils'
import { expect, it } from 'vitest'
import { h } from 'vue'
import ConsequenceSheet from '../components/ConsequenceSheet.vue'
import FormSheet from './FormSheet.vue'

const open = () =>
  mount(FormSheet, {
    attachTo: document.body,
    props: { modelValue: true, title: 'Add webhook', submit: 'Add webhook', problems: [] },
    slots: { default: () => [h('input', { id: 'label' }), h('input', { id: 'address' })] },
    global: {
      stubs: { ConsequenceSheet: { name: 'ConsequenceSheet', emits: ['opened'], template: '<div><slot /></div>' } },
    },
  })

it('begins in its first field once it is open', () => {
  const sheet = open()
  sheet.findComponent(ConsequenceSheet).vm.$emit('opened')
  expect(document.activeElement?.id).toBe('label')
  sheet.unmount()
})

it('leaves whoever is in it already where they are', () => {
  const sheet = open()
  document.getElementById('address')!.focus()
  sheet.findComponent(ConsequenceSheet).vm.$emit('opened')
  expect(document.activeElement?.id).toBe('address')
  sheet.unmount()
})
