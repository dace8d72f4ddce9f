import { defineConfig } from '@playwright/test';
import journeys from './playwright.config.js';

/** `npm run screenshots`: takes the pictures of the README anew, from the demo’s own data. */
export default defineConfig({ ...journeys, testMatch: 'screenshots.ts', timeout: 600_000 });
