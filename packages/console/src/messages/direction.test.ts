import { mount } from '@vue/test-utils'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { h } from 'vue'
import MessageText from '../components/MessageText.vue'
import { speak, t } from '.'

describe('a text that Arabic lacks', () => {
  beforeAll(() => speak('ar'))
  afterAll(() => speak('en'))

  it('is English, isolated from left to right, so that its dots and numbers stay in their places', () => {
    expect(t('model.showList')).toBe('\u2066Show a list\u2069')
    expect(t('model.typeCount', { n: 8 })).toBe('\u20668 types\u2069')
  })
  it('is isolated with elements in it too', () => {
    const text = mount(MessageText, { props: { of: 'model.noModel' }, slots: { command: () => h('code', 'x') } })
    expect(text.element.tagName).toBe('BDI')
    expect(text.attributes('dir')).toBe('ltr')
  })
  it('is not marked where Arabic has it', () => expect(t('shell.today')).toBe('اليوم'))
})

describe('a text in another language', () => {
  it('is not marked', async () => {
    await speak('nl')
    expect(t('shell.today')).toBe('Vandaag')
    await speak('en')
    expect(t('model.typeCount', { n: 8 })).toBe('8 types')
  })
})
