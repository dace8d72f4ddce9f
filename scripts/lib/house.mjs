// @ts-check
import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { ROOT } from './setup.mjs';

/** Who may import whom, as docs/architecture.md draws it. A package not named here may be imported by nobody. */
export const packages = /** @type {const} */ ({
  core: [],
  // Tests and benches alone know the stand-ins: racks to try things on.
  archive: ['core', 'rack-stand-ins'],
  'rack-stand-ins': [],
  'device-link': ['core'],
  adapter: ['core', 'device-link'],
  bench: ['core', 'device-link', 'adapter'],
  contract: ['core'],
  look: ['core', 'contract'],
  stick: ['core'],
  server: ['core', 'archive', 'device-link', 'contract', 'look', 'rack-stand-ins'],
  web: ['core', 'contract', 'look', 'stick'],
  cli: ['core', 'archive', 'rack-stand-ins'],
});

/** Packages from the registry that a package without a platform may know. It has no clock and no Node. */
const known = {
  core: [
    ...['zod', '@date-fns/tz', '@zxcvbn-ts/core', '@zxcvbn-ts/language-common'],
    ...[
      '@zxcvbn-ts/language-en',
      'fastest-levenshtein',
      'htmlparser2',
      'ical.js',
      'papaparse',
      'quoted-printable',
      'timezones-ical-library',
      'tinyqueue',
      'vcf',
      'xmlbuilder2',
    ],
  ],
  contract: ['zod'],
  look: ['exifr'],
  stick: ['zod', 'age-encryption', 'fzstd'],
};

/**
 * The rooms of a package, and which other rooms each may enter: by its `index`, nowhere else. `*` is what stands beside the
 * rooms. A room that is not named here may be entered by nobody.
 * @type {Record<string, { open: readonly string[], rooms: Record<string, readonly string[]> }>}
 */
