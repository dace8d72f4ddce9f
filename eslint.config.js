// @ts-check
import eslint from '@eslint/js';
import reactHooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';

/** Who may import whom, as docs/architecture.md draws it. A package not named here may be imported by nobody. */
const mayImport = {
  core: [],
  archive: ['core'],
  'device-link': ['core'],
  bench: ['core', 'device-link'],
  contract: ['core'],
  server: ['core', 'archive', 'device-link', 'contract'],
  web: ['core', 'contract'],
  cli: ['core', 'archive'],
};
const everyPackage = Object.keys(mayImport);

/** What only some packages may know: `core` runs in a browser and a server alike, `contract` with it. */
const runsAnywhere = ['core', 'contract'];
const outsideWorld = {
  group: ['node:*', 'fs', 'path', 'crypto', 'react', 'react-*', 'express', 'drizzle-orm*'],
  message: 'This package does no I/O and knows no platform.',
};

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
  ...Object.entries(mayImport).map(([name, allowed]) => ({
    files: [`packages/${name}/src/**/*.{ts,tsx}`],
    rules: {
      'no-restricted-imports': [
        'error',
        {
          patterns: [
            {
              group: everyPackage
                .filter((other) => !allowed.includes(/** @type {never} */ (other)))
                .flatMap((other) => [`@bright-cellar/${other}`, `@bright-cellar/${other}/*`]),
              message: `${name} may import only: ${allowed.join(', ') || 'nothing of this repository'}.`,
            },
            {
              group: ['**/packages/*', '../../../*/src/*'],
              message: 'Import another package by its name.',
            },
            ...(runsAnywhere.includes(name) ? [outsideWorld] : []),
          ],
        },
      ],
    },
  })),
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
