import { readFileSync } from 'node:fs'
import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { extname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import type { Page } from 'playwright-core'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { startConsole, type ConsoleWorld } from './support/browser.js'

let world: ConsoleWorld
let page: Page
const outside: string[] = []

beforeAll(async () => {
  world = await startConsole()
  page = await world.open()
  page.on('request', (request) => {
    const { origin, protocol } = new URL(request.url())
    if (protocol.startsWith('http') && origin !== new URL(world.base).origin) outside.push(request.url())
  })
  await world.signIn('teun@marram.example', page)
})
beforeEach(() => void world.faults.splice(0))
afterAll(() => world?.end())

const answer = () => page.locator('.answer pre').innerText()
const open = async () => {
  await page.goto(`${world.base}marram/query`)
  await page.waitForSelector('.answer pre')
}
const write = async (label: string, text: string) => {
  await page.click(`.cm-content[aria-label="${label}"]`)
  await page.keyboard.press('Control+A')
  await page.keyboard.type(text)
}

describe('the query page', () => {
  it('begins with an answer, and each of its examples works on the site as it is', async () => {
    await open()
    const examples = await page.locator('aside li button').allInnerTexts()
    expect(examples.length).toBeGreaterThan(5)
    for (const name of examples) {
      await page.click(`aside li button:has-text(${JSON.stringify(name)})`)
      await page.waitForSelector('.strip strong:has-text("200")')
      expect(await page.locator('.facts').innerText()).toMatch(/ms[^]*bytes[^]*(cache|kept)/)
    }
    expect(world.faults).toEqual([])
  })

  it('completes from the model, and says what is wrong while it is written', async () => {
    await open()
    await page.locator('.question .el-select:has([aria-label="Type"])').click()
    await page.locator('.el-select-dropdown__item:visible', { hasText: /^Activity$/ }).click()
    await write('where', 'muse')
    await page.waitForSelector('.cm-tooltip-autocomplete li:has-text("museum")')
    await page.keyboard.press('Escape')
    await write('where', 'titel = "x"')
    await page.waitForSelector('.cm-lintRange-error')
    await page.hover('.cm-lintRange-error')
    await page.waitForSelector('.cm-tooltip:has-text("Did you mean `title`?")')
    await page.keyboard.press('Escape')
    await write('where', 'format = "walk" ')
    await write('pick', 'title, museum(na')
    await page.waitForSelector('.cm-tooltip-autocomplete li:has-text("name")')
    // A suggestion that has only just come is not chosen by Enter, so that nobody chooses one by mistake.
    await page.waitForTimeout(200)
    await page.keyboard.press('Enter')
    await page.keyboard.type(')')
    await page.keyboard.press('Control+Enter')
    await expect.poll(answer).toContain('Night Walk')
    const { entries } = JSON.parse(await answer()) as { entries: object[] }
    expect(entries[0]).toMatchObject({ values: { museum: { values: {} } } })
  })

  it('gives the question as a command, as code and as a link, and keeps it in its own address', async () => {
    await page.click('.shows label:has-text("curl")')
    expect(await answer()).toMatch(/^curl -H "Authorization: Bearer \$WISTERIA_TOKEN"/)
    await page.click('.shows label:has-text("SDK")')
    expect(await answer()).toContain("reader.entries('activity'")
    await page.click('.shows label:has-text("Link")')
    const link = await answer()
    const answered = await fetch(link, { headers: { Authorization: `Bearer ${world.demo.seeded.keys.published}` } })
    expect(await answered.text()).toContain('Night Walk')
    await page.reload()
    await page.waitForSelector('.answer pre')
    await expect.poll(answer).toContain('Night Walk')
  })

  it('asks as a key does, and shows what that may not', async () => {
    await page.fill('[aria-label="Access"]', world.demo.seeded.keys.published)
    await page.locator('.question .el-select:has([aria-label="edition"])').click()
    await page.locator('.el-select-dropdown__item:visible', { hasText: /^draft$/ }).click()
    await page.click('button:has-text("Run")')
    await page.waitForSelector('.strip strong:has-text("403")')
    expect(await answer()).toContain('"code": "forbidden"')
  })

  it('checks GraphQL against the schema of the site', async () => {
    await open()
    await page.click('aside li button:has-text("GraphQL")')
    await page.waitForSelector('.facts:has-text("cost")')
    await write('GraphQL query', '{ musea { count } }')
    await page.waitForSelector('.cm-lintRange-error')
    await page.click('button:has-text("Run")')
    await expect.poll(answer).toContain('Cannot query field')
  })
})

describe('the API reference', () => {
  it('is made from the documents of the service, and asks nothing outside', async () => {
    await page.goto(`${world.base}marram/api`)
    await page.getByRole('link', { name: 'Exhibition: a page of entries' }).click()
    await page.locator('.call:has-text("/entries/exhibition")').waitFor()
    // Nested members of an answer open in their place, at any depth.
    const answer = page.locator('section:has(h3:text-is("Answer 200"))')
    for (const part of ['ExhibitionPage', 'entries', 'values', 'museum'])
      await answer.getByRole('button', { name: part, exact: true }).last().click()
    await answer.getByText('"museum"').first().waitFor()
    await page.click('label:has-text("Editing")')
    await page.getByLabel('Find an operation').fill('resend')
    await page.getByRole('link', { name: /Sends a delivery again/ }).click()
    await page.locator('.call:has-text("/resend")').waitFor()
    await page.reload()
    await page.locator('.call:has-text("/resend")').waitFor()
    expect(outside).toEqual([])
  })
})

describe('the example that reads in the browser', () => {
  let server: Server
  let origin: string
  afterAll(() => server.close())

  it('reads once its origin is registered', async () => {
    const root = fileURLToPath(new URL('..', import.meta.url))
    const types: Record<string, string> = { '.html': 'text/html', '.js': 'text/javascript' }
    server = createServer((request, response) => {
      const path = new URL(request.url!, 'http://localhost').pathname
      if (path === '/config.json')
        return void response.end(
          JSON.stringify({ baseUrl: world.demo.service.baseUrl, key: world.demo.seeded.keys.published }),
        )
      const file = path.startsWith('/client/')
        ? join(root, 'packages/client/dist', path.slice('/client/'.length))
        : join(root, 'examples/browser', path === '/' ? 'index.html' : path)
      try {
        response.setHeader('Content-Type', types[extname(file)] ?? 'text/plain')
        response.end(readFileSync(file))
      } catch {
        response.writeHead(404).end()
      }
    }).listen(0, '127.0.0.1')
    await new Promise((resolve) => server.once('listening', resolve))
    origin = `http://127.0.0.1:${(server.address() as AddressInfo).port}`
    const reading = await world.open()
    await reading.goto(origin)
    await reading.waitForSelector('#list:has-text("cannot be reached")')
    const owner = await world.demo.as('maren@marram.example')
    await owner.setFrontEnd('shop', { label: 'Shop', origins: [origin], enter: { '*': `${origin}/?code={code}` } })
    await reading.reload()
    await reading.waitForSelector('#list li')
    const all = await reading.locator('#list li').count()
    await reading.selectOption('#format', 'walk')
    await expect.poll(() => reading.locator('#list li').count()).toBeLessThan(all)
    expect(await reading.locator('#list').innerText()).toContain('Night Walk')
  })
})
