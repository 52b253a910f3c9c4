// Retakes the pictures in docs/screenshots, from a demo of its own. Usage: npm run screenshots
import { execFile, spawn } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { promisify } from 'node:util'
import { chromium } from 'playwright-core'

const root = fileURLToPath(new URL('..', import.meta.url))
const folder = join(root, 'docs', 'screenshots')
const data = mkdtempSync(join(tmpdir(), 'wisteria-shots-'))
const program = join(root, 'packages/cli/dist/main.js')

const demo = spawn(process.execPath, [program, 'demo', '--data', data, '--port', '4680', '--json'], {
  stdio: ['ignore', 'pipe', 'inherit'],
})
const access = await new Promise((resolve, reject) => {
  let out = ''
  demo.once('exit', () => reject(new Error('the demo did not start')))
  demo.stdout.on('data', (text) => {
    out += text
    if (out.trimEnd().endsWith('}')) resolve(JSON.parse(out))
  })
})
const arguments_ = [
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
]
const browser = await chromium.launch({ executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium', args: arguments_ })
try {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } })
  const page = await context.newPage()
  /** Another person signs in. */
  const becomes = async (email) => {
    await page.click('.member')
    await page.click('text=Sign out')
    await page.fill('#email', email)
    await page.fill('#password', access.users[0].password)
    await page.click('button[type=submit]')
    await page.waitForSelector('.row')
  }
  const shot = async (name) => {
    await page.evaluate(() => document.fonts.ready)
    await page.mouse.move(640, 790)
    await page.screenshot({ path: join(folder, `${name}.png`), animations: 'disabled' })
  }
  const console_ = `${access.baseUrl}/console/`
  await page.goto(console_)
  await page.fill('#email', 'ilse@marram.example')
  await page.fill('#password', access.users[0].password)
  await page.click('button[type=submit]')
  await page.waitForSelector('.row')
  await page.goto(`${console_}marram/entries/activity?columns=format,starts`)
  await page.waitForSelector('.cell')
  await page.locator('.row .choose').nth(1).click()
  await page.locator('.row .choose').nth(3).click()
  await shot('entry-list')
  await page.goto(`${console_}marram/tree`)
  await page.waitForSelector('.node')
  await shot('tree')
  await page.goto(`${console_}marram/assets`)
  await page.waitForSelector('.asset')
  await page.getByRole('button', { name: 'lens.webp' }).click()
  await page.fill('#asset-caption', 'Eight rings, on the landing')
  await page.locator('#asset-caption').blur()
  await page.locator('.details section li').nth(1).waitFor()
  await page.locator('.details .tools').scrollIntoViewIfNeeded()
  await page.waitForLoadState('networkidle')
  await shot('assets')
  const openEntry = async (type, title) => {
    await page.goto(`${console_}marram/entries/${type}`)
    await page.click(`.row a:has-text("${title}")`)
    await page.waitForSelector('.field')
  }
  await openEntry('museum', 'The Saltworks')
  await page.waitForSelector('.field .edited-mark')
  await shot('entry-editor')
  await page.click('footer.strip button:has-text("Preview")')
  await page.frameLocator('iframe').locator('img').first().waitFor()
  await page.waitForLoadState('networkidle')
  await shot('preview')
  await page.click('footer.strip button:has-text("Publish…")')
  await page.waitForSelector('.sheet dl')
  await page.waitForFunction(() => document.querySelector('.sheet').getBoundingClientRect().bottom <= innerHeight)
  await shot('publish-sheet')
  await openEntry('museum', 'The Saltworks')
  await page.click('footer.strip a:has-text("History")')
  await page.waitForSelector('.group')
  await shot('compare')
  await page.goto(`${console_}marram/translations`)
  await page.waitForSelector('.cell')
  await shot('translation-board')
  await page.goto(`${console_}marram/translate/nl?type=exhibition&show=all&linked=1`)
  await page.waitForSelector('.unit.here ins')
  await page.waitForLoadState('networkidle')
  await shot('translation-page')
  await page.goto(`${console_}marram/counterparts?behind=north`)
  await page.click('tbody a:has-text("source changed")')
  await page.waitForSelector('.change.open')
  await page.locator('.change.open').scrollIntoViewIfNeeded()
  await page.evaluate(() => document.querySelector('main').scrollTo(0, 240))
  await shot('regions')
  // The model, as a developer sees it.
  await becomes('teun@marram.example')
  await page.goto(`${console_}marram/model`)
  await page.waitForSelector('.box')
  await page.evaluate(() => document.fonts.ready)
  await page.hover('.box:has-text("Artefact")')
  await page.screenshot({ path: join(folder, 'model-map.png'), animations: 'disabled' })
  await page.goto(`${console_}marram/model/type/activity`)
  await page.waitForSelector('.fields li')
  await page.click('#line-meetingPoint')
  await page.waitForSelector('#field-name')
  await shot('model-type')
  await page.click('#line-minutes')
  await page.fill('#field-name', 'takes')
  await page.keyboard.press('Tab')
  await page.click('#line-summary')
  await page.locator('.option:has-text("Length in characters") input').nth(1).fill('80')
  await page.keyboard.press('Tab')
  await page.click('#line-price .remove')
  await page.click('footer.strip button:has-text("See consequences…")')
  await page.waitForSelector('.sheet section')
  await page.waitForFunction(() => document.querySelector('.sheet').getBoundingClientRect().bottom <= innerHeight)
  await shot('model-consequences')
  // What was sent, and what is taken in, as the owner sees it.
  await page.goto(`${console_}marram/today`)
  await becomes('maren@marram.example')
  await page.goto(`${console_}marram/webhooks`)
  await page.click('tbody a')
  await page.locator('details summary').first().click()
  await page.waitForSelector('details pre')
  await shot('webhook')
  // What an automation did for entries that were chosen in a list.
  await page.goto(`${console_}marram/entries/activity`)
  for (const title of ['Tar Day', 'Up the Tower with Children', 'Is It Still the Same Boat?'])
    await page.locator(`li.row:has-text("${title}") input.choose`).click()
  await page.locator('footer.strip').getByRole('button', { name: 'More' }).click()
  await page.getByRole('menuitem', { name: 'Start “Let families in for free”' }).click()
  await page.goto(`${console_}marram/automations/families-for-free`)
  await page.locator('tbody tr').getByText('Done').first().waitFor()
  await page.locator('tbody tr details summary').first().click()
  await page.locator('tbody tr').first().scrollIntoViewIfNeeded()
  await shot('automation')
  await page.goto(`${console_}marram/imports`)
  await page.click('footer.strip button:has-text("Import a file…")')
  await page.setInputFiles('input[type=file]', join(root, 'demo/tables/artefacts.csv'))
  await page.click('.sheet button:has-text("Read it")')
  await page.click('footer.strip button:has-text("Check all rows")')
  await page.waitForSelector('text=3 with problems')
  await shot('import')
  await becomes('teun@marram.example')
  // A query of a front end.
  await page.goto(`${console_}marram/query`)
  await page.waitForSelector('.answer pre')
  await page.click('aside li button:has-text("With their")')
  await page.waitForTimeout(500)
  await page.click('.cm-content[aria-label="where"]')
  await page.keyboard.type('museum.')
  await page.waitForSelector('.cm-tooltip-autocomplete')
  await shot('query')
  await page.goto(`${console_}marram/api`)
  await page.getByRole('link', { name: 'Activity: a page of entries' }).click()
  await page.locator('.details .call').waitFor()
  await shot('api-reference')
  // The output of a command, as a terminal shows it.
  const run = promisify(execFile)
  const environment = { ...process.env, XDG_CONFIG_HOME: data, WISTERIA_PASSWORD: access.users[0].password }
  const commands = [
    ['connect', 'http://localhost:4680', '--email', 'maren@marram.example'],
    ['entry', 'list', 'exhibition', '--where', 'entry.state != "public"'],
    [
      'query',
      'activity',
      '--where',
      'format in ["concert", "walk"] and museum.name contains "light"',
      '--sort',
      'starts',
      '--pick',
      'title, format, starts, museum(name)',
    ],
    ['query', 'activity', '--where', 'startz > now'],
  ]
  const escape = (text) => text.replace(/[&<>]/g, (letter) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;' })[letter])
  let text = ''
  for (const command of commands) {
    const { stdout, stderr } = await run(process.execPath, [program, ...command], { env: environment }).catch(
      (error) => error,
    )
    const shown = command.map((word) => (/[ $"]/.test(word) ? `'${word}'` : word)).join(' ')
    text += `<b>$ wisteria ${escape(shown)}</b>\n${escape((stdout + stderr).replace(/ Saved in .*/, ''))}\n`
  }
  await page.setContent(
    `<body style="margin:0;background:#191613;color:#eee7db"><pre style="margin:24px;white-space:pre-wrap;font:14px/20px 'Noto Sans Mono',monospace">${text}</pre></body>`,
  )
  await shot('command-line')
} finally {
  await browser.close()
  demo.kill('SIGTERM')
  await new Promise((resolve) => demo.once('exit', resolve))
  rmSync(data, { recursive: true, force: true })
}
console.log('docs/screenshots: done')
