import { Reader } from '@wisteria/client'
import { demoPassword } from '@wisteria/demo'
import type { Page } from 'playwright-core'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { startConsole, type ConsoleWorld } from './support/browser.js'
import { start, startReceiver } from './support/running.js'

let world: ConsoleWorld
let page: Page
let base = ''

beforeAll(async () => {
  world = await startConsole()
  base = world.base
  page = await world.open()
  await world.signIn('maren@marram.example', page)
})
beforeEach(() => void world.faults.splice(0))
afterAll(() => world?.end())

const section = async (name: string, on: Page = page) => {
  await on.goto(`${base}marram/${name}`)
  await on.waitForSelector('h1')
}
/** Presses the filled button of the strip, and waits for the sheet that it opens. */
const unfold = async (name: string, on: Page = page) => {
  await on.locator('footer.strip').getByRole('button', { name }).click()
  await on.locator('.sheet form').waitFor()
}
const choose = async (label: string, option: string) => {
  await page.locator(`.el-select:has([aria-label="${label}"])`).click()
  await page.locator('.el-select-dropdown__item:visible', { hasText: option }).click()
}
const confirm = async (name: string) => {
  const question = page.locator('.el-popconfirm:visible')
  await question.getByRole('button', { name, exact: true }).click()
  await expect.poll(() => question.count()).toBe(0)
}

