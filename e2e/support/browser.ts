import { demoPassword } from '@wisteria/demo'
import { chromium, type Browser, type Page } from 'playwright-core'
import { afterAll, afterEach, beforeAll } from 'vitest'
import { startDemo, startSite, type DemoWorld } from './running.js'

const options = [
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
]

/** The demo world with its sample front end, and a browser to see them in. */
export interface ConsoleWorld {
  readonly demo: DemoWorld
  readonly site: Awaited<ReturnType<typeof startSite>>
  readonly browser: Browser
  /** Where the console is. */
  readonly base: string
  /** Errors in any page since the last clearing. */
  readonly faults: string[]
  /** A window of its own, with a session of its own. */
  open(): Promise<Page>
  signIn(email: string, on: Page): Promise<void>
  end(): Promise<void>
}

const pages = new Set<Page>()
/** What stands in front of somebody who looks at the page: the sheet or dialog if one is open. */
async function wordsOf(page: Page): Promise<string> {
  const words = (selector: string) => page.locator(selector).last().innerText({ timeout: 2000 })
  return `${page.url()}\n${await words('[role=dialog]:visible').catch(() => words('body'))}`
}
// A browser test fails where something does not appear: what stood there instead says why.
afterEach(async ({ task }) => {
  if (task.result?.state !== 'fail') return
  for (const page of pages)
    if (!page.isClosed()) console.log(`“${task.name}” failed with this page before it:`, await wordsOf(page))
})

export async function startConsole(): Promise<ConsoleWorld> {
  const demo = await startDemo()
  const site = await startSite(demo, 'localhost')
  const base = demo.service.baseUrl + '/console/'
  const browser = await chromium.launch({
    executablePath: process.env['CHROMIUM'] ?? '/usr/bin/chromium',
    args: options,
  })
  const faults: string[] = []
  return {
    demo,
    site,
    browser,
    base,
    faults,
    open: async () => {
      const context = await browser.newContext({ viewport: { width: 1280, height: 800 } })
      const page = await context.newPage()
      pages.add(page)
      // Far longer than anything takes: a busy machine must not fail a test.
      page.setDefaultTimeout(60_000)
      page.on('pageerror', (error) => faults.push(error.message))
      // Leaving a page with unsaved work asks for confirmation: a test that leaves it confirms.
      page.on('dialog', (dialog) => void dialog.accept().catch(() => undefined))
      return page
    },
    signIn: async (email, on) => {
      await on.goto(base)
      await on.fill('#email', email)
      await on.fill('#password', demoPassword)
      await on.click('button[type=submit]')
      await on.waitForSelector('.row')
    },
    end: async () => {
      await browser.close()
      await site.stop()
      await demo.service.end()
    },
  }
}

/** The console for the tests of a file, in which the owner of the demo site is signed in. */
export function useConsole() {
  let world: ConsoleWorld
  let page: Page
  beforeAll(async () => {
    world = await startConsole()
    page = await world.open()
    await world.signIn('maren@marram.example', page)
  })
  afterAll(() => world?.end())
  return {
    get world(): ConsoleWorld {
      return world
    },
    get page(): Page {
      return page
    },
    /** Opens a page of the site, and waits for its heading. */
    goTo: async (path: string): Promise<void> => {
      await page.goto(`${world.base}marram/${path}`)
      await page.waitForSelector('h1')
    },
    owner: () => world.demo.as('maren@marram.example'),
  }
}
