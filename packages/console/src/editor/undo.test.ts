import { reactive } from 'vue'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { createUndo } from './undo'

beforeEach(() => void vi.useFakeTimers())
afterEach(() => void vi.useRealTimers())

const deskOf = (values: Record<string, unknown>) => {
  const copy = { values: reactive(structuredClone(values)) }
  return { values: copy.values, undo: createUndo(copy) }
}

describe('undo', () => {
  it('undoes what was written in one go, and redoes it', () => {
    const { values, undo } = deskOf({ title: 'Walk' })
    for (const title of ['Walks', 'Walks a', 'Walks at dawn']) values['title'] = title
    vi.advanceTimersByTime(1000)
    values['price'] = 9
    vi.advanceTimersByTime(1000)
    expect([undo.undo(), values]).toEqual([true, { title: 'Walks at dawn' }])
    expect([undo.undo(), values]).toEqual([true, { title: 'Walk' }])
    expect([undo.undo(), undo.canUndo.value]).toEqual([false, false])
    undo.redo()
    undo.redo()
    expect([values, undo.redo()]).toEqual([{ title: 'Walks at dawn', price: 9 }, false])
  })
  it('counts what is just being written, and forgets what was undone once something else is', () => {
    const { values, undo } = deskOf({ title: 'Walk' })
    values['title'] = 'Dawn'
    expect(undo.undo()).toBe(true)
    expect(values).toEqual({ title: 'Walk' })
    values['title'] = 'Dusk'
    vi.advanceTimersByTime(1000)
    expect([undo.canRedo.value, undo.redo()]).toEqual([false, false])
  })
  it('leaves alone what others saved meanwhile', () => {
    const { values, undo } = deskOf({ title: 'Walk', price: 9 })
    values['title'] = 'Dawn'
    vi.advanceTimersByTime(1000)
    values['price'] = 12
    undo.rebase()
    undo.undo()
    expect(values).toEqual({ title: 'Walk', price: 12 })
    values['title'] = 'Dusk'
    vi.advanceTimersByTime(1000)
    values['title'] = 'What Ilse wrote'
    undo.rebase()
    undo.undo()
    expect(values['title']).toBe('What Ilse wrote')
  })
  it('reaches into blocks', () => {
    const { values, undo } = deskOf({ body: [{ id: 'a', values: { text: 'x' } }] })
    const [block] = values['body'] as { values: { text: string } }[]
    block!.values.text = 'y'
    vi.advanceTimersByTime(1000)
    undo.undo()
    expect(values).toEqual({ body: [{ id: 'a', values: { text: 'x' } }] })
  })
  it('keeps what is done to blocks apart from what is typed, where it is told so', () => {
    const recordStep = { value: () => undefined as void }
    const values = reactive<Record<string, unknown>>({ body: [] })
    const undo = createUndo({ values, recordStep: recordStep as never })
    values['title'] = 'Typed'
    recordStep.value()
    values['body'] = [{ id: 'a' }]
    recordStep.value()
    values['title'] = 'Typed on'
    undo.undo()
    expect(values).toEqual({ title: 'Typed', body: [{ id: 'a' }] })
    undo.undo()
    expect(values).toEqual({ title: 'Typed', body: [] })
  })
  it('passes over a step of which others have left nothing', () => {
    const { values, undo } = deskOf({ title: 'Walk', price: 1 })
    values['price'] = 2
    vi.advanceTimersByTime(1000)
    values['title'] = 'Dawn'
    vi.advanceTimersByTime(1000)
    values['title'] = 'Somebody else'
    undo.rebase()
    expect([undo.undo(), values]).toEqual([true, { title: 'Somebody else', price: 1 }])
    expect(undo.undo()).toBe(false)
  })
})
