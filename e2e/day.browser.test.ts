import type { Editor } from '@wisteria/client'
import type { Page } from 'playwright-core'
import sharp from 'sharp'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { startConsole, type ConsoleWorld } from './support/browser.js'
import { richText } from './support/models.js'
import { eventually } from './support/running.js'

/** An editor's day in the console, from finding to withdrawing. */
let world: ConsoleWorld
let page: Page
let base = ''
let ilse: Editor

beforeAll(async () => {
  world = await startConsole()
  base = world.base
  ilse = await world.demo.as('ilse@marram.example')
  page = await world.open()
  await world.signIn('ilse@marram.example', page)
})
beforeEach(() => void world.faults.splice(0))
afterAll(() => world?.end())

const list = async (path = 'activity', query = '') => {
  await page.goto(`${base}marram/entries/${path}${query}`)
  await page.waitForSelector('.row')
}
const open = async (type: string, title: string, on: Page = page) => {
  await on.goto(`${base}marram/entries/${type}`)
  await on.click(`.row a:has-text("${title}")`)
  await on.waitForSelector('.field')
}
const strip = (on: Page = page) => on.locator('footer.strip')
const titles = () => page.locator('.row .title').allTextContents()
const choose = async (label: string, option: string, on: Page = page) => {
  await on.locator(`.el-select:has([aria-label="${label}"])`).last().click()
  await on.locator('.el-select-dropdown__item:visible', { hasText: new RegExp(`^${option}$`) }).click()
}
const findEntry = async (title: string, type: string) =>
  (
    await ilse.entries({
      type,
      where: `${type === 'museum' || type === 'person' ? 'name' : 'title'} = ${JSON.stringify(title)}`,
    })
  ).entries[0]!

describe('finding', () => {
  it('leaves the focus where it is, for somebody who is faster than a panel that opens', async () => {
    await list('activity')
    const slow = await page.addStyleTag({ content: '.el-popover { transition-duration: 2s !important }' })
    await page.click('button:has-text("Add a condition…")')
    const field = page.getByRole('combobox', { name: 'Field or fact' })
    await field.click({ force: true })
    await page.keyboard.type('Museum')
    await page.keyboard.press('Enter')
    const value = page.getByRole('combobox', { name: 'Value' })
    await value.click({ force: true })
    await page.locator('.el-popover.el-fade-in-linear-enter-active').waitFor({ state: 'detached' })
    expect(await value.evaluate((input) => input === document.activeElement)).toBe(true)
    await page.keyboard.press('Escape')
    await page.keyboard.press('Escape')
    await slow.evaluate((style) => (style as HTMLElement).remove())
  })

  it('builds a condition by choosing, sorts, shows columns and keeps the list', async () => {
    await list()
    await page.click('text=Add a condition…')
    await choose('Field or fact', 'Format')
    await choose('Value', 'Walk')
    await page.click('button:has-text("Add condition")')
    await page.waitForURL(/where=format/)
    await eventually(titles, (all) => all.length > 0 && all.length < 10)
    await choose('Order', 'Starts, ascending')
    await page.waitForURL(/sort=starts/)
    await page.click('button:has-text("Columns")')
    await page.click('.el-popover:visible .column:has-text("Starts")')
    await page.waitForURL(/columns=starts/)
    await eventually(
      () => page.locator('.cell').first().textContent(),
      (text) => /20\d\d/.test(text ?? ''),
    )
    await page.keyboard.press('Escape')
    await page.click('button:has-text("Save view…")')
    await page.fill('[aria-label="Name of the view"]', 'Walks to come')
    await page.click('.el-popover:visible button:has-text("Save")')
    await page.locator('nav.types a.here', { hasText: 'Walks to come' }).waitFor()
    await list('museum')
    await page.click('nav.types a:has-text("Walks to come")')
    await page.waitForURL(/entries\/activity\?.*where=format/)
    // The heads sort, the other way round at the second click.
    await page.click('.headings button:has-text("Title")')
    await page.waitForURL(/sort=title/)
    await page.click('.headings button:has-text("Title")')
    await page.waitForURL(/sort=-title/)
    // A referenced entry is chosen by its title.
    await list('activity')
    await page.click('button:has-text("Add a condition…")')
    await page.getByRole('combobox', { name: 'Field or fact' }).click()
    await page.keyboard.type('Museum')
    await page.keyboard.press('Enter')
    await page.getByRole('combobox', { name: 'Value' }).click()
    await page.locator('.el-select-dropdown__item:visible', { hasText: 'The Lighthouse' }).click()
    await page.click('.el-popover:visible button:has-text("Add condition")')
    await page.waitForURL(/where=museum/)
    await eventually(titles, (all) => all.length > 0 && all.length < 10)
    // In the list of all types, the type is chosen before an entry is created.
    await page.goto(`${base}marram/entries`)
    await page.click('.strip button:has-text("Create…")')
    await page.click('.choose-type button:has-text("Museum")')
    await page.waitForURL(/new\/museum/)
    expect(world.faults).toEqual([])
  })
})

