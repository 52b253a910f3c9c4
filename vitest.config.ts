import vue from '@vitejs/plugin-vue'
import { fileURLToPath } from 'node:url'
import { defineConfig } from 'vitest/config'

const source = (name: string, file = 'index') =>
  fileURLToPath(new URL(`./packages/${name}/src/${file}.ts`, import.meta.url))

/** Tests read the packages' sources, so that they never run against an older build. */
const alias = [
  { find: '@wisteria/service/options', replacement: source('service', 'kernel/options') },
  ...['core', 'store', 'service', 'client', 'cli'].map((name) => ({
    find: `@wisteria/${name}`,
    replacement: source(name),
  })),
  { find: '@wisteria/demo', replacement: fileURLToPath(new URL('./demo/src/index.ts', import.meta.url)) },
  // Loaded by its file, or GraphQL would be there twice.
  { find: /^graphql$/, replacement: 'graphql/index.js' },
]

/** Milliseconds for one test: far more than it needs on a busy machine, and for the whole run, which tries far more. */
const testTimeout = process.env['WISTERIA_TEST_FULL'] === '1' ? 1_800_000 : 60_000

export default defineConfig({
  test: {
    // One for each core: Vitest would leave one of two idle.
    maxWorkers: '100%',
    projects: [
      {
        resolve: { alias },
        test: {
          name: 'core',
          include: ['packages/{core,client}/src/**/*.test.ts', 'tools/**/*.test.ts'],
          environment: 'node',
          // Nothing in it lasts beyond a test: it is loaded once, and not once a file.
          isolate: false,
          testTimeout,
        },
      },
      {
        resolve: { alias },
        test: {
          name: 'service',
          include: ['packages/{store,service,cli}/src/**/*.test.ts', 'demo/src/**/*.test.ts', 'e2e/*.test.ts'],
          exclude: ['e2e/*.browser.test.ts', 'e2e/*.kill.test.ts'],
          environment: 'node',
          // Every service is an object of its own, with a folder of its own: loading takes longer than many a file's tests.
          isolate: false,
          testTimeout,
          hookTimeout: 120_000,
        },
      },
      {
        plugins: [vue()],
        resolve: { alias },
        test: {
          name: 'console',
          include: ['packages/console/src/**/*.test.ts'],
          environment: 'happy-dom',
          testTimeout,
        },
      },
      {
        resolve: { alias },
        test: {
          name: 'long',
          include: ['e2e/*.browser.test.ts', 'e2e/*.kill.test.ts'],
          environment: 'node',
          fileParallelism: false,
          // After the others: what is killed and looked at has the machine to itself.
          sequence: { groupOrder: 1 },
          // 200 starts of the service take a busy machine far longer than a quiet one.
          testTimeout: 1_800_000,
          hookTimeout: 120_000,
        },
      },
    ],
  },
})
