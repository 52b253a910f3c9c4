// Checks that imports point one way, use each package's index, and never form a circle, types included; and that SQL is only in the
// store. Usage: node tools/check-imports.mjs
import { execFileSync } from 'node:child_process'
import { existsSync, readFileSync } from 'node:fs'
import { dirname, join, normalize, relative } from 'node:path'
import { fileURLToPath } from 'node:url'

const root = fileURLToPath(new URL('..', import.meta.url))

/** The packages that each may import. `types`: only types, which are gone at run time. */
const may = {
  core: [],
  store: ['core'],
  service: ['core', 'store'],
  client: ['types core'],
  cli: ['core', 'client', 'service', 'demo'],
  console: ['core', 'client'],
  demo: ['client'],
}
/**
 * The rooms of a package, in order: a room uses only those before it, types too. Files outside the rooms are the package's index,
 * and use all of them.
 */
const rooms = {
  core: [
    'base',
    'text',
    'richtext',
    'locales',
    'fields',
    'access',
    'events',
    'paths',
    'model',
    'conditions',
    'expressions',
    'selection',
    'documents',
    'publishing',
    'segments',
    'entries',
    'imports',
    'automations',
    'modelFiles',
    'adoption',
    'printing',
  ],
  store: [
    'migrations',
    'tables',
    'connection',
    'sites',
    'access',
    'jobs',
    'lists',
    'previews',
    'webhooks',
    'imports',
    'automations',
    'assets',
    'events',
    'entries',
    'publications',
    'projections',
    'references',
    'translations',
    'adoption',
    'listing',
    'archives',
    'retention',
  ],
  service: [
    'kernel',
    'outgoing',
    'worker',
    'tables',
    'jobs',
    'access',
    'assets',
    'read',
    'workingCopies',
    'publishing',
    'entries',
    'lists',
    'imports',
    'translations',
    'ordering',
    'copying',
    'counterparts',
    'model',
    'sites',
    'archives',
    'previews',
    'webhooks',
    'automations',
    'assistants',
    'openapi',
    'operator',
    'http',
  ],
}
/** SQL is only in the store: others call its repositories. */
const sql = /\b(select\s+[\w*.,\s]+\sfrom|insert\s+into|update\s+\w+\s+set|delete\s+from)\s/
/** The longest chain of rooms: whoever changes the last should not need to know more. */
const longestChain = 8
/** Modules that only one command needs are loaded when it runs: the service and the demo. */
const loadedWhenRun = ['service', 'demo']
const runsDemo = 'packages/cli/src/runDemo.ts'
/** Second doors of packages. */
const doors = ['@wisteria/service/options']
/** The core computes, without I/O. */
const forbiddenInCore = /^(node:|fs|http|path|express|sequelize|sqlite3|vue|pino)/

const files = execFileSync('git', ['ls-files', '-co', '--exclude-standard', 'packages', 'demo/src'], {
  cwd: root,
  encoding: 'utf8',
})
  .split('\n')
  .filter(
    (file) =>
      /\.(ts|vue)$/.test(file) && !/\.test\.ts$|\.d\.ts$|\/testing\//.test(file) && existsSync(join(root, file)),
  )
const packageOf = (file) => (file.startsWith('demo/') ? 'demo' : file.split('/')[1])
const problems = []
const graph = new Map()

/** By package: which rooms each room uses. */
const uses = new Map()
const roomOf = (file) => file.split('/src/')[1].split('/').slice(0, -1)[0]
function enter(own, file, target) {
  const [from, to] = [roomOf(file), roomOf(target)]
  const order = rooms[own]
  if (order === undefined || from === to || from === undefined) return
  for (const room of [from, to])
    if (!order.includes(room))
      problems.push(`${file}: ${room ?? 'what opens the package'} is no room that \`rooms\` names`)
  if (order.indexOf(to) > order.indexOf(from)) problems.push(`${file}: ${from} may not use ${to}, which comes after it`)
  const key = `${own}/${from}`
  uses.set(key, (uses.get(key) ?? new Set()).add(`${own}/${to}`))
}

for (const file of files) {
  const text = readFileSync(join(root, file), 'utf8')
  const own = packageOf(file)
  if (own !== 'store') {
    const line = text.split('\n').findIndex((part) => sql.test(part) && !/^\s*(\/?\*|\/\/)/.test(part))
    if (line >= 0) problems.push(`${file}:${line + 1}: SQL stands in the store alone`)
  }
  const near = []
  for (const found of text.matchAll(
    /^\s*(import|export)(\s+type)?\s[^'"`]*?from\s+['"]([^'"]+)['"]|^\s*import\s+['"]([^'"]+)['"]|import\(\s*['"]([^'"]+)['"]\s*\)/gm,
  )) {
    const specifier = found[3] ?? found[4] ?? found[5]
    const isType = found[2] !== undefined
    if (specifier.startsWith('@wisteria/')) {
      const [, name, ...deep] = specifier.split('/')
      if (deep.length > 0 && !doors.includes(specifier))
        problems.push(`${file}: ${specifier} goes past the door of ${name}: import from @wisteria/${name}`)
      const allowed = may[own].includes(name) || (may[own].includes(`types ${name}`) && isType)
      if (!allowed)
        problems.push(
          `${file}: ${own} may not import ${name}${may[own].includes(`types ${name}`) ? ' but for its types' : ''}`,
        )
      const isLoadedAtOnce = !isType && found[5] === undefined && !doors.includes(specifier)
      if (own === 'cli' && loadedWhenRun.includes(name) && isLoadedAtOnce && file !== runsDemo)
        problems.push(`${file}: ${name} is loaded when the command runs: use import()`)
    } else if (specifier.startsWith('.')) {
      const target = normalize(join(dirname(file), specifier)).replace(/\.js$/, '.ts')
      const resolved = [target, `${target}.ts`].find((one) => files.includes(one))
      if (relative(file.split('/src/')[0], target).startsWith('..'))
        problems.push(`${file}: ${specifier} leaves its package`)
      if (resolved) near.push(resolved)
      if (resolved) enter(own, file, resolved)
    } else if (own === 'core' && forbiddenInCore.test(specifier))
      problems.push(`${file}: the core does no I/O, and ${specifier} does`)
  }
  graph.set(file, near)
}

const state = new Map()
function visit(file, trail) {
  if (state.get(file) === 'done') return
  if (state.get(file) === 'open') {
    problems.push(`a circle of imports: ${[...trail.slice(trail.indexOf(file)), file].join(' -> ')}`)
    return
  }
  state.set(file, 'open')
  for (const next of graph.get(file) ?? []) visit(next, [...trail, file])
  state.set(file, 'done')
}
for (const file of graph.keys()) visit(file, [])

function chainFrom(room) {
  const chains = [...(uses.get(room) ?? [])].map(chainFrom)
  return [room, ...(chains.sort((chain, other) => other.length - chain.length)[0] ?? [])]
}
// A circle has no longest chain, and is reported already.
if (problems.length === 0)
  for (const room of uses.keys()) {
    const chain = chainFrom(room)
    if (chain.length > longestChain) problems.push(`a chain of ${chain.length} rooms: ${chain.join(' -> ')}`)
  }

for (const problem of problems) console.error(problem)
console.log(`${files.length} files, ${problems.length} wrong`)
process.exit(problems.length > 0 ? 1 : 0)