describe('a new site', () => {
  it('is set up by its owner to the first page that is read, without leaving the console', async () => {
    const service = await start()
    const receiver = await startReceiver()
    const owner = await world.open()
    const invited = await world.open()
    try {
      await owner.goto(service.setUpAddress!)
      await owner.fill('#name', 'Maren Aldous')
      await owner.fill('#email', 'maren@marram.example')
      await owner.fill('#password', demoPassword)
      await owner.fill('#site', 'Marram Coast Museums')
      for (const [tag, told] of [
        ['english', 'Did you mean `en`?'],
        ['not a locale', 'is not a BCP 47 language tag'],
      ] as const) {
        await owner.fill('#locale', tag)
        await owner.click('button[type=submit]')
        await owner.waitForSelector(`[role=alert]:has-text(${JSON.stringify(told)})`)
      }
      await owner.fill('#locale', 'en')
      await owner.click('button[type=submit]')
      await owner.waitForURL(/\/marram-coast-museums\/entries/)
      // Shape a type.
      await owner.locator('li.next').getByRole('link', { name: 'Create a type' }).click()
      await owner.click('text=Create type')
      await owner.fill('[aria-label="Label of the type"]', 'Boat trip')
      await owner.keyboard.press('Enter')
      await owner.waitForURL(/model\/type\/boatTrip/)
      await owner.click('footer.strip button:has-text("See consequences…")')
      await owner.click('.sheet button:has-text("Adopt 1 change")')
      await owner.locator('footer.strip').getByText('Adopted: version 1.').waitFor()
      // Write an entry, and publish it.
      await owner.click('nav[aria-label=Areas] a:has-text("Today")')
      await owner.locator('li.next').getByRole('link', { name: 'Create boat trip' }).click()
      await owner.getByRole('textbox', { name: /Title/ }).first().fill('Round the light')
      await owner.click('footer.strip button:has-text("Publish…")')
      await owner
        .locator('.sheet')
        .getByRole('button', { name: /^Publish/ })
        .click()
      await owner
        .locator('footer.strip')
        .getByText(/Public since/)
        .waitFor()
      // Connect a front end: a key that reads, and a webhook.
      await owner.click('nav[aria-label=Areas] a:has-text("Today")')
      await owner.locator('li.next').getByRole('link', { name: 'Create an access key' }).click()
      await owner.waitForSelector('text=No access keys yet.')
      await unfold('Create key…', owner)
      await owner.fill('#key-label', 'Museum site')
      await owner.click('.sheet button:has-text("Create key")')
      const key = await owner.getByRole('textbox', { name: 'Access key' }).inputValue()
      await owner.click('button:has-text("I have stored it")')
      await owner.locator('tbody th:has-text("Museum site")').waitFor()
      const reader = new Reader({ baseUrl: service.baseUrl, site: 'marram-coast-museums', token: key })
      expect((await reader.entries('boatTrip')).entries.map(({ values }) => values)).toMatchObject([
        { title: 'Round the light' },
      ])
      await owner.getByRole('link', { name: 'Webhooks' }).click()
      await unfold('Add webhook…', owner)
      await owner.fill('#webhook-label', 'Museum site')
      await owner.fill('#webhook-address', receiver.address)
      await owner.click('.sheet button:has-text("Add webhook")')
      expect(await owner.getByRole('textbox', { name: 'Signing secret' }).inputValue()).toMatch(/^whsec_/)
      await owner.click('button:has-text("I have stored it")')
      // Invite an editor, who accepts by the link.
      await owner.getByRole('link', { name: 'Members' }).click()
      await unfold('Invite…', owner)
      await owner.fill('#invite-email', 'ilse@marram.example')
      await owner.locator('.sheet').getByRole('button', { name: 'Invite' }).click()
      const link = await owner.getByRole('textbox', { name: 'One-time link' }).inputValue()
      await owner.click('button:has-text("I have stored it")')
      await owner.locator('th:has-text("ilse@marram.example")').waitFor()
      await invited.goto(link)
      await invited.waitForSelector('text=You are invited as Editor.')
      await invited.fill('#name', 'Ilse Branding')
      await invited.fill('#password', 'a password of some length')
      await invited.click('button:has-text("Join")')
      await invited.waitForURL(/\/marram-coast-museums\/entries/)
      await invited.locator('.row:has-text("Round the light")').waitFor()
      // An entry that Ilse publishes is delivered, and shown among the deliveries.
      await invited.click('.row a:has-text("Round the light")')
      await invited.getByRole('textbox', { name: /Title/ }).first().fill('Round the light by night')
      await invited.click('footer.strip button:has-text("Publish…")')
      await invited
        .locator('.sheet')
        .getByRole('button', { name: /^Publish/ })
        .click()
      await invited
        .locator('footer.strip')
        .getByText(/Public since/)
        .waitFor()
      await owner.getByRole('link', { name: 'Webhooks' }).click()
      await owner.locator('tbody a:has-text("Museum site")').click()
      const row = owner.locator('tbody tr:has-text("entry.published")')
      await expect
        .poll(async () => {
          await owner.click('button:has-text("Reload")')
          return row.allTextContents()
        })
        .toEqual([expect.stringContaining('Delivered')])
      await row.getByRole('button', { name: 'Resend' }).click()
      await owner
        .locator('footer.strip')
        .getByText(/is sent again/)
        .waitFor()
      // The first page, read in the console.
      await owner.click('nav[aria-label=Building] a:has-text("Query")')
      await owner.click('button:has-text("Run")')
      await owner.locator('main').getByText('Round the light by night').first().waitFor()
      expect(world.faults).toEqual([])
    } finally {
      await owner.context().close()
      await invited.context().close()
      await receiver.stop()
      await service.end()
    }
  })

  it('takes the model and the content of another, as planned', async () => {
    await page.goto(`${base}sites`)
    await unfold('Create site…')
    await page.fill('#site', 'Dune Museum')
    await page.click('.sheet button:has-text("Create site")')
    await page.waitForURL(/\/dune-museum\/entries/)
    await page.goto(`${base}dune-museum/copy`)
    await page.locator('label:has-text("Copy from") .el-select').click()
    await page.locator('.el-select-dropdown__item:visible', { hasText: 'Marram Coast Museums' }).click()
    await page.getByRole('button', { name: 'Show plan' }).click()
    await page.getByText('This site has no type page. Copy the model first.').waitFor()
    expect(await page.getByRole('button', { name: /^Copy 0/ }).isDisabled()).toBe(true)

    await page.getByRole('button', { name: 'Compare the models…' }).click()
    await page.getByRole('button', { name: /^Adopt/ }).click()
    await expect.poll(() => page.locator('.sheet:visible').count()).toBe(0)
    await page.getByRole('button', { name: 'Show plan' }).click()
    await page.getByText('Texts in nl, nl-BE, ar are left out').waitFor()
    await page.getByRole('button', { name: /^Copy \d+ entries/ }).click()
    await page.getByText(/^Copied: \d+ done/).waitFor()
    await page.goto(`${base}dune-museum/entries`)
    await page.getByText('Friends of the coast').first().waitFor()
  })

  it('is created beside others by an operator, and nobody else', async () => {
    await page.goto(`${base}sites`)
    await unfold('Create site…')
    await page.fill('#site', 'Greyflats Harbour')
    await page.locator('.sheet').getByText('greyflats-harbour').waitFor()
    await page.click('.sheet button:has-text("Create site")')
    await page.waitForURL(/\/greyflats-harbour\/entries/)
    await page.waitForSelector('text=First steps')
    const teun = await world.open()
    await world.signIn('teun@marram.example', teun)
    await teun.goto(`${base}sites`)
    await teun.locator('tbody th:has-text("Marram Coast Museums")').waitFor()
    expect(await teun.locator('tbody tr').count()).toBe(1)
    expect(await teun.locator('footer.strip button').count()).toBe(0)
    await teun.context().close()
  })
})

