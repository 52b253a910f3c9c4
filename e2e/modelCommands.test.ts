import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { demoPassword, modelFolder } from '@wisteria/demo'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { runIn } from './support/commands.js'
import { startDemo, type DemoWorld } from './support/running.js'

const folder = mkdtempSync(join(tmpdir(), 'wisteria-model-'))
const pulled = join(folder, 'model')
let demo: DemoWorld
const run = (...args: string[]) => runIn(folder, args)

beforeAll(async () => {
  demo = await startDemo()
  await runIn(folder, ['connect', demo.service.baseUrl, '--email', 'teun@marram.example'], {
    WISTERIA_PASSWORD: demoPassword,
  })
})
afterAll(async () => {
  await demo.service.end()
  rmSync(folder, { recursive: true, force: true })
})

const many = readdirSync(modelFolder).length

describe('model pull', () => {
  it('writes the files of the model, which compare as no change', async () => {
    expect((await run('model', 'pull', pulled)).out).toContain(`Model version 1: ${many} of ${many} files were written`)
    expect(readdirSync(pulled)).toEqual(readdirSync(modelFolder))
    for (const name of readdirSync(pulled))
      expect(readFileSync(join(pulled, name), 'utf8')).toBe(readFileSync(modelFolder + name, 'utf8'))
    expect((await run('model', 'compare', pulled)).out).toMatch(
      /No change: the files are the model in force \(version 1\)/,
    )
    expect((await run('model', 'pull', pulled)).out).toContain(`0 of ${many} files were written`)
  })
  it('names files that the model does not have, and removes them only when told to', async () => {
    writeFileSync(join(pulled, 'old.yaml'), 'type: old\n')
    expect((await run('model', 'pull', pulled)).out).toMatch(/The model does not have: old.yaml. --prune removes them/)
    expect((await run('model', 'pull', pulled, '--prune', '--json')).json()).toMatchObject({
      version: 1,
      written: [],
      extra: ['old.yaml'],
      pruned: true,
    })
    expect(readdirSync(pulled)).not.toContain('old.yaml')
  })
  it('takes what the console adopted, in turn with files', async () => {
    const activity = join(pulled, 'activity.yaml')
    const before = readFileSync(activity, 'utf8')
    writeFileSync(activity, before.replace('# Walks begin', '# All walks begin'))
    expect((await run('model', 'compare', pulled)).out).toMatch(/activity.yaml +Only how the files are written changes/)
    expect((await run('model', 'adopt', pulled)).out).toMatch(/Adopted: the model is at version 2/)
    expect((await run('model', 'pull', pulled)).out).toContain(`0 of ${many} files`)
    expect((await run('model', 'pull', pulled, '--at', '1')).out).toContain(`Model version 1: ${many} of ${many} files`)
    // It has the version that is needed to find renamed fields again.
    expect(readFileSync(activity, 'utf8')).toBe(before.replace('type: activity\n', 'type: activity\nnamesOf: 1\n'))
    const wrong = await run('model', 'pull', pulled, '--at', 'first')
    expect([wrong.code, wrong.err]).toEqual([
      2,
      expect.stringMatching(/--at must be a version of the model, not “first”/),
    ])
    expect((await run('model', 'pull', pulled, '--at', '77')).code).toBe(5)
  })
})

describe('model compare', () => {
  it('names the entries and the keys that something breaks for', async () => {
    const key = demo.seeded.keys.published
    await fetch(`${demo.service.baseUrl}/read/v1/marram/entries/activity`, {
      headers: { Authorization: `Bearer ${key}` },
    })
    const activity = join(pulled, 'activity.yaml')
    const text = readFileSync(activity, 'utf8')
    writeFileSync(activity, text.replace('max: 320', 'max: 60'))
    const compared = await run('model', 'compare', pulled)
    expect(compared.out).toMatch(/breaking +activity.summary +\d+ entries would no longer be valid/)
    expect(compared.out).toMatch(/Night Walk: Summary in \w+ has \d+ characters, at most 60 fit/)
    expect(compared.out).toMatch(/read by Sample front end, last \d/)
    writeFileSync(
      activity,
      text.replace('label: Takes, section: when }', 'label: Takes, section: when }\n  minutes2: { kind: numbr }'),
    )
    const wrong = await run('model', 'compare', pulled)
    expect([wrong.code, wrong.err]).toEqual([
      3,
      expect.stringMatching(/activity.yaml:\d+:\d+: .*names no field kind. Did you mean `number`\?/),
    ])
    writeFileSync(activity, text)
  })
  it('says that a model file is too large, kindly', async () => {
    const file = join(pulled, 'museum.yaml')
    const text = readFileSync(file, 'utf8')
    writeFileSync(file, text + '#'.repeat(5_000_000))
    const told = await run('model', 'compare', pulled)
    expect([told.code, told.err]).toEqual([
      3,
      expect.stringMatching(/museum.yaml: .*at most 1,000,000 characters, and this one has 5,00/),
    ])
    writeFileSync(file, text)
  })
})

