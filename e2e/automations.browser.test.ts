import { describe, expect, it } from 'vitest'
import { findingsOn } from './support/axe.js'
import { useConsole } from './support/browser.js'

const site = useConsole()
const write = async (text: string) => {
  await site.page.getByRole('radio', { name: 'File' }).check({ force: true })
  await site.page.locator('.cm-content').click()
  await site.page.keyboard.press('Control+A')
  await site.page.keyboard.insertText(text)
}
const file = (values: string) => `automation: greeting
label: A greeting
starts: { by: hand, on: site }
steps:
  - do: compute
    name: says
    values: ${values}
  - do: each
    in: '["Mill", "Quay"]'
    steps: [{ do: publish, entry: item, if: 'item = "Quay"' }]
`

describe('an automation in the console', () => {
  it('is written with its mistakes told at their lines, tried, saved, started, and gone on with', async () => {
    await site.goTo('automations')
    await site.page.locator('tbody tr:has-text("moved-activity")').getByText('entry.published').waitFor()
    await site.page.locator('footer.strip').getByRole('button', { name: 'Add automation…' }).click()
    await site.page.getByRole('heading', { name: 'A new automation' }).waitFor()
    await write(file('1 +'))
    await site.page.locator('.problems').getByText('Line 7: The expression ends where a value was expected.').waitFor()
    expect(await site.page.locator('footer.strip').getByRole('button', { name: 'Save' }).isDisabled()).toBe(true)
    await write(file('1 + 1'))
    await site.page.locator('.problems').waitFor({ state: 'detached' })
    await site.page.locator('footer.strip').getByRole('button', { name: 'Try' }).click()
    await site.page.locator('.tried').getByText('1 of 2 items failed.').waitFor()
    await site.page.locator('footer.strip').getByRole('button', { name: 'Save' }).click()
    await site.page.getByRole('heading', { name: 'A greeting' }).waitFor()
    await site.page.getByRole('button', { name: 'Start' }).click()
    const run = site.page.locator('tbody tr')
    await run.getByText('Failed', { exact: true }).waitFor()
    await run.locator('summary').click()
    await run.getByText('The value of `entry` is no entry: it has no id.').waitFor()
    expect(await findingsOn(site.page)).toEqual([])
    await run.getByRole('button', { name: 'Retry' }).click()
    await site.page.locator('footer.strip').getByText('It does again what failed.').waitFor()
    const maren = await site.owner()
    expect((await maren.automations.get('greeting')).definition.steps).toHaveLength(2)
  })

  it('is built by a form, which writes the same file', async () => {
    const { page } = site
    await site.goTo('new-automation')
    await page.getByRole('heading', { name: 'A new automation' }).waitFor()
    const choose = async (label: string, option: string, within = page.locator('.form')) => {
      await within.locator(`.el-select:has([aria-label="${label}"])`).last().click()
      await page.locator('.el-select-dropdown__item:visible', { hasText: option }).first().click()
      await page.keyboard.press('Escape')
    }
    const addStep = async (kind: string, button = 'Add a step') => {
      await expect.poll(() => page.locator('.el-dropdown-menu:visible').count()).toBe(0)
      await page.getByRole('button', { name: button, exact: true }).click()
      await page.locator('.el-dropdown-menu__item:visible', { hasText: kind }).click()
    }
    const fill = async (label: string, text: string) => {
      await page.getByRole('textbox', { name: label, exact: true }).last().fill(text)
      await page.keyboard.press('Enter')
    }
    await write(
      `# Every evening.\nautomation: evening\nlabel: Evening\nstarts: { by: hand, on: site }\nsteps: [{ do: wait, until: now }]\n`,
    )
    await page.getByRole('radio', { name: 'Form' }).check({ force: true })
    await fill('Label', 'Evening notices')
    await choose('Started by', 'A timetable')
    await choose('Every', 'day')
    await fill('At', '18:30')
    await page.getByRole('button', { name: 'Remove step 1' }).click()
    await addStep('For each')
    await page.locator('.problems').getByText('steps.0.steps').first().waitFor()
    await fill('List', '["Mill", "Quay"]')
    await addStep('Create or update an entry', 'Add a step for each')
    await choose('Type', 'Notice', page.locator('.step .step'))
    await page.locator('.step .step').getByRole('button', { name: 'Add a value' }).click()
    await page.getByRole('combobox', { name: 'Name of value 1' }).fill('text.en')
    await page.getByRole('textbox', { name: 'text.en', exact: true }).fill('item &')
    await page.keyboard.press('Enter')
    await page.locator('.problems').getByText('Step 1: ').first().waitFor()
    await page.getByRole('textbox', { name: 'text.en', exact: true }).fill('item & " is open"')
    await page.keyboard.press('Enter')
    await page.locator('.problems').waitFor({ state: 'detached' })
    await addStep('Compute values')
    await page.getByRole('button', { name: 'Move step 2 up' }).click()
    await page.getByRole('button', { name: 'Remove step 1' }).first().click()
    expect(await findingsOn(page)).toEqual([])
    await page.locator('footer.strip').getByRole('button', { name: 'Try' }).click()
    await page.locator('.tried').waitFor()
    await page.locator('footer.strip').getByRole('button', { name: 'Save' }).click()
    await page.getByRole('heading', { name: 'Evening notices' }).waitFor()
    const maren = await site.owner()
    expect((await maren.automations.get('evening')).definition).toEqual({
      automation: 'evening',
      label: 'Evening notices',
      starts: { by: 'timetable', every: 'day', at: '18:30' },
      steps: [
        {
          do: 'each',
          in: '["Mill", "Quay"]',
          steps: [{ do: 'create', type: 'notice', values: { text: { en: 'item & " is open"' } } }],
        },
      ],
    })
    await maren.automations.remove('evening')
  })

  it('is switched off and on, gets values that nobody sees again, and is removed', async () => {
    await site.goTo('automations/sold-out')
    await site.page.getByText('It has no secret yet, so it accepts no messages.').waitFor()
    await site.page.getByRole('button', { name: 'Make a new secret' }).click()
    await site.page.getByRole('button', { name: 'I have stored it' }).click()
    await site.page.locator('.new-secret').getByRole('textbox', { name: 'Name' }).fill('token')
    await site.page.getByLabel('Secret', { exact: true }).fill('quiet-harbour')
    await site.page.getByRole('button', { name: 'Set secret' }).click()
    await site.page.getByText('secrets.token').waitFor()
    expect(await site.page.content()).not.toContain('quiet-harbour')
    await site.page.getByRole('button', { name: 'Switch off' }).click()
    await site.page.getByText('Runs that have begun go on.').waitFor()
    await site.page.getByRole('button', { name: 'Switch on' }).click()
    await site.page.locator('footer.strip').getByText('On again.').waitFor()
    await site.page.getByRole('button', { name: 'Remove…' }).click()
    await site.page.locator('.el-popconfirm:visible').getByRole('button', { name: 'Remove', exact: true }).click()
    await site.page.waitForURL(/automations$/)
    const maren = await site.owner()
    expect((await maren.automations.list()).automations.map(({ name }) => name)).not.toContain('sold-out')
  })

  it('is not overwritten by somebody who has not seen the newest', async () => {
    const maren = await site.owner()
    await site.goTo('automations/families-for-free')
    await site.page.locator('.steps').first().waitFor()
    const { definition, version } = await maren.automations.get('families-for-free')
    await maren.automations.set({ ...definition, label: 'By somebody else' }, version)
    await write(
      `automation: families-for-free\nlabel: Mine\nstarts: { by: hand, on: site }\nsteps: [{ do: compute, values: 1 }]\n`,
    )
    await site.page.locator('footer.strip').getByRole('button', { name: 'Save' }).click()
    await site.page.locator('[role=alert]').getByText('is there in version 2').waitFor()
    // What was written is still there, and cannot be saved over what was never seen.
    await site.page.locator('.cm-content').getByText('label: Mine').waitFor()
    await site.page.locator('footer.strip').getByRole('button', { name: 'Save' }).click()
    await site.page.locator('[role=alert]').getByText('is there in version 2').waitFor()
    await site.page.getByRole('button', { name: 'Show the newest version' }).click()
    await site.page.locator('.cm-content').getByText('label: By somebody else').waitFor()
    expect((await maren.automations.get('families-for-free')).definition.label).toBe('By somebody else')
  })
  it('is started by hand from a list and from an entry', async () => {
    const maren = await site.owner()
    await maren.automations.set({
      automation: 'chosen',
      label: 'Look at what is chosen',
      starts: { by: 'hand', on: 'list', types: ['activity'] },
      steps: [{ do: 'each', in: 'trigger.entries', steps: [{ do: 'compute', name: 'title', values: 'item.title' }] }],
    })
    await site.goTo('entries/activity')
    for (const index of [1, 2]) await site.page.locator('li.row input.choose').nth(index).click()
    await site.page.locator('footer.strip').getByRole('button', { name: 'More' }).click()
    await site.page.getByRole('menuitem', { name: 'Start “Look at what is chosen”' }).click()
    await site.page.locator('footer.strip').getByText('“Look at what is chosen” has started for 2 entries.').waitFor()
    expect((await maren.automations.runs('chosen')).runs[0]!.total).toBe(2)

    await maren.automations.set({
      automation: 'note',
      label: 'Note its name',
      starts: { by: 'hand', on: 'entry', types: ['museum'] },
      steps: [{ do: 'compute', name: 'name', values: 'entry.name' }],
    })
    const { entries } = await maren.entries({ type: 'museum', first: 1 })
    await site.goTo(`entry/${entries[0]!.id}`)
    await site.page.locator('footer.strip').getByRole('button', { name: 'More' }).click()
    await site.page.getByRole('menuitem', { name: 'Start “Note its name”' }).click()
    await site.page.locator('footer.strip').getByText('“Note its name” has started for 1 entry.').waitFor()
  })
})
