import { spawnSync } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { createConfig, lintFromString } from '@redocly/openapi-core'
import { Validator, type Schema } from '@cfworker/json-schema'
import openapiTS, { astToString } from 'openapi-typescript'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { startDemo, type DemoWorld } from './support/running.js'

interface OpenApi {
  readonly openapi: string
  readonly paths: Record<string, Record<string, { operationId: string; parameters: { name: string }[] }>>
  readonly components: { readonly schemas: Record<string, Schema> }
}

let demo: DemoWorld
const texts: Record<'read' | 'edit', string> = { read: '', edit: '' }
const documentOf = (which: 'read' | 'edit') => JSON.parse(texts[which]) as OpenApi

beforeAll(async () => {
  demo = await startDemo()
  const headers = { Authorization: `Bearer ${demo.seeded.keys.published}` }
  const get = async (path: string) => (await fetch(demo.service.baseUrl + path, { headers })).text()
  texts.read = await get('/read/v1/marram/openapi.json')
  texts.edit = await get('/edit/v1/openapi.json')
})
afterAll(() => demo.service.end())

describe.each(['read', 'edit'] as const)('the OpenAPI document of the %s API', (which) => {
  it('has no error for a public linter', async () => {
    const config = await createConfig({ extends: ['recommended'], rules: { 'no-server-example.com': 'off' } })
    const problems = await lintFromString({ source: texts[which], config, absoluteRef: 'openapi.json' })
    const errors = problems.filter(({ severity }) => severity === 'error')
    expect(errors.map(({ message, location }) => `${location[0]?.pointer}: ${message}`)).toEqual([])
  })

  it('gives types that compile', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'wisteria-openapi-'))
    try {
      writeFileSync(join(folder, 'api.ts'), astToString(await openapiTS(texts[which])))
      writeFileSync(
        join(folder, 'use.ts'),
        which === 'edit'
          ? "import type { paths } from './api.js'\nexport type Keys = keyof paths & string\n"
          : `import type { components, operations } from './api.js'
type Activity = components['schemas']['Activity']
type Answer = operations['listActivity']['responses'][200]['content']['application/json']
type Page = components['schemas']['ActivityPage']
export const titles = (page: Page): (string | null | undefined)[] => page.entries.map((entry) => entry.values.title)
export const isPage = (answer: Answer): answer is Page => !answer.entries.some((one) => 'locales' in one)
export const format = (entry: Activity): 'talk' | 'walk' | 'concert' | 'workshop' | undefined => {
  const { format } = entry.values
  return typeof format === 'object' ? format?.value : format?.startsWith('w') ? 'walk' : undefined
}
// @ts-expect-error there is no such field
export const none = (entry: Activity) => entry.values.tittle
`,
      )
      writeFileSync(
        join(folder, 'tsconfig.json'),
        JSON.stringify({
          compilerOptions: {
            noEmit: true,
            strict: true,
            skipLibCheck: true,
            module: 'nodenext',
            target: 'es2022',
            types: [],
          },
          files: ['use.ts'],
        }),
      )
      const compiled = spawnSync(process.execPath, ['node_modules/typescript/bin/tsc', '-p', folder], {
        encoding: 'utf8',
      })
      expect(compiled.stdout).toBe('')
    } finally {
      rmSync(folder, { recursive: true, force: true })
    }
  })

  it('names every operation once', () => {
    const names = Object.values(documentOf(which).paths).flatMap((methods) =>
      Object.values(methods).map(({ operationId }) => operationId),
    )
    expect(new Set(names).size).toBe(names.length)
  })
})

describe('what the document of reading says', () => {
  it('is so: real answers fit its schemas, and its examples are real entries', async () => {
    const { paths, components } = documentOf('read')
    for (const [path, { get }] of Object.entries(paths)) {
      const name = /^\/entries\/(\w+)$/.exec(path)?.[1]
      if (!name || !get) continue
      const answer = await fetch(`${demo.service.baseUrl}/read/v1/marram${path}`, {
        headers: { Authorization: `Bearer ${demo.seeded.keys.published}` },
      })
      const body: unknown = await answer.json()
      const { responses } = get as unknown as {
        responses: Record<string, { content: Record<string, { schema: Schema; example: { entries?: unknown[] } }> }>
      }
      const { schema, example } = responses['200']!.content['application/json']!
      const whole = { ...schema, components } as Schema
      expect(new Validator(whole, '2020-12', false).validate(body).errors, path).toEqual([])
      const entries = (body as { entries?: unknown[] }).entries
      if (entries) expect(entries).toContainEqual(example.entries![0])
      else expect(body).toEqual(example)
    }
  })

  it('names every parameter that a list takes, and no other', () => {
    const { paths } = documentOf('read')
    expect(paths['/entries/activity']!['get']!.parameters.map(({ name }) => name)).toEqual([
      'where', 'sort', 'first', 'after', 'locale', 'region', 'count', 'search', 'locales', 'pick', 'follow', 'edition', 'richText', 'choices', 'exactLocale', 'alternates', 'valueLocales', 'freshness', 'generation',
    ]) // prettier-ignore
  })
})