describe('writing', () => {
  it('undoes and redoes what was written, also in blocks', async () => {
    await open('page', 'Tickets')
    await page.fill('.field .naming textarea', 'Tickets and prices')
    await page.locator('.strip [aria-label=Undo]').waitFor()
    await page.keyboard.press('Control+z')
    await eventually(
      () => page.inputValue('.field .naming textarea'),
      (text) => text === 'Tickets',
    )
    await page.keyboard.press('Control+Shift+z')
    await eventually(
      () => page.inputValue('.field .naming textarea'),
      (text) => text === 'Tickets and prices',
    )
    await page.keyboard.press('Control+z')
    await strip()
      .getByText(/^Saved/)
      .waitFor()
  })
  it('folds, duplicates, cuts and pastes blocks, into another entry too', async () => {
    await open('page', 'Tickets')
    const blocks = page.locator('.block')
    expect(await blocks.count()).toBe(2)
    await blocks.nth(0).locator('header').focus()
    await page.keyboard.press('Control+d')
    expect(await blocks.count()).toBe(3)
    await blocks.nth(1).locator('header').focus()
    await page.keyboard.press('ArrowLeft')
    await blocks.nth(1).locator('.first').waitFor()
    await page.keyboard.press('Control+x')
    expect(await blocks.count()).toBe(2)
    await strip()
      .getByText(/^Saved/)
      .waitFor()
    await open('page', 'Friends of the coast')
    await page.click('button:has-text("Paste")')
    expect(await blocks.count()).toBe(2)
    await strip()
      .getByText(/^Saved \d/)
      .waitFor()
    const saved = await ilse.entry((await findEntry('Friends of the coast', 'page')).id)
    const [first, other] = saved.values['body'] as { id: string; values: { text: Record<string, string> } }[]
    expect(other!.values.text['en']).toMatch(/^The Lighthouse 8.50/)
    expect(first!.id).not.toBe(other!.id)
  })
  it('pastes what a word processor copied, cleaned up', async () => {
    await open('artefact', 'The great lens')
    const text = page.locator('.ProseMirror')
    await text.waitFor()
    await text.click()
    await page.keyboard.press('Control+End')
    const html =
      '<meta><p class="MsoNormal" style="margin:0"><span style="font-weight:bold">Cleaned</span> on Fridays<o:p></o:p></p><script>alert(1)</script>'
    await text.evaluate((element, pasted) => {
      const data = new DataTransfer()
      data.setData('text/html', pasted)
      element.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }))
    }, html)
    await text.locator('strong', { hasText: 'Cleaned' }).waitFor()
    expect(await text.innerHTML()).not.toMatch(/mso|script|style="margin/i)
    await strip()
      .getByText(/^Saved \d/)
      .waitFor()
  })
  it('makes what is referred to where it is chosen', async () => {
    await open('exhibition', 'Nine Thousand Nights')
    const field = page.locator('.field:has(> .head :text-is("Curators"))')
    await field.locator('.el-select').click()
    await page.keyboard.type('Wilma Teer')
    await page.locator('.el-select-dropdown__footer:visible button', { hasText: 'Create person “Wilma Teer”' }).click()
    await field.locator('.items a', { hasText: 'Wilma Teer' }).waitFor()
    await strip()
      .getByText(/^Saved \d/)
      .waitFor()
    expect((await ilse.search('Wilma Teer')).entries.length).toBe(1)
  })
  it('adds a picture by dropping it on its field', async () => {
    await open('artefact', 'The small pan')
    const field = page.locator('.field:has(> .head :text-is("Picture"))')
    await field
      .locator('button:has-text("Remove")')
      .click()
      .catch(() => undefined)
    const bytes = await sharp({ create: { width: 60, height: 40, channels: 3, background: '#23607a' } })
      .png()
      .toBuffer()
    await field.locator('input[type=file]').setInputFiles({ name: 'pan.png', mimeType: 'image/png', buffer: bytes })
    await field.locator('.assets .name', { hasText: 'pan.png' }).waitFor()
    await field.locator('input[type=file]').waitFor({ state: 'detached' })
    await strip()
      .getByText(/^Saved \d/)
      .waitFor()
    expect(world.faults).toEqual([])
  })
  it('writes the alternative text of a picture where it is used, in the locale of the form', async () => {
    await open('museum', 'The Boatyard')
    await page.click('.locale:has-text("nl-BE")')
    const text = page.getByRole('textbox', { name: 'Alternative text, nl-BE' }).first()
    await text.fill('Een boot op een helling')
    await text.blur()
    const boat = async () => (await ilse.assets({ search: 'boatyard' })).assets[0]!
    await eventually(boat, ({ alt }) => alt['nl-BE'] === 'Een boot op een helling')
    await ilse.changeAsset((await boat()).id, { alt: { 'nl-BE': null } })
  })
})

