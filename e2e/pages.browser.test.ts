import type { Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { findingsOn } from './support/axe.js'
import { startConsole, type ConsoleWorld } from './support/browser.js'

/** Every page of the console, at every width that it is made for. */
let world: ConsoleWorld
let page: Page
let base = ''

beforeAll(async () => {
  world = await startConsole()
  base = world.base
  page = await world.open()
  await world.signIn('maren@marram.example', page)
})
afterAll(() => world?.end())

/** By address under the site, and the element that is there when the page is ready. */
const pages: readonly (readonly [path: string, ready: string])[] = [
  ['today', 'h1'],
  ['entries', '.row'],
  ['entries/activity?columns=format,starts', '.row'],
  ['tree', '.node'],
  ['counterparts', '.content'],
  ['bin', 'h1'],
  ['imports', '.content'],
  ['assets', '.asset'],
  ['translations', '.cell'],
  ['translations/glossary', '.content, .term-row'],
  ['translations/orders', '.content'],
  ['connectors', '.content'],
  ['copy', '.content'],
  ['archive', '.content'],
  ['translate/nl?type=exhibition&show=all', '.unit.here'],
  ['model', '.box'],
  ['model/type/activity', '.fields li'],
  ['locales', '#locale-en'],
  ['front-ends', 'dl'],
  ['members', 'tbody tr'],
  ['keys', 'tbody tr'],
  ['webhooks', 'tbody tr'],
  ['automations', 'tbody tr'],
  ['automations/moved-activity', '.content'],
  ['new-automation', '.steps'],
  ['new/activity', '.field'],
  ['entry/visitorInfo', '.field'],
  ['query', 'button:has-text("Run")'],
  ['api', '.call'],
  ['api?api=edit', '.call'],
]
const goTo = async (path: string, ready: string) => {
  await page.goto(`${base}marram/${path}`)
  await page.waitForSelector(ready)
}

/** Parts of a page that reach beyond its window, or cannot be scrolled into it. */
const beyond = (): Promise<string[]> =>
  page.evaluate(() => {
    const edge = document.documentElement.clientWidth
    const scrolls = (element: Element | null): boolean =>
      element !== null &&
      (/(auto|scroll|hidden)/.test(getComputedStyle(element).overflowX) || scrolls(element.parentElement))
    const wide = [...document.querySelectorAll('#app *')].filter((element) => {
      const box = element.getBoundingClientRect()
      if (box.width === 0 || box.height === 0) return false
      return (box.right > edge + 1 || box.left < -1) && !scrolls(element.parentElement)
    })
    const page = document.documentElement.scrollWidth > edge + 1 ? ['the page scrolls sideways'] : []
    return [...page, ...wide.slice(0, 5).map((element) => element.outerHTML.slice(0, 140))]
  })

/** Labels of buttons and links that are cut off where the rest cannot be seen. */
const cut = (): Promise<string[]> =>
  page.evaluate(() =>
    [...document.querySelectorAll<HTMLElement>('button, a, th, h1, h2, label')]
      .filter((element) => element.offsetParent !== null && !element.closest('.visually-hidden'))
      .filter((element) => {
        const { overflowX, textOverflow } = getComputedStyle(element)
        return overflowX === 'hidden' && textOverflow !== 'ellipsis' && element.scrollWidth > element.clientWidth + 1
      })
      .map((element) => element.outerHTML.slice(0, 140)),
  )

/** Parts of a page whose content is wider than they are, and lies over the parts beside them. */
const squeezed = (): Promise<string[]> =>
  page.evaluate(() =>
    [...document.querySelectorAll<HTMLElement>('main > *')]
      .filter((element) => element.offsetParent !== null && !element.matches('.visually-hidden, :empty'))
      .filter((element) => getComputedStyle(element).overflowX === 'visible')
      .filter((element) => element.scrollWidth > element.clientWidth + 1)
      .map((element) => `${element.scrollWidth} in ${element.clientWidth}: ${element.outerHTML.slice(0, 100)}`),
  )
const faults = async (): Promise<string[]> => [...(await beyond()), ...(await cut()), ...(await squeezed())]

/** 640 px are 1280 at 200 %. */
const widths = [1280, 1024, 640, 390]

describe('every page', () => {
  it.each(pages)('fits at every width, and has no finding of axe: %s', async (path, ready) => {
    await page.setViewportSize({ width: 1280, height: 800 })
    await goTo(path, ready)
    const wrongs: string[] = await findingsOn(page)
    for (const width of widths) {
      await page.setViewportSize({ width, height: width === 640 ? 400 : 800 })
      for (const wrong of await faults()) wrongs.push(`at ${width}: ${wrong}`)
    }
    expect(wrongs).toEqual([])
  })
})

describe('sheets', () => {
  beforeAll(() => page.setViewportSize({ width: 1280, height: 800 }))
  it.each([
    ['members', 'Invite…'],
    ['keys', 'Create key…'],
    ['front-ends', 'Add front end…'],
    ['webhooks', 'Add webhook…'],
  ])('have no finding, take the focus and give it back: %s', async (path, button) => {
    await goTo(path, 'h1')
    await page.locator('footer.strip').getByRole('button', { name: button }).click()
    await page.locator('.sheet form').waitFor()
    await page.waitForFunction(() => document.querySelector('.sheet')!.getBoundingClientRect().bottom <= innerHeight)
    await page.waitForFunction(() => document.activeElement?.matches('.sheet input'))
    expect(await findingsOn(page)).toEqual([])
    await page.keyboard.press('Escape')
    await page.waitForFunction((text) => document.activeElement?.textContent?.includes(text), button)
  })

  it('are not all: the pages of an account and of all sites have no finding either', async () => {
    for (const path of ['account', 'sites']) {
      await page.goto(base + path)
      await page.waitForSelector('tbody tr')
      expect(await findingsOn(page)).toEqual([])
    }
  })

  it('have none where the last actions stand as commands and requests, ready to copy', async () => {
    await goTo('locales', '#locale-en')
    const open = async () => {
      await page.click('button.member')
      await page.getByRole('menuitem', { name: 'Last actions as commands' }).click()
      await page.getByRole('dialog', { name: 'Your last actions' }).waitFor()
      await page.waitForFunction(() => document.querySelector('.sheet')!.getBoundingClientRect().bottom <= innerHeight)
      await page.getByRole('menuitem').first().waitFor({ state: 'hidden' })
    }
    await open()
    await page.getByText('Nothing yet.').waitFor()
    await page.keyboard.press('Escape')
    await page.getByRole('dialog', { name: 'Your last actions' }).waitFor({ state: 'hidden' })
    await page.getByRole('link', { name: 'Access keys' }).click()
    await page.locator('footer.strip').getByRole('button', { name: 'Create key…' }).click()
    await page.locator('.sheet form input').first().fill("The coast's site")
    await page.locator('.sheet').getByRole('button', { name: 'Create key' }).click()
    await page.getByRole('button', { name: 'I have stored it' }).click()
    await page.getByRole('dialog', { name: 'Create an access key' }).waitFor({ state: 'hidden' })
    await open()
    const command = page.locator('li pre')
    expect(await command.textContent()).toBe(`wisteria key create --label 'The coast'\\''s site' --scope published`)
    expect(await findingsOn(page)).toEqual([])
    await page.getByText('HTTP request').click()
    expect(await command.textContent()).toContain(`curl -X POST ${new URL(base).origin}/edit/v1/sites/marram/keys`)
    await page.locator('li').getByRole('button', { name: 'Copy' }).click()
    await page.locator('li').getByRole('button', { name: 'Copied' }).waitFor()
    await page.keyboard.press('Escape')
    await page.getByRole('dialog', { name: 'Your last actions' }).waitFor({ state: 'hidden' })
  })

  it('have none in the editor, nor have the comparison and Arabic', async () => {
    const open = async () => {
      await page.goto(`${base}marram/entries/museum`)
      await page.click('.row a:has-text("The Saltworks")')
      await page.waitForSelector('.field')
    }
    await open()
    expect(await findingsOn(page)).toEqual([])
    await page.click('.locale:has-text("ar")')
    expect(await findingsOn(page)).toEqual([])
    await page.click('footer.strip button:has-text("Publish…")')
    await page.waitForSelector('.sheet dl')
    await page.waitForFunction(() => document.querySelector('.sheet')!.getBoundingClientRect().bottom <= innerHeight)
    expect(await findingsOn(page)).toEqual([])
    await page.keyboard.press('Escape')
    await open()
    await page.click('footer.strip a:has-text("History")')
    await page.waitForSelector('.group')
    expect(await findingsOn(page)).toEqual([])
  })
})

describe('what opens beside a button or from a menu', () => {
  const focused = (selector: string) =>
    page.waitForFunction((inside) => document.activeElement?.matches(inside), selector)
  const onButton = (text: string) =>
    page.waitForFunction((words) => document.activeElement?.textContent?.includes(words), text)
  beforeAll(() => page.setViewportSize({ width: 1280, height: 800 }))
  afterAll(() => page.emulateMedia({ colorScheme: 'light' }))

  it.each(['light', 'dark'] as const)('takes the focus, gives it back, and has no finding: %s', async (colorScheme) => {
    await page.emulateMedia({ colorScheme })
    await goTo('entries/activity', '.row')
    for (const button of ['Save view…', 'Columns', 'Add a condition…', 'What can I write?']) {
      await page.locator('main').getByRole('button', { name: button }).click()
      await focused('.pop-panel *')
      expect(await findingsOn(page)).toEqual([])
      await page.keyboard.press('Escape')
      await onButton(button)
    }
    await page.keyboard.press('Control+k')
    await focused('.go-to input')
    expect(await findingsOn(page)).toEqual([])
    await page.keyboard.press('Escape')
    await page.locator('.row .choose').first().click()
    for (const action of ['Set a field…', 'Publish…']) {
      await page.locator('footer.strip').getByRole('button', { name: action }).click()
      await focused('.sheet *')
      expect(await findingsOn(page)).toEqual([])
      await page.keyboard.press('Escape')
      await onButton(action)
    }
    await goTo('entries/museum', '.row')
    await page.click('.row a:has-text("The Saltworks")')
    await page.waitForSelector('.field')
    for (const act of ['Withdraw…', 'Archive…']) {
      await page.locator('footer.strip').getByRole('button', { name: 'More…' }).click()
      await page.getByRole('menuitem', { name: act }).click()
      await focused('.sheet h2')
      expect(await findingsOn(page)).toEqual([])
      await page.keyboard.press('Escape')
      await onButton('More…')
    }
    await goTo('model/type/activity', '.fields li')
    expect(await findingsOn(page)).toEqual([])
  })
})

describe('the language of the console', () => {
  const choose = async (language: string) => {
    await page.goto(`${base}account`)
    await page.locator('.el-select:has(#own-language)').click()
    await page.locator('.el-select-dropdown__item:visible', { hasText: language }).click()
    await page.locator('form:has(#own-language) button[type=submit]').click()
  }
  beforeAll(() => page.setViewportSize({ width: 1280, height: 800 }))

  it('is chosen by each member, and holds on every page and at the next start', async () => {
    await choose('Nederlands')
    await page.locator('nav a', { hasText: 'Bestanden' }).waitFor()
    expect(await page.evaluate(() => [document.documentElement.lang, document.documentElement.dir])).toEqual([
      'nl',
      'ltr',
    ])
    const wrongs: string[] = []
    for (const [path, ready] of pages) {
      // The name of a button differs.
      await goTo(path, ready.startsWith('button') ? '.strip .el-button--primary' : ready)
      for (const wrong of await faults()) wrongs.push(`${path}: ${wrong}`)
    }
    expect(wrongs).toEqual([])
    // Weeks begin on Monday, and months have Dutch names.
    await goTo('new/exhibition', '.field')
    await page.locator('[id^="field-values-starts"] input').click()
    expect(await page.locator('.el-date-table th:visible').first().textContent()).toMatch(/^ma/i)
  })

  it('is written from right to left where it is Arabic, and everything fits', async () => {
    await choose('العربية')
    await page.locator('nav a', { hasText: 'الملفات' }).waitFor()
    expect(await page.evaluate(() => document.documentElement.dir)).toBe('rtl')
    const wrongs: string[] = []
    for (const [path, ready] of pages) {
      await goTo(path, ready.startsWith('button') ? '.strip .el-button--primary' : ready)
      for (const wrong of await faults()) wrongs.push(`${path}: ${wrong}`)
    }
    expect(wrongs).toEqual([])
    await choose('English')
    await page.locator('nav a', { hasText: 'Assets' }).waitFor()
  })
})
