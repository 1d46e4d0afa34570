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
  // One function expression, sent to the page as text.
  { files: ['src/browser/observer/{in-page,page-markup,held-values}.js'], rules: { '@typescript-eslint/no-unused-expressions': 'off' } },
  { files: ['src/web/**'], rules: { 'vue/no-v-html': 'error' } },
];
