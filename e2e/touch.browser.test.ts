import { afterAll, beforeAll, expect, it } from 'vitest'
import { startConsole, type ConsoleWorld } from './support/browser.js'

let world: ConsoleWorld
beforeAll(async () => void (world = await startConsole()))
afterAll(() => world.end())

it('a finger that is held on a field of a type drags it to another place', async () => {
  const context = await world.browser.newContext({ viewport: { width: 1024, height: 768 }, hasTouch: true })
  const page = await context.newPage()
  page.setDefaultTimeout(60_000)
  await world.signIn('maren@marram.example', page)
  await page.goto(`${world.base}marram/model/type/notice`)
  const names = (): Promise<string[]> => page.locator('.fields li code').allTextContents()
  await page.waitForSelector('.fields li code')
  const before = await names()
  const middleOf = async (index: number): Promise<{ x: number; y: number }> => {
    const box = (await page.locator('.fields li').nth(index).boundingBox())!
    return { x: box.x + 40, y: box.y + box.height / 2 }
  }
  const [from, to] = [await middleOf(0), await middleOf(2)]
  const touch = await context.newCDPSession(page)
  const tell = (type: 'touchStart' | 'touchMove' | 'touchEnd', points: readonly { x: number; y: number }[]) =>
    touch.send('Input.dispatchTouchEvent', { type, touchPoints: [...points] })
  await tell('touchStart', [from])
  await page.waitForTimeout(700)
  for (let step = 1; step <= 8; step++) {
    await tell('touchMove', [{ x: from.x, y: from.y + ((to.y - from.y) * step) / 8 }])
    await page.waitForTimeout(30)
  }
  await tell('touchEnd', [])
  const moved = [before[1], before[2], before[0], ...before.slice(3)]
  await expect.poll(names, { timeout: 10_000 }).toEqual(moved)
  await context.close()
})
