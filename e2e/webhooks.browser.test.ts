import { join } from 'node:path'
import { Database, pauseWebhook } from '@wisteria/store'
import { describe, expect, it } from 'vitest'
import { useConsole } from './support/browser.js'
import { startReceiver } from './support/running.js'

const site = useConsole()

describe('webhooks in the console', () => {
  it('change a webhook, and switch it off and on', async () => {
    const maren = await site.owner()
    const { id } = await maren.webhooks.create({ label: 'Signs', address: `${site.world.site.address}/hooks/wisteria` })
    const now = async () => (await maren.webhooks.list()).webhooks.find((webhook) => webhook.id === id)
    await site.goTo(`webhooks/${id}`)
    await site.page.getByRole('button', { name: 'Change…' }).click()
    await site.page.fill('#webhook-label', 'Signs in the halls')
    await site.page.getByText('Only these events').click()
    await site.page.locator('.events').getByText('entry.published').click()
    await site.page.locator('.sheet').getByRole('button', { name: 'Save' }).click()
    await site.page.getByRole('heading', { name: 'Deliveries of Signs in the halls' }).waitFor()
    expect(await now()).toMatchObject({ events: ['entry.published'], enabled: true })
    await site.page.getByRole('button', { name: 'Switch off' }).click()
    await site.page.getByText('Off: nothing is sent here').waitFor()
    expect((await now())!.enabled).toBe(false)
    await site.page.getByRole('button', { name: 'Switch on' }).click()
    await site.page.locator('footer.strip').getByText('On again.').waitFor()
    await maren.webhooks.remove(id)
  })

  it('gives a webhook a condition and headers, tries it, and shows what was sent', async () => {
    const maren = await site.owner()
    const receiver = await startReceiver()
    await site.goTo('webhooks')
    await site.page.locator('footer.strip').getByRole('button', { name: 'Add webhook…' }).click()
    await site.page.locator('.sheet form').waitFor()
    await site.page.fill('#webhook-label', 'Walks')
    await site.page.fill('#webhook-address', receiver.address)
    await site.page.fill('#webhook-where', 'title = "x"')
    await site.page.locator('#webhook-where-hint:has-text("Did you mean `entry.title`?")').waitFor()
    await site.page.fill('#webhook-where', 'after.price > before.price')
    await site.page.getByText('Only these events').click()
    await site.page.locator('.events').getByText('entry.saved').click()
    await site.page.getByRole('button', { name: 'Add header' }).click()
    await site.page.getByRole('textbox', { name: 'Name of header 1' }).fill('X-Build')
    await site.page.getByRole('textbox', { name: 'Value of header 1' }).fill('quiet-harbour')
    await site.page.getByRole('button', { name: 'Show a sample of the body' }).click()
    await site.page.locator('.sheet pre:has-text("entry.saved")').waitFor()
    await site.page.locator('.sheet').getByRole('button', { name: 'Add webhook' }).click()
    await site.page.getByRole('button', { name: 'I have stored it' }).click()
    const webhook = (await maren.webhooks.list()).webhooks.find(({ label }) => label === 'Walks')!
    expect(webhook).toMatchObject({
      where: 'after.price > before.price',
      headers: ['x-build'],
      events: ['entry.saved'],
    })

    await site.goTo(`webhooks/${webhook.id}`)
    await site.page.getByRole('button', { name: 'Send a test' }).click()
    await site.page.locator('.tested pre:has-text("true")').waitFor()
    expect(receiver.received[0]!.headers['x-build']).toBe('quiet-harbour')
    expect(await site.page.locator('main').textContent()).not.toContain('quiet-harbour')

    const { entries } = await maren.entries({ type: 'activity', first: 1 })
    const { id, version } = await maren.entry(entries[0]!.id)
    await maren.edit(id, version, [{ do: 'set', at: ['price'], value: 999 }])
    await receiver.until(2)
    await site.page.getByRole('button', { name: 'Reload' }).click()
    await site.page.getByText('1 attempt').click()
    await site.page.locator(`details pre:has-text("entries/${id}")`).waitFor()
    await site.page.getByText('Waiting', { exact: true }).click()
    await site.page.getByText('There are none.').waitFor()
    await site.page.getByRole('button', { name: 'Resend a span…' }).click()
    await site.page.locator('.sheet').getByText('Only what was not accepted').click()
    await site.page.locator('.sheet').getByRole('button', { name: 'Send again' }).click()
    await site.page.locator('footer.strip').getByText('1 delivery is sent again.').waitFor()
    await receiver.until(3)

    await site.page.getByRole('button', { name: 'Add a secret' }).click()
    await site.page.getByRole('button', { name: 'I have stored it' }).click()
    await site.page.getByRole('button', { name: 'End now' }).click()
    await site.page.locator('footer.strip').getByText('The secret has ended.').waitFor()
    const after = (await maren.webhooks.list()).webhooks.find(({ id }) => id === webhook.id)!
    expect(after.secrets).toHaveLength(1)
    expect(after.secrets[0]!.id).not.toBe(webhook.secrets[0]!.id)
    await site.page.getByRole('button', { name: 'Change…' }).click()
    await site.page.getByRole('button', { name: 'Remove header 1' }).click()
    await site.page.fill('#webhook-where', '')
    await site.page.locator('.sheet').getByRole('button', { name: 'Save' }).click()
    await expect
      .poll(async () => (await maren.webhooks.list()).webhooks.find(({ id }) => id === webhook.id))
      .toMatchObject({ where: null, headers: [] })
    await maren.webhooks.remove(webhook.id)
    await receiver.stop()
  })

  it('shows a paused webhook on Today, and resumes it', async () => {
    const maren = await site.owner()
    const { id } = await maren.webhooks.create({ label: 'Signs', address: `${site.world.site.address}/hooks/wisteria` })
    const database = await Database.open({ file: join(site.world.demo.service.folder, 'wisteria.db') })
    const at = new Date().toISOString()
    await database.write((transaction) => pauseWebhook(transaction, id, at))
    await database.close()
    await site.page.goto(`${site.world.base}marram/today`)
    await site.page.locator('li:has-text("Paused: its address accepted nothing for a day.")').getByText('Signs').click()
    await site.page.getByRole('button', { name: 'Resume' }).click()
    await site.page.locator('footer.strip').getByText('Resumed: what waits is sent.').waitFor()
    expect((await maren.webhooks.list()).webhooks.find((webhook) => webhook.id === id)).toMatchObject({
      pausedAt: null,
    })
    await maren.webhooks.remove(id)
  })
})
