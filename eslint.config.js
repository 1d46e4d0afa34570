import tseslint from 'typescript-eslint';
import vue from 'eslint-plugin-vue';
import vueParser from 'vue-eslint-parser';

export default [
  { ignores: ['dist/', 'node_modules/', 'demo/data/', 'demo/yard/data/', '.iskel/'] },
  ...tseslint.configs.recommended,
  ...vue.configs['flat/essential'],
  {
    files: ['**/*.vue'],
    languageOptions: { parser: vueParser, parserOptions: { parser: tseslint.parser } },
  },
  {
    rules: {
      'vue/multi-word-component-names': 'off',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      '@typescript-eslint/no-explicit-any': 'error',
      eqeqeq: ['error', 'always', { null: 'ignore' }],
    },
  },
  // What nobody waits for, or throws as something else than an error, is how a process ends. Work that goes on by
  // itself is named by `background` in src/core/background.ts; `void` hides it only in pages, where it ends nothing.
  {
    files: ['src/**/*.{ts,vue}', 'tests/**/*.ts', 'benchmarks/**/*.ts', 'demo/**/*.ts'],
    languageOptions: {
      parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname, extraFileExtensions: ['.vue'] },
    },
    rules: {
      '@typescript-eslint/no-floating-promises': 'error',
      '@typescript-eslint/no-misused-promises': 'error',
      '@typescript-eslint/only-throw-error': 'error',
    },
  },
  {
    files: ['src/{core,browser,server,cli}/**/*.ts'],
    ignores: ['**/*.test.ts'],
    rules: { '@typescript-eslint/no-floating-promises': ['error', { ignoreVoid: false }] },
  },
  // One function expression, sent to the page as text.
  {
    files: [
      'src/browser/observer/{in-page,page-markup,held-values,page-layout,circumstances,nearness,scripted-events,secret-fields,suppressed}.js',
    ],
    rules: { '@typescript-eslint/no-unused-expressions': 'off' },
  },
  { files: ['src/web/**'], rules: { 'vue/no-v-html': 'error' } },
];
