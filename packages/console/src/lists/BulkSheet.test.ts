import { flushPromises, mount } from '@vue/test-utils'
import type { BulkTrial } from '@wisteria/client'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { type } from '../../../../e2e/support/models.js'
import { deskWith } from '../testing/desk'
import BulkSheet from './BulkSheet.vue'

beforeEach(() => void vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] }))
afterEach(() => void vi.useRealTimers())

const trialOf = (total: number): BulkTrial => ({
  total,
  tried: 1,
  items: [{ entry: 'a', title: 'A', state: 'done', message: '' }],
})

describe('the dry run of a bulk action', () => {
  it('is asked for once typing pauses, and only the newest answer counts', async () => {
    const answers: ((trial: BulkTrial) => void)[] = []
    const tryBulk = vi.fn(() => new Promise<BulkTrial>((resolve) => answers.push(resolve)))
    const { site } = deskWith({}, { tryBulk })
    const wrapper = mount(BulkSheet, {
      props: { modelValue: false, site, does: 'publish', chosen: { ids: ['a'] }, count: 1, type: type('activity') },
      attachTo: document.body,
      global: { stubs: { RouterLink: true } },
    })
    await wrapper.setProps({ modelValue: true })
    expect(tryBulk).toHaveBeenCalledTimes(1)
    const boxes = [...document.querySelectorAll<HTMLInputElement>('.sheet input[type=checkbox]')]
    for (const box of boxes.slice(0, 3)) {
      box.click()
      await flushPromises()
    }
    expect(tryBulk).toHaveBeenCalledTimes(1)
    vi.advanceTimersByTime(400)
    expect(tryBulk).toHaveBeenCalledTimes(2)
    // The first answer is late, and of another question.
    answers[1]!(trialOf(7))
    await flushPromises()
    answers[0]!(trialOf(99))
    await flushPromises()
    expect(document.querySelector('.sheet')!.textContent).not.toContain('99')
    wrapper.unmount()
  })
})
