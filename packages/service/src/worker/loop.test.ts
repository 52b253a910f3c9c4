import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { Loop, type Work } from './loop.js'

beforeEach(() => void vi.useFakeTimers({ now: 0 }))
afterEach(() => void vi.useRealTimers())

/** A loop over items that are due at their times, by name. */
function looping(
  times: Record<string, number>,
  run: (name: string) => Promise<void>,
  more: Partial<Work<string>> = {},
) {
  const waiting = new Map(Object.entries(times))
  const log: string[] = []
  const work: Work<string> = {
    name: 'test',
    atOnce: 2,
    keyOf: (name) => name,
    due: (most, skipped) =>
      Promise.resolve(
        [...waiting]
          .filter(([name, at]) => at <= Date.now() && !skipped.includes(name))
          .map(([name]) => name)
          .slice(0, most),
      ),
    next: (skipped) => {
      const left = [...waiting].filter(([name, at]) => !skipped.includes(name) && at > Date.now()).map(([, at]) => at)
      return Promise.resolve(left.length > 0 ? Math.min(...left) : undefined)
    },
    run: async (name) => {
      log.push(`${name} ${Date.now()}`)
      await run(name)
      waiting.delete(name)
    },
    giveUp: (name) => {
      log.push(`aside ${name}`)
      waiting.delete(name)
      return Promise.resolve()
    },
    ...more,
  }
  const errors = vi.fn()
  const loop = new Loop(work, { logger: { error: errors }, now: Date.now })
  loop.wake()
  return { loop, log, waiting, errors }
}

describe('the loop of what runs by itself', () => {
  it('does each item when its time has come', async () => {
    const { log } = looping({ now: 0, later: 5000, last: 90_000 }, () => Promise.resolve())
    await vi.advanceTimersByTimeAsync(100_000)
    expect(log.map((line) => line.split(' ')[0])).toEqual(['now', 'later', 'last'])
    expect(Number(log[1]!.split(' ')[1])).toBeLessThan(5010)
  })
  it('lets no item stop another: one that fails waits longer each time, then is given up', async () => {
    const { log, errors } = looping({ bad: 0, good: 10, also: 20 }, (name) =>
      name === 'bad' ? Promise.reject(new Error('unforeseen')) : Promise.resolve(),
    )
    await vi.advanceTimersByTimeAsync(200)
    expect(log.map((line) => line.split(' ')[0])).toEqual(['bad', 'good', 'also'])
    await vi.advanceTimersByTimeAsync(100_000)
    expect(log.filter((line) => line.startsWith('bad')).length).toBe(4)
    expect(log.at(-1)).toBe('aside bad')
    expect(errors).toHaveBeenCalledTimes(4)
  })
  it('goes on when looking for work, or giving an item up, fails', async () => {
    let broken = true
    const { log, waiting } = looping({ one: 0 }, () => Promise.resolve(), {
      due: () => (broken ? Promise.reject(new Error('disk')) : Promise.resolve(waiting.has('one') ? ['one'] : [])),
    })
    await vi.advanceTimersByTimeAsync(3000)
    expect(log).toEqual([])
    broken = false
    await vi.advanceTimersByTimeAsync(30_000)
    expect(log.length).toBe(1)
    const stubborn = looping(
      { bad: 0, next: 60_000 },
      (name) => (name === 'bad' ? Promise.reject(new Error('x')) : Promise.resolve()),
      { giveUp: () => Promise.reject(new Error('y')) },
    )
    await vi.advanceTimersByTimeAsync(120_000)
    expect(stubborn.log.some((line) => line.startsWith('next'))).toBe(true)
  })
  it('has so many under way at once and no more, and waits for them when it stops', async () => {
    let open = 0
    let most = 0
    const { loop } = looping({ a: 0, b: 0, c: 0, d: 0 }, async () => {
      most = Math.max(most, ++open)
      await new Promise((resolve) => setTimeout(resolve, 100))
      open--
    })
    await vi.advanceTimersByTimeAsync(150)
    expect(most).toBe(2)
    const stopped = loop.stop()
    await vi.advanceTimersByTimeAsync(1000)
    await stopped
    expect(open).toBe(0)
  })
})
