import { cpSync, mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { examples } from '@wisteria/cli'
import { automationFolder, demoPassword, modelFolder, startTranslator, type RunningTranslator } from '@wisteria/demo'
import type { AutomationStep, Editor } from '@wisteria/client'
import { withLocale } from '@wisteria/core'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { runIn, type Result } from './support/commands.js'
import { picture } from './support/pictures.js'
import { startDemo, startReceiver, type DemoWorld } from './support/running.js'

/* Every example of the command line's help, run on the demo world as it stands, with ids that are there. */

const folder = mkdtempSync(join(tmpdir(), 'wisteria-examples-'))
let demo: DemoWorld
let owner: Editor
let receiver: Awaited<ReturnType<typeof startReceiver>>
/** Slow, so that what is ordered is still out. */
let translator: RunningTranslator
let pages = 0

/** A public page with three revisions, in English and Dutch. */
async function page(): Promise<string> {
  const name = `Page ${++pages}`
  const { id } = await owner.create({ type: 'page', values: { title: { en: name, nl: name } } })
  for (const again of ['again', 'and again']) {
    // A publish seals the revision: the next change begins another.
    await owner.publish(id)
    await owner.patch(id, (await owner.entry(id)).version, { title: { en: `${name} ${again}` } })
  }
  await owner.publish(id)
  return id
}

/** A connector to the simulated machine. @param secret a wrong one, so that everything fails. */
async function machine(secret?: string): Promise<void> {
  const { connectors } = await owner.ordering.connectors()
  for (const { id, label } of connectors) if (label === 'Machine') await owner.ordering.removeConnector(id)
  const added = await owner.ordering.addConnector({ label: 'Machine', address: translator.address })
  translator.setSecret(secret ?? added.secret)
}
async function ordered(secret?: string) {
  await machine(secret)
  return owner.ordering.order({ connector: 'Machine', locale: 'nl', type: 'activity' })
}

/** A run of an automation with one step. */
async function ranOf(state: string, step: AutomationStep): Promise<string> {
  const automation = `example-${state}`
  const { versions } = await owner.automations.list()
  await owner.automations.set(
    { automation, label: automation, starts: { by: 'hand', on: 'site' }, steps: [step] },
    versions[automation],
  )
  const [run] = (await owner.automations.run(automation)).runs
  await expect.poll(async () => (await owner.automations.getRun(run!)).state, { timeout: 10_000 }).toBe(state)
  return run!
}

/** What stands for the id of the example, by the kind of thing that it names. */
const ids: Record<string, () => Promise<string>> = {
  '01hz0000000000000000': page,
  '01hz0000000000000001': page,
  '01hz0000000000000002': async () =>
    (await owner.schedule(await page(), { does: 'publish', at: new Date(Date.now() + 30 * 86_400_000).toISOString() }))
      .id,
  '01hz0000000000000003': async () => {
    const { id } = await owner.uploadAsset('lens.jpg', await picture(40, 20, 'jpeg'))
    await owner.changeAsset(id, { title: { en: 'The lens' } })
    return id
  },
  '01hz0000000000000004': async () => {
    const job = await owner.bulk({
      do: 'edit',
      ids: [await page()],
      edits: [{ do: 'set', at: ['inMenu'], value: true }],
    })
    await owner.waitFor(job)
    return job.id
  },
  '01hz0000000000000005': async () => (await owner.createKey({ label: 'Website', scope: 'published' })).id,
  '01hz0000000000000010': async () => (await ordered()).id,
  '01hz0000000000000011': async () => {
    const { id } = await ordered('whsec_AAAA')
    while ((await owner.ordering.orderWith(id)).state === 'running') await new Promise((go) => setTimeout(go, 100))
    return id
  },
  '01hz0000000000000012': async () => {
    await machine()
    const rule = { label: 'Walks', connector: 'Machine', event: 'entry.published', type: 'activity' } as const
    return (await owner.ordering.addRule(rule)).id
  },
  '01hz0000000000000013': async () => {
    const source = await page()
    await owner.waitFor(await owner.counterparts.make({ region: 'north', ids: [source] }))
    return (await owner.counterparts.of(source)).regions.find(({ name }) => name === 'north')!.entry!.id
  },
  '01hz0000000000000014': async () => {
    const { id } = await owner.imports.read(new Blob(['name,opened\nHarle light,x\n']), {
      type: 'museum',
      name: 'museums.csv',
    })
    await owner.waitFor(await owner.imports.run(id))
    return id
  },
  '01hz0000000000000015': async () => (await owner.entries({ type: 'activity', first: 1 })).entries[0]!.id,
  '01hz0000000000000016': () => ranOf('done', { do: 'compute', values: 1 }),
  '01hz0000000000000017': () => ranOf('running', { do: 'wait', until: 'now + 2 hours' }),
  '01hz0000000000000018': () => ranOf('failed', { do: 'publish', entry: '"nowhere"' }),
  '01hz0000000000000007': async () => (await owner.webhooks.create({ label: 'Rebuild', address: receiver.address })).id,
}

/** A webhook with a delivery. */
async function delivered(): Promise<Record<string, string>> {
  const webhook = await ids['01hz0000000000000007']!()
  await page()
  await expect
    .poll(async () => (await owner.webhooks.deliveries(webhook)).deliveries.length, { timeout: 10_000 })
    .toBeGreaterThan(0)
  const [delivery] = (await owner.webhooks.deliveries(webhook)).deliveries
  return { '01hz0000000000000007': webhook, '01hz0000000000000008': delivery!.id }
}

/** What has to be done before an example can work. @returns values for its ids. */
const preparations: Record<string, (run: (line: string) => Promise<Result>) => Promise<Record<string, string>>> = {
  'locale forget': async () => {
    const { settings } = await owner.locales()
    await owner.setLocales(withLocale(settings, 'fy'))
    const { id } = await owner.create({ type: 'page', values: { title: { en: 'Ferry', fy: 'Fear' } } })
    await owner.entry(id)
    await owner.setLocales(settings)
    return {}
  },
  'region place': async () => ({
    '01hz0000000000000000': (await owner.create({ type: 'page', values: { title: { en: 'Ferry' } } })).id,
  }),
  'translate order': async () => (await machine(), {}),
  'connector change': async () => (await machine(), {}),
  'connector remove': async () => (await machine(), {}),
  'connector add-rule': async () => (await machine(), {}),
  'entry reactivate': async () => {
    const id = await page()
    await owner.archive(id)
    return { '01hz0000000000000000': id }
  },
  'entry delete': async () => {
    const id = await page()
    await owner.withdraw(id)
    return { '01hz0000000000000000': id }
  },
  'account end-session': async () => {
    await demo.as('maren@marram.example')
    const sessions = (await runIn(folder, ['account', 'sessions', '--json'])).json<{
      sessions: { id: string; current: boolean }[]
    }>()
    return { '01hz0000000000000006': sessions.sessions.find(({ current }) => !current)!.id }
  },
  'site import': async (run) => (await run(examples['site export']!), {}),
  'import forget': async (run) => (await run(examples['import keep']!), {}),
  'webhook resend': delivered,
  'webhook delivery': delivered,
  'webhook end-secret': async () => {
    const webhook = await ids['01hz0000000000000007']!()
    const { secrets } = await owner.webhooks.addSecret(webhook)
    return { '01hz0000000000000007': webhook, '5f3a9c0d1e2b': secrets[1]!.id }
  },
  'automation remove-secret': async (run) => (await run(examples['automation set-secret']!), {}),
  'automation run': async () => (await owner.automations.enable('families-for-free', true), {}),
  'member invite': async (run) => (await run(examples['member remove']!), {}),
  'member invitations': async (run) => (await run(examples['member invite']!), {}),
  'member change': async (run) => (await run(examples['member add']!.replace("--name 'Hanne Kwelder' ", '')), {}),
  'front-end remove': async (run) => (await run(examples['front-end set']!), {}),
}

/** Examples that run until they are stopped, end what the others need, or need a job that still runs: other tests run them. */
const elsewhere = ['serve', 'mcp', 'demo', 'demo-translator', 'demo-outside', 'account password', 'job stop']

beforeAll(async () => {
  demo = await startDemo()
  owner = await demo.as('maren@marram.example')
  receiver = await startReceiver()
  translator = await startTranslator({ port: 0, seconds: 60 })
  cpSync(modelFolder, join(folder, 'model'), { recursive: true })
  cpSync(automationFolder, join(folder, 'automations'), { recursive: true })
  cpSync(join(automationFolder, 'families-for-free.yaml'), join(folder, 'families-for-free.yaml'))
  mkdirSync(join(folder, 'data'))
  writeFileSync(join(folder, 'lens.jpg'), Buffer.from(await (await picture(60, 20, 'jpeg')).arrayBuffer()))
  writeFileSync(join(folder, 'artefacts.csv'), 'name,town\nHarle light,Harle\n')
  writeFileSync(join(folder, 'person.yaml'), 'name: Nel Zeeraket\n')
  writeFileSync(
    join(folder, 'glossary.yaml'),
    'terms: [{ term: Lighthouse, translations: { nl: { use: Vuurtoren, avoid: [Lichttoren] } } }]\n',
  )
  writeFileSync(join(folder, 'changes.yaml'), 'inMenu: true\n')
  writeFileSync(join(folder, 'regions.yaml'), 'regions: [{ name: north, label: The north }]\n')
  writeFileSync(
    join(folder, 'front-end.yaml'),
    "label: Museums\norigins: ['https://www.marram.example']\nenter: { '*': 'https://www.marram.example/enter?code={code}' }\n",
  )
  writeFileSync(
    join(folder, 'site.yaml'),
    'name: dune\nlabel: Dune\ndefaultLocale: en\ntimeZone: Europe/Amsterdam\nlocales: [{ tag: en, label: English, fallback: [] }]\n',
  )
  writeFileSync(join(folder, 'locales.json'), JSON.stringify((await owner.locales()).settings))
})
afterAll(async () => {
  await receiver.stop()
  await translator.stop()
  await demo.service.end()
  rmSync(folder, { recursive: true, force: true })
})

/** The words of an example, its quotes taken off, its paths in the folder, its service the one that runs. */
function wordsOf(line: string, ids: Readonly<Record<string, string>>): string[] {
  const words = line.replace(/^([A-Z_]+=\S+ )+/, '').match(/(?:[^\s']|'[^']*')+/g)!
  return words.map((word) => {
    const plain = word.replaceAll("'", '')
    if (plain === './data') return demo.service.folder
    if (/^\.?\/?[a-z-]+\.(ya?ml|json|jpg|ts|xlf|csv|zip)$|^\.\/(model|automations)$/.test(plain))
      return join(folder, plain)
    if (/^http:\/\/127/.test(plain)) return demo.service.baseUrl
    return ids[plain] ?? plain
  })
}

const environment = {
  WISTERIA_PASSWORD: demoPassword,
  WISTERIA_NEW_PASSWORD: 'sand-between-the-toes',
  WISTERIA_SECRET: 'quiet',
}
const run = async (line: string, given: Record<string, string> = {}): Promise<Result> => {
  const all = { ...given }
  for (const [id] of line.matchAll(/\b01hz\w+\b/g)) all[id] ??= await ids[id]!()
  return runIn(
    folder,
    wordsOf(line, all),
    line.startsWith('EDITOR=') ? { ...environment, VISUAL: '', EDITOR: 'true' } : environment,
  )
}

it('does what the help says, example by example', { timeout: 120_000 }, async () => {
  const connected = await run(examples['connect']!)
  expect([connected.code, connected.err]).toEqual([0, ''])
  const failed: unknown[] = []
  for (const [path, line] of Object.entries(examples)) {
    if (elsewhere.includes(path)) continue
    const given = (await preparations[path]?.((line) => run(line))) ?? {}
    const result = await run(line, given)
    if (result.code !== 0) failed.push({ path, ...result })
  }
  expect(failed).toEqual([])
})
