import { mount } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { defineComponent, h } from 'vue'
import ScheduleTime from '../schedules/ScheduleTime.vue'
import { useSchedules } from '../schedules/schedules'
import { deskWith, entryOf } from '../testing/desk'
import { usePresence } from './presence'

beforeEach(() => void vi.useFakeTimers({ now: Date.parse('2031-03-12T09:20:00Z') }))
afterEach(() => void vi.useRealTimers())

describe('who else is here', () => {
  const present = (answers: { version: number; others?: unknown[] }[]) => {
    let asked = 0
    const presence = vi.fn(() =>
      Promise.resolve({ others: [], updatedBy: 'account:ilse', ...answers[Math.min(asked++, answers.length - 1)] }),
    )
    const entry = vi.fn(() => Promise.resolve(entryOf({ title: { en: 'What Ilse wrote' } }, { version: 5 })))
    const desk = deskWith({ title: { en: 'Walk' } }, { presence, entry })
    const taken: string[] = []
    const wrapper = mount(
      defineComponent({
        setup() {
          const { others } = usePresence(
            desk.copy,
            () => true,
            (actor) => taken.push(actor),
          )
          return () => h('p', String(others.value.length))
        },
      }),
    )
    return { ...desk, presence, taken, wrapper }
  }
  it('is asked for again and again, until one leaves', async () => {
    const { wrapper, presence } = present([{ version: 1, others: [{ actor: 'account:ilse', at: null, since: '' }] }])
    await vi.advanceTimersByTimeAsync(10)
    expect(wrapper.text()).toBe('1')
    await vi.advanceTimersByTimeAsync(25_000)
    expect(presence.mock.calls.length).toBe(3)
    wrapper.unmount()
    await vi.advanceTimersByTimeAsync(60_000)
    expect(presence.mock.calls.at(-1)).toEqual(['01hz0000000000000001', { left: true }])
    expect(presence.mock.calls.length).toBe(4)
  })
  it('takes in what another saved, under what is being written', async () => {
    const idle = present([{ version: 5 }])
    await vi.advanceTimersByTimeAsync(50)
    expect([idle.taken, idle.copy.values]).toEqual([['account:ilse'], { title: { en: 'What Ilse wrote' } }])
    const busy = present([{ version: 1 }, { version: 5 }])
    await vi.advanceTimersByTimeAsync(50)
    busy.copy.write(busy.copy.values, 'price', undefined, 12)
    await vi.advanceTimersByTimeAsync(13_000)
    expect([busy.taken, busy.copy.values]).toEqual([['account:ilse'], { title: { en: 'What Ilse wrote' }, price: 12 }])
    const same = present([{ version: 1 }, { version: 5 }])
    await vi.advanceTimersByTimeAsync(50)
    same.copy.write(same.copy.values, 'title', 'en', 'What I write')
    await vi.advanceTimersByTimeAsync(13_000)
    expect([same.taken, same.copy.values['title'], same.copy.conflicts.value.length]).toEqual([
      [],
      { en: 'What I write' },
      1,
    ])
  })
  it('keeps what is typed while the other version is on its way', async () => {
    const { copy, editor } = present([{ version: 5 }])
    let answer: (entry: unknown) => void = () => undefined
    editor.entry = vi.fn(() => new Promise((resolve) => (answer = resolve)))
    await vi.advanceTimersByTimeAsync(50)
    expect(editor.entry).toHaveBeenCalled()
    copy.write(copy.values, 'price', undefined, 12)
    answer(entryOf({ title: { en: 'What Ilse wrote' } }, { version: 5 }))
    await vi.advanceTimersByTimeAsync(50)
    expect(copy.values).toEqual({ title: { en: 'What Ilse wrote' }, price: 12 })
    expect(copy.edits.value).toEqual([{ do: 'set', at: ['price'], value: 12 }])
  })
})

describe('a time to come', () => {
  it('begins at the next full hour where it is said, and is not in the past', async () => {
    const wrapper = mount(ScheduleTime, { props: { zone: 'Europe/Amsterdam', verb: 'Schedule' } })
    const input = wrapper.find('input')
    expect((input.element as HTMLInputElement).value).toBe('2031-03-12T11:00')
    await input.setValue('2031-03-12T10:19')
    expect(wrapper.text()).toContain('This time has passed.')
    await input.setValue('2031-03-13T09:00')
    await wrapper.find('form').trigger('submit')
    expect(wrapper.emitted('schedule')).toEqual([['2031-03-13T09:00', 'Europe/Amsterdam']])
  })
  it('begins at its time', () => {
    const wrapper = mount(ScheduleTime, {
      props: { zone: 'Asia/Tokyo', verb: 'Reschedule', from: '2031-07-01T00:00:00Z' },
    })
    expect((wrapper.find('input').element as HTMLInputElement).value).toBe('2031-07-01T09:00')
  })
})

describe('what is scheduled', () => {
  const schedule = { id: 'p1', does: 'publish', at: '2031-07-01T00:00:00Z', zone: 'UTC' }
  it('is read, and cancelled', async () => {
    const schedules = vi
      .fn()
      .mockResolvedValueOnce({ schedules: [schedule] })
      .mockResolvedValue({ schedules: [] })
    const cancelSchedule = vi.fn(() => Promise.resolve())
    const told: string[] = []
    const { copy } = deskWith({}, { schedules, cancelSchedule })
    const scheduled = useSchedules(
      copy,
      (text) => told.push(text),
      (text) => told.push(`no: ${text}`),
    )
    await scheduled.read()
    expect(scheduled.schedules.value).toEqual([schedule])
    await scheduled.cancelSchedule(scheduled.schedules.value[0]!)
    expect([scheduled.schedules.value, told]).toEqual([[], ['Cancelled.']])
  })
  it('says why it could not be cancelled', async () => {
    const cancelSchedule = vi.fn(() => Promise.reject(new Error('This schedule is done already.')))
    const told: string[] = []
    const { copy } = deskWith({}, { schedules: vi.fn(() => Promise.resolve({ schedules: [] })), cancelSchedule })
    const scheduled = useSchedules(
      copy,
      () => undefined,
      (text) => told.push(text),
    )
    await scheduled.cancelSchedule(schedule as never)
    expect(told).toEqual(['This schedule is done already.'])
  })
})
