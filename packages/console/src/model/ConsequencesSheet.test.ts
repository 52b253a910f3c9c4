import { flushPromises, mount } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import { asFiles, settings } from '../../../../e2e/support/models.js'
import { shapedFiles, shapedModel } from '../../../../e2e/support/shaped.js'
import type { Site } from '../session'
import ConsequencesSheet from './ConsequencesSheet.vue'
import { createModelDraft } from './modelDraft'

describe('going back to an earlier model', () => {
  const opened = async (shape: (draft: ReturnType<typeof createModelDraft>) => void) => {
    const proposal = {
      id: 'p1',
      canBeAdopted: true,
      consequences: [{ code: 'fieldAdded', weight: 'plain', place: 'tour.site', message: 'The field returns.' }],
    }
    const editor = {
      compareModelVersion: vi.fn(() => Promise.resolve(proposal)),
      adoptModel: vi.fn(() => Promise.resolve({ version: 4 })),
    }
    const site = {
      name: 'marram',
      model: shapedModel,
      settings: { name: 'marram', ...settings },
      editor,
    } as unknown as Site
    const draft = createModelDraft(site, asFiles(shapedFiles))
    shape(draft)
    const wrapper = mount(ConsequencesSheet, {
      props: { modelValue: false, draft, site, version: 3 },
      attachTo: document.body,
      global: { stubs: { RouterLink: true } },
    })
    await wrapper.setProps({ modelValue: true })
    await flushPromises()
    const buttonOf = (text: string) =>
      [...document.querySelectorAll<HTMLButtonElement>('.sheet button')].find(
        (button) => button.textContent.trim() === text,
      )!
    return { editor, wrapper, buttonOf }
  }

  it('adopts the version that was compared', async () => {
    const { editor, wrapper, buttonOf } = await opened(() => undefined)
    expect(editor.compareModelVersion).toHaveBeenCalledWith(3)
    buttonOf('Go back to version 3').click()
    await flushPromises()
    expect(editor.adoptModel).toHaveBeenCalledTimes(1)
    expect(wrapper.emitted('adopted')).toEqual([[4]])
    wrapper.unmount()
  })
  it('is refused while the draft has changes, which it would lose', async () => {
    const { editor, wrapper, buttonOf } = await opened((draft) => void draft.addType('Boat trip'))
    expect(document.querySelector('.sheet')!.textContent).toContain('Adopt or discard them before you go back.')
    expect(buttonOf('Go back to version 3').disabled).toBe(true)
    buttonOf('Cancel').click()
    await flushPromises()
    expect(editor.adoptModel).not.toHaveBeenCalled()
    expect(wrapper.emitted('update:modelValue')).toEqual([[false]])
    wrapper.unmount()
  })
})
