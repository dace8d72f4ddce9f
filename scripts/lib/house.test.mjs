// @ts-check
import { execFile } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join, relative } from 'node:path';
import { promisify } from 'node:util';
import { beforeAll, describe, expect, test } from 'vitest';
import { circleRule, houseRules, packages, rooms, unnamedRooms } from './house.mjs';
import { ROOT } from './setup.mjs';

const run = promisify(execFile);

/** Texts by place below `packages`: all that the tests ask about, linted at once. To start the linter is most of what it does here. */
const asked = /** @type {Record<string, string>} */ ({});
/** By place; nothing is said of a place that is not in it. */
const said = /** @type {Record<string, string[]>} */ ({});

beforeAll(async () => {
  const house = mkdtempSync(join(tmpdir(), 'house-'));
  try {
    const config = {
      plugins: ['import'],
      jsPlugins: [join(ROOT, 'scripts/lib/house-plugin.mjs')],
      categories: { correctness: 'off' },
      overrides: [circleRule, ...houseRules()],
    };
    writeFileSync(join(house, '.oxlintrc.json'), JSON.stringify(config));
    for (const [place, text] of Object.entries(asked)) {
      const path = join(house, 'packages', place);
      mkdirSync(dirname(path), { recursive: true });
      writeFileSync(path, text);
    }
    // It ends with 1 where it found something.
    const { stdout } = await run(
      join(ROOT, 'node_modules/.bin/oxlint'),
      ['--config', join(house, '.oxlintrc.json'), '--format', 'json', '.'],
      { cwd: house, maxBuffer: 64e6 },
    ).catch((/** @type {{ stdout?: string }} */ failed) => ({ stdout: failed.stdout ?? '' }));
    /** @type {{ diagnostics: { filename: string, code: string, message: string }[] }} */
    const { diagnostics } = JSON.parse(stdout);
    for (const { filename, code, message } of diagnostics) {
      (said[relative('packages', filename)] ??= []).push(`${code}: ${message}`);
    }
  } finally {
    rmSync(house, { recursive: true });
  }
});

/**
 * Asks about files; called before any test begins.
 * @param {Record<string, string>} files texts by place below `packages`
 * @returns what tells in a test which of them the linter refuses, in order
 */
function refusedOf(files) {
  const places = Object.keys(files);
  const twice = places.filter((place) => place in asked);
  if (twice.length > 0) throw new Error(`asked about twice: ${twice.join(', ')}`);
  Object.assign(asked, files);
  return () => places.filter((place) => said[place]).sort();
}

/**
 * Asks about files in one folder, one for each text; called before any test begins.
 * @param {string} folder
 * @param {readonly string[]} texts
 * @returns what tells in a test what is said of each
 */
function saysOfEach(folder, texts) {
  const from = Object.keys(asked).length;
  const places = texts.map((_, at) => `${folder}/new-${from + at}.ts`);
  refusedOf(Object.fromEntries(places.map((place, at) => [place, texts[at] ?? ''])));
  return () => places.map((place) => said[place] ?? []);
}
const imports = (/** @type {string} */ what) =>
  `import { x } from '${what}';\nexport const y = x;\n`;

describe('a package', () => {
  const names = /** @type {(keyof typeof packages)[]} */ (Object.keys(packages));
  describe.each(names)('%s', (name) => {
    const others = names.filter((one) => one !== name);
    const below = /** @type {readonly string[]} */ (packages[name]);
    const place = (/** @type {string} */ other) => `${name}/src/of-${other}.ts`;
    const each = others.map((other) => [place(other), imports(`@bright-cellar/${other}`)]);
    const refused = refusedOf(Object.fromEntries(each));
    test('may import those that are drawn below it, and no other', () => {
      const above = others.filter((other) => !below.includes(other));
      expect(refused()).toEqual(above.map(place).sort());
    });
  });

  const byFolder = {
    'server/src/new.ts': imports('../../core/src/device.js'),
    'server/src/tickets/new.ts': imports('../../../core/src/x.js'),
  };
  const refused = refusedOf(byFolder);
  test('is imported by its name, never by its folder', () => {
    expect(refused()).toEqual(Object.keys(byFolder));
  });
});

