import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import type { Page } from 'playwright-core'

const axe = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8')

interface Finding {
  readonly id: string
  readonly impact: string
  readonly nodes: readonly { readonly html: string }[]
}

/** The findings of axe on a page as it is now: moderate, serious and critical ones, each with its place. */
export async function findingsOn(page: Page): Promise<string[]> {
  // By the debugger's hand: the pages' own policy allows no script from elsewhere.
  await page.evaluate(axe)
  await page.waitForFunction(() => document.getAnimations().every(({ playState }) => playState !== 'running'))
  const { violations } = await page.evaluate(async () => {
    // Fading elements have other colours on the way: what changes while axe looks changes at once.
    const still = new CSSStyleSheet()
    still.replaceSync('*, ::before, ::after { transition: none !important }')
    document.adoptedStyleSheets.push(still)
    const found = await (globalThis as unknown as { axe: { run(): Promise<{ violations: Finding[] }> } }).axe.run()
    document.adoptedStyleSheets = document.adoptedStyleSheets.filter((sheet) => sheet !== still)
    return found
  })
  return violations
    .filter(({ impact }) => impact !== 'minor')
    .map(({ id, impact, nodes }) => {
      const places = nodes.slice(0, 3).map(({ html }) => html.slice(0, 160))
      return `${impact} ${id}: ${places.join(' | ')}`
    })
}
