import { demoPassword } from '@wisteria/demo'
import { Service, type Editor } from '@wisteria/client'
import type { Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { startConsole, type ConsoleWorld } from './support/browser.js'
import { eventually } from './support/running.js'

/** Sessions that end during work, and passwords, in the console. */
let world: ConsoleWorld
let page: Page
let ilse: Editor

beforeAll(async () => {
  world = await startConsole()
  ilse = await world.demo.as('ilse@marram.example')
  page = await world.open()
})
afterAll(() => world?.end())

const service = (token?: string) => new Service({ baseUrl: world.demo.service.baseUrl, ...(token ? { token } : {}) })
const tokenOf = async (email: string, password = demoPassword) =>
  (await service().signIn({ email, password, as: 'token' })).token!
const titleField = () => page.getByRole('textbox', { name: /^Title/ }).first()
const dialog = () => page.locator('.el-dialog:visible')

describe('a session that ends', () => {
  it('is renewed on the page, which keeps what was typed and saves it', async () => {
    await world.signIn('ilse@marram.example', page)
    const { id } = await ilse.create({ type: 'page', values: { title: { en: 'Before' } } })
    await page.goto(`${world.base}marram/entry/${id}`)
    await page.waitForSelector('.field')
    await service(await tokenOf('ilse@marram.example')).signOutEverywhere()
    ilse = await world.demo.as('ilse@marram.example')
    const title = titleField()
    await title.fill('Typed while nobody was signed in')
    await dialog().waitFor()
    expect(await dialog().textContent()).toContain('Sign in to continue on this page. Your unsaved changes are kept.')
    expect(await page.inputValue('#again-email')).toBe('ilse@marram.example')
    await page.fill('#again-password', 'not my password')
    await page.click('.el-dialog button:has-text("Sign in")')
    await eventually(
      () => dialog().locator('[role=alert]').textContent(),
      (text) => text === 'E-mail or password is wrong.',
    )
    await page.fill('#again-password', demoPassword)
    await page.keyboard.press('Enter')
    await dialog().waitFor({ state: 'hidden' })
    expect(page.url()).toBe(`${world.base}marram/entry/${id}`)
    expect(await title.inputValue()).toBe('Typed while nobody was signed in')
    await eventually(
      async () => (await ilse.entry(id)).values['title'],
      (saved) => (saved as { en: string }).en === 'Typed while nobody was signed in',
    )
  })
  it('is left for another account; the words wait in the browser', async () => {
    const { id } = await ilse.create({ type: 'page', values: { title: { en: 'Kept' } } })
    await page.goto(`${world.base}marram/entry/${id}`)
    await page.waitForSelector('.field')
    await service(await tokenOf('ilse@marram.example')).signOutEverywhere()
    ilse = await world.demo.as('ilse@marram.example')
    await titleField().fill('Waits for me')
    await dialog().waitFor()
    await page.click('.el-dialog button:has-text("Use another account")')
    await page.waitForSelector('#email')
    await page.fill('#email', 'ilse@marram.example')
    await page.fill('#password', demoPassword)
    await page.click('button[type=submit]')
    await page.waitForURL(`**/marram/entry/${id}`)
    await eventually(
      () => titleField().inputValue(),
      (text) => text === 'Waits for me',
    )
  })
})

describe('passwords', () => {
  it('are changed on the page of one’s account, which says what is wrong', async () => {
    await page.goto(`${world.base}account`)
    await page.fill('#current', 'not this one')
    await page.fill('#new', 'a new one for ilse')
    await page.click('button:has-text("Change password")')
    await eventually(
      () => page.locator('[role=alert]').first().textContent(),
      (text) => text === 'The current password is wrong.',
    )
    await page.fill('#current', demoPassword)
    await page.click('button:has-text("Change password")')
    await page.waitForSelector('[role=status]:has-text("Your password is changed.")')
    await tokenOf('ilse@marram.example', 'a new one for ilse')
    // An editor manages no account.
    expect(await page.locator('text=Accounts that you manage').count()).toBe(0)
  })
  it('are reset by a link that an owner makes; a disabled account is out', async () => {
    const owner = await world.open()
    await world.signIn('maren@marram.example', owner)
    await owner.click('.member')
    await owner.click('text=Your account')
    const row = owner.locator('tr:has-text("ilse@marram.example")')
    await row.locator('button:has-text("Make a password link")').click()
    const link = await owner.locator('[aria-label="One-time link"]').inputValue()
    await page.goto(link)
    await page.fill('#password', 'short')
    await page.click('button[type=submit]')
    await eventually(
      () => page.locator('[role=alert]').textContent(),
      (text) => /at least 12 characters/.test(text ?? ''),
    )
    await page.fill('#password', 'by a link, and long')
    await page.click('button[type=submit]')
    await page.waitForSelector('.row')
    await row.locator('button:has-text("Disable…")').click()
    await owner.locator('.el-popper:visible button:has-text("Disable")').click()
    await row.locator('text=disabled').waitFor()
    await page.reload()
    await page.waitForSelector('#email')
    await page.fill('#email', 'ilse@marram.example')
    await page.fill('#password', 'by a link, and long')
    await page.click('button[type=submit]')
    await eventually(
      () => page.locator('[role=alert]').textContent(),
      (text) => /This account is disabled/.test(text ?? ''),
    )
    await row.locator('button:has-text("Enable")').click()
    await row.locator('button:has-text("Disable…")').waitFor()
    expect(world.faults).toEqual([])
  })
})