describe('core', () => {
  const unknown = ['node:fs', 'node:crypto', 'fs', 'react', 'express', 'drizzle-orm', 'left-pad'];
  const knows = saysOfEach('core/src', [...unknown, 'zod', 'papaparse', './x.js'].map(imports));
  test('knows the packages that are named, and no other', () => {
    expect(knows().map(({ length }) => length)).toEqual([...unknown.map(() => 1), 0, 0, 0]);
  });

  const handsOn = saysOfEach('core/src', [
    "export * from 'node:fs';\n",
    "export { readFileSync } from 'node:fs';\n",
    "export const later = () => import('node:fs');\n",
  ]);
  test('does not hand on what it may not know, nor fetch it later', () => {
    expect(handsOn().map(({ length }) => length)).toEqual([1, 1, 1]);
  });

  const read = ['new Date()', 'Date.now()', 'Math.random()', 'process.env', 'setTimeout(() => 1)'];
  const clocks = saysOfEach('core/src', [
    ...read.map((what) => `export const x = () => ${what};\n`),
    'export const at = (t: string) => new Date(t);\n',
  ]);
  test('has no clock, no chance and no Node', () => {
    expect(clocks().map(({ length }) => length)).toEqual([1, 1, 1, 1, 1, 0]);
  });
});

describe('a room of core', () => {
  const refused = refusedOf({
    'core/src/device/new.ts': imports('../ticket/index.js'),
    'core/src/ticket/new.ts': imports('../device/erase.js'),
    'core/src/backup/new.ts': imports('../device/index.js'),
    'core/src/operations/new.ts': imports('../crossing/report.js'),
  });
  test('stands on those that are named, and is entered by its index', () => {
    expect(refused()).toEqual(['core/src/device/new.ts', 'core/src/ticket/new.ts']);
  });
});

describe('a room of the server', () => {
  const ways = ['../archives/list.js', '../archives/index.js', '../archives/index.js.js'];
  const entered = saysOfEach('server/src/tickets', ways.map(imports));
  test('is entered by its index only', () => {
    const [inside, index, longer] = entered();
    expect(inside).toEqual([
      'house(may-not-import): “../archives/list.js”: Enter a subject by its index.',
    ]);
    expect(index).toEqual([]);
    expect(longer).toHaveLength(1);
  });

  const fromBelow = {
    'server/src/archives/new.ts': imports('../tickets/index.js'),
    'server/src/kernel/new.ts': imports('../tickets/index.js'),
    'server/src/operations/erase/new.ts': imports('../../regular/index.js'),
  };
  const refused = refusedOf(fromBelow);
  test('is not entered from one that stands below it', () => {
    expect(refused()).toEqual(Object.keys(fromBelow));
  });

  test('is named in the table, each of them', () => {
    expect(unnamedRooms()).toEqual([]);
  });

  test('may enter none that may enter it, over however many others', () => {
    for (const { rooms: all } of Object.values(rooms)) {
      const reached = (/** @type {string} */ from, /** @type {Set<string>} */ seen = new Set()) => {
        for (const next of all[from] ?? []) {
          if (seen.has(next)) continue;
          seen.add(next);
          reached(next, seen);
        }
        return seen;
      };
      for (const room of Object.keys(all)) expect([...reached(room)], room).not.toContain(room);
    }
  });
});

describe('an archive', () => {
  const files = ['node:fs', 'node:fs/promises', 'fs', '../store/read.js'];
  const inRooms = ['open', 'verify', 'care', 'commit', 'pack'].flatMap((room) =>
    files.map((file, at) => [`archive/src/${room}/new-${at}.ts`, imports(file)]),
  );
  const refused = refusedOf({
    ...Object.fromEntries(inRooms),
    'archive/src/store/new.ts': imports('node:fs'),
  });
  test('is read through its store, except where a kind of rack says how', () => {
    const direct = inRooms.map(([place = '']) => place).filter((place) => !place.endsWith('3.ts'));
    expect(refused()).toEqual(direct.sort());
  });
});

describe('a circle', () => {
  const refused = refusedOf({
    'core/src/one.ts': `${imports('./two.js')}export const x = 1;\n`,
    'core/src/two.ts': `${imports('./three.js')}export const x = 1;\n`,
    'core/src/three.ts': `${imports('./one.js')}`,
    'core/src/four.ts':
      "import type { X } from './five.js';\nexport type Y = X;\nexport const z = 1;\n",
    'core/src/five.ts': "import { z } from './four.js';\nexport type X = typeof z;\n",
  });
  test('is refused, over however many files; types may point back', () => {
    expect(refused()).toEqual(['one', 'three', 'two'].map((name) => `core/src/${name}.ts`));
  });
});