describe('two at once', () => {
  it('see each other, take in what the other saved, and are asked where both wrote', async () => {
    const other = await world.open()
    await world.signIn('maren@marram.example', other)
    await open('museum', 'The Boatyard', other)
    await open('museum', 'The Boatyard')
    await page.locator('header.head').getByRole('img', { name: 'Maren Aldous is here' }).waitFor()
    // The other is idle: a save here arrives there with the next presence report.
    await page.fill('.field:has(> .head :text-is("Town")) textarea', 'Oyster Creek, east')
    await strip()
      .getByText(/^Saved \d/)
      .waitFor()
    await other.waitForFunction(
      () => [...document.querySelectorAll('textarea')].some((element) => element.value === 'Oyster Creek, east'),
      undefined,
      { timeout: 30_000 },
    )
    // Both change the same place, and each another one.
    const { id } = await findEntry('The Boatyard at Oyster Creek', 'museum')
    const { version } = await ilse.entry(id)
    await ilse.edit(id, version, [
      { do: 'set', at: ['town'], value: 'Oyster Creek, north' },
      { do: 'set', at: ['summary'], locale: 'en', value: 'Boats, written by Ilse.' },
    ])
    await other.fill('.field:has(> .head :text-is("Town")) textarea', 'Oyster Creek, south')
    await other.fill('.field:has(> .head :text-is("Name")) textarea', 'The Boatyard, by Maren')
    await other.getByRole('button', { name: 'Compare both…' }).click()
    const sheet = other.locator('.sheet', { hasText: 'Ilse Branding changed what you changed too' })
    await sheet.getByText('also changed Summary').waitFor()
    expect(await sheet.locator('tbody tr').count()).toBe(1)
    expect(await sheet.getByRole('button', { name: 'Save your choices' }).isDisabled()).toBe(true)
    await sheet.getByRole('radio', { name: 'Town: keep yours' }).check()
    await sheet.getByRole('button', { name: 'Save your choices' }).click()
    await strip(other)
      .getByText(/^Saved \d/)
      .waitFor()
    const after = (await ilse.entry(id)).values as { town: string; summary: { en: string }; name: { en: string } }
    expect([after.town, after.summary.en, after.name.en]).toEqual([
      'Oyster Creek, south',
      'Boats, written by Ilse.',
      'The Boatyard, by Maren',
    ])
    await other.context().close()
  })
  it('write in different paragraphs of one text, and neither loses the place', async () => {
    const { id, version } = await ilse.create({
      type: 'artefact',
      values: { title: { en: 'Two hands' }, inventory: 'SH-900', story: { en: richText('One.', 'Two.', 'Three.') } },
    })
    await open('artefact', 'Two hands')
    const text = page.locator('.ProseMirror')
    await text.getByText('Three.').click()
    await page.keyboard.press('End')
    await page.keyboard.type(' Mine')
    // Saved elsewhere while this is unsaved: the answer of the save brings it, and writing goes on.
    const theirs = { type: 'paragraph', children: [{ type: 'text', value: 'One, and theirs.' }] }
    await ilse.edit(id, version, [{ do: 'set', at: ['story', 'b1'], locale: 'en', value: theirs }])
    await text.getByText('One, and theirs.').waitFor()
    await page.keyboard.type(', still')
    await strip()
      .getByText(/^Saved \d/)
      .waitFor()
    await eventually(
      async () => (await ilse.entry(id)).values['story'],
      (story) =>
        JSON.stringify(story) === JSON.stringify({ en: richText('One, and theirs.', 'Two.', 'Three. Mine, still') }),
    )
    // A paragraph that is split keeps its id in its first half, and its second half gets another.
    await page.keyboard.press('Enter')
    await page.keyboard.type('Four')
    const story = await eventually(
      async () => (await ilse.entry(id)).values['story'] as { en: ReturnType<typeof richText> },
      ({ en }) => JSON.stringify(en).includes('Four'),
    )
    const ids = story.en.children.map(({ data }) => data.id)
    expect([ids.slice(0, 3), ids.length, new Set(ids).size]).toEqual([['b1', 'b2', 'b3'], 4, 4])
    expect(world.faults).toEqual([])
  })
  it('leaves a text as it was stored that nobody writes in, whatever is in it', async () => {
    const image = (await ilse.assets({ first: 1 })).assets[0]!.id
    const words = (value: string) => ({ type: 'text', value })
    const story = {
      type: 'root',
      children: [
        {
          type: 'paragraph',
          children: [
            words('See '),
            { type: 'strong', children: [{ type: 'inlineCode', value: 'x' }] },
            { type: 'image', url: '', data: { asset: image } },
            { type: 'link', url: '', data: { asset: image }, children: [words('plan')] },
          ],
        },
        {
          type: 'list',
          ordered: true,
          start: 3,
          spread: true,
          children: [{ type: 'listItem', spread: true, children: [{ type: 'paragraph', children: [words('three')] }] }],
        },
        { type: 'code', lang: 'ts', meta: 'a=1', value: 'let a' },
      ],
    }
    const { id } = await ilse.create({
      type: 'artefact',
      values: { title: { en: 'Left alone' }, inventory: 'SH-901', story: { en: story } },
    })
    const before = (await ilse.entry(id)).values['story'] as { en: { children: unknown[] } }
    await open('artefact', 'Left alone')
    await page.locator('.ProseMirror').getByText('three').click()
    await page.keyboard.press('Control+Home')
    await page.keyboard.type('Now: ')
    const after = await eventually(
      async () => (await ilse.entry(id)).values['story'] as { en: { children: unknown[] } },
      ({ en }) => JSON.stringify(en).includes('Now: '),
    )
    expect(after.en.children.slice(1)).toEqual(before.en.children.slice(1))
    expect(JSON.stringify(after)).toBe(JSON.stringify(before).replace('See ', 'Now: See '))
  })
})

