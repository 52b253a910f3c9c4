import js from '@eslint/js'
import prettier from 'eslint-config-prettier'
import vue from 'eslint-plugin-vue'
import globals from 'globals'
import ts from 'typescript-eslint'
import vueParser from 'vue-eslint-parser'

/** A promise that nobody waits for, or that is taken for a value, is where work is lost without a word. */
const promises = {
  '@typescript-eslint/no-floating-promises': 'error',
  '@typescript-eslint/no-misused-promises': ['error', { checksVoidReturn: { attributes: false } }],
  '@typescript-eslint/await-thenable': 'error',
  '@typescript-eslint/only-throw-error': 'error',
  // What was caught is passed on as it is.
  '@typescript-eslint/prefer-promise-reject-errors': ['error', { allowThrowingUnknown: true, allowThrowingAny: true }],
}
const types = {
  '@typescript-eslint/no-unnecessary-type-assertion': 'error',
  '@typescript-eslint/no-redundant-type-constituents': 'error',
  '@typescript-eslint/no-for-in-array': 'error',
  '@typescript-eslint/restrict-plus-operands': 'error',
  '@typescript-eslint/switch-exhaustiveness-check': ['error', { considerDefaultExhaustiveForUnions: true }],
}
/** Where types are known: the types of components are `any` to ESLint. */
const safety = {
  '@typescript-eslint/no-unsafe-argument': 'error',
  '@typescript-eslint/no-unsafe-assignment': 'error',
  '@typescript-eslint/no-unsafe-call': 'error',
  '@typescript-eslint/no-unsafe-member-access': 'error',
  '@typescript-eslint/no-unsafe-return': 'error',
}

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
  ...[
    {
      files: ['packages/{core,store,service,client,cli}/src/**/*.ts', 'demo/src/**/*.ts'],
      ignores: ['**/*.test.ts'],
      project: ['./packages/{core,store,service,client,cli}/tsconfig.json', './demo/tsconfig.json'],
      rules: {
        ...promises,
        ...types,
        ...safety,
        '@typescript-eslint/unbound-method': 'error',
      },
    },
    {
      files: ['**/*.test.ts', 'e2e/**/*.ts'],
      ignores: ['packages/console/**'],
      project: ['./tsconfig.tests.json'],
      rules: { ...promises, ...types, ...safety },
    },
    {
      files: ['packages/console/src/**/*.ts'],
      ignores: [],
      project: ['./packages/console/tsconfig.json'],
      rules: { ...promises, ...types },
    },
  ].map(({ files, ignores, project, rules }) => ({
    files,
    ignores,
    languageOptions: { parserOptions: { project, tsconfigRootDir: import.meta.dirname } },
    rules,
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
