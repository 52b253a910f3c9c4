import { mount } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { defineComponent } from 'vue'
import { deskWith, entryOf } from '../testing/desk'
import { createAutosave } from './autosave'
import { useEntrySaving } from './entrySaving'
import { unsavedChanges } from './unsavedChanges'
import { ConflictingChanges } from './workingCopy'

describe('saving by itself', () => {
  beforeEach(() => void vi.useFakeTimers())
  afterEach(() => void vi.useRealTimers())
  const answering = (...answers: ('saved' | 'lost' | 'refused')[]) => {
    const save = vi.fn(() => Promise.resolve(answers.shift() ?? 'saved'))
    return { save, autosave: createAutosave(save) }
  }

  it('waits for a pause in the writing', async () => {
    const { save, autosave } = answering()
    autosave.touched()
    await vi.advanceTimersByTimeAsync(1000)
    autosave.touched()
    await vi.advanceTimersByTimeAsync(1000)
    expect(save).not.toHaveBeenCalled()
    await vi.advanceTimersByTimeAsync(1000)
    expect(save).toHaveBeenCalledTimes(1)
    await vi.advanceTimersByTimeAsync(60_000)
    expect(save).toHaveBeenCalledTimes(1)
  })
  it('tries again while the service cannot be reached, and at once when the network is back', async () => {
    const { save, autosave } = answering('lost', 'lost', 'saved')
    autosave.touched()
    await vi.advanceTimersByTimeAsync(2000)
    await vi.advanceTimersByTimeAsync(10_000)
    expect(save).toHaveBeenCalledTimes(2)
    autosave.hurry()
    await vi.advanceTimersByTimeAsync(1)
    expect(save).toHaveBeenCalledTimes(3)
    autosave.hurry()
    await vi.advanceTimersByTimeAsync(60_000)
    expect(save).toHaveBeenCalledTimes(3)
  })
  it('does not insist on what was refused, and stops when told', async () => {
    const { save, autosave } = answering('refused')
    autosave.touched()
    await vi.advanceTimersByTimeAsync(60_000)
    expect(save).toHaveBeenCalledTimes(1)
    autosave.touched()
    autosave.stop()
    await vi.advanceTimersByTimeAsync(60_000)
    expect(save).toHaveBeenCalledTimes(1)
  })
})

describe('words kept in the browser', () => {
  const words = { at: '2031-05-04T10:00:00Z', version: 3, saved: { price: 9 }, values: { price: 12 } }
  const none = () => false
  const kept = (account: string, place: string, tab = 't1') => unsavedChanges(localStorage, account, place, tab)
  beforeEach(() => localStorage.clear())

  it('come back until they are dropped, each place and person its own', () => {
    const keptByIlse = kept('ilse', 'marram/e1')
    expect(keptByIlse.recall(none)).toBeUndefined()
    expect(keptByIlse.keep(words)).toBe(true)
    expect(kept('ilse', 'marram/e1').recall(none)).toEqual(words)
    expect(kept('ilse', 'marram/e2').recall(none)).toBeUndefined()
    expect(kept('teun', 'marram/e1').recall(none)).toBeUndefined()
    keptByIlse.drop()
    expect(keptByIlse.recall(none)).toBeUndefined()
  })
  it("are each tab's own: what one tab saved takes nothing of another's", () => {
    const [first, other] = [kept('ilse', 'marram/e1', 't1'), kept('ilse', 'marram/e1', 't2')]
    first.keep(words)
    other.keep({ ...words, values: { price: 13 } })
    other.drop()
    expect(first.recall(none)).toEqual(words)
    // The tab is still open: its words are its own to save.
    expect(kept('ilse', 'marram/e1', 't3').recall((tab) => tab === 't1')).toBeUndefined()
    // It has crashed: the next tab takes them over.
    expect(kept('ilse', 'marram/e1', 't3').recall(none)).toEqual(words)
    expect(first.recall((tab) => tab === 't3')).toBeUndefined()
  })
  it('are offered newest first, and the others after them', () => {
    kept('ilse', 'marram/e1', 't1').keep(words)
    kept('ilse', 'marram/e1', 't2').keep({ ...words, at: '2031-05-04T11:00:00Z', values: { price: 13 } })
    const next = kept('ilse', 'marram/e1', 't3')
    expect(next.recall(none)?.values).toEqual({ price: 13 })
    next.drop()
    expect(next.recall(none)?.values).toEqual({ price: 12 })
  })
  it('say when they are not safe', () => {
    const full = {
      setItem: () => {
        throw new Error('no room')
      },
      getItem: () => '{"half',
      'wisteria/words/ilse/e#t1': '',
    } as unknown as Storage
    expect(unsavedChanges(full, 'ilse', 'e', 't1').keep(words)).toBe(false)
    expect(unsavedChanges(full, 'ilse', 'e', 't1').recall(none)).toBeUndefined()
    expect(unsavedChanges(undefined, 'ilse', 'e', 't1').keep(words)).toBe(false)
  })
  it('go on top of what was saved since', async () => {
    const edit = vi.fn(() =>
      Promise.resolve({ ...entryOf({ price: 12, town: 'Tern Bay' }, { version: 6 }), merged: false }),
    )
    const { copy } = deskWith({ price: 9, town: 'Tern Bay' }, { edit })
    copy.restoreUnsaved({ saved: { price: 9 }, values: { price: 12 } })
    expect(copy.values).toEqual({ price: 12, town: 'Tern Bay' })
    await copy.save()
    expect(edit).toHaveBeenCalledWith(
      expect.anything(),
      1,
      [{ do: 'set', at: ['price'], value: 12 }],
      expect.any(String),
    )
    expect([copy.isChanged.value, copy.entry.value?.version, copy.values['town']]).toEqual([false, 6, 'Tern Bay'])
  })
  it('wait for a choice where somebody else changed the same meanwhile', async () => {
    const { copy, editor } = deskWith({ price: 11 })
    copy.restoreUnsaved({ saved: { price: 9 }, values: { price: 12 } })
    expect([copy.values['price'], copy.conflicts.value.length]).toEqual([12, 1])
    await expect(copy.save()).rejects.toBeInstanceOf(ConflictingChanges)
    expect(editor.edit).not.toHaveBeenCalled()
  })
})

