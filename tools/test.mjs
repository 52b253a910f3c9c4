// Runs every test and closes with one plain line: "N passed, N failed". Arguments are passed to Vitest. With --full, tests run
// their long versions: 200 kills, long random runs. With --checks, types, lint, formatting and import directions are checked first,
// each counting as a test.
import { spawn, spawnSync } from 'node:child_process'
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { availableParallelism, tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'

const root = fileURLToPath(new URL('..', import.meta.url))
const args = process.argv.slice(2)
let passed = 0
let failed = 0
const badChecks = []

const environment = args.includes('--full') ? { ...process.env, WISTERIA_TEST_FULL: '1' } : process.env
const run = (script, more) =>
  spawnSync(process.execPath, [join(root, 'node_modules', script), ...more], {
    cwd: root,
    stdio: 'inherit',
    env: environment,
  }).status === 0

/** Runs a script beside others. @returns whether it succeeded, and its output. */
const runBeside = (script, more) =>
  new Promise((resolve) => {
    const child = spawn(process.execPath, [join(root, 'node_modules', script), ...more], {
      cwd: root,
      env: environment,
    })
    let said = ''
    for (const stream of [child.stdout, child.stderr]) stream.on('data', (text) => (said += text))
    child.on('close', (code) => resolve({ isGood: code === 0, said }))
  })

if (args.includes('--checks')) {
  // Outputs that others read are made first; the longest of the others starts first.
  const rounds = [
    [['types of the packages', 'typescript/bin/tsc', ['-b']]],
    [
      ['lint', 'eslint/bin/eslint.js', ['.']],
      ['types of the tests', 'typescript/bin/tsc', ['-p', 'tsconfig.tests.json']],
      ['types of the console', 'vue-tsc/bin/vue-tsc.js', ['--noEmit', '-p', 'packages/console']],
      ['format', 'prettier/bin/prettier.cjs', ['--check', '--log-level', 'warn', '.']],
      ['import directions', '../tools/check-imports.mjs', []],
      ['reference is current', '../tools/reference.mjs', ['--check']],
    ],
  ]
  for (const round of rounds) {
    const left = [...round]
    const work = async () => {
      for (let check = left.shift(); check; check = left.shift()) {
        const [name, script, more] = check
        const { isGood, said } = await runBeside(script, more)
        process.stdout.write(said)
        console.log(`${isGood ? 'good' : 'BAD '}  ${name}`)
        if (isGood) passed++
        else {
          failed++
          badChecks.push(name)
        }
      }
    }
    await Promise.all(Array.from({ length: Math.min(2, availableParallelism()) }, work))
  }
}

const folder = mkdtempSync(join(tmpdir(), 'wisteria-tests-'))
const report = join(folder, 'report.json')
const more = args.filter((arg) => arg !== '--checks' && arg !== '--full')
const isGood = run('vitest/vitest.mjs', [
  'run',
  '--reporter=default',
  '--reporter=json',
  `--outputFile.json=${report}`,
  ...more,
])
if (existsSync(report)) {
  const { numPassedTests, numFailedTests, testResults } = JSON.parse(readFileSync(report, 'utf8'))
  passed += numPassedTests
  // A file that cannot even be loaded has no tests to fail, and has failed all the same.
  failed +=
    numFailedTests + testResults.filter((file) => file.status === 'failed' && file.assertionResults.length === 0).length
}
rmSync(folder, { recursive: true, force: true })
if (!isGood && failed === 0) failed = 1
// Repeated at the end: the first print is some thousand lines above.
for (const name of badChecks) console.log(`BAD   ${name}`)
console.log(`${passed} passed, ${failed} failed`)
process.exit(failed > 0 ? 1 : 0)