export const rooms = {
  core: {
    // What has parsers behind its index is entered by file as well: screens need its words and shapes only.
    open: ['records', 'formats', 'look', 'crossing', 'extract', 'merge', 'take-out'],
    rooms: {
      values: [],
      permissions: [],
      care: [],
      find: [],
      keep: [],
      rack: [],
      records: [],
      formats: ['records'],
      device: ['values'],
      people: ['values'],
      placement: ['values'],
      archive: ['values', 'device'],
      backup: ['values', 'device'],
      estimate: ['values', 'device'],
      shop: ['values', 'device', 'keep'],
      look: ['values', 'device', 'find', 'records'],
      crossing: ['values', 'device', 'backup', 'records', 'formats'],
      extract: ['records', 'formats', 'look'],
      'take-out': ['records', 'formats', 'extract'],
      merge: ['device', 'records', 'formats', 'look'],
      operations: [
        ...['values', 'device', 'archive', 'backup', 'keep', 'permissions', 'placement'],
        ...['records', 'crossing', 'extract', 'merge'],
      ],
      ticket: ['values', 'device', 'backup', 'operations'],
    },
  },
  contract: { open: ['shapes'], rooms: { shapes: [], routes: ['shapes'] } },
  server: {
    // What all others stand on: not a subject, entered anywhere.
    open: ['database', 'kernel', 'engine', 'http'],
    rooms: {
      database: [],
      kernel: ['database'],
      engine: ['database', 'kernel'],
      http: ['database', 'kernel'],
      agreements: ['database'],
      settings: ['database', 'kernel'],
      people: ['database', 'kernel', 'http', 'settings'],
      audit: ['database', 'kernel', 'http'],
      setup: ['database', 'kernel', 'http', 'people', 'settings'],
      paper: [],
      racks: ['database', 'kernel', 'engine', 'http', 'paper', 'settings'],
      archives: ['database', 'kernel', 'engine', 'racks', 'settings'],
      bench: ['database', 'kernel', 'engine', 'racks', 'settings', 'archives'],
      escrow: ['database', 'kernel', 'agreements', 'archives', 'people', 'racks', 'settings'],
      tickets: [
        ...['database', 'kernel', 'engine', 'http'],
        ...['agreements', 'archives', 'bench', 'escrow', 'keep', 'paper', 'settings'],
      ],
      desk: ['database', 'kernel', 'http', 'settings', 'tickets'],
      plans: [
        ...['database', 'kernel', 'engine'],
        ...['agreements', 'archives', 'bench', 'racks', 'tickets'],
      ],
      keep: ['database', 'kernel', 'http', 'archives', 'paper', 'settings'],
      'look-ins': [
        ...['database', 'kernel', 'engine', 'http'],
        ...['agreements', 'archives', 'paper', 'racks'],
      ],
      partners: ['kernel'],
      moves: ['database', 'racks', 'settings'],
      operations: [
        ...['database', 'kernel', 'engine', 'http'],
        ...['agreements', 'archives', 'bench', 'escrow', 'keep', 'moves', 'partners', 'plans'],
        ...['racks', 'settings', 'tickets'],
      ],
      regular: [
        ...['database', 'kernel', 'engine'],
        ...['agreements', 'archives', 'operations', 'tickets'],
      ],
      care: ['database', 'kernel', 'engine', 'keep', 'operations', 'racks', 'settings'],
      condition: ['database', 'kernel', 'care', 'escrow', 'racks', 'saves', 'settings'],
      day: [
        ...['database', 'kernel', 'engine', 'http'],
        ...['audit', 'care', 'condition', 'keep', 'paper', 'settings', 'tickets'],
      ],
      network: ['database', 'kernel', 'http'],
      reports: ['database', 'engine'],
      saves: ['database', 'kernel', 'racks', 'settings'],
      find: ['archives', 'racks', 'tickets'],
      // Not subjects: each puts together what others are.
      work: [
        'database',
        'kernel',
        'engine',
        'archives',
        'bench',
        'look-ins',
        'operations',
        'plans',
        'racks',
        'settings',
      ],
      demo: ['database', 'kernel', 'archives', 'people', 'racks', 'settings'],
      testing: ['database', 'kernel', 'racks'],
    },
  },
};

const mayNot = (/** @type {string} */ regex, /** @type {string} */ message) => ({ regex, message });

/** @param {keyof typeof packages} name */
function packagePatterns(name) {
  const allowed = /** @type {readonly string[]} */ (packages[name]);
  const others = Object.keys(packages).filter((other) => !allowed.includes(other));
  const patterns = [
    mayNot(
      `^@bright-cellar/(?:${others.join('|')})(?:/|$)`,
      `${name} may import only: ${allowed.join(', ') || 'nothing of this repository'}.`,
    ),
    mayNot(
      `(?:^|/)packages/|^(?:\\.\\./)+(?:${Object.keys(packages).join('|')})/src/`,
      'Import another package by its name.',
    ),
  ];
  if (!(name in known)) return patterns;
  const registry = known[/** @type {keyof typeof known} */ (name)];
  return [
    ...patterns,
    mayNot(
      `^(?!\\.|@bright-cellar/|(?:${registry.map((one) => `${one}$`).join('|')}))`,
      'This package does no I/O, and knows no platform and no packages but those named in scripts/lib/house.mjs.',
    ),
  ];
}

/**
 * What one room of a package may not import: other rooms but those that it may enter, and of those nothing but the entrance.
 * @param {{ open: readonly string[], rooms: Record<string, readonly string[]> }} house
 * @param {string} room
 */
function roomPatterns({ open, rooms: all }, room) {
  const mayEnter = all[room] ?? [];
  const others = Object.keys(all).filter((other) => other !== room);
  const closed = others.filter((other) => !mayEnter.includes(other));
  const isSubject = !composers.includes(room);
  const guarded = isSubject
    ? others.filter((other) => mayEnter.includes(other) && !open.includes(other))
    : [];
  const inside = (/** @type {string[]} */ names, /** @type {string} */ then) =>
    `^(?:\\.\\./)+(?:${names.join('|')})/${then}`;
  return [
    ...(closed.length > 0
      ? [mayNot(inside(closed, ''), `${room} may enter only: ${mayEnter.join(', ')}.`)]
      : []),
    ...(guarded.length > 0
      ? [mayNot(inside(guarded, '(?!index\\.js$)'), 'Enter a subject by its index.')]
      : []),
  ];
}

