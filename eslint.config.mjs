import vue from 'eslint-plugin-vue';
import tseslint from 'typescript-eslint';

export default tseslint.config(
  {
    ignores: [
      '**/built/**',
      'packages/screen/assembly/',
      'dist/',
      'node_modules/',
      '.cache/',
      '**/*.d.ts',
      '*.cjs',
      'scripts/',
      '**/vite.config.ts',
    ],
  },
  ...tseslint.configs.strict,
  ...vue.configs['flat/recommended'],
  {
    // No promise without an owner: it is awaited, has a handler, or is handed to whoever hears of its end.
    files: ['**/*.ts', '**/*.vue'],
    languageOptions: {
      parserOptions: {
        project: './tsconfig.json',
        tsconfigRootDir: import.meta.dirname,
        extraFileExtensions: ['.vue'],
      },
    },
    rules: { '@typescript-eslint/no-floating-promises': ['error', { ignoreVoid: false, ignoreIIFE: false }] },
  },
  {
    // The X server is talked to in one place.
    files: ['apps/**/*.ts', 'packages/**/*.ts', 'demo/**/*.ts'],
    ignores: ['apps/doorstep/src/x11/**'],
    rules: { 'no-restricted-imports': ['error', { paths: ['x11'] }] },
  },
  {
    // Tables stay with whoever owns them, and with the service.
    files: ['apps/**/*.ts', 'apps/**/*.vue', 'packages/**/*.ts'],
    ignores: ['apps/service/**', 'apps/doorstep/src/x11/**'],
    rules: { 'no-restricted-imports': ['error', { paths: ['x11', 'typeorm'] }] },
  },
  {
    // Time and chance are handed in (`Clock`, `Randomness`), so that a test can hand in its own.
    files: [
      'packages/core/src/**/*.ts',
      'packages/client/src/**/*.ts',
      'packages/host/src/**/*.ts',
      'apps/service/src/modules/live/**/*.ts',
    ],
    ignores: ['**/*.test.ts'],
    rules: {
      'no-restricted-globals': ['error', 'setTimeout', 'setInterval', 'setImmediate', 'performance', 'crypto'],
      'no-restricted-properties': [
        'error',
        { object: 'Date', property: 'now', message: 'Time is handed in: see Clock.' },
        { object: 'Math', property: 'random', message: 'Randomness is handed in.' },
      ],
    },
  },
  {
    languageOptions: { parserOptions: { parser: tseslint.parser } },
    rules: {
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      '@typescript-eslint/no-dynamic-delete': 'off',
      '@typescript-eslint/no-invalid-void-type': 'off',
      'no-console': 'error',
      eqeqeq: 'error',
      // Prettier has the last word on layout.
      'vue/max-attributes-per-line': 'off',
      'vue/singleline-html-element-content-newline': 'off',
      'vue/html-self-closing': 'off',
      'vue/multi-word-component-names': 'off',
      'vue/html-indent': 'off',
      'vue/html-closing-bracket-newline': 'off',
      'vue/multiline-html-element-content-newline': 'off',
      'vue/attributes-order': 'off',
      'vue/no-undef-components': 'off',
    },
  },
);