describe('publishing', () => {
  it('takes along what it needs, all together', async () => {
    const parent = await ilse.create({
      type: 'page',
      values: { title: { en: 'Volunteers' }, slug: { en: 'volunteers' } },
    })
    await ilse.create({
      type: 'page',
      values: { title: { en: 'Saturday crew' }, slug: { en: 'saturday' }, inPage: parent.id },
    })
    await open('page', 'Saturday crew')
    await page.click('footer.strip button:has-text("Publish…")')
    await page.locator('.sheet .obstacles', { hasText: 'is not public' }).waitFor()
    await page.click('.sheet .el-checkbox:has-text("Volunteers")')
    await page.locator('.sheet .obstacles').waitFor({ state: 'detached' })
    await page.click('.sheet button:has-text("and 1 more")')
    await strip()
      .getByText(/Public since/)
      .waitFor()
    expect((await ilse.entry(parent.id)).state).toBe('public')
  })
  it('schedules it, reschedules that on Today, and cancels it', async () => {
    await open('page', 'Friends of the coast')
    await page.click('footer.strip button:has-text("Publish…")')
    await page.waitForSelector('.sheet dl')
    await page.click('.sheet button:has-text("Schedule…")')
    await page.fill('#schedule-time', '2036-03-12T09:00')
    await page.click('.sheet .time button:has-text("Schedule")')
    await strip()
      .getByText(/Publish 12 Mar 2036/)
      .waitFor()
    await page.goto(`${base}marram/today`)
    const row = page.locator('[aria-label=Scheduled] .row', { hasText: 'Friends of the coast' })
    await row.locator('button:has-text("Reschedule…")').click()
    await page.fill('#schedule-time', '2036-03-13T10:00')
    await row.locator('button:has-text("Reschedule")').click()
    await row.getByText(/13 Mar 2036, 10:00/).waitFor()
    await row.locator('button:has-text("Cancel schedule")').click()
    await page.getByText('Nothing is scheduled.').waitFor()
  })
  it('stands on Today: what one edited, what others did, and what there is to translate', async () => {
    await page.goto(`${base}marram/today`)
    const section = (title: string) => page.locator('section section', { hasText: title })
    await section('Yours, not public yet').getByRole('link', { name: 'The small pan' }).waitFor()
    await section('To translate').getByRole('link', { name: 'Nederlands', exact: true }).click()
    await page.waitForURL(/translate\/nl\/\w+/)
    await page.locator('.unit.here').waitFor()
    await page.goBack()
    await section('Yours, not public yet')
      .getByText(/Show all \d+/)
      .click()
    await page.waitForURL(/entry\.updatedBy/)
    await page.locator('.row', { hasText: 'The small pan' }).waitFor()
  })
  it('makes what has no drafts public as it is saved', async () => {
    await page.goto(`${base}marram/new/notice`)
    await page.waitForSelector('.field')
    await page.fill('.field .naming textarea', 'The lamp room is closed for polishing')
    await page.fill('.field:has(> .head :text-is("Until")) input', '2040-01-01')
    await page.keyboard.press('Tab')
    await page.click('footer.strip button:has-text("Save and publish")')
    await eventually(
      async () => (await ilse.entries({ type: 'notice', where: 'text contains "polishing"' })).entries[0]?.state,
      (state) => state === 'public',
    )
    const shown = await fetch(world.site.address)
    expect(await shown.text()).toContain('closed for polishing')
  })
})

