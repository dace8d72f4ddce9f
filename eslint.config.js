// @ts-check
import eslint from '@eslint/js';
import reactHooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';
import { circleRule, houseRules } from './scripts/lib/house.mjs';

export default tseslint.config(
  {
    ignores: [
      '**/dist/',
      '**/node_modules/',
      '.cellar/',
      'test-results/',
      'packages/server/migrations/',
    ],
  },
  eslint.configs.recommended,
  {
    files: ['**/*.ts', '**/*.tsx'],
    ignores: ['**/*.config.ts'],
    extends: [tseslint.configs.strictTypeChecked, tseslint.configs.stylisticTypeChecked],
    languageOptions: {
      parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname },
    },
    rules: {
      // To look for enums, of which there is none, and for instances takes nearly half of all the time.
      '@typescript-eslint/no-unsafe-enum-assignment': 'off',
      '@typescript-eslint/no-unsafe-class-instance-assignment': 'off',
      '@typescript-eslint/no-confusing-void-expression': 'off',
      '@typescript-eslint/restrict-template-expressions': ['error', { allowNumber: true }],
      '@typescript-eslint/no-empty-function': 'off',
      '@typescript-eslint/consistent-type-definitions': 'off',
      // `async` on purpose: an interface that promises must not throw before it promises.
      '@typescript-eslint/require-await': 'off',
      '@typescript-eslint/no-unused-vars': [
        'error',
        { argsIgnorePattern: '^_', varsIgnorePattern: '^_' },
      ],
      'no-console': 'error',
    },
  },
  {
    files: ['packages/web/src/**/*.{ts,tsx}'],
    extends: [reactHooks.configs.flat['recommended-latest']],
    // It warns about what the React compiler would skip; this build does not use that compiler.
    rules: { 'react-hooks/incompatible-library': 'off' },
  },
  circleRule,
  ...houseRules(),
  {
    files: ['**/*.mjs', 'packages/bench/tray/*.js', '*.js'],
    languageOptions: {
      globals: {
        process: false,
        AbortController: false,
        console: false,
        fetch: false,
        setTimeout: false,
        clearTimeout: false,
        URL: false,
        document: false,
        HTMLInputElement: false,
        HTMLElement: false,
        EventSource: false,
        Buffer: false,
        Node: false,
      },
    },
  },
);
