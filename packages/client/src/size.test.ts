import { readFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { gzipSync } from 'node:zlib'
import { build } from 'vite'
import { expect, it } from 'vitest'

it('reads with less than the guide says, compressed', async () => {
  const entry = fileURLToPath(new URL('./index.ts', import.meta.url))
  const virtual = 'reading-alone'
  const [built] = (await build({
    logLevel: 'silent',
    configFile: false,
    plugins: [
      {
        name: 'reading-alone',
        resolveId: (id) => (id.endsWith(virtual) ? '\0' + virtual : undefined),
        load: (id) =>
          id === '\0' + virtual
            ? `export { Reader, WisteriaProblem, all, either, not, any, field, now, today, pictureAttributes } from ${JSON.stringify(entry)}`
            : undefined,
      },
    ],
    build: { write: false, minify: true, target: 'es2022', lib: { entry: virtual, formats: ['es'] } },
  })) as { output: { code: string }[] }[]
  const bytes = gzipSync(built!.output[0]!.code).length
  const guide = readFileSync(new URL('../../../docs/guides/reading-content.md', import.meta.url), 'utf8')
  const said = Number(/what reads is less than (\d+) kB compressed/.exec(guide)![1])
  expect(bytes).toBeLessThan(said * 1000)
  // And not so much less that the guide is wrong.
  expect(bytes).toBeGreaterThan((said - 2) * 1000)
}, 60_000)