describe('bulk actions', () => {
  it('are chosen, tried, published with those refused told, and undone', async () => {
    await list('activity', '?where=entry.state%20%3D%20%22new%22')
    const count = (await titles()).length
    expect(count).toBeGreaterThan(0)
    await page.focus('.row a')
    await page.keyboard.press('Space')
    await strip().getByText('1 chosen').waitFor()
    if (count > 1) await page.click('.strip button:has-text("that match")')
    await page.keyboard.press('Control+Enter')
    await page
      .locator('.sheet')
      .getByText(/will be published/)
      .waitFor()
    await page.locator('.sheet:visible .el-button--primary').click()
    await page
      .locator('.sheet')
      .getByText(/^Published: \d+ done/)
      .waitFor()
    await page.click('.sheet button:has-text("Undo")')
    await page
      .locator('.sheet')
      .getByText(/^Undone: \d+ done/)
      .waitFor()
    await page.click('.sheet button:has-text("Close")')
    expect(world.faults).toEqual([])
  })
  it('get one value in a field', async () => {
    await list('activity', '?where=format%20%3D%20%22concert%22')
    const before = (await titles()).length
    await page.locator('.row .choose').first().click()
    await page
      .locator('.row .choose')
      .last()
      .click({ modifiers: ['Shift'] })
    await strip().getByText(`${before} chosen`).waitFor()
    await page.click('.strip button:has-text("Set a field…")')
    await choose('Field', 'For families')
    await page.click('.sheet .control >> text=Yes')
    await page
      .locator('.sheet')
      .getByText(/will be changed/)
      .waitFor()
    await page.locator('.sheet:visible .el-button--primary').click()
    await page
      .locator('.sheet')
      .getByText(/^Changed: \d+ done/)
      .waitFor()
    await page.click('.sheet button:has-text("Close")')
    const { count } = await ilse.entries({
      type: 'activity',
      where: 'format = "concert" and forFamilies = true',
      count: true,
    })
    expect(count).toBe(before)
  })
})

