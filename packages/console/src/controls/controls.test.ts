import BlockPicker from './BlockPicker.vue'
import { mount } from '@vue/test-utils'
import type { Field, Role } from '@wisteria/core'
import { describe, expect, it } from 'vitest'
import { defineComponent, h, nextTick } from 'vue'
import { createMemoryHistory, createRouter } from 'vue-router'
import { type } from '../../../../e2e/support/models.js'
import StateMark from '../components/StateMark.vue'
import FieldSet from '../editor/FieldSet.vue'
import { provideWorkingCopy } from '../editor/workingCopy'
import { deskWith } from '../testing/desk'
import { ago } from '../times'
import { moved } from './reordering'

const router = createRouter({
  history: createMemoryHistory(),
  routes: [{ path: '/:site/entry/:id', name: 'entry', component: { render: () => null } }],
})
const field = (name: string): Field => type('activity').fields.find((candidate) => candidate.name === name)!

/** A row of the form, as the desk shows it. */
function row(name: string, values: Record<string, unknown>, answers = {}, role: Role = 'editor', locales = ['en']) {
  const { copy, editor } = deskWith(values, answers, role)
  const Desk = defineComponent({
    setup() {
      provideWorkingCopy(copy)
      return () =>
        locales.map((locale) =>
          h(FieldSet, {
            owner: { ...type('activity'), fields: [field(name)] },
            container: copy.values,
            locale,
            pointer: '/values',
          }),
        )
    },
  })
  return { copy, editor, row: mount(Desk, { global: { plugins: [router] }, attachTo: document.body }) }
}

