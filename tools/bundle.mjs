// Puts the service and the packages that it is made of into few files: Node finds and reads one of them faster than a thousand.
// Usage: node tools/bundle.mjs, after compiling. Who starts Node with `--conditions=bundled` gets these.
import { rmSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { build } from 'rolldown'

const service = fileURLToPath(new URL('../packages/service/dist', import.meta.url))
/** Packages with native parts, or that load parts of their own by their place on the disk. */
const apart = ['sqlite3', 'sharp', 'pino', /^sequelize/, 'umzug']
// As deep as the files that it is made of: what they find beside themselves is found from here.
const folder = `${service}/bundle`
rmSync(folder, { recursive: true, force: true })
await build({
  input: `${service}/index.js`,
  platform: 'node',
  external: [/^node:/, ...apart],
  output: { dir: folder, format: 'esm' },
  logLevel: 'warn',
})