describe('places', () => {
  it('moves a page by keyboard, and readers get the new path once it is published', async () => {
    await page.goto(`${base}marram/tree`)
    const node = page.locator('.node', { hasText: 'The people' })
    await node.focus()
    await page.keyboard.press('Alt+ArrowRight')
    await strip()
      .getByText(/Publish “The people” to make it public/)
      .waitFor()
    const shows = (wanted: string) =>
      eventually(
        () => node.locator('.path').textContent(),
        (path) => path === wanted,
      )
    // The tree is read again after the result is shown.
    await shows('/exhibitions/people')
    await page.keyboard.press('Alt+ArrowLeft')
    await shows('/people')
    await node.locator('.menu').click()
    await strip()
      .getByText(/Publish “.*” to remove it from menus/)
      .waitFor()
  })
  it('undoes moves and menus in the tree, the last one first', async () => {
    await page.goto(`${base}marram/tree`)
    const node = page.locator('.node', { hasText: 'The people' })
    const before = await node.locator('.menu').textContent()
    await node.focus()
    await page.keyboard.press('Alt+ArrowRight')
    await page.locator('.node .path', { hasText: '/exhibitions/people' }).waitFor()
    await node.locator('.menu').click()
    await strip()
      .getByText(/Publish “.*” to (remove|show) it/)
      .waitFor()
    await strip().getByRole('button', { name: 'Undo' }).click()
    await strip().getByText('“The people” is as it was.').waitFor()
    // The tree is read again after the act.
    await eventually(
      () => node.locator('.menu').textContent(),
      (text) => text === before,
    )
    await page.keyboard.press('Control+z')
    await eventually(
      () => node.locator('.path').textContent(),
      (path) => path === '/people',
    )
    expect(await strip().getByRole('button', { name: 'Undo' }).count()).toBe(0)
  })
  it('makes a page below another, which is none until something is written in it', async () => {
    await page.goto(`${base}marram/tree`)
    await page.locator('.node', { hasText: 'Plan your visit' }).first().hover()
    await page.getByRole('link', { name: 'New page below Plan your visit' }).click()
    await page.locator('.field:has(> .head :text-is("Below the page"))').getByText('Plan your visit').waitFor()
    await strip().getByText('Not saved yet').waitFor()
    await page.getByRole('textbox', { name: /Title/ }).first().fill('By boat')
    await strip().getByRole('button', { name: 'Save' }).click()
    await strip()
      .getByText(/^Saved \d/)
      .waitFor()
    const { id } = await findEntry('By boat', 'page')
    const visit = await findEntry('Plan your visit', 'page')
    expect((await ilse.entry(id)).values['inPage']).toBe(visit.id)
    await ilse.delete(id)
  })
})

