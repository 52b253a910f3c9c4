import type { Editor } from '@wisteria/client'
import { startTranslator } from '@wisteria/demo'
import type { Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { findingsOn } from './support/axe.js'
import { startConsole, type ConsoleWorld } from './support/browser.js'
import { picture } from './support/pictures.js'
import { eventually } from './support/running.js'
import { boldText } from './support/translations.js'

/** Translating without the mouse, from the board to the last text. */
let world: ConsoleWorld
let page: Page
let owner: Editor

beforeAll(async () => {
  world = await startConsole()
  owner = await world.demo.as('maren@marram.example')
  page = await world.open()
  await world.signIn('ilse@marram.example', page)
})
afterAll(() => world?.end())

let count = 0
/** A page with seven blocks in English alone, the newest in its list. */
async function sevenBlocks(): Promise<{ id: string; title: string }> {
  const title = `Seven blocks ${++count}`
  const words = (id: string, text: string) => ({ id, block: 'text', values: { text: { en: text } } })
  const { id } = await owner.create({
    type: 'page',
    values: {
      title: { en: title },
      body: [
        { id: 'b1', block: 'heading', values: { text: { en: 'On foot' } } },
        ...['two', 'three', 'four', 'five', 'six', 'seven'].map((name, index) =>
          words(`b${index + 2}`, `Block ${name}`),
        ),
      ],
    },
  })
  return { id, title }
}
const open = async (id: string, locale = 'nl', more = '') => {
  await page.goto(`${world.base}marram/translate/${locale}/${id}${more}`)
  await page.waitForSelector('.unit.here textarea:focus')
}
const key = (name: string) => page.keyboard.press(name)
const here = () => page.locator('.unit.here').getAttribute('aria-label')
const unitsOf = async (id: string, locale = 'nl') => (await owner.translations.of(id, locale)).entries[0]!.units
const stateOf = async (id: string, place: string) => (await unitsOf(id)).find(({ at }) => at.join('/') === place)!.state
const saved = () =>
  eventually(
    () => page.locator('.strip .start').textContent(),
    (text) => /Saved/.test(text ?? ''),
  )

describe('the translation page', () => {
  it('translates an entry with seven blocks without the mouse', async () => {
    const { id, title } = await sevenBlocks()
    await open(id)
    expect(await page.locator('h1').textContent()).toBe(title)
    expect(await here()).toBe('Title')
    for (const word of ['Zeven', 'Te voet', 'Twee', 'Drie', 'Vier', 'Vijf', 'Zes', 'Zeven']) {
      await page.keyboard.type(word)
      await key('Control+Enter')
    }
    const units = await eventually(
      () => unitsOf(id),
      (all) => all.every(({ state }) => state === 'current'),
    )
    expect(units.map(({ translation }) => translation?.join(''))).toEqual(
      expect.arrayContaining(['Te voet', 'Twee', 'Zeven', 'zeven']),
    )
    // The next entry opens, or it says that there is none.
    await eventually(
      async () => [await page.locator('h1').textContent(), await page.locator('.strip .result').textContent()],
      ([heading, result]) => heading !== title || /No more entries/.test(result ?? ''),
    )
    expect(world.faults).toEqual([])
  })
  it('shows what changed in the source word by word, and takes one key for what is still right', async () => {
    const { id } = await sevenBlocks()
    const translated = await owner.translations.save(id, {
      locale: 'nl',
      texts: (await unitsOf(id)).map(({ unit }, index) => ({ unit, text: `tekst-${index}` })),
    })
    await owner.edit(id, translated.version, [
      { do: 'set', at: ['body', 'b3', 'text'], locale: 'en', value: 'Block three and a half' },
    ])
    await open(id)
    expect(await page.locator('.unit').count()).toBe(1)
    expect(await page.locator('.unit ins').textContent()).toContain('and a half')
    expect(await stateOf(id, 'body/b3/text')).toBe('outdated')
    await key('Control+Enter')
    await eventually(
      () => stateOf(id, 'body/b3/text'),
      (state) => state === 'current',
    )
  })
  it('keeps inline codes, and saves no text in which one is missing', async () => {
    const { id } = await owner.create({
      type: 'artefact',
      values: {
        title: { en: 'Pan' },
        story: { en: boldText() },
      },
    })
    await open(id)
    await page.locator('.unit[aria-label=Story] textarea').focus()
    await page.keyboard.type('Hij is klein.')
    await eventually(
      () => page.locator('.unit.here [role=alert]').textContent(),
      (text) => /Code 1 of the source is missing/.test(text ?? ''),
    )
    expect(await stateOf(id, 'story')).toBe('missing')
    for (const _ of 'klein.') await key('Backspace')
    await key('Alt+Digit1')
    await page.keyboard.type('klein')
    await key('End')
    await page.keyboard.type('.')
    await saved()
    expect((await owner.entry(id)).values['story']).toMatchObject({
      nl: { children: [{ children: [{}, { type: 'strong', children: [{ value: 'klein' }] }, { value: '.' }] }] },
    })
  })
  it('saves the other texts where one is refused, and says why beside it', async () => {
    const { id } = await sevenBlocks()
    await open(id, 'nl', '?show=all')
    await page.locator('.unit[aria-label=Slug] textarea').fill('Geen slug!')
    await page.locator('.unit[aria-label=Title] textarea').fill('Zeven blokken')
    await eventually(
      () => stateOf(id, 'title'),
      (state) => state === 'current',
    )
    await page.locator('.unit[aria-label=Slug] [role=alert]').waitFor()
    await page.locator('.unit[aria-label=Slug] textarea').fill('zeven')
    await eventually(
      async () => (await owner.entry(id)).values['slug'],
      (slug) => (slug as { nl?: string }).nl === 'zeven',
    )
    expect(await page.locator('.unit[aria-label=Slug] [role=alert]').count()).toBe(0)
  })
  it('shows both texts where two people wrote the same one, and keeps what is chosen', async () => {
    const { id } = await sevenBlocks()
    await open(id)
    await page.keyboard.type('Mijn titel')
    const { unit } = (await unitsOf(id))[0]!
    await owner.translations.save(id, { locale: 'nl', texts: [{ unit, text: 'Hun titel' }] })
    const both = page.locator('.unit.here .both')
    await both.waitFor()
    expect(await both.textContent()).toContain('Hun titel')
    await both.locator('button:has-text("Keep mine")').click()
    await eventually(
      async () => (await unitsOf(id))[0]!.translation?.join(''),
      (text) => text === 'Mijn titel',
    )
  })
  it('translates the texts of the files that an entry holds, and says when their source has changed', async () => {
    const { id: file } = await owner.uploadAsset('quay.jpg', await picture(40, 20, 'jpeg'))
    const { revision } = await owner.changeAsset(file, { alt: { en: 'The quay at low tide' } })
    const { id } = await owner.create({
      type: 'museum',
      values: { name: { en: 'Quay' }, picture: file },
    })
    await open(id)
    await page.locator('h2', { hasText: 'quay.jpg' }).getByText('texts of a file').waitFor()
    await page.locator('.unit[aria-label="Alternative text"] textarea').fill('De kade bij eb')
    await saved()
    await eventually(
      async () => (await owner.asset(file)).alt['nl'],
      (text) => text === 'De kade bij eb',
    )
    expect((await owner.asset(file)).revision).toBe(revision + 1)
    await owner.changeAsset(file, { alt: { en: 'The quay at high tide' } })
    await open(id)
    const row = page.locator('.unit[aria-label="Alternative text"]')
    expect(await row.locator('ins').allInnerTexts()).toEqual(['high'])
    expect(await row.getByRole('button', { name: /empty/i }).count()).toBe(0)
    await row.locator('textarea').focus()
    await key('Control+Enter')
    await eventually(
      async () => (await owner.translations.ofAsset(file, 'nl')).units[0]!.state,
      (state) => state === 'current',
    )
  })
  it('is reached from the board, assigns, marks as ready, and has no barriers', async () => {
    const { id } = await sevenBlocks()
    await page.click('nav a:has-text("Translations")')
    await page.waitForSelector('table .cell')
    expect(await findingsOn(page)).toEqual([])
    await page.click('a.cell:has-text("Page, nl:")')
    await page.waitForSelector('.unit.here')
    await open(id)
    expect(await findingsOn(page)).toEqual([])
    await page.click('.task button:has-text("Assign…")')
    await page.click('.pop-panel .el-select')
    await page.click('.el-select-dropdown__item:visible:has-text("Ilse")')
    await page.click('.pop-panel button:has-text("Assign")')
    await page.waitForSelector('.task:has-text("Assigned to Ilse")')
    await page.click('.strip button:has-text("Ready for review")')
    await page.waitForSelector('.task .ready')
    expect((await owner.translations.work({ ready: true })).entries.map(({ entry }) => entry)).toEqual([id])
    // A locale is not lost on reload.
    await page.reload()
    await page.waitForSelector('.task .ready')
    expect(page.url()).toContain('/translate/nl/')
  })
  it('cannot be written in by somebody who is limited to another locale', async () => {
    const { id } = await sevenBlocks()
    const samira = await world.open()
    await world.signIn('samira@marram.example', samira)
    await samira.goto(`${world.base}marram/translate/nl/${id}`)
    await samira.waitForSelector('.unit')
    expect(await samira.locator('.unit textarea').first().isDisabled()).toBe(true)
    expect(await samira.locator('.strip button:has-text("Ready for review")').count()).toBe(0)
  })
})

describe('the list of entries', () => {
  it('assigns several entries together', async () => {
    const both = [await sevenBlocks(), await sevenBlocks()]
    await open(both[0]!.id)
    for (const { title } of both) await page.getByRole('checkbox', { name: `Choose ${title}`, exact: true }).check()
    await page.getByRole('button', { name: 'Assign 2…' }).click()
    const panel = page.locator('[role=dialog][aria-label="Assign 2…"]')
    await panel.locator('.el-select').click()
    await page.locator('.el-select-dropdown__item:visible', { hasText: 'Ilse Branding' }).click()
    await panel.getByRole('button', { name: 'Assign', exact: true }).click()
    const { members } = await owner.members()
    const ilse = members.find(({ name }) => name === 'Ilse Branding')!.account
    const { entries } = await eventually(
      () => owner.translations.work({ locale: 'nl', assignee: ilse }),
      ({ entries }) => both.every(({ id }) => entries.some(({ entry }) => entry === id)),
    )
    expect(entries.length).toBeGreaterThanOrEqual(2)
    expect(await page.getByRole('checkbox', { checked: true }).count()).toBe(0)
    expect(await findingsOn(page)).toEqual([])
  })
})

describe('orders', () => {
  it('are made on the page of an entry, seen failing and coming back, by a connector added in the console', async () => {
    const translator = await startTranslator({ port: 0, failures: 1 })
    try {
      const maren = await world.open()
      await world.signIn('maren@marram.example', maren)
      await maren.goto(`${world.base}marram/connectors`)
      await maren.getByRole('button', { name: 'Add connector…' }).click()
      await maren.locator('.sheet form').waitFor()
      await maren.getByLabel('Name').fill('Machine')
      await maren.getByLabel('Address').fill(translator.address)
      await maren.getByRole('button', { name: 'Add connector', exact: true }).click()
      const secret = await maren.getByRole('textbox', { name: 'Secret' }).inputValue()
      expect(secret).toMatch(/^whsec_/)
      translator.setSecret(secret)
      await maren.close()

      const { id, title } = await sevenBlocks()
      await open(id)
      await page.getByRole('button', { name: 'Order…' }).click()
      await page.getByRole('button', { name: 'Order', exact: true }).click()
      await page.waitForURL(/translations\/orders$/)
      const first = page.locator('tbody tr').first()
      await eventually(
        () => first.textContent(),
        (text) => /1 entry translated/.test(text ?? ''),
      )
      await first.getByRole('button').first().click()
      await page.waitForSelector(`li:has-text("${title}")`)
      expect(await page.locator('li', { hasText: title }).textContent()).toContain('8 taken. Ready for review.')
      expect(await stateOf(id, 'title')).toBe('current')
      expect(await findingsOn(page)).toEqual([])
    } finally {
      await translator.stop()
    }
  })
})