describe('model show, history and jobs', () => {
  it('show groups, rules and the one entry of a type', async () => {
    const { out } = await run('model', 'show')
    expect(out).toMatch(/type visitorInfo \(Visitor information, exactly one entry\)/)
    expect(out).toMatch(/^ {2}phone +text/m)
    expect(out).toMatch(/meetingPoint +location +if format = "walk", in when/)
    expect(out).toMatch(/inventory +text +required, unique/)
  })
  it('history says who, when, and what it did', async () => {
    const { out } = await run('model', 'history')
    expect(out).toMatch(/^2 .*Teun Visser +activity.yaml: Only how the files are written changes/m)
    expect(out).toMatch(/^1 .*Maren Aldous +activity: New type with 17 fields/m)
    expect((await run('model', 'history', '--json')).json<{ models: object[] }>().models).toHaveLength(2)
  })
  it('jobs are none, and one that is not there is said', async () => {
    expect((await run('job', 'list')).out).toMatch(/There are no jobs/)
    expect((await run('job', 'stop', 'nobody')).err).toMatch(/There is no job `nobody`/)
  })
})

describe('types', () => {
  it('writes TypeScript, JSON Schema and samples from the model', async () => {
    const file = join(folder, 'content.ts')
    expect((await run('types', '--out', file)).err).toMatch(/Written to/)
    const text = readFileSync(file, 'utf8')
    expect(text).toMatch(/export interface Content \{\n {2}activity: ActivityValues/)
    expect(text).toMatch(/format: 'talk' \| 'walk' \| 'concert' \| 'workshop' \| null/)
    expect((await run('types', '--trust-required')).out).toMatch(
      /^ {2}format: 'talk' \| 'walk' \| 'concert' \| 'workshop'$/m,
    )
    const schema = (await run('types', '--schema', '--type', 'museum')).json<Record<string, { properties: object }>>()
    expect(Object.keys(schema)).toEqual(['museum'])
    const samples = (await run('types', '--samples', '--each', '2', '--seed', '7', '--locale', 'nl')).json<
      Record<string, { locale: string; values: object }[]>
    >()
    expect([samples['activity']!.length, samples['visitorInfo']!.length, samples['activity']![0]!.locale]).toEqual([
      2,
      1,
      'nl',
    ])
    expect((await run('types', '--samples', '--each', '2', '--seed', '7', '--locale', 'nl')).json()).toEqual(samples)
  })
  it.each([
    [['--samples', '--each', '0'], /--each must be a whole number from 1 to 1000, not “0”/],
    [['--type', 'musem'], /`musem` is not a type of this site/],
    [['--samples', '--locale', 'fr'], /`fr` is not a locale of this site/],
    [['--samples', '--schema'], /one at a time/],
  ])('%j is refused with a sentence', async (more, message) => {
    const told = await run('types', ...more)
    expect([told.code, told.err]).toEqual([2, expect.stringMatching(message)])
  })
})

describe('entries and assets', () => {
  it('an only entry is shown, changed and published by its type', async () => {
    expect((await run('entry', 'show', 'visitorInfo')).out).toMatch(/phone: "?\+00 555 0104/)
    expect((await run('entry', 'show', 'museum')).code).toBe(5)
  })
  it('files are added with their texts, listed, and deleted', async () => {
    const file = join(folder, 'plan.svg')
    writeFileSync(file, '<svg width="20" height="10"></svg>')
    const added = await run('asset', 'add', file, '--alt', 'en=A plan', '--alt', 'nl=Een plan', '--json')
    expect(added.json()).toMatchObject({
      name: 'plan.svg',
      mediaType: 'image/svg+xml',
      width: 20,
      alt: { en: 'A plan', nl: 'Een plan' },
    })
    expect((await run('asset', 'list', '--search', 'plan')).out).toMatch(/plan.svg +image\/svg\+xml +20 × 10 +en, nl/)
    expect((await run('asset', 'delete', added.json<{ id: string }>().id)).out).toBe('Deleted.\n')
    const missing = await run('asset', 'add', join(folder, 'nothing.png'))
    expect([missing.code, missing.err]).toEqual([2, expect.stringMatching(/there is no such file/)])
    expect((await run('asset', 'add', file, '--alt', 'A plan')).err).toMatch(/--alt is a locale and a text/)
    expect((await run('asset', 'add', file, '--alt', 'fr=Un plan')).err).toMatch(/`fr` is not a locale/)
  })
})
