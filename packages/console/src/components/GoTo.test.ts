import { flushPromises, mount } from '@vue/test-utils'
import { ElDialog } from 'element-plus'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { h } from 'vue'
import { createMemoryHistory, createRouter } from 'vue-router'
import { model } from '../../../../e2e/support/models.js'
import GoTo from './GoTo.vue'

const asked: { words: string; answer: (titles: readonly string[]) => void }[] = []
const ask = (words: string) =>
  new Promise((resolve) =>
    asked.push({
      words,
      answer: (titles) =>
        resolve({ entries: titles.map((title) => ({ id: title, type: 'museum', title, foundIn: 'en' })) }),
    }),
  )
const editor = { entries: () => ask(''), search: (words: string) => ask(words) }

vi.mock('../session', () => ({
  openSite: () => Promise.resolve({ editor, model }),
  callerOn: () => ({ is: 'nobody' }),
  session: { value: { sites: [] } },
}))

const page = { render: () => h('p') }
const router = createRouter({
  history: createMemoryHistory(),
  routes: ['entry', 'entries', 'today', 'tree', 'bin', 'assets', 'model', 'query', 'account']
    .map((name) => ({ path: `/:site/${name}/:id?`, name, component: page }))
    .concat([{ path: '/:rest(.*)', name: 'nothing', component: page }]),
})

describe('Go to…', () => {
  beforeEach(() => {
    vi.useFakeTimers()
    asked.splice(0)
  })
  afterEach(() => vi.useRealTimers())

  async function opened() {
    const wrapper = mount(GoTo, {
      props: { site: 'marram' },
      global: { plugins: [router], stubs: { transition: true, teleport: true } },
      attachTo: document.body,
    })
    await wrapper.find('button').trigger('click')
    await flushPromises()
    const input = wrapper.findComponent(ElDialog).find('input')
    asked[0]!.answer(['The Boatyard'])
    await flushPromises()
    return { wrapper, input, shown: () => wrapper.findAll('[role=option]').map((option) => option.text()) }
  }

  it('goes to what was typed, when Enter comes before its answer', async () => {
    const { wrapper, input, shown } = await opened()
    expect(shown()).toEqual(['The BoatyardMuseum'])
    await input.setValue('light')
    await input.trigger('keydown', { key: 'Enter' })
    // The pause after the last letter passes too: no other request is sent, which would make this answer obsolete.
    await vi.advanceTimersByTimeAsync(500)
    expect(asked.map(({ words }) => words)).toEqual(['', 'light'])
    expect(router.currentRoute.value.params['id']).toBeUndefined()
    asked[1]!.answer(['The Lighthouse'])
    await flushPromises()
    expect(router.currentRoute.value.params['id']).toBe('The Lighthouse')
    wrapper.unmount()
  })

  it('finds pages by any of their words', async () => {
    const { wrapper, input, shown } = await opened()
    await input.setValue('acc')
    expect(shown().at(-1)).toBe('Your accountPage')
    wrapper.unmount()
  })
})
