import type { Editor } from '@wisteria/client'
import { withLocale } from '@wisteria/core'
import type { Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { startConsole, type ConsoleWorld } from './support/browser.js'
import { eventually } from './support/running.js'

/** The name, the time zone and the locales of a site, in the console. */
let world: ConsoleWorld
let page: Page
let teun: Editor

beforeAll(async () => {
  world = await startConsole()
  teun = await world.demo.as('teun@marram.example')
  page = await world.open()
  await world.signIn('teun@marram.example', page)
})
afterAll(() => world?.end())

const address = (site = 'marram') => `${world.base}${site}/locales`
const tags = async () => (await teun.locales()).settings.locales.map(({ tag }) => tag)
const sheet = () => page.locator('.sheet:visible')
const see = async () => {
  await page.click('footer.strip button:has-text("See consequences…")')
  await sheet().locator('.sheet-foot button').nth(1).waitFor()
}
const isSaved = () =>
  eventually(
    () => page.locator('.strip .result').textContent(),
    (text) => text === 'Saved.',
  )
const add = async (tag: string) => {
  await page.fill('#new-locale', tag)
  await page.click('button:has-text("Add locale")')
}

describe('locales in the console', () => {
  it('are added, with what is no language tag told beside its field', async () => {
    await page.click('nav a:has-text("Site")')
    await page.waitForSelector('#new-locale')
    await add('german')
    expect(await page.locator('.add [role=alert]').textContent()).toContain('Did you mean `de`?')
    await add('DE')
    expect(await page.locator('#locale-de input').first().inputValue()).toBe('Deutsch')
    // Unsaved changes survive a reload.
    await page.reload()
    await page.waitForSelector('#locale-de')
    await see()
    expect(await sheet().textContent()).toContain('de is added')
    await sheet().locator('button:has-text("Save")').click()
    await isSaved()
    expect(await tags()).toEqual(['en', 'nl', 'nl-BE', 'ar', 'de'])
    expect(await page.locator('footer.strip .end button').count()).toBe(0)
  })
  it('are not removed while types have paths in them', async () => {
    await page.click('#locale-nl button:has-text("Remove")')
    await see()
    expect(await sheet().textContent()).toContain('These types have a path pattern for `nl`: activity')
    expect(await sheet().locator('.el-button--danger').isDisabled()).toBe(true)
    await sheet().locator('button:has-text("Cancel")').click()
    await page.click('footer.strip button:has-text("Discard changes")')
    await page.waitForSelector('#locale-nl')
    expect(await tags()).toContain('nl')
  })
  it('are withdrawn and removed once one has seen from how many entries, and come back with their texts', async () => {
    const { id } = await teun.create({ type: 'page', values: { title: { en: 'Ferry', de: 'Fähre' } } })
    await teun.publish(id, { locales: ['en', 'de'] })
    await page.click('#locale-de button:has-text("Remove")')
    await see()
    const text = await sheet().textContent()
    expect(text).toContain('It is withdrawn in 1 entry.')
    expect(text).toContain('The texts of 1 working copy in it are kept.')
    await sheet().locator('.el-button--danger:has-text("Withdraw and remove de")').click()
    await isSaved()
    expect(await tags()).not.toContain('de')
    expect((await teun.entry(id)).states).toMatchObject({ en: 'public' })
    await add('de')
    await see()
    await sheet().locator('button:has-text("Save")').click()
    await isSaved()
    const again = await teun.entry(id)
    expect([again.states['de'], (again.values['title'] as Record<string, string>)['de']]).toEqual([
      'withdrawn',
      'Fähre',
    ])
  })
  it('that were removed keep their texts until these are deleted permanently', async () => {
    const { settings, version } = await teun.locales()
    await teun.setLocales(withLocale(settings, 'fy'), [], { version })
    const { id } = await teun.create({ type: 'page', values: { title: { en: 'Mill', fy: 'Mûne' } } })
    await teun.setLocales(settings)
    await page.goto(address())
    const row = page.locator('tr:has(th:has-text("fy"))')
    await row.getByText('Entries: 1; files: 0').waitFor()
    await row.getByRole('button', { name: 'Delete texts…' }).click()
    await page.locator('.el-popconfirm:visible').getByRole('button', { name: 'Delete permanently' }).click()
    await page.getByText('The texts in fy are deleted, in 1 entry.').waitFor()
    await expect.poll(() => row.count()).toBe(0)
    const again = await teun.locales()
    await teun.setLocales(withLocale(again.settings, 'fy'))
    expect((await teun.entry(id)).values['title']).toEqual({ en: 'Mill' })
    await teun.setLocales(settings)
    await page.reload()
    await page.waitForSelector('#locale-de')
  })
  it('are ordered by keyboard, and renamed', async () => {
    await page.focus('button[aria-label="Move de up"]')
    await page.keyboard.press('Enter')
    await page.keyboard.press('Enter')
    expect(await page.evaluate(() => document.activeElement?.getAttribute('aria-label'))).toBe('Move de up')
    await page.getByLabel('Name of nl-BE').fill('Vlaams')
    await see()
    expect(await sheet().textContent()).toContain('Only names or the order of locales change.')
    await sheet().locator('button:has-text("Save")').click()
    await isSaved()
    expect(await tags()).toEqual(['en', 'nl', 'de', 'nl-BE', 'ar'])
    expect((await teun.locales()).settings.locales[3]?.label).toBe('Vlaams')
  })
  it('are not overwritten by somebody who has not seen the newest', async () => {
    await page.getByLabel('Name of the site').fill('Marram Museums')
    const { settings } = await teun.locales()
    await teun.setLocales(withLocale(settings, 'fy'))
    await see()
    await sheet().locator('.sheet-foot button').last().click()
    await eventually(
      () => sheet().locator('[role=alert]').first().textContent(),
      (text) => text?.includes('somebody else has changed the locales') ?? false,
    )
    expect(await tags()).toContain('fy')
    await sheet().locator('button:has-text("load the newest")').click()
    await page.waitForSelector('#locale-fy')
    expect(await page.getByLabel('Name of the site').inputValue()).toBe('Marram Coast Museums')
  })
  it('are looked at, and not changed, by an editor, whose head has no such area', async () => {
    const other = await world.open()
    await world.signIn('ilse@marram.example', other)
    expect(await other.locator('nav a:has-text("Site")').count()).toBe(0)
    await other.goto(address())
    await other.waitForSelector('#locale-en')
    expect(await other.locator('#new-locale').count()).toBe(0)
    expect(await other.getByLabel('Name of the site').isDisabled()).toBe(true)
    await other.context().close()
  })
  it('had no error in the page', () => expect(world.faults).toEqual([]))
})