describe('the settings of a site', () => {
  it('show who is a member, change a role, and remove somebody', async () => {
    await section('members')
    await choose('Role of Geert Kijker', 'Translator')
    await page.locator('footer.strip').getByText('Geert Kijker is changed.').waitFor()
    const editor = await world.demo.as('maren@marram.example')
    const roleOf = async (email: string) =>
      (await editor.members()).members.find((member) => member.email === email)?.role
    expect(await roleOf('gast@marram.example')).toBe('translator')
    // The last owner stays.
    await page.locator('tr:has-text("Maren Aldous")').getByRole('button', { name: 'Remove…' }).click()
    await confirm('Remove')
    await page.getByRole('alert').getByText('A site keeps at least one owner.').waitFor()
    await page.locator('tr:has-text("Geert Kijker")').getByRole('button', { name: 'Remove…' }).click()
    await confirm('Remove')
    await page.locator('footer.strip').getByText('Geert Kijker is no longer a member.').waitFor()
    expect(await roleOf('gast@marram.example')).toBeUndefined()
  })

  it('revoke a key, and an invitation', async () => {
    await section('keys')
    await page.locator('tr:has-text("Drafts, for trying out")').getByRole('button', { name: 'Revoke…' }).click()
    await confirm('Revoke')
    await page.locator('footer.strip').getByText('“Drafts, for trying out” is revoked.').waitFor()
    await page.locator('tr:has-text("Drafts, for trying out")').getByText('revoked today').waitFor()
    const maren = await world.demo.as('maren@marram.example')
    await maren.invite({ email: 'joris@marram.example', role: 'viewer' })
    await section('members')
    await page.locator('tr:has-text("joris@marram.example")').getByRole('button', { name: 'Revoke' }).click()
    await page.locator('footer.strip').getByText('The invitation of joris@marram.example is revoked.').waitFor()
  })

  it('register a front end, which the preview can then choose', async () => {
    await section('front-ends')
    await unfold('Add front end…')
    await page.fill('#front-end-label', 'Signs in the halls')
    expect(await page.inputValue('#front-end-name')).toBe('signs-in-the-halls')
    await page.fill('#front-end-origins', world.site.address)
    const enter = page.getByRole('textbox', { name: 'Address for All other types' })
    await enter.fill(`${world.site.address}/preview/enter?to={path}`)
    await page.click('.sheet button:has-text("Add front end")')
    await page.locator('.sheet [role=alert]').getByText('must hold {code}').waitFor()
    await enter.fill(`${world.site.address}/preview/enter?code={code}&to={path}`)
    await page.click('.sheet button:has-text("Add front end")')
    await page.locator('footer.strip').getByText('“Signs in the halls” is saved.').waitFor()
    await page.goto(`${base}marram/entries/museum`)
    await page.click('.row a:has-text("The Boatyard")')
    await page.click('footer.strip button:has-text("Preview")')
    await choose('Front end', 'Signs in the halls')
    await page.waitForSelector('iframe[title*="Signs in the halls"]')
    await section('front-ends')
    await page.locator('section:has-text("Signs in the halls")').getByRole('button', { name: 'Remove…' }).click()
    await confirm('Remove')
    await page.locator('footer.strip').getByText('“Signs in the halls” is removed.').waitFor()
  })

  it('open the published edition to everybody, and close it', async () => {
    const readers = async () => (await fetch(`${world.demo.service.baseUrl}/read/v1/marram/entries/museum`)).status
    await section('locales')
    await page.getByRole('button', { name: 'Open to everybody…' }).click()
    await confirm('Open to everybody')
    await page.locator('footer.strip').getByText('The published edition is open to everybody.').waitFor()
    expect(await readers()).toBe(200)
    await page.getByRole('button', { name: 'Close to readers without a key…' }).click()
    await confirm('Close')
    await page.locator('footer.strip').getByText('The published edition needs an access key.').waitFor()
    expect(await readers()).toBe(401)
  })

  it('leave out what somebody may not do', async () => {
    const ilse = await world.open()
    await world.signIn('ilse@marram.example', ilse)
    expect(await ilse.locator('nav[aria-label=Building] a').allTextContents()).not.toContain('Site')
    await section('members', ilse)
    await ilse.locator('tr:has-text("Teun Visser")').getByText('Developer').waitFor()
    expect(await ilse.locator('main button, footer.strip button').count()).toBe(0)
    expect(await ilse.locator('main nav a').allTextContents()).toEqual(['Site and locales', 'Members', 'Sites'])
    await ilse.context().close()
  })

  it('are found by Go to…', async () => {
    await section('members')
    await page.keyboard.press('Control+k')
    await page.keyboard.type('webho')
    await page.locator('[role=option]:has-text("Webhooks")').waitFor()
    await page.keyboard.press('Enter')
    await page.waitForURL(/\/marram\/webhooks$/)
  })
})

