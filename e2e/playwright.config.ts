import { defineConfig } from '@playwright/test';

/** The real browser is Debian's; everything it must not try on a closed network is switched off. */
export default defineConfig({
  testDir: '.',
  // What was built runs as it is.
  build: { external: ['**/packages/*/dist/**'] },
  testMatch: '*.spec.ts',
  outputDir: '../test-results',
  timeout: 300_000,
  expect: { timeout: 60_000 },
  workers: 2,
  fullyParallel: true,
  // A machine that stands still for a while is not the product's fault; a second failure is.
  retries: process.env['CI'] ? 1 : 0,
  reporter: [['list']],
  use: {
    viewport: { width: 1280, height: 800 },
    actionTimeout: 30_000,
    // Recording costs a fifth of the machine: what failed is recorded when it is tried again.
    trace: 'on-first-retry',
    launchOptions: {
      executablePath: '/usr/bin/chromium-headless-shell',
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    },
  },
});
