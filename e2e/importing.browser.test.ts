import { fileURLToPath } from 'node:url'
import type { Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Editor } from '@wisteria/client'
import { startConsole, type ConsoleWorld } from './support/browser.js'

const catalogue = fileURLToPath(new URL('../demo/tables/artefacts.csv', import.meta.url))

let world: ConsoleWorld
let page: Page
let maren: Editor
beforeAll(async () => {
  world = await startConsole()
  page = await world.open()
  await world.signIn('maren@marram.example', page)
  maren = await world.demo.as('maren@marram.example')
})
afterAll(() => world?.end())

const choose = async (label: string, option: string) => {
  await page.locator(`.el-select:has([aria-label="${label}"])`).click()
  await page.getByRole('option', { name: option, exact: true }).and(page.locator(':visible')).click()
  await expect.poll(() => page.locator('.el-select-dropdown:visible').count()).toBe(0)
}
const strip = (name: string | RegExp) => page.locator('footer.strip').getByRole('button', { name }).click()
const read = async (file: string | { name: string; mimeType: string; buffer: Buffer }) => {
  await page.goto(`${world.base}marram/imports`)
  await strip('Import a file…')
  await page.setInputFiles('input[type=file]', file)
  await page.locator('.sheet').getByRole('button', { name: 'Read it' }).click()
  await page.getByRole('heading', { name: 'Columns' }).waitFor()
}
const artefacts = async () => (await maren.entries({ type: 'artefact', first: 1, count: true })).count

describe('a catalogue as a spreadsheet', () => {
  it('becomes entries: read, checked, imported, mended and undone', async () => {
    const before = (await artefacts())!
    await page.goto(`${world.base}marram/entries`)
    await page.getByRole('link', { name: 'Imports' }).click()
    await page.getByText('Nothing has been imported yet.').waitFor()
    await read(catalogue)
    await page.getByText('36 rows, CSV, windows-1252, parted by ;.').waitFor()
    await page.getByText('Keeper’s slate', { exact: true }).waitFor()
    await strip('Check all rows')
    await page.getByText('3 with problems').waitFor()
    await page.locator('tr:has-text("16"):has-text("There is no Museum")').waitFor()
    expect(await artefacts()).toBe(before)
    // The ropewalk is made, and a material that there is not goes nowhere.
    await page.locator('tr:has-text("Museum")').getByText('Create where missing').click()
    await strip('Check all rows')
    await page.getByText('2 with problems').waitFor()
    await page.getByRole('button', { name: 'Keep the mapping…' }).click()
    await page.fill('#mapping-name', 'Catalogue')
    await page.locator('.sheet').getByRole('button', { name: 'Keep', exact: true }).click()
    await page.locator('footer.strip').getByText('Kept as “Catalogue”.').waitFor()
    await strip('Import 36 rows')
    await page.getByText('Imported: 34 new').waitFor()
    expect(await artefacts()).toBe(before + 34)
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('link', { name: 'Download them to mend and import again' }).click(),
    ])
    const chunks: Buffer[] = []
    for await (const chunk of await download.createReadStream()) chunks.push(chunk as Buffer)
    const mended = Buffer.concat(chunks).toString().replace('bone', 'brass').replace('31-2-1976', '28-2-1976')
    await read({ name: 'mended.csv', mimeType: 'text/csv', buffer: Buffer.from(mended) })
    await strip('Import 2 rows')
    await page.getByText('Imported: 2 new').waitFor()
    expect(await artefacts()).toBe(before + 36)
    await page.goto(`${world.base}marram/imports`)
    await page.getByRole('link', { name: 'artefacts.csv' }).click()
    await page.getByRole('button', { name: 'Undo…' }).click()
    await page.locator('.el-popconfirm:visible').getByRole('button', { name: 'Undo' }).click()
    await page.getByText('34 undone').waitFor()
    expect(await artefacts()).toBe(before + 2)
  })

  it('finds its own place for a column, and says at once what does not fit', async () => {
    const buffer = Buffer.from('what,who\nWind vane,7\n')
    await page.goto(`${world.base}marram/imports`)
    await strip('Import a file…')
    await page.setInputFiles('input[type=file]', { name: 'odd.csv', mimeType: 'text/csv', buffer })
    await page.locator('.sheet').getByRole('button', { name: 'Read it' }).click()
    await page.getByText('No type has fields that are named like the columns.').waitFor()
    await choose('Type of the entries', 'Artefact')
    await page.getByText('No column goes into a field.').waitFor()
    await choose('Where what goes', 'Title (en)')
    await page.getByText('Wind vane').first().waitFor()
    await choose('Where who goes', 'In the catalogue since')
    await page.getByText('`7` is no day.').waitFor()
  })
})

it('a list becomes a table: with its columns, and its condition', async () => {
  await page.goto(
    `${world.base}marram/entries/museum?columns=town&where=${encodeURIComponent('name contains "light"')}`,
  )
  await page.locator('.row').first().waitFor()
  await page.locator('footer.strip').getByRole('button', { name: 'Export…' }).click()
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('menuitem', { name: 'CSV' }).click(),
  ])
  expect(download.suggestedFilename()).toBe('marram-museum.csv')
  const chunks: Buffer[] = []
  for await (const chunk of await download.createReadStream()) chunks.push(chunk as Buffer)
  const lines = Buffer.concat(chunks).toString().trim().split('\r\n')
  expect(lines[0]).toMatch(/^\uFEFF?entry\.id,name:en,town$/)
  expect(lines.slice(1)).toEqual([expect.stringContaining('The Lighthouse at Sanderling Head')])
})
