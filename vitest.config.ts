import { defineConfig } from 'vitest/config';
import { BaseSequencer, type TestSpecification } from 'vitest/node';

const source = {
  resolve: { conditions: ['source'] },
  ssr: { resolve: { conditions: ['source'] } },
};

/** A machine that stands still for a while is not the fault of what is waited for; one second is the default. */
const waits = { expect: { poll: { timeout: 30_000 } } };

/** The archive engine, on folders and servers that are cut off in the middle: three quarters of what needs no product. */
const ENGINE = 'packages/{archive,stick}/src/**/*.test.ts';

const inOneProcess = {
  setupFiles: [
    'scripts/lib/fuzz-seed.mjs',
    'scripts/lib/light-passwords.mjs',
    'scripts/lib/bytes-alike.mjs',
  ],
  testTimeout: 300_000,
  hookTimeout: 300_000,
  // Nothing here leaves anything behind in its modules; loading them anew for each file took a third of the time.
  isolate: false,
};

const LONGEST = [
  ...[
    '/work.int',
    '/moves.int',
    '/faults/',
    '/engine.int',
    '/crossing.int',
    '/migration.int',
    '/trust.int',
  ],
  ...['/after-backup.int', '/intake.int', '/look-ins.int', '/extract.int'],
  ...['/brought-back.int', '/lost.int', '/commands.int', '/first-visit.int', '/database-away'],
  ...['/organiser-kinds.int', '/kept.int', '/organiser.int', '/doors.int'],
];

/** What takes longest begins first: begun last, it would go on alone. */
class LongestFirst extends BaseSequencer {
  override async sort(files: TestSpecification[]): Promise<TestSpecification[]> {
    const place = ({ moduleId }: TestSpecification) => {
      const found = LONGEST.findIndex((name) => moduleId.includes(name));
      return found < 0 ? LONGEST.length : found;
    };
    const sorted = await super.sort(files);
    return sorted.sort((one, other) => place(one) - place(other));
  }
}

export default defineConfig({
  test: {
    // The default leaves one of two cores idle.
    maxWorkers: 2,
    sequence: { sequencer: LongestFirst },
    projects: [
      {
        ...source,
        test: {
          ...waits,
          name: 'unit',
          include: ['packages/*/src/**/*.test.ts', 'scripts/**/*.test.mjs'],
          exclude: ['**/*.database.test.ts', '**/node_modules/**', ENGINE],
          ...inOneProcess,
        },
      },
      {
        ...source,
        test: {
          ...waits,
          name: 'engine',
          include: [ENGINE],
          ...inOneProcess,
        },
      },
      {
        ...source,
        test: {
          ...waits,
          name: 'database',
          include: ['packages/server/src/**/*.database.test.ts'],
          globalSetup: ['scripts/lib/test-database.mjs'],
          setupFiles: ['scripts/lib/light-passwords.mjs'],
          testTimeout: 120_000,
          hookTimeout: 60_000,
          isolate: false,
        },
      },
      {
        ...source,
        test: {
          ...waits,
          name: 'screens',
          include: ['packages/web/src/**/*.test.tsx'],
          environment: 'happy-dom',
          setupFiles: ['packages/web/src/testing/setup.ts'],
          testTimeout: 90_000,
          hookTimeout: 90_000,
          isolate: false,
        },
      },
      {
        ...source,
        test: {
          ...waits,
          name: 'benches',
          include: ['e2e/*.bench.ts'],
          testTimeout: 3_600_000,
          hookTimeout: 120_000,
        },
      },
      {
        test: {
          ...waits,
          name: 'integration',
          // What was built runs as it is: nothing of it is made anew for the tests.
          server: { deps: { external: [/\/packages\/[^/]+\/dist\//] } },
          include: ['e2e/**/*.integration.test.ts'],
          setupFiles: ['scripts/lib/bytes-alike.mjs'],
          testTimeout: 600_000,
          hookTimeout: 120_000,
          // Each file starts a product of its own, in processes of its own; what is imported can be shared.
          isolate: false,
        },
      },
    ],
  },
});