describe('a row of the form', () => {
  it('names its field, its API name, and whether all locales share it', () => {
    const { row: shared } = row('price', { price: 9 })
    expect(shared.find('label').text()).toBe('Price')
    expect(shared.find('.name').text()).toBe('price')
    expect(shared.find('.scope').text()).toBe('All locales')
    expect(row('title', {}).row.find('.scope').text()).toBe('')
    expect(row('title', {}).row.find('label').text()).toContain('*')
  })
  it('writes text, and makes it missing when it is emptied', async () => {
    const { copy, row: wrapper } = row('title', { title: { en: 'Night' } })
    await wrapper.find('textarea').setValue('Night Walk')
    expect(copy.values['title']).toEqual({ en: 'Night Walk' })
    await wrapper.find('textarea').setValue('Two\nlines')
    expect(copy.values['title']).toEqual({ en: 'Two lines' })
    await wrapper.find('textarea').setValue('')
    expect(copy.values['title']).toBeUndefined()
  })
  it('shows what readers get meanwhile, and lets it be empty on purpose', async () => {
    const { copy, row: wrapper } = row('summary', { summary: { en: 'Along the cliff.' } }, {}, 'editor', ['nl'])
    expect(wrapper.find('textarea').attributes('placeholder')).toBe('Along the cliff.')
    expect(wrapper.find('.note').text()).toContain('From en.')
    await wrapper.find('.note button').trigger('click')
    expect(copy.values['summary']).toEqual({ en: 'Along the cliff.', nl: null })
    expect(wrapper.find('.note').text()).toContain('Empty on purpose.')
    await wrapper.find('.note button').trigger('click')
    expect(copy.values['summary']).toEqual({ en: 'Along the cliff.' })
  })
  it('turns the direction with the locale', () => {
    const { row: wrapper } = row('title', { title: { ar: 'نزهة' } }, {}, 'editor', ['ar'])
    expect(wrapper.find('.written').attributes()).toMatchObject({ dir: 'rtl', lang: 'ar' })
  })
  it('stands beside another of the same entry in another locale', async () => {
    const { copy, row: wrapper } = row('title', { title: { en: 'Night Walk' } }, {}, 'editor', ['en', 'nl'])
    const [en, nl] = wrapper.findAll('textarea')
    expect([en!.element.value, nl!.element.value, nl!.attributes('placeholder')]).toEqual([
      'Night Walk',
      '',
      'Night Walk',
    ])
    await nl!.setValue('Nachtwandeling')
    expect(copy.values['title']).toEqual({ en: 'Night Walk', nl: 'Nachtwandeling' })
    await en!.setValue('Night Walks')
    expect([en!.element.value, nl!.element.value]).toEqual(['Night Walks', 'Nachtwandeling'])
  })
  it('reads numbers with a point or a comma, and says when there is none', async () => {
    const { copy, row: wrapper } = row('price', {})
    const input = wrapper.find('input')
    await input.setValue('8,5')
    expect(copy.values['price']).toBe(8.5)
    await input.setValue('8,5 euro')
    expect([copy.values['price'], wrapper.text().includes('This is not a number.')]).toEqual([8.5, true])
    await input.setValue('')
    expect(copy.values).not.toHaveProperty('price')
  })
  it('offers yes, no and nothing', async () => {
    const { copy, row: wrapper } = row('free', {})
    const [yes, no, unsaid] = wrapper.findAll('input[type=radio]')
    await yes!.setValue(true)
    expect(copy.values['free']).toBe(true)
    await no!.setValue(true)
    expect(copy.values['free']).toBe(false)
    await unsaid!.setValue(true)
    expect(copy.values).not.toHaveProperty('free')
  })
  it('shows a few choices all at once', async () => {
    const { copy, row: wrapper } = row('format', { format: 'walk' })
    expect(wrapper.findAll('.el-radio-button').map((element) => element.text())).toEqual([
      'Talk',
      'Walk',
      'Concert',
      'Workshop',
    ])
    await wrapper.findAll('input[type=radio]')[0]!.setValue(true)
    expect(copy.values['format']).toBe('talk')
  })
  it('lists many values, each in the control of one', async () => {
    const { copy, row: wrapper } = row('tags', {
      tags: [
        { id: 'a', value: 'dark' },
        { id: 'b', value: 'outside' },
      ],
    })
    expect(wrapper.findAll('textarea')).toHaveLength(3)
    await wrapper.findAll('textarea')[0]!.setValue('bright')
    expect(copy.values['tags']).toEqual([
      { id: 'a', value: 'bright' },
      { id: 'b', value: 'outside' },
    ])
    await wrapper.findAll('li')[1]!.find('button').trigger('click')
    expect(copy.values['tags']).toEqual([{ id: 'a', value: 'bright' }])
    await wrapper.findAll('textarea')[1]!.setValue('new')
    expect(copy.values['tags']).toMatchObject([{ id: 'a' }, { value: 'new' }])
  })
  it('lists what it refers to by name, in order', async () => {
    const { copy, row: wrapper } = row('speakers', {
      speakers: [
        { id: 'a', value: '01hz000000000000000a' },
        { id: 'b', value: '01hz000000000000000b' },
      ],
    })
    await new Promise((resolve) => setTimeout(resolve))
    expect(wrapper.findAll('li a').map((element) => element.text())).toEqual(['Title of a', 'Title of b'])
    await wrapper.find('[aria-label="Move Title of a down"]').trigger('click')
    expect((copy.values['speakers'] as { id: string }[]).map((item) => item.id)).toEqual(['b', 'a'])
    await wrapper.find('[aria-label="Remove Title of a"]').trigger('click')
    expect(copy.values['speakers']).toEqual([{ id: 'b', value: '01hz000000000000000b' }])
  })
  it('writes blocks with rows of its own, and moves them by keyboard', async () => {
    const { copy, row: wrapper } = row('body', {
      body: [
        { id: 'h', block: 'heading', values: { text: { en: 'One' } } },
        { id: 'q', block: 'quote', values: {} },
      ],
    })
    expect(wrapper.findAll('.block')).toHaveLength(2)
    await wrapper.findAll('.block textarea')[0]!.setValue('Better')
    expect((copy.values['body'] as { values: unknown }[])[0]!.values).toEqual({ text: { en: 'Better' } })
    await wrapper.findAll('.block header')[1]!.trigger('keydown', { key: 'ArrowUp', altKey: true })
    expect((copy.values['body'] as { id: string }[]).map((item) => item.id)).toEqual(['q', 'h'])
    // A block type is chosen from the list; between two blocks the new one is inserted at the line.
    wrapper.findAllComponents(BlockPicker)[0]!.vm.$emit('choose', 'heading')
    await nextTick()
    const blocks = copy.values['body'] as { id: string; block: string }[]
    expect(blocks.map(({ block }) => block)).toEqual(['quote', 'heading', 'heading'])
    expect([blocks[0]!.id, blocks[2]!.id]).toEqual(['q', 'h'])
  })
  it('says what is wrong in the margin, and shows what is public', async () => {
    const problem = { code: 'required', pointer: '/values/title/en', locale: 'en', message: 'Title is empty in en.' }
    const change = {
      pointer: '/values/title/en',
      field: 'title',
      label: 'Title',
      kind: 'text',
      locale: 'en',
      before: 'Old',
      after: 'New',
    }
    const { copy, row: wrapper } = row(
      'title',
      { title: { en: 'New' } },
      {
        consequences: () =>
          Promise.resolve({
            version: 1,
            locales: ['en'],
            problems: [problem],
            changes: [change],
            paths: {},
            hiddenReferences: [],
            affects: [],
          }),
      },
    )
    await copy.weigh()
    await nextTick()
    expect(wrapper.find('.margin').text()).toBe('Title is empty in en.')
    await wrapper.find('.edited-mark').trigger('click')
    expect(wrapper.find('.public .content del').text()).toBe('Old')
    expect(wrapper.find('.public .content ins').text()).toBe('New')
    await wrapper.find('.public button').trigger('click')
    expect(copy.values['title']).toEqual({ en: 'Old' })
  })
  it('is read only for those who may not write', () => {
    expect(row('title', {}, {}, 'viewer').row.find('textarea').attributes('disabled')).toBeDefined()
  })
})

