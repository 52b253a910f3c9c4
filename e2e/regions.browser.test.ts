import type { Editor } from '@wisteria/client'
import type { Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { findingsOn } from './support/axe.js'
import { startConsole, type ConsoleWorld } from './support/browser.js'

let world: ConsoleWorld
let page: Page
let owner: Editor
let base = ''

beforeAll(async () => {
  world = await startConsole()
  base = `${world.base}marram/`
  owner = await world.demo.as('maren@marram.example')
  page = await world.open()
  await world.signIn('maren@marram.example', page)
})
afterAll(() => world?.end())

const strip = () => page.locator('footer.strip')
const row = (title: string) => page.locator('tbody tr', { has: page.locator(`th:has-text("${title}")`) })
const visit = async () =>
  (await owner.entries({ type: 'page', where: 'title = "Plan your visit"', region: 'main' })).entries[0]!

describe('regions', () => {
  it('are added and labelled in the settings, and one without entries is removed', async () => {
    await page.goto(`${base}locales`)
    for (const name of ['north', 'isles']) {
      await page.fill('#region-name', name)
      await page.click('button:has-text("Add region")')
      await page.waitForSelector(`[aria-label="Label of ${name}"]`)
    }
    await page.fill('#region-name', 'The South')
    await page.click('button:has-text("Add region")')
    await page.waitForSelector('[role=alert]:has-text("not a name for a region")')
    expect(await page.inputValue('#region-name')).toBe('The South')
    await page.fill('[aria-label="Label of north"]', 'The north')
    await page.click('button:has-text("Save label")')
    await strip().getByText('north is called The north now.').waitFor()
    await row('isles').getByRole('button', { name: 'Remove' }).click()
    await page.locator('.el-popconfirm:visible').getByRole('button', { name: 'Remove', exact: true }).click()
    await strip().getByText('Removed isles.').waitFor()
    expect((await owner.counterparts.regions()).regions).toEqual([{ name: 'north', label: 'The north', entries: 0 }])
  })

  it('get copies of pages with all that is below, seen first', async () => {
    await page.goto(`${base}counterparts`)
    await row('Plan your visit').locator('.el-checkbox').click()
    await strip().getByText('1 entry chosen').waitFor()
    await page.click('text=Copy to a region…')
    await page.locator('.el-dropdown-menu__item:visible', { hasText: 'The north' }).click()
    const sheet = page.locator('.sheet', { hasText: 'Copy to The north' })
    await sheet.getByText('Tickets').waitFor()
    await sheet.getByRole('button', { name: 'Copy 3 entries' }).click()
    await strip().getByText('Copied to The north: 3 done.').waitFor()
    await expect.poll(() => row('Tickets').locator('td').last().innerText()).toBe('Tickets')
    expect(await row('Exhibitions').locator('td').last().innerText()).toBe('missing')
    expect(await findingsOn(page)).toEqual([])
  })

  it('show their own tree, and make pages of their own', async () => {
    await page.goto(`${base}tree`)
    await page.waitForSelector('.node')
    await page.locator('.el-select.region').click()
    await page.locator('.el-select-dropdown__item:visible', { hasText: 'The north' }).click()
    await expect.poll(() => page.locator('.node').count()).toBe(3)
    await page.reload()
    await expect.poll(() => page.locator('.node').count()).toBe(3)
    await strip().getByRole('button', { name: 'Create page' }).click()
    await page.waitForURL(/new\/page\?.*region=north/)
    await page
      .getByRole('textbox', { name: /^Title/ })
      .first()
      .fill('Ferries')
    await strip().getByRole('button', { name: 'Save' }).click()
    await page.waitForURL(/\/entry\//)
    await page.locator('.kind', { hasText: 'The north' }).waitFor()
    const id = /entry\/(\w+)/.exec(page.url())![1]!
    expect((await owner.entry(id)).region).toBe('north')
  })

  it('take what changed in a source, change by change, where both sides moved and edited blocks', async () => {
    const source = await visit()
    const there = (await owner.counterparts.of(source.id)).regions.find(({ name }) => name === 'north')!.entry!
    const now = await owner.entry(source.id)
    await owner.edit(source.id, now.version, [
      { do: 'move', at: ['body', 'wind'], after: 'coat' },
      { do: 'set', at: ['body', 'coat', 'text'], locale: 'en', value: 'Every hour.' },
      { do: 'set', at: ['title'], locale: 'en', value: 'Visit us' },
    ])
    const copy = await owner.entry(there.id)
    await owner.edit(there.id, copy.version, [
      { do: 'set', at: ['body', 'wind', 'text'], locale: 'en', value: 'The ferry may be late' },
      { do: 'set', at: ['body', 'coat', 'text'], locale: 'en', value: 'Twice a day.' },
    ])
    await page.goto(`${base}entry/${there.id}`)
    await page.click('.kind >> text=What changed')
    await page.waitForURL(/\/source$/)
    await strip().getByText('1 place was changed on both sides: decide.').waitFor()
    const take = strip().getByRole('button', { name: /^Take/ })
    expect(await take.isDisabled()).toBe(true)
    expect(await findingsOn(page)).toEqual([])
    const open = page.locator('.change', { hasText: 'Changed here too' })
    expect(await open.locator('.own ins').allInnerTexts()).toEqual(['Twice a day'])
    await open.getByText('Leave as it is here').click()
    await strip().getByRole('button', { name: 'Take 2 changes' }).click()
    await strip().getByText('Taken: 2. Left: 1.').waitFor()
    await page.getByText('Nothing has changed in the source since.').waitFor()
    const { values } = await owner.entry(there.id)
    expect(values['title']).toMatchObject({ en: 'Visit us' })
    const body = values['body'] as { id: string; values: { text: { en: string } } }[]
    expect(body.map(({ id, values: { text } }) => [id, text.en])).toEqual([
      ['coat', 'Twice a day.'],
      ['wind', 'The ferry may be late'],
    ])
  })

  it('overwrite an entry after showing what would be lost', async () => {
    const there = (await owner.counterparts.of((await visitSource()).id)).regions.find(
      ({ name }) => name === 'north',
    )!.entry!
    await page.goto(`${base}entry/${there.id}/source`)
    await strip().getByRole('button', { name: 'Overwrite…' }).click()
    const sheet = page.locator('.sheet', { hasText: 'Overwrite with' })
    await sheet.locator('del', { hasText: 'Twice a day' }).first().waitFor()
    await sheet.getByRole('button', { name: 'Overwrite' }).click()
    await strip().getByText('Overwritten.').waitFor()
    expect((await owner.entry(there.id)).values).toEqual((await owner.entry((await visitSource()).id)).values)
  })

  it('are a limit of members, who see what they may not write', async () => {
    await page.goto(`${base}members`)
    await page.locator('.el-select:has([aria-label="Regions of Ilse Branding"])').click()
    await page.locator('.el-select-dropdown__item:visible', { hasText: 'The north' }).click()
    await strip().getByText('Ilse Branding').waitFor()
    const hers = await world.open()
    await world.signIn('ilse@marram.example', hers)
    const source = await visitSource()
    const there = (await owner.counterparts.of(source.id)).regions.find(({ name }) => name === 'north')!.entry!
    await hers.goto(`${base}entry/${source.id}`)
    await hers.getByText('You can read this entry, and not change it').waitFor()
    await hers.goto(`${base}entry/${there.id}`)
    await hers.locator('.kind', { hasText: 'The north' }).waitFor()
    expect(await hers.getByText('You can read this entry, and not change it').count()).toBe(0)
    await hers.context().close()
    expect(world.faults).toEqual([])
  })
})

/** The page that was copied, whatever it is called by now. */
const visitSource = async () =>
  (await owner.entries({ type: 'page', where: 'slug = "visit"', region: 'main' })).entries[0]!
