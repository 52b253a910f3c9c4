import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { deskWith, entryOf } from '../testing/desk'
import { createAutosave } from './autosave'
import { keptWords } from './keptWords'

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
  beforeEach(() => localStorage.clear())

  it('come back until they are dropped, each place and person its own', () => {
    const kept = keptWords(localStorage, 'ilse', 'marram/e1')
    expect(kept.recall()).toBeUndefined()
    expect(kept.keep(words)).toBe(true)
    expect(keptWords(localStorage, 'ilse', 'marram/e1').recall()).toEqual(words)
    expect(keptWords(localStorage, 'ilse', 'marram/e2').recall()).toBeUndefined()
    expect(keptWords(localStorage, 'teun', 'marram/e1').recall()).toBeUndefined()
    kept.drop()
    expect(kept.recall()).toBeUndefined()
  })
  it('say when they are not safe', () => {
    const full = { setItem: () => { throw new Error('no room') }, getItem: () => '{"half' } as unknown as Storage // prettier-ignore
    expect(keptWords(full, 'ilse', 'e').keep(words)).toBe(false)
    expect(keptWords(full, 'ilse', 'e').recall()).toBeUndefined()
    expect(keptWords(undefined, 'ilse', 'e').keep(words)).toBe(false)
  })
  it('are sent on the version that they were written on', async () => {
    const edit = vi.fn(() =>
      Promise.resolve({ ...entryOf({ price: 12, town: 'Tern Bay' }, { version: 6 }), merged: true }),
    )
    const { copy } = deskWith({ price: 9, town: 'Tern Bay' }, { edit })
    copy.putBack({ version: 3, saved: { price: 9 }, values: { price: 12 } })
    await copy.save()
    expect(edit).toHaveBeenCalledWith(
      expect.anything(),
      3,
      [{ do: 'set', at: ['price'], value: 12 }],
      expect.any(String),
    )
    expect([copy.isChanged.value, copy.entry.value?.version, copy.values['town']]).toEqual([false, 6, 'Tern Bay'])
  })
})

describe('words whose answer was lost', () => {
  const block = (handle: string) => ({ handle, block: 'heading', values: { text: { en: handle } } })
  it('are not put back when the service has them, whatever else was changed since', () => {
    const { copy } = deskWith({ body: [block('h1')], price: 12 })
    copy.putBack({ version: 1, saved: { body: [block('h1'), block('h2')], price: 9 }, values: { body: [block('h1')], price: 9 } }) // prettier-ignore
    expect([copy.isChanged.value, copy.values['price']]).toEqual([false, 12])
    copy.putBack({ version: 1, saved: { price: 9 }, values: { price: 10 } })
    expect([copy.isChanged.value, copy.values['price']]).toEqual([true, 10])
  })
  it('are sent again under the same key, and under another once they differ', async () => {
    const edit = vi.fn(() => Promise.reject(new Error('lost')))
    const { copy } = deskWith({ price: 9 }, { edit })
    const keys = async () => {
      await copy.save().catch(() => undefined)
      return (edit.mock.calls.at(-1) as unknown[])[3]
    }
    copy.write(copy.values, 'price', false, 10)
    const [first, again] = [await keys(), await keys()]
    copy.write(copy.values, 'price', false, 11)
    expect([first === again, first === (await keys())]).toEqual([true, false])
  })
})

describe('what a save brings back', () => {
  it('leaves alone what is the same, so that nobody loses their place in it', () => {
    const { copy } = deskWith({ body: [{ handle: 'h1', block: 'heading', values: { text: { en: 'One' } } }], price: 9 })
    const before = copy.values['body']
    copy.take(entryOf({ body: [{ handle: 'h1', block: 'heading', values: { text: { en: 'One' } } }], price: 12 }))
    expect(copy.values['body']).toBe(before)
    expect(copy.values['price']).toBe(12)
  })
})
