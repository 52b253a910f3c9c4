import { execFileSync, spawnSync } from 'node:child_process'
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { emptyModel, readModelFiles, resolveModel, typeScriptOf } from '@wisteria/core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'

/** Selections as front ends write them; each is read by types. */
const picks = [
  'title, slug',
  'title, museum(name, town)',
  '*, museum(name)',
  'title, starts, speakers(first: 2, name, role)',
  'title, format(as: both), museum(name, picture(w: 640, format: webp, address, alt))',
  'title, body(@heading(text), @quote, @latest(entries(title)))',
  'title, meetingPoint(latitude, longitude), meta(title, description, image(address))',
]

const root = fileURLToPath(new URL('..', import.meta.url))
const project = mkdtempSync(join(tmpdir(), 'wisteria-package-'))
const installed = join(project, 'node_modules/@wisteria/client')

beforeAll(() => {
  mkdirSync(installed, { recursive: true })
  execFileSync(process.execPath, ['tools/pack-client.mjs', installed], { cwd: root, stdio: 'pipe' })
})
afterAll(() => rmSync(project, { recursive: true, force: true }))

/** A project of a front end, whose one file is `use.ts`. */
function writeConfig(folder: string): void {
  const compilerOptions = {
    noEmit: true,
    strict: true,
    module: 'nodenext',
    target: 'es2022',
    lib: ['es2023', 'dom', 'dom.iterable'],
    types: [],
  }
  writeFileSync(join(folder, 'tsconfig.json'), JSON.stringify({ compilerOptions, files: ['use.ts'] }))
}

describe('the SDK as it is published', () => {
  it('is two files that depend on nothing', () => {
    expect(readdirSync(installed).sort()).toEqual(['README.md', 'index.d.ts', 'index.js', 'package.json'])
    for (const file of ['index.js', 'index.d.ts'])
      expect(readFileSync(join(installed, file), 'utf8')).not.toMatch(/^\s*(import|export) .*from ['"]/m)
    const { dependencies, private: isPrivate } = JSON.parse(
      readFileSync(join(installed, 'package.json'), 'utf8'),
    ) as Record<string, unknown>
    expect([dependencies, isPrivate]).toEqual([undefined, undefined])
  })

  it('compiles and runs in a project of its own', () => {
    writeFileSync(
      join(project, 'use.ts'),
      `import { Reader, field, verifyWebhook, Service, type WebhookEvent, type Asset } from '@wisteria/client'
interface Content { page: { title: string | null } }
const reader = new Reader<Content>({ baseUrl: 'https://content.example', site: 'm' })
export const titles = async (): Promise<(string | null)[]> =>
  (await reader.entries('page', { where: field<Content['page']>('title').hasValue() })).entries.map((one) => one.values.title)
// @ts-expect-error there is no such type
export const none = () => reader.entries('pages')
export const check = (secret: string, body: string): Promise<WebhookEvent> => verifyWebhook(secret, {}, body)
export const named = (asset: Asset): string => asset.name
export const service = new Service({ baseUrl: '' })
`,
    )
    writeConfig(project)
    const tsc = join(root, 'node_modules/typescript/bin/tsc')
    expect(spawnSync(process.execPath, [tsc, '-p', project], { encoding: 'utf8' }).stdout).toBe('')
    const script = `import { all, field } from '@wisteria/client'; console.log(String(all(field('a').is(1), field('b').is('x'))))`
    const { stdout } = spawnSync(process.execPath, ['--input-type=module', '-e', script], {
      cwd: project,
      encoding: 'utf8',
    })
    expect(stdout.trim()).toBe('a = 1 and b = "x"')
  })

  it('knows what is picked: what was not does not compile, and the compiler has little to do for it', () => {
    const files = readdirSync(join(root, 'demo/model')).map((name) => ({
      name,
      text: readFileSync(join(root, 'demo/model', name), 'utf8'),
    }))
    const model = resolveModel(readModelFiles(files), emptyModel, {
      locales: ['en', 'nl', 'nl-BE', 'ar'],
      defaultLocale: 'en',
      timeZone: 'Europe/Amsterdam',
    })
    const folder = join(project, 'picking')
    mkdirSync(folder)
    writeFileSync(join(folder, 'content.ts'), typeScriptOf(model))
    const use = (pick: string, index: number) => `
export const page${index} = async () => {
  const { entries } = await reader.entries('activity', { pick: ${JSON.stringify(pick)} })
  const [entry] = entries
  const title: string | null | undefined = entry?.values.title
  // @ts-expect-error it was not picked
  const other = entry?.values.nothing
  return [title, other]
}`
    const compile = (lines: readonly string[]) => {
      writeFileSync(
        join(folder, 'use.ts'),
        `import { Reader } from '@wisteria/client'
import type { Content } from './content.js'
const reader = new Reader<Content>({ baseUrl: 'https://content.example', site: 'm' })
export const at = async (): Promise<string | null | undefined> => {
  const answer = await reader.at('/x')
  return answer && 'entry' in answer && answer.entry.type === 'museum' ? answer.entry.values.town : undefined
}
${lines.join('')}`,
      )
      writeConfig(folder)
      const tsc = join(root, 'node_modules/typescript/bin/tsc')
      const { stdout } = spawnSync(process.execPath, [tsc, '-p', folder, '--extendedDiagnostics'], { encoding: 'utf8' })
      expect(stdout.split('\n').filter((line) => line.includes('error'))).toEqual([])
      return {
        instantiations: Number(/Instantiations:\s+(\d+)/.exec(stdout)![1]),
        checkTime: /Check time:\s+(\S+)/.exec(stdout)![1],
      }
    }
    const without = compile([])
    const many = Array.from({ length: 5 }, () => picks).flat()
    const { instantiations, checkTime } = compile(many.map(use))
    const each = (instantiations - without.instantiations) / many.length
    console.log(`${many.length} selections: ${Math.round(each)} instantiations each, ${checkTime} to check in all`)
    expect(each).toBeLessThan(4000)
  }, 60_000)
})
