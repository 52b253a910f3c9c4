// Makes a fresh clone ready: installs, compiles and builds what has changed since the last time, with a line for each step. Node
// built-ins only, since nothing is installed yet. Usage: node tools/prepare.mjs [--browser]
import { execFileSync, spawnSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import {
  closeSync,
  existsSync,
  mkdirSync,
  openSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs'
import { join, relative } from 'node:path'
import { fileURLToPath } from 'node:url'

const root = fileURLToPath(new URL('..', import.meta.url))
const stamps = join(root, 'node_modules', '.wisteria')
const lock = join(root, '.preparing')
const packages = [
  'packages/core',
  'packages/store',
  'packages/service',
  'packages/client',
  'packages/cli',
  'packages/console',
  'demo',
]

const say = (text) => process.stderr.write(text + '\n')

function filesBelow(folder) {
  return readdirSync(folder, { withFileTypes: true }).flatMap((entry) => {
    const path = join(folder, entry.name)
    return entry.isDirectory() ? (['node_modules', 'dist'].includes(entry.name) ? [] : filesBelow(path)) : [path]
  })
}

function hashOf(files) {
  const hash = createHash('sha256').update(process.version)
  for (const file of [...files].sort())
    hash.update(relative(root, file)).update('\0').update(readFileSync(file)).update('\0')
  return hash.digest('hex')
}

const stampOf = (name) => join(stamps, name)
/** Runs a step unless its inputs are unchanged and its outputs exist. */
function step(name, hash, outputs, what, run) {
  const isFresh = existsSync(stampOf(name)) && readFileSync(stampOf(name), 'utf8') === hash
  if (isFresh && outputs.every((output) => existsSync(join(root, output)))) return
  say(`${what}…`)
  const began = Date.now()
  run()
  mkdirSync(stamps, { recursive: true })
  writeFileSync(stampOf(name), hash)
  say(`${what}: done in ${Math.round((Date.now() - began) / 1000)} s`)
}

function run(command, args, environment = {}) {
  const result = spawnSync(command, args, {
    cwd: root,
    stdio: ['ignore', 2, 2],
    env: { ...process.env, ...environment },
  })
  if (result.error || result.status !== 0) {
    say(`\nThis failed: ${command} ${args.join(' ')}${result.error ? ` (${result.error.message})` : ''}`)
    process.exit(result.status || 1)
  }
}

/** Only one at a time: a second one waits for the first, and then has nothing to do. */
async function takeTurn() {
  for (let waited = false; ; waited = true) {
    try {
      const handle = openSync(lock, 'wx')
      writeFileSync(handle, String(process.pid))
      closeSync(handle)
      process.on('exit', () => rmSync(lock, { force: true }))
      for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => process.exit(130))
      return
    } catch (error) {
      if (error.code !== 'EEXIST') throw error
      const holder = Number(readFileSync(lock, { encoding: 'utf8', flag: 'a+' }) || 0)
      const isAlive = holder > 0 && existsSync(`/proc/${holder}`) // without /proc, a minute-old lock is taken to be left over
      if (!isAlive && (existsSync('/proc') || Date.now() - statSync(lock).mtimeMs > 60_000))
        rmSync(lock, { force: true })
      else if (!waited) say('Another preparation is under way: waiting for it.')
      await new Promise((resolve) => setTimeout(resolve, 300))
    }
  }
}

const [major, minor] = process.versions.node.split('.').map(Number)
if (major < 20 || (major === 20 && minor < 19)) {
  say(`Wisteria needs Node.js 20.19 or newer; this is ${process.version}.`)
  process.exit(1)
}
await takeTurn()
const manifests = [
  'package.json',
  'package-lock.json',
  '.npmrc',
  ...packages.map((folder) => join(folder, 'package.json')),
].map((file) => join(root, file))
step(
  'installed',
  hashOf(manifests),
  ['node_modules/sqlite3'],
  'Installing packages (a few minutes the first time: the database driver is compiled)',
  () => {
    const npm = process.env.npm_execpath
    const [command, args] = npm ? [process.execPath, [npm]] : ['npm', []]
    // Compiling the driver with little optimisation saves a minute, most of it for SQLite itself.
    const flags = { CFLAGS: process.env.CFLAGS ?? '-O1', CXXFLAGS: process.env.CXXFLAGS ?? '-O1' }
    run(command, [...args, 'ci', '--include=dev', '--no-audit', '--no-fund', '--loglevel=error'], {
      ...flags,
      npm_config_loglevel: 'error',
    })
  },
)
const isSource = (file) => !/\.test\.ts$/.test(file)
const libraries = packages.filter((folder) => folder !== 'packages/console')
const sources = libraries
  .flatMap((library) => [...filesBelow(join(root, library, 'src')), join(root, library, 'tsconfig.json')])
  .filter(isSource)
const sourceHash = hashOf([...sources, join(root, 'tsconfig.base.json'), ...manifests])
const outputs = libraries.map((library) => join(library, 'dist', 'index.js'))
step('compiled', sourceHash, outputs, 'Compiling', () =>
  run(process.execPath, ['node_modules/typescript/bin/tsc', '-b']),
)
step(
  'bundled',
  sourceHash + hashOf([join(root, 'tools/bundle.mjs')]),
  ['packages/service/dist/bundle/index.js'],
  'Bundling',
  () => run(process.execPath, ['tools/bundle.mjs']),
)
const consoleHash = hashOf(filesBelow(join(root, 'packages/console')).filter(isSource)) + sourceHash
step('console', consoleHash, ['packages/console/dist/index.html'], 'Building the console', () =>
  run(process.execPath, [
    'node_modules/vite/bin/vite.js',
    'build',
    'packages/console',
    '--config',
    'packages/console/vite.config.ts',
    '--logLevel',
    'error',
  ]),
)

/** Debian's packages for tests, by the command that each brings. */
const debian = { chromium: ['chromium', 'fonts-noto-core'], nginx: ['nginx'], varnishd: ['varnish'] }

if (process.argv.includes('--browser')) {
  const isThere = (command) => ['/usr/bin', '/usr/sbin'].some((folder) => existsSync(join(folder, command)))
  const missing = Object.entries(debian).filter(([command]) => !isThere(command))
  const install = `apt-get update && apt-get install -y --no-install-recommends ${missing.flatMap(([, names]) => names).join(' ')}`
  const needed = missing.map(([command]) => command).join(', ')
  if (missing.length > 0 && process.getuid?.() === 0 && existsSync('/usr/bin/apt-get')) {
    say(`Installing ${needed} for the tests…`)
    try {
      execFileSync('sh', ['-c', install], {
        stdio: ['ignore', 'ignore', 2],
        env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
      })
    } catch {
      say(`This could not be installed, and the tests that need it are skipped: ${install}`)
    }
  } else if (missing.length > 0) say(`Some tests need ${needed}, and are skipped: ${install}`)
}