describe('marks', () => {
  it('always have a word, and forms of their own', () => {
    const forms = (['new', 'public', 'edited', 'withdrawn', 'archived', 'fallback'] as const).map((state) => {
      const mark = mount(StateMark, { props: { state } })
      expect(mark.attributes('aria-label')).toBeTruthy()
      return mark.element.innerHTML.replace(/<title>.*<\/title>/, '')
    })
    expect(new Set(forms).size).toBe(6)
  })
})

describe('small things', () => {
  it('move within a list and not out of it', () => {
    expect(moved(['a', 'b', 'c'], 0, 1)).toEqual(['b', 'a', 'c'])
    expect(moved(['a', 'b', 'c'], 2, -1)).toEqual(['a', 'c', 'b'])
    expect(moved(['a'], 0, 1)).toBeUndefined()
    expect(moved(['a'], 0, -1)).toBeUndefined()
  })
  it('tell times as people do', () => {
    const now = new Date(2031, 4, 4, 15, 0)
    expect(ago(new Date(2031, 4, 4, 14, 32).toISOString(), now)).toBe('today 14:32')
    expect(ago(new Date(2031, 2, 12, 9, 5).toISOString(), now)).toBe('12 Mar 09:05')
    expect(ago(new Date(2030, 2, 12, 9, 5).toISOString(), now)).toBe('12 Mar 2030')
  })
})

describe('a control with something that is no value', () => {
  it('keeps the words, saves nothing of the field, and says so', async () => {
    const { copy, row: wrapper } = row('price', { price: 7.5 })
    await wrapper.find('input').setValue('abc')
    expect(copy.edits.value).toEqual([])
    expect(wrapper.find('.margin').text()).toContain('Price is not saved: This is not a number.')
    // Others' changes leave it alone.
    copy.values['price'] = 8
    await nextTick()
    expect(wrapper.find<HTMLInputElement>('input').element.value).toBe('abc')
    await wrapper.find('input').setValue('9')
    expect([copy.edits.value, copy.problems.value]).toEqual([[{ do: 'set', at: ['price'], value: 9 }], []])
  })
})
