import { join } from 'node:path'
import { Database, pauseWebhook } from '@wisteria/store'
import type { Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { startConsole, type ConsoleWorld } from './support/browser.js'
import { startReceiver } from './support/running.js'

let world: ConsoleWorld
let page: Page
beforeAll(async () => {
  world = await startConsole()
  page = await world.open()
  await world.signIn('maren@marram.example', page)
})
afterAll(() => world?.end())

const section = async (name: string) => {
  await page.goto(`${world.base}marram/${name}`)
  await page.waitForSelector('h1')
}

describe('webhooks in the console', () => {
  it('change a webhook, and switch it off and on', async () => {
    const maren = await world.demo.as('maren@marram.example')
    const { id } = await maren.webhooks.create({ label: 'Signs', address: `${world.site.address}/hooks/wisteria` })
    const now = async () => (await maren.webhooks.list()).webhooks.find((webhook) => webhook.id === id)
    await section(`webhooks/${id}`)
    await page.getByRole('button', { name: 'Change…' }).click()
    await page.fill('#webhook-label', 'Signs in the halls')
    await page.getByText('Only these events').click()
    await page.locator('.events').getByText('entry.published').click()
    await page.locator('.sheet').getByRole('button', { name: 'Save' }).click()
    await page.getByRole('heading', { name: 'Deliveries of Signs in the halls' }).waitFor()
    expect(await now()).toMatchObject({ events: ['entry.published'], enabled: true })
    await page.getByRole('button', { name: 'Switch off' }).click()
    await page.getByText('Off: nothing is sent here').waitFor()
    expect((await now())!.enabled).toBe(false)
    await page.getByRole('button', { name: 'Switch on' }).click()
    await page.locator('footer.strip').getByText('On again.').waitFor()
    await maren.webhooks.remove(id)
  })

  it('gives a webhook a condition and headers, tries it, and shows what was sent', async () => {
    const maren = await world.demo.as('maren@marram.example')
    const receiver = await startReceiver()
    await section('webhooks')
    await page.locator('footer.strip').getByRole('button', { name: 'Add webhook…' }).click()
    await page.locator('.sheet form').waitFor()
    await page.fill('#webhook-label', 'Walks')
    await page.fill('#webhook-address', receiver.address)
    await page.fill('#webhook-where', 'title = "x"')
    await page.locator('#webhook-where-hint:has-text("Did you mean `entry.title`?")').waitFor()
    await page.fill('#webhook-where', 'after.price > before.price')
    await page.getByText('Only these events').click()
    await page.locator('.events').getByText('entry.saved').click()
    await page.getByRole('button', { name: 'Add header' }).click()
    await page.getByRole('textbox', { name: 'Name of header 1' }).fill('X-Build')
    await page.getByRole('textbox', { name: 'Value of header 1' }).fill('quiet-harbour')
    await page.getByRole('button', { name: 'Show a sample of the body' }).click()
    await page.locator('.sheet pre:has-text("entry.saved")').waitFor()
    await page.locator('.sheet').getByRole('button', { name: 'Add webhook' }).click()
    await page.getByRole('button', { name: 'I have stored it' }).click()
    const webhook = (await maren.webhooks.list()).webhooks.find(({ label }) => label === 'Walks')!
    expect(webhook).toMatchObject({
      where: 'after.price > before.price',
      headers: ['x-build'],
      events: ['entry.saved'],
    })

    await section(`webhooks/${webhook.id}`)
    await page.getByRole('button', { name: 'Send a test' }).click()
    await page.locator('.tested pre:has-text("true")').waitFor()
    expect(receiver.received[0]!.headers['x-build']).toBe('quiet-harbour')
    expect(await page.locator('main').textContent()).not.toContain('quiet-harbour')

    const { entries } = await maren.entries({ type: 'activity', first: 1 })
    const { id, version } = await maren.entry(entries[0]!.id)
    await maren.edit(id, version, [{ do: 'set', at: ['price'], value: 999 }])
    await receiver.until(2)
    await page.getByRole('button', { name: 'Reload' }).click()
    await page.getByText('1 attempt').click()
    await page.locator(`details pre:has-text("entries/${id}")`).waitFor()
    await page.getByText('Waiting', { exact: true }).click()
    await page.getByText('There are none.').waitFor()
    await page.getByRole('button', { name: 'Resend a span…' }).click()
    await page.locator('.sheet').getByText('Only what was not accepted').click()
    await page.locator('.sheet').getByRole('button', { name: 'Send again' }).click()
    await page.locator('footer.strip').getByText('1 delivery is sent again.').waitFor()
    await receiver.until(3)

    await page.getByRole('button', { name: 'Add a secret' }).click()
    await page.getByRole('button', { name: 'I have stored it' }).click()
    await page.getByRole('button', { name: 'End now' }).click()
    await page.locator('footer.strip').getByText('The secret has ended.').waitFor()
    const after = (await maren.webhooks.list()).webhooks.find(({ id }) => id === webhook.id)!
    expect(after.secrets).toHaveLength(1)
    expect(after.secrets[0]!.id).not.toBe(webhook.secrets[0]!.id)
    await page.getByRole('button', { name: 'Change…' }).click()
    await page.getByRole('button', { name: 'Remove header 1' }).click()
    await page.fill('#webhook-where', '')
    await page.locator('.sheet').getByRole('button', { name: 'Save' }).click()
    await expect
      .poll(async () => (await maren.webhooks.list()).webhooks.find(({ id }) => id === webhook.id))
      .toMatchObject({ where: null, headers: [] })
    await maren.webhooks.remove(webhook.id)
    await receiver.stop()
  })

  it('shows a paused webhook on Today, and resumes it', async () => {
    const maren = await world.demo.as('maren@marram.example')
    const { id } = await maren.webhooks.create({ label: 'Signs', address: `${world.site.address}/hooks/wisteria` })
    const database = await Database.open({ file: join(world.demo.service.folder, 'wisteria.db') })
    const at = new Date().toISOString()
    await database.write((transaction) => pauseWebhook(transaction, id, at))
    await database.close()
    await page.goto(`${world.base}marram/today`)
    await page.locator('li:has-text("Paused: its address accepted nothing for a day.")').getByText('Signs').click()
    await page.getByRole('button', { name: 'Resume' }).click()
    await page.locator('footer.strip').getByText('Resumed: what waits is sent.').waitFor()
    expect((await maren.webhooks.list()).webhooks.find((webhook) => webhook.id === id)).toMatchObject({
      pausedAt: null,
    })
    await maren.webhooks.remove(id)
  })
})