describe('archiving and deleting', () => {
  it('archives and reactivates', async () => {
    await open('activity', 'Tar Day')
    await page.click('footer.strip button:has-text("More…")')
    await page.click('.el-dropdown-menu__item:visible:has-text("Archive…")')
    await page.locator('.sheet').getByText('Lists no longer show it').waitFor()
    await page.locator('.sheet:visible .el-button--danger').click()
    await page.getByText('This entry is archived.').waitFor()
    await page.click('footer.strip button:has-text("Reactivate")')
    await strip()
      .getByText(/Reactivated/)
      .waitFor()
  })
  it('deletes into the bin, and restores from it', async () => {
    await ilse.create({ type: 'person', values: { name: 'Piet Verkeerd' } })
    await open('person', 'Piet Verkeerd')
    await page.click('footer.strip button:has-text("More…")')
    await page.click('.el-dropdown-menu__item:visible:has-text("Delete…")')
    await page.locator('.sheet').getByText('You can restore it for 30 days').waitFor()
    await page.locator('.sheet:visible .el-button--danger').click()
    await page.waitForURL(/entries\/person/)
    await page.goto(`${base}marram/bin`)
    await page.locator('.row', { hasText: 'Piet Verkeerd' }).locator('button:has-text("Restore")').click()
    await strip().getByText('Restored “Piet Verkeerd”.').waitFor()
    expect((await findEntry('Piet Verkeerd', 'person')).state).toBe('new')
  })
})

describe('files', () => {
  it('are added several at a time, described per locale, found by that, and told when one is not taken', async () => {
    await page.goto(`${base}marram/assets`)
    await page.waitForSelector('.asset')
    const file = async (name: string, background: string) => ({
      name,
      mimeType: 'image/png',
      buffer: await sharp({ create: { width: 90, height: 60, channels: 3, background } })
        .png()
        .toBuffer(),
    })
    await page.setInputFiles('footer input[type=file]', [
      await file('buoy.png', '#a33'),
      await file('quay.png', '#3a3'),
      { name: 'virus.exe', mimeType: 'image/png', buffer: Buffer.from([0x4d, 0x5a, 0, 1, 2, 255]) },
    ])
    await page.locator('.asset', { hasText: 'buoy.png' }).waitFor()
    await page.locator('.asset', { hasText: 'quay.png' }).waitFor()
    await page
      .locator('.uploads', { hasText: 'virus.exe' })
      .getByText(/of a kind that is not accepted/)
      .waitFor()
    await page.locator('.asset', { hasText: 'buoy.png' }).click()
    await page.fill('#asset-alt', 'A red buoy on a slack tide')
    await page.keyboard.press('Tab')
    await page.getByText('Saved.').waitFor()
    await page.fill('[aria-label="Find files"]', 'slack tide')
    await page.keyboard.press('Enter')
    await eventually(
      () => page.locator('.asset').count(),
      (count) => count === 1,
    )
    expect(world.faults).toEqual([])
  })
})

describe('revisions of a file', () => {
  it('are listed with what changed, and come back', async () => {
    const bytes = (background: string) =>
      sharp({ create: { width: 60, height: 40, channels: 3, background } })
        .png()
        .toBuffer()
        .then((png) => new Blob([new Uint8Array(png)]))
    const { id } = await ilse.uploadAsset('slipway.png', await bytes('#23607a'))
    await ilse.changeAsset(id, { alt: { en: 'A slipway' } })
    await ilse.replaceAsset(id, await bytes('#7a2323'))
    await page.goto(`${base}marram/assets`)
    await page.locator('.asset', { hasText: 'slipway.png' }).click()
    const part = page.locator('section', { has: page.getByRole('heading', { name: 'Revisions' }) })
    expect(await part.locator('li .what').allTextContents()).toEqual([
      expect.stringMatching(/^ *Changed: file/),
      expect.stringMatching(/^ *Changed: alternative text/),
      expect.stringMatching(/^ *Added/),
    ])
    await part.getByRole('button', { name: 'Restore revision 2' }).click()
    await page.getByText('Restored revision 2.').waitFor()
    await part.locator('li').nth(3).waitFor()
    expect(await ilse.asset(id)).toMatchObject({ revision: 4, alt: { en: 'A slipway' } })
    expect(world.faults).toEqual([])
  })
})
