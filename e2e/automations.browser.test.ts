import type { Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { findingsOn } from './support/axe.js'
import { startConsole, type ConsoleWorld } from './support/browser.js'

let world: ConsoleWorld
let page: Page
beforeAll(async () => {
  world = await startConsole()
  page = await world.open()
  await world.signIn('maren@marram.example', page)
})
afterAll(() => world?.end())

const goTo = async (path: string) => {
  await page.goto(`${world.base}marram/${path}`)
  await page.waitForSelector('h1')
}
const write = async (text: string) => {
  await page.locator('.cm-content').click()
  await page.keyboard.press('Control+A')
  await page.keyboard.insertText(text)
}
const file = (values: string) => `automation: greeting
label: A greeting
starts: { by: hand, on: site }
steps:
  - do: compute
    name: says
    values: ${values}
  - do: each
    in: '["Mill", "Quay"]'
    steps: [{ do: publish, entry: item, if: 'item = "Quay"' }]
`

describe('an automation in the console', () => {
  it('is written with its mistakes told at their lines, tried, saved, started, and gone on with', async () => {
    await goTo('automations')
    await page.locator('tbody tr:has-text("moved-activity")').getByText('entry.published').waitFor()
    await page.locator('footer.strip').getByRole('button', { name: 'Add automation…' }).click()
    await page.getByRole('heading', { name: 'A new automation' }).waitFor()
    await write(file('1 +'))
    await page.locator('.problems').getByText('Line 7: The expression ends where a value was expected.').waitFor()
    expect(await page.locator('footer.strip').getByRole('button', { name: 'Save' }).isDisabled()).toBe(true)
    await write(file('1 + 1'))
    await page.locator('.problems').waitFor({ state: 'detached' })
    await page.locator('footer.strip').getByRole('button', { name: 'Try' }).click()
    await page.locator('.tried').getByText('1 of 2 items failed.').waitFor()
    await page.locator('footer.strip').getByRole('button', { name: 'Save' }).click()
    await page.getByRole('heading', { name: 'A greeting' }).waitFor()
    await page.getByRole('button', { name: 'Start' }).click()
    const run = page.locator('tbody tr')
    await run.getByText('Failed', { exact: true }).waitFor()
    await run.locator('summary').click()
    await run.getByText('The value of `entry` is no entry: it has no id.').waitFor()
    expect(await findingsOn(page)).toEqual([])
    await run.getByRole('button', { name: 'Go on' }).click()
    await page.locator('footer.strip').getByText('It goes on with what failed.').waitFor()
    const maren = await world.demo.as('maren@marram.example')
    expect((await maren.automations.get('greeting')).definition.steps).toHaveLength(2)
  })

  it('is switched off and on, gets values that nobody sees again, and is removed', async () => {
    await goTo('automations/sold-out')
    await page.getByText('It has no secret yet, and accepts nothing.').waitFor()
    await page.getByRole('button', { name: 'Make a new secret' }).click()
    await page.getByRole('button', { name: 'I have stored it' }).click()
    await page.getByRole('textbox', { name: 'Name' }).fill('token')
    await page.getByLabel('Value', { exact: true }).fill('quiet-harbour')
    await page.getByRole('button', { name: 'Set value' }).click()
    await page.getByText('secrets.token').waitFor()
    expect(await page.content()).not.toContain('quiet-harbour')
    await page.getByRole('button', { name: 'Switch off' }).click()
    await page.getByText('Runs that are under way go on.').waitFor()
    await page.getByRole('button', { name: 'Switch on' }).click()
    await page.locator('footer.strip').getByText('On again.').waitFor()
    await page.getByRole('button', { name: 'Remove…' }).click()
    await page.locator('.el-popconfirm:visible').getByRole('button', { name: 'Remove', exact: true }).click()
    await page.waitForURL(/automations$/)
    const maren = await world.demo.as('maren@marram.example')
    expect((await maren.automations.list()).automations.map(({ name }) => name)).not.toContain('sold-out')
  })

  it('is not overwritten by somebody who has not seen the newest', async () => {
    const maren = await world.demo.as('maren@marram.example')
    await goTo('automations/families-for-free')
    await page.waitForSelector('.cm-line')
    const { definition, version } = await maren.automations.get('families-for-free')
    await maren.automations.set({ ...definition, label: 'By somebody else' }, version)
    await write(
      `automation: families-for-free\nlabel: Mine\nstarts: { by: hand, on: site }\nsteps: [{ do: compute, values: 1 }]\n`,
    )
    await page.locator('footer.strip').getByRole('button', { name: 'Save' }).click()
    await page.locator('[role=alert]').getByText('is there in version 2').waitFor()
    // What was written is still there.
    await page.locator('.cm-content').getByText('label: Mine').waitFor()
    expect((await maren.automations.get('families-for-free')).definition.label).toBe('By somebody else')
  })
})
