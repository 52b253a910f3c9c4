import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Service } from '@wisteria/client'
import { demoPassword, demoSite } from '@wisteria/demo'
import type { Page } from 'playwright-core'
import { strFromU8, unzipSync } from 'fflate'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { startConsole, type ConsoleWorld } from './support/browser.js'
import { refusal } from './support/models.js'

let world: ConsoleWorld
let page: Page
const folder = mkdtempSync(join(tmpdir(), 'wisteria-archive-'))
const file = join(folder, 'marram.zip')

beforeAll(async () => {
  world = await startConsole()
  page = await world.open()
  await world.signIn('maren@marram.example', page)
})
afterAll(async () => {
  await world?.end()
  rmSync(folder, { recursive: true, force: true })
})

it('is downloaded: everything, or only what is public', async () => {
  await page.goto(`${world.base}${demoSite.name}/archive`)
  for (const [content, choice] of [
    ['public', 'Only what is public'],
    ['everything', 'Everything'],
  ] as const) {
    await page.getByRole('radio', { name: choice }).check({ force: true })
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('link', { name: 'Download the archive' }).click(),
    ])
    expect(download.suggestedFilename()).toMatch(/^marram-\d{4}-\d\d-\d\d\.zip$/)
    await download.saveAs(file)
    const head = JSON.parse(strFromU8(unzipSync(readFileSync(file))['archive.json']!)) as { content: string }
    expect(head.content).toBe(content)
  }
  await page.getByText('An archive is imported into a site without a model').waitFor()
})

it('is looked into and imported into an empty site, which then has its label and its entries', async () => {
  const owner = await world.demo.as('maren@marram.example')
  const { settings } = await owner.locales()
  const { baseUrl } = world.demo.service
  const { token } = await new Service({ baseUrl }).signIn({
    email: 'maren@marram.example',
    password: demoPassword,
    as: 'token',
  })
  await new Service({ baseUrl, token: token! }).createSite({ ...settings, name: 'rehearsal', label: 'Rehearsal' })
  // The console learns of the site when it starts.
  await page.goto(world.base)
  await page.goto(`${world.base}rehearsal/archive`)
  await page.getByText('No file chosen').waitFor()
  const choose = () => page.setInputFiles('input[type=file]', file)
  await choose()
  await page.getByRole('alert').getByText('is on this service already').waitFor()
  await page.getByText('Give entries and files new IDs').click()
  await page.locator('dl').getByText(demoSite.label).waitFor()
  expect(await page.locator('dl').textContent()).toMatch(/\d+ entries, \d+ revisions, \d+ files/)
  await page.getByRole('button', { name: 'Import the archive' }).click()
  await page.getByText(`${demoSite.label} is here, with`).waitFor()
  await page.getByText(`${demoSite.label} has some`).waitFor()
  await page.goto(`${world.base}rehearsal/entries`)
  await page.locator('.row').first().waitFor()
})

it('is for owners', async () => {
  const editor = await world.open()
  await world.signIn('ilse@marram.example', editor)
  await editor.goto(`${world.base}${demoSite.name}/locales`)
  await editor.getByRole('link', { name: 'Site and locales' }).waitFor()
  expect(await editor.getByRole('link', { name: 'Archive' }).count()).toBe(0)
  const ilse = await world.demo.as('ilse@marram.example')
  expect(await refusal<{ status: number }>(() => ilse.archives.export())).toMatchObject({ status: 403 })
})
