import type { Page } from 'playwright-core'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { startConsole, type ConsoleWorld } from './support/browser.js'
import { demoPassword } from '@wisteria/demo'
import { eventually, type DemoWorld } from './support/running.js'

let world: ConsoleWorld
let demo: DemoWorld
let site: ConsoleWorld['site']

let page: Page
let base = ''
let faults: string[] = []
const open = () => world.open()
const signIn = (email: string, on: Page = page) => world.signIn(email, on)

beforeAll(async () => {
  world = await startConsole()
  ;({ demo, site, base, faults } = world)
  page = await open()
})
beforeEach(() => void faults.splice(0))
afterAll(() => world?.end())

const editor = async (type: string, title: string) => {
  await page.goto(`${base}marram/entries/${type}`)
  await page.click(`.row a:has-text("${title}")`)
  await page.waitForSelector('.field')
}
const strip = () => page.locator('footer.strip')

describe('shaping in the console', () => {
  it('a newcomer makes a type with eight fields, a conditional section and blocks, and adopts it', async () => {
    const on = await open()
    await signIn('teun@marram.example', on)
    await on.click('nav[aria-label=Building] a')
    await on.waitForSelector('.box')
    await on.click('text=Create type')
    await on.fill('[aria-label="Label of the type"]', 'Boat trip')
    await on.keyboard.press('Enter')
    await on.waitForURL(/model\/type\/boatTrip/)
    // A section that only some trips have.
    await on.fill('[aria-label="Label of the new section"]', 'Going ashore')
    await on.click('button:has-text("Add section")')
    await on.fill('[aria-label="Show the section goingAshore if"]', 'lands = true')
    const add = async (label: string, kind: string) => {
      await on.fill('#new-label', label)
      await on.click('[aria-label="New field"] .el-select')
      await on
        .locator('.el-select-dropdown:visible .el-select-dropdown__item', { hasText: new RegExp(`^${kind}$`) })
        .click()
      await on.click('[aria-label="New field"] button:has-text("Add")')
    }
    for (const [label, kind] of [
      ['Lands', 'Yes or no'],
      ['Where ashore', 'Location'],
      ['Departs', 'Date and time'],
      ['Takes', 'Time span'],
      ['Price', 'Number'],
      ['Page', 'Blocks'],
    ] as const)
      await add(label, kind)
    await on.click('#line-whereAshore')
    await on.click('.option:has-text("Section") .el-select')
    await on.locator('.el-select-dropdown:visible .el-select-dropdown__item', { hasText: 'goingAshore' }).click()
    await on.click('#line-price')
    await on.locator('.option:has-text("Range") input').nth(0).fill('0.5')
    // Fields are moved by the keyboard too.
    await on.focus('#line-price')
    await on.keyboard.press('Alt+ArrowUp')
    expect(await on.locator('.fields li code').allTextContents()).toEqual([
      'title',
      'slug',
      'lands',
      'whereAshore',
      'departs',
      'price',
      'takes',
      'page',
    ])
    // The form and the JSON stand beside it, and follow.
    await on.locator('.sample .json').getByText('"takes"').waitFor()
    await on.click('.sample .el-radio-button:has-text("Yes")')
    await on.waitForSelector('.sample .section h2:has-text("Going ashore")')
    await on.click('.sample .el-radio-button:has-text("No") >> nth=0')
    await on.waitForSelector('.sample .section h2', { state: 'detached' })
    await on.click('footer.strip button:has-text("See consequences…")')
    await on.locator('.sheet').getByText('New type with 8 fields.').waitFor()
    await on.click('.sheet button:has-text("Adopt 1 change")')
    await on.locator('footer.strip').getByText('Adopted: version 2.').waitFor()
    const editor = await demo.as('teun@marram.example')
    const model = await editor.model()
    expect(model.types.find((type) => type.name === 'boatTrip')?.fields.map((field) => field.kind)).toEqual([
      'text',
      'slug',
      'boolean',
      'location',
      'dateTime',
      'number',
      'timeSpan',
      'block',
    ])
    // Files that were adopted keep their comments, also after the console has written them.
    expect(model.files.find((file) => file.name === 'activity.yaml')?.text).toContain(
      '# Walks begin where nobody would look',
    )
    expect(faults).toEqual([])
    await on.context().close()
  })

  it('shows the mistake where it is made, and does not let it through', async () => {
    const on = await open()
    await signIn('teun@marram.example', on)
    await on.goto(`${base}marram/model/type/activity`)
    await on.click('#line-price')
    await on.fill('.option:has-text("Show if") input', 'fromat = "walk"')
    await on.locator('.option .error-text', { hasText: 'Did you mean `format`?' }).waitFor()
    expect(await on.isDisabled('footer.strip button:has-text("See consequences…")')).toBe(true)
    await on.click('footer.strip button:has-text("Discard changes")')
    await on.locator('footer.strip').getByText('As adopted').waitFor()
    await on.context().close()
  })

  it('lets an editor look at the model, and not change it', async () => {
    const on = await open()
    await signIn('ilse@marram.example', on)
    await on.goto(`${base}marram/model/type/museum`)
    await on.waitForSelector('.fields li')
    expect([await on.locator('#new-label').count(), await on.locator('text=See consequences…').count()]).toEqual([0, 0])
    await on.click('#line-town')
    expect(await on.isDisabled('#field-name')).toBe(true)
    await on.context().close()
  })

  it('shows visitor information by itself, and writes rich text', async () => {
    const on = await open()
    await signIn('ilse@marram.example', on)
    await on.click('nav[aria-label=Types] a:has-text("Visitor information")')
    await on.waitForURL(/entry\/visitorInfo/)
    await on.locator('.section:has-text("How to reach us")').waitFor()
    await on.goto(`${base}marram/entries/artefact`)
    await on.click('.row a:has-text("Glass float")')
    await on.waitForSelector('.ProseMirror')
    await on.click('.ProseMirror')
    await on.keyboard.type('Blown, not cast.')
    await on.keyboard.press('Control+A')
    await on.click('button[aria-label=Bold]')
    await on.keyboard.press('Control+s')
    await on
      .locator('footer.strip')
      .getByText(/Saved \d/)
      .waitFor()
    const editor = await demo.as('ilse@marram.example')
    const [float] = (await editor.entries({ type: 'artefact', where: 'title = "Glass float"' })).entries
    expect((await editor.entry(float!.id)).values['story']).toEqual({
      en: {
        type: 'root',
        children: [
          {
            type: 'paragraph',
            data: { id: expect.stringMatching(/^\w{8}$/) as string },
            children: [{ type: 'strong', children: [{ type: 'text', value: 'Blown, not cast.' }] }],
          },
        ],
      },
    })
    expect(faults).toEqual([])
    await on.context().close()
  })
})

