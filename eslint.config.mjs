import js from '@eslint/js'
import prettier from 'eslint-config-prettier'
import vue from 'eslint-plugin-vue'
import globals from 'globals'
import ts from 'typescript-eslint'
import vueParser from 'vue-eslint-parser'

export default ts.config(
  { ignores: ['**/dist/**', 'packages/client/package/**', '**/node_modules/**', 'data/**', 'coverage/**'] },
  js.configs.recommended,
  ...ts.configs.recommended,
  ...vue.configs['flat/recommended'],
  prettier,
  {
    languageOptions: { globals: { ...globals.node } },
    rules: {
      eqeqeq: ['error', 'always', { null: 'ignore' }],
      'no-console': 'error',
      'no-control-regex': 'off',
      '@typescript-eslint/no-unused-vars': [
        'error',
        { varsIgnorePattern: '^_', argsIgnorePattern: '^_', destructuredArrayIgnorePattern: '^_' },
      ],
      '@typescript-eslint/consistent-type-imports': 'error',
    },
  },
  // A promise that nobody waits for, or that is taken for a value, is where work is lost without a word.
  ...[
    {
      files: ['packages/{core,store,service,client,cli}/src/**/*.ts', 'demo/src/**/*.ts'],
      ignores: ['**/*.test.ts'],
      project: ['./packages/{core,store,service,client,cli}/tsconfig.json', './demo/tsconfig.json'],
    },
    { files: ['**/*.test.ts', 'e2e/**/*.ts'], ignores: ['packages/console/**'], project: ['./tsconfig.tests.json'] },
    {
      files: ['packages/console/src/**/*.ts'],
      ignores: [],
      project: ['./packages/console/tsconfig.json'],
    },
  ].map(({ files, ignores, project }) => ({
    files,
    ignores,
    languageOptions: {
      parserOptions: { project, tsconfigRootDir: import.meta.dirname },
    },
    rules: {
      '@typescript-eslint/no-floating-promises': 'error',
      '@typescript-eslint/no-misused-promises': ['error', { checksVoidReturn: { attributes: false } }],
    },
  })),
  { files: ['tools/**', 'bench/**', 'e2e/**', 'demo/**', 'examples/**'], rules: { 'no-console': 'off' } },
  { files: ['tools/screenshots.mjs'], languageOptions: { globals: { ...globals.browser } } },
  {
    files: ['packages/console/**', 'demo/site/**', 'examples/browser/**'],
    languageOptions: { globals: { ...globals.browser } },
  },
  {
    files: ['**/*.vue'],
    languageOptions: { parser: vueParser, parserOptions: { parser: ts.parser, sourceType: 'module' } },
    // The compiler of the console checks names; ESLint does not know the DOM's types.
    rules: { 'no-undef': 'off', 'vue/require-default-prop': 'off' },
  },
)
