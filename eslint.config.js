// @ts-check
import reactHooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';
import { circleRule, houseRules } from './scripts/lib/house.mjs';

/** Who may import whom, circles, and React's rules. What the types and the language itself say is .oxlintrc.json’s. */
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
  { files: ['**/*.ts', '**/*.tsx'], languageOptions: { parser: tseslint.parser } },
  {
    files: ['packages/web/src/**/*.{ts,tsx}'],
    extends: [reactHooks.configs.flat['recommended-latest']],
    // It warns about what the React compiler would skip; this build does not use that compiler.
    rules: { 'react-hooks/incompatible-library': 'off' },
  },
  circleRule,
  ...houseRules(),
);