describe('words whose answer was lost', () => {
  const block = (id: string) => ({ id, block: 'heading', values: { text: { en: id } } })
  it('are not restored when the service has them, whatever else was changed since', () => {
    const { copy } = deskWith({ body: [block('h1')], price: 12 })
    copy.restoreUnsaved({
      saved: { body: [block('h1'), block('h2')], price: 12 },
      values: { body: [block('h1')], price: 12 },
    })
    expect([copy.isChanged.value, copy.values['price']]).toEqual([false, 12])
    copy.restoreUnsaved({ saved: { body: [block('h1')], price: 12 }, values: { body: [block('h1')], price: 10 } })
    expect([copy.isChanged.value, copy.values['price']]).toEqual([true, 10])
  })
  it('are sent again under the same key, and under another once they differ', async () => {
    const edit = vi.fn(() => Promise.reject(new Error('lost')))
    const { copy } = deskWith({ price: 9 }, { edit })
    const keys = async () => {
      await copy.save().catch(() => undefined)
      return (edit.mock.calls.at(-1) as unknown[])[3]
    }
    copy.write(copy.values, 'price', undefined, 10)
    const [first, again] = [await keys(), await keys()]
    copy.write(copy.values, 'price', undefined, 11)
    expect([first === again, first === (await keys())]).toEqual([true, false])
  })
})

describe('what a save brings back', () => {
  it('leaves alone what is the same, so that nobody loses their place in it', () => {
    const { copy } = deskWith({ body: [{ id: 'h1', block: 'heading', values: { text: { en: 'One' } } }], price: 9 })
    const before = copy.values['body']
    copy.take(entryOf({ body: [{ id: 'h1', block: 'heading', values: { text: { en: 'One' } } }], price: 12 }))
    expect(copy.values['body']).toBe(before)
    expect(copy.values['price']).toBe(12)
  })
})

describe('an unreadable value', () => {
  const fault = { text: 'twelve', message: 'It must be a number.' }
  const keep = (options: Partial<Parameters<typeof useEntrySaving>[1]>) => {
    const desk = deskWith({ title: { en: 'Walk' } })
    let keeping!: ReturnType<typeof useEntrySaving>
    const setup = () => {
      keeping = useEntrySaving(desk.copy, { maySave: true, ...options }, () => Promise.resolve())
      return () => null
    }
    const wrapper = mount(defineComponent({ setup }))
    desk.copy.write(desk.copy.values, 'title', 'en', 'Night Walk')
    desk.copy.unreadable.hold('/values/price', '', fault)
    return { ...desk, keeping, wrapper }
  }

  it('is left out of a save to the working copy, and blocks publishing', async () => {
    const { editor, keeping, wrapper } = keep({})
    expect(await keeping.save()).toBe(true)
    expect(editor.edit).toHaveBeenCalledTimes(1)
    expect(await keeping.ensureSaved()).toBe(false)
    expect(keeping.failure.value).toMatch(
      /^Price.* is not saved: It must be a number\. Correct it or empty it first\.$/,
    )
    wrapper.unmount()
  })
  it('blocks a save that publishes, until it is corrected', async () => {
    const { copy, editor, keeping, wrapper } = keep({ savePublishes: true })
    expect(await keeping.save()).toBe(false)
    expect(editor.edit).not.toHaveBeenCalled()
    expect(keeping.failure.value).toContain('Correct it or empty it first.')
    copy.unreadable.hold('/values/price', '', undefined)
    expect(await keeping.save()).toBe(true)
    expect(editor.edit).toHaveBeenCalledTimes(1)
    expect(keeping.failure.value).toBe('')
    wrapper.unmount()
  })
})
