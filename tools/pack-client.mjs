// Makes the SDK as it is published: one file that runs, one with its types, and no dependencies. Usage: npm run pack:client [--
// FOLDER]; then `npm publish FOLDER`, or `npm pack FOLDER`.
import { copyFileSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { join, resolve } from 'node:path'
import { fileURLToPath } from 'node:url'
import { build } from 'rolldown'
import { dts } from 'rolldown-plugin-dts'

const root = fileURLToPath(new URL('..', import.meta.url))
const folder = resolve(process.argv[2] ?? join(root, 'packages/client/package'))
const core = join(root, 'packages/core/dist/index.d.ts')
rmSync(folder, { recursive: true, force: true })
mkdirSync(folder, { recursive: true })
await build({
  input: join(root, 'packages/client/dist/index.js'),
  platform: 'neutral',
  logLevel: 'warn',
  output: { file: join(folder, 'index.js'), format: 'esm' },
})
// The types that it shares with the service are included.
await build({
  input: { index: join(root, 'packages/client/dist/index.d.ts') },
  plugins: [dts({ dtsInput: true, tsconfig: false })],
  resolve: { alias: { '@wisteria/core': core } },
  logLevel: 'warn',
  output: { dir: folder, format: 'esm' },
})
const { name, version, license } = JSON.parse(readFileSync(join(root, 'packages/client/package.json'), 'utf8'))
writeFileSync(
  join(folder, 'package.json'),
  JSON.stringify(
    {
      name,
      version,
      license: license ?? 'UNLICENSED',
      description: 'Reads content from Wisteria, in Node.js and in browsers; checks its webhooks; edits.',
      type: 'module',
      sideEffects: false,
      exports: { '.': { types: './index.d.ts', default: './index.js' } },
      engines: { node: '>=20' },
    },
    null,
    2,
  ) + '\n',
)
copyFileSync(join(root, 'docs/guides/reading-content.md'), join(folder, 'README.md'))
console.log(`${name} ${version} in ${folder}`)