/**
 * What of the archive knows files of this computer: the kinds of rack, what is being made before it belongs to an archive, and
 * what goes out of one. All else reads a rack through `Store`, wherever that is.
 */
const withFiles = [
  ...[
    'disk/**',
    'store/**',
    'commit/pending.ts',
    'format/sealed-file.ts',
    'open/found-archives.ts',
  ],
  ...['backup-run', 'pending-packs', 'source-file', 'walk', 'workspace'].map((f) => `pack/${f}.ts`),
  ...['open/reading-task.ts', 'unpack/**', 'package/**'],
];

/** Rooms that put others together, and know what is inside. */
const composers = ['work', 'demo'];

const mayNotImport = (/** @type {object[]} */ patterns) => ({
  'house/may-not-import': ['error', { patterns }],
});

const asArgument = 'Take the time, and chance, as an argument.';
const withoutPlatform = {
  'no-restricted-globals': ['error', 'process', 'Buffer', 'setTimeout', 'setInterval'],
  'no-restricted-properties': [
    'error',
    { object: 'Date', property: 'now', message: asArgument },
    { object: 'Math', property: 'random', message: asArgument },
  ],
  'house/no-clock': 'error',
};

/** @typedef {{ files: string[], excludeFiles?: string[], rules: Record<string, unknown> }} Override */

/**
 * The rules of the linter for every package and every room.
 * @returns {Override[]}
 */
export function houseRules() {
  const names = /** @type {(keyof typeof packages)[]} */ (Object.keys(packages));
  return names.flatMap((name) => {
    const source = `packages/${name}/src`;
    const patterns = packagePatterns(name);
    const house = rooms[name];
    /** @type {Override[]} */
    const rules = [{ files: [`${source}/**/*.{ts,tsx}`], rules: mayNotImport(patterns) }];
    if (name in known) {
      const tests = [`${source}/**/*.test.ts`, `${source}/test-*.ts`];
      rules.push(
        { files: [`${source}/**/*.ts`], excludeFiles: tests, rules: withoutPlatform },
        { files: tests, rules: { 'house/may-not-import': 'off' } },
      );
    }
    if (name === 'archive') {
      rules.push({
        files: [`${source}/**/*.ts`],
        excludeFiles: [
          ...withFiles.map((place) => `${source}/${place}`),
          '**/*.test.ts',
          '**/test-*.ts',
        ],
        rules: mayNotImport([
          ...patterns,
          mayNot('^(?:node:)?fs(?:/|$)', 'An archive is read through its store.'),
        ]),
      });
    }
    for (const room of Object.keys(house?.rooms ?? {})) {
      rules.push({
        files: [`${source}/${room}/**/*.ts`],
        excludeFiles: ['**/*.test.ts'],
        rules: mayNotImport([...patterns, ...(house ? roomPatterns(house, room) : [])]),
      });
    }
    return rules;
  });
}

/** Folders of a package that no rule names. */
export function unnamedRooms() {
  return Object.entries(rooms).flatMap(([name, { rooms: all }]) =>
    readdirSync(join(ROOT, 'packages', name, 'src'), { withFileTypes: true })
      .filter((entry) => entry.isDirectory() && !(entry.name in all))
      .map((entry) => `${name}/${entry.name}`),
  );
}

/** No file leads back to itself, over however many others; types may. */
export const circleRule = {
  files: ['packages/*/src/**/*.{ts,tsx}'],
  rules: { 'import/no-cycle': ['error', { ignoreExternal: true }] },
};