describe('one’s account', () => {
  it('has a name and a time zone, which times follow, and sessions that can be ended', async () => {
    const elsewhere = await world.open()
    await elsewhere.goto(base)
    await elsewhere.fill('#email', 'maren@marram.example')
    await elsewhere.fill('#password', demoPassword)
    await elsewhere.click('button[type=submit]')
    await elsewhere.waitForURL(/entries/)
    await page.goto(`${base}account`)
    await page.fill('#own-name', 'Maren A. Aldous')
    await page.locator('.el-select:has(#own-zone)').click()
    await page.keyboard.type('Pacific/Auckland')
    await page.keyboard.press('Enter')
    await page.locator('section:has-text("About you")').getByRole('button', { name: 'Save' }).click()
    await page.locator('section:has-text("About you")').getByText('Saved.').waitFor()
    await page.locator('.member:has-text("Maren A. Aldous")').waitFor()
    const hour = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', timeZone: 'Pacific/Auckland' })
    await page.reload()
    const rows = page.locator('section[aria-labelledby=sessions-head] tbody tr')
    await rows.first().waitFor()
    expect(await rows.filter({ hasText: 'this one' }).textContent()).toContain('Chrom')
    expect(await rows.filter({ hasText: 'this one' }).textContent()).toMatch(
      new RegExp(
        ` ${hour.format(Date.now() - 60_000)}| ${hour.format(Date.now())}| ${hour.format(Date.now() - 3_600_000)}`,
      ),
    )
    const before = await rows.count()
    await rows.getByRole('button', { name: 'End session' }).first().click()
    await expect.poll(() => rows.count()).toBe(before - 1)
    await elsewhere.reload()
    await elsewhere.waitForURL(/sign-in/)
    await elsewhere.context().close()
  })
})
