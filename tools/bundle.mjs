// Bundles the service and its packages into few files: Node reads these faster than a thousand. Usage: node tools/bundle.mjs, after
// compiling. Node takes them with `--conditions=bundled`.
import { rmSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { build } from 'rolldown'

const service = fileURLToPath(new URL('../packages/service/dist', import.meta.url))
/** Packages with native parts, or that load parts of their own by their place on the disk. */
const apart = ['sqlite3', 'sharp', 'pino', /^sequelize/, 'umzug']
// At the depth of the original files, so that relative paths stay right.
const folder = `${service}/bundle`
rmSync(folder, { recursive: true, force: true })
await build({
  input: `${service}/index.js`,
  platform: 'node',
  external: [/^node:/, ...apart],
  output: { dir: folder, format: 'esm' },
  logLevel: 'warn',
})