describe('the console', () => {
  it('asks who is there, says when it does not fit, and keeps the e-mail', async () => {
    await page.goto(base + 'marram/entries/museum')
    await page.waitForURL(/sign-in/)
    await page.fill('#email', 'ilse@marram.example')
    await page.fill('#password', 'a wrong password')
    await page.click('button[type=submit]')
    await page.waitForSelector('[role=alert]')
    expect(await page.textContent('[role=alert]')).toBe('E-mail or password is wrong.')
    expect([await page.inputValue('#email'), await page.inputValue('#password')]).toEqual(['ilse@marram.example', ''])
    await page.fill('#password', demoPassword)
    await page.click('button[type=submit]')
    await page.waitForURL(/entries\/museum/)
    await page.waitForSelector('.row')
    expect(await page.locator('.row').count()).toBe(3)
    expect(faults).toEqual([])
  })

  it('lists entries with their states, and finds them by words or a condition', async () => {
    await page.goto(base + 'marram/entries/activity')
    await page.waitForSelector('.row')
    expect(await page.locator('.row').count()).toBe(15)
    await page.fill('[role=search] input', 'salt')
    await page.keyboard.press('Enter')
    await eventually(
      () => page.locator('.row').count(),
      (count) => count === 3,
    )
    await page.fill('[role=search] input', 'entry.state = "edited"')
    await page.keyboard.press('Enter')
    await eventually(
      () => page.locator('.row').count(),
      (count) => count === 1,
    )
    expect(await page.locator('.row svg[aria-label="Edited"]').count()).toBe(1)
    expect(page.url()).toContain('where=')
    await page.fill('[role=search] input', 'startz > now')
    expect(await page.textContent('.hint')).toContain('Did you mean `starts`?')
    await page.fill('[role=search] input', 'nothing like this')
    await page.keyboard.press('Enter')
    expect((await page.textContent('.empty'))?.trim()).toBe('No activity contains these words.')
    expect(faults).toEqual([])
  })

  it('goes anywhere by one key and a few letters', async () => {
    await page.goto(base + 'marram/model')
    await page.waitForSelector('.box')
    await page.keyboard.press('Control+k')
    await page.keyboard.type('nachtwand')
    await page.locator('.go-to [role=option]').filter({ hasText: 'Nachtwandeling' }).waitFor()
    await page.keyboard.press('Enter')
    await page.waitForSelector('.field')
    expect(page.url()).toMatch(/\/entry\/\w+\?locale=nl$/)
    await page.keyboard.press('Control+k')
    await page.keyboard.type('muse')
    await page.locator('.go-to [role=option]').filter({ hasText: 'All of this type' }).waitFor()
    await page.keyboard.press('ArrowUp')
    await page.keyboard.press('Enter')
    await page.waitForURL(/entries\/museum/)
    await page.keyboard.press('Control+k')
    await page.keyboard.type('submarine')
    await page.locator('.go-to').getByText('No entry, type or page matches.').waitFor()
    await page.keyboard.press('Escape')
    // Over all types, words are also found inside the texts.
    await page.goto(base + 'marram/entries')
    await page.fill('[role=search] input', 'lens')
    await page.keyboard.press('Enter')
    await page.waitForURL(/search=lens/)
    await page.locator('.row', { hasText: 'The great lens' }).locator('.type:has-text("Artefact")').waitFor()
    await eventually(
      () => page.locator('.row').count(),
      (count) => count < 20,
    )
    expect(faults).toEqual([])
  })

  it('walks the list by keyboard', async () => {
    await page.goto(base + 'marram/entries/museum')
    await page.waitForSelector('.row')
    await page.focus('.row a')
    await page.keyboard.press('ArrowDown')
    await page.keyboard.press('Enter')
    await page.waitForSelector('.field')
    expect(page.url()).toMatch(/entry\/[0-9a-z]{20}/)
    await page.keyboard.press('F6')
    expect(
      await page.evaluate(() => document.activeElement?.closest('[data-region]')?.getAttribute('data-region')),
    ).toBeTruthy()
  })

  it('creates, saves, shows what is missing, publishes through the sheet, and the front end shows it', async () => {
    await page.goto(base + 'marram/entries/activity')
    await page.click('footer.strip button:has-text("Create activity")')
    await page.waitForURL(/new\/activity/)
    await page.locator('textarea').first().fill('Mudflat Walk')
    expect(await strip().textContent()).toContain('Not saved yet')
    await page.keyboard.press('Control+s')
    await page.waitForURL(/entry\//)
    await eventually(
      () => strip().textContent(),
      (text) => text!.includes('4 problems'),
    )
    expect(await page.locator('.margin').allTextContents()).toEqual(
      expect.arrayContaining([expect.stringContaining('Format is empty. Fill it in.')]),
    )
    await page.keyboard.press('Control+Enter')
    await page.waitForSelector('.obstacles')
    expect(await page.locator('.sheet .el-button--primary').isDisabled()).toBe(true)
    await page.click('.obstacles button:has-text("Format")')
    await page.click('label:has-text("Walk")')
    await page.click('[id^="field-values-museum"] .el-select')
    await page.click('.el-select-dropdown__item:has-text("Saltworks")')
    const starts = page.locator('[id^="field-values-starts"] input')
    await starts.fill('4 May 2031, 09:30')
    await starts.press('Enter')
    await page
      .locator('[id^="field-values-summary"] textarea')
      .fill('Barefoot to the sandbank and back before the tide.')
    await page.keyboard.press('Control+Enter')
    await page.waitForSelector('.sheet dl')
    expect(await page.locator('.sheet:visible').textContent()).toContain('/activities/mudflat-walk')
    await page.click('.sheet .el-button--primary:has-text("Publish en")')
    await eventually(
      () => strip().textContent(),
      (text) => text!.includes('Public since'),
    )
    expect(await strip().locator('.locale').first().textContent()).toContain('Public')
    const shown = await fetch(`${site.address}/activities/mudflat-walk`)
    expect([shown.status, (await shown.text()).includes('Barefoot to the sandbank')]).toEqual([200, true])
    const stored = await demo.reader().at('/activities/mudflat-walk')
    expect(stored).toMatchObject({ entry: { values: { starts: '2031-05-04T09:30:00+02:00', format: 'walk' } } })
    expect(faults).toEqual([])
  })

  it('translates in the strip, with the fallback shown until there is a word', async () => {
    await editor('activity', 'Tar Day')
    await page.click('.locale:has-text("ar")')
    const title = page.locator('textarea').first()
    expect(await title.getAttribute('placeholder')).toBe('Tar Day')
    expect(await page.locator('.note:has-text("From en")').count()).toBeGreaterThan(0)
    await title.fill('يوم القطران')
    // The source stays in sight, and the locale in the address.
    expect(await page.locator('.source').first().textContent()).toContain('Tar Day')
    expect(page.url()).toContain('locale=ar')
    expect(await page.locator('.written').first().getAttribute('dir')).toBe('rtl')
    // It is saved a moment after the last letter.
    await eventually(
      () => strip().textContent(),
      (text) => /Saved .* version/.test(text!),
    )
    const entry = await (
      await demo.as('ilse@marram.example')
    ).entries({ type: 'activity', where: 'title contains "القطران"', locale: 'ar' })
    expect(entry.entries).toHaveLength(1)
    expect(await page.locator('text=All locales').count()).toBeGreaterThan(0)
  })

  it('marks an edited field, shows what is public, and reverts it', async () => {
    await editor('museum', 'The Saltworks')
    await page.waitForSelector('.field.changed .edited-mark')
    const summary = page.locator('[id^="field-values-summary"]')
    await summary.locator('.edited-mark').click()
    expect(await summary.locator('.public').textContent()).toContain('and the birds never left')
    await summary.locator('button:has-text("Revert")').click()
    await page.keyboard.press('Control+s')
    await eventually(
      () => summary.locator('.edited-mark').count(),
      (count) => count === 0,
    )
  })

  it('adds, writes, moves and removes blocks', async () => {
    await editor('museum', 'The Boatyard')
    await page.click('.add button:has-text("Add block")')
    await page.click('.el-popover:visible button.type:has-text("Quote")')
    // The focus is in it, and no problem is shown yet.
    await eventually(
      () => page.evaluate(() => document.activeElement?.closest('.block') !== null),
      (isInside) => isInside,
    )
    expect(await page.locator('.block').last().locator('.error-text').count()).toBe(0)
    await page.keyboard.type('Mind the tar.')
    await page.locator('.block header').last().focus()
    await page.keyboard.press('Alt+ArrowUp')
    await page.keyboard.press('Control+s')
    await eventually(
      () => strip().textContent(),
      (text) => text!.includes('Saved'),
    )
    const { values } = await (await demo.as('ilse@marram.example')).entry(page.url().split('/').at(-1)!)
    const body = values['body'] as { block: string; values: Record<string, unknown> }[]
    expect(body.map((block) => block.block)).toEqual(['heading', 'text', 'quote', 'picture'])
    expect(body[2]!.values).toEqual({ text: { en: 'Mind the tar.' } })
    // Between two blocks by key: Enter on the head of the one before.
    await page.locator('.block header').nth(0).focus()
    await page.keyboard.press('Enter')
    await page.locator('.el-popover:visible button.type:has-text("Heading")').focus()
    await page.keyboard.press('Enter')
    await eventually(
      () => page.locator('.block .kind').allTextContents(),
      (kinds) => kinds.join() === 'Heading,Heading,Text,Quote,Picture',
    )
    await page.keyboard.press('Control+z')
    await eventually(
      () => page.locator('.block').count(),
      (count) => count === 4,
    )
    await page.locator('.block').nth(2).hover()
    await page.click('[aria-label="Remove block 3"]')
    await page.keyboard.press('Control+s')
    await eventually(
      () => page.locator('.block').count(),
      (count) => count === 3,
    )
    expect(faults).toEqual([])
  })

  it('shows the front end beside the form, and again after a save', async () => {
    await editor('museum', 'The Lighthouse')
    await page.click('footer.strip button:has-text("Preview")')
    const frame = page.frameLocator('iframe')
    await frame.locator('h1').waitFor()
    expect(await frame.locator('.preview').textContent()).toContain('You see drafts.')
    await page.locator('[id^="field-values-town"] textarea').fill('Sanderling Point')
    await page.keyboard.press('Control+s')
    await frame.locator('text=Sanderling Point').waitFor()
    expect((await (await fetch(`${site.address}/museums/lighthouse`)).text()).includes('Sanderling Point')).toBe(false)
  })

  it('merges with what others saved, and asks about the same place', async () => {
    await editor('museum', 'The Boatyard')
    const id = page.url().split('/').at(-1)!
    const other = await demo.as('teun@marram.example')
    const now = await other.entry(id)
    await other.edit(id, now.version, [{ do: 'set', at: ['summary'], locale: 'nl', value: 'Van Teun.' }])
    await page.locator('[id^="field-values-town"] textarea').fill('Oyster Bay')
    await page.keyboard.press('Control+s')
    await eventually(
      () => strip().textContent(),
      (text) => text!.includes('Merged with what others saved.'),
    )
    const later = await other.entry(id)
    expect(later.values).toMatchObject({ town: 'Oyster Bay', summary: { nl: 'Van Teun.' } })
    await other.edit(id, later.version, [{ do: 'set', at: ['town'], value: 'Oyster Hollow' }])
    await page.locator('[id^="field-values-town"] textarea').fill('Oyster Creek')
    await page.keyboard.press('Control+s')
    const sheet = page.locator('.sheet', { hasText: 'Teun Visser changed what you changed too' })
    // Unsaved text is not lost: it can be copied first.
    await sheet.getByRole('button', { name: 'Town: copy yours' }).click()
    await sheet.getByText('Copied').waitFor()
    await sheet.getByRole('radio', { name: 'Town: keep yours' }).check()
    await sheet.getByRole('button', { name: 'Save your choices' }).click()
    await eventually(
      async () => (await other.entry(id)).values['town'],
      (town) => town === 'Oyster Creek',
    )
  })

  it('shows what changed since it was public, and puts a field of it back', async () => {
    const other = await demo.as('ilse@marram.example')
    const { entries } = await other.entries({ type: 'activity' })
    const walk = await other.entry(entries.find((candidate) => candidate.title === 'Night Walk')!.id)
    const [first, second] = walk.values['body'] as { id: string }[]
    await other.edit(walk.id, walk.version, [
      { do: 'set', at: ['title'], locale: 'en', value: 'Late Walk' },
      { do: 'move', at: ['body', second!.id], after: null },
      { do: 'clear', at: ['price'] },
    ])
    await page.goto(`${base}marram/entry/${walk.id}`)
    await page.waitForSelector('.field .edited-mark')
    await page.click('[id^="field-values-title"] .edited-mark')
    expect(await page.locator('[id^="field-values-title"] .public').textContent()).toContain('NightLate Walk')
    await page.click('footer.strip a:has-text("History")')
    await page.waitForURL(/compare/)
    const group = (label: string) => page.locator(`section[aria-label="${label}"]`)
    await group('Title').locator('del:has-text("Night")').waitFor()
    expect(await group('Title').locator('ins').textContent()).toBe('Late')
    expect(await group('Page').locator('.how').textContent()).toContain('Text moved from 2 to 1')
    expect(await group('Page').locator('.how .el-icon').count()).toBe(1)
    expect(await strip().textContent()).toContain('3 differences')
    await page.click('[aria-label="Restore this field: Title"]')
    await strip().getByText('Title restored from what is public.').waitFor()
    await group('Title').waitFor({ state: 'detached' })
    expect((await other.entry(walk.id)).values['title']).toMatchObject({ en: 'Night Walk' })
    await page.click('nav[aria-label=Revisions] button:has-text("Revision 1")')
    await page.waitForURL(/from=1/)
    await page.click('footer.strip button:has-text("Restore all of it")')
    await page.waitForSelector('text=No differences.')
    const restored = await other.entry(walk.id)
    expect((restored.values['body'] as { id: string }[]).slice(0, 2).map(({ id }) => id)).toEqual([
      first!.id,
      second!.id,
    ])
    expect(restored.values['price']).toBe(walk.values['price'])
    await page.click('footer.strip button:has-text("Back to the entry")')
    await page.waitForSelector('.field')
    expect(faults).toEqual([])
  })

  it('duplicates an entry, withdraws it after its consequences, and deletes it', async () => {
    await editor('activity', 'Night Walk')
    const first = page.url()
    const more = async (what: string) => {
      await page.click('footer.strip button:has-text("More…")')
      await page.click(`.el-dropdown-menu__item:visible:has-text("${what}")`)
    }
    await more('Duplicate')
    await page.waitForURL((url) => url.href !== first && /entry\/\w{20}/.test(url.href))
    const copied = page.url()
    await page.waitForSelector('.field')
    expect(await page.locator('[id^="field-values-slug"] input').inputValue()).toBe('night-walk-2')
    // An entry that others refer to stays.
    await editor('museum', 'The Lighthouse')
    await more('Withdraw…')
    const sheet = page.locator('.sheet:visible')
    await sheet.getByText('Pages with references that would break').waitFor()
    expect(await sheet.locator('li:has-text("/museums/lighthouse")').count()).toBe(1)
    await sheet.locator('button:has-text("Cancel")').click()
    await more('Delete…')
    await sheet.getByText('Withdraw it first.').waitFor()
    expect(await sheet.locator('.el-button--danger').isDisabled()).toBe(true)
    await page.keyboard.press('Escape')
    const other = await demo.as('ilse@marram.example')
    const { id } = await other.entry(copied.split('/').at(-1)!)
    await other.publish(id, { locales: ['en', 'nl'] })
    await page.goto(copied)
    await page.waitForSelector('.field')
    await more('Withdraw…')
    await sheet.locator('label:has-text("nl")').click()
    await sheet.locator('button:has-text("Withdraw en")').click()
    await strip().getByText('Withdrawn in en').waitFor()
    expect((await other.entry(id)).states).toMatchObject({ en: 'withdrawn', nl: 'public' })
    await other.withdraw(id)
    await page.reload()
    await page.waitForSelector('.field')
    await more('Delete…')
    await sheet.locator('.el-button--danger').click()
    await page.waitForURL(/entries\/activity$/)
    expect(await other.entry(id).catch((error: { status: number }) => error.status)).toBe(404)
    expect(faults).toEqual([])
  })

  it('keeps what was written when the service cannot be reached', async () => {
    await editor('museum', 'The Boatyard')
    await page.context().setOffline(true)
    await page.locator('[id^="field-values-town"] textarea').fill('Offline Creek')
    await page.keyboard.press('Control+s')
    await page.waitForSelector('footer.strip [role=alert]')
    expect(await strip().textContent()).toContain('Your words are kept in this browser.')
    await page.context().setOffline(false)
    expect(await page.locator('[id^="field-values-town"] textarea').inputValue()).toBe('Offline Creek')
    await page.keyboard.press('Control+s')
    await eventually(
      () => strip().textContent(),
      (text) => /Saved \d/.test(text!),
    )
  })

  it('recovers what was written when the page went away before it was saved', async () => {
    await editor('museum', 'The Boatyard')
    const id = page.url().split('/').at(-1)!
    const town = page.locator('[id^="field-values-town"] textarea')
    await page.route('**/edits', (route) => route.abort())
    await town.fill('Lost Creek')
    await strip().getByText('Your words are kept in this browser.').waitFor()
    // Somebody else writes at another place meanwhile.
    const other = await demo.as('teun@marram.example')
    const now = await other.entry(id)
    await other.edit(id, now.version, [{ do: 'set', at: ['summary'], locale: 'en', value: 'By Teun.' }])
    await page.reload()
    await strip().getByText('Recovered what you wrote').waitFor()
    expect(await town.inputValue()).toBe('Lost Creek')
    await page.click('footer.strip button:has-text("Discard")')
    await eventually(
      () => town.inputValue(),
      (text) => text === 'Offline Creek',
    )
    await town.fill('Lost Bay')
    await strip().getByText('Your words are kept in this browser.').waitFor()
    await page.unroute('**/edits')
    await page.reload()
    await strip().getByText('Recovered what you wrote').waitFor()
    await page.click('footer.strip button:has-text("Save")')
    await eventually(
      async () => (await other.entry(id)).values,
      (values) => values['town'] === 'Lost Bay' && (values['summary'] as { en: string }).en === 'By Teun.',
    )
    await page.reload()
    await page.waitForSelector('.field')
    expect(await strip().textContent()).not.toContain('Recovered')
  })

  it('keeps a new entry too, and what is written while it is being made', async () => {
    const title = page.locator('[id^="field-values-title"] textarea')
    await page.goto(`${base}marram/new/activity`)
    await title.fill('Fog Day')
    await page.waitForTimeout(300)
    await page.reload()
    await strip().getByText('Recovered what you wrote').waitFor()
    expect(await title.inputValue()).toBe('Fog Day')
    await page.click('footer.strip button:has-text("Discard")')
    await eventually(
      () => title.inputValue(),
      (text) => text === '',
    )
    await title.fill('Fog Week')
    await page.route('**/entries', async (route) => {
      await new Promise((resolve) => setTimeout(resolve, 700))
      await route.continue()
    })
    await page.keyboard.press('Control+s')
    await page.locator('[id^="field-values-summary"] textarea').fill('Seven days of it.')
    await page.waitForURL(/entry\/\w{20}$/)
    await page.unroute('**/entries')
    const id = page.url().split('/').at(-1)!
    const other = await demo.as('ilse@marram.example')
    await eventually(
      async () => (await other.entry(id)).values,
      (values) => (values['summary'] as { en?: string } | undefined)?.en === 'Seven days of it.',
    )
    await page.waitForSelector('.field')
    expect(await page.locator('[id^="field-values-summary"] textarea').inputValue()).toBe('Seven days of it.')
    await page.goto(`${base}marram/new/activity`)
    await page.waitForSelector('.field')
    expect([await title.inputValue(), await strip().textContent()]).toEqual([
      '',
      expect.stringContaining('Not saved yet'),
    ])
    expect(faults).toEqual([])
  })

  it('offers a translator and a viewer only what they may do', async () => {
    const translator = await open()
    await signIn('samira@marram.example', translator)
    await translator.click('.row a >> nth=0')
    await translator.waitForSelector('.field')
    expect(await translator.locator('textarea').first().isDisabled()).toBe(true)
    await translator.getByText('Your role may not write en.').first().waitFor()
    await translator.click('.locale:has-text("ar")')
    expect(await translator.locator('textarea').first().isDisabled()).toBe(false)
    expect(await translator.locator('button:has-text("Publish…")').count()).toBe(0)
    await translator.context().close()
    const viewer = await open()
    await signIn('gast@marram.example', viewer)
    expect(await viewer.locator('button:has-text("Create")').count()).toBe(0)
    await viewer.click('.row a >> nth=0')
    await viewer.waitForSelector('.field')
    await viewer.getByText('You can read this entry, and not change it.').waitFor()
    expect(await viewer.locator('footer.strip button:has-text("Save")').count()).toBe(0)
    await viewer.context().close()
  })

  it('signs out', async () => {
    await page.click('.member')
    await page.click('text=Sign out')
    await page.waitForURL(/sign-in/)
    await page.goto(base + 'marram/entries/museum')
    await page.waitForURL(/sign-in/)
  })
})
