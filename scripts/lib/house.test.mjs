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

/**
 * What the linter says of these files, in a house of their own.
 * @param {Record<string, string>} files texts by place below `packages`
 * @returns {Promise<Record<string, string[]>>} by place; nothing is said of a place that is not in it
 */
async function saysOf(files) {
  const house = mkdtempSync(join(tmpdir(), 'house-'));
  try {
    const config = {
      plugins: ['import'],
      jsPlugins: [join(ROOT, 'scripts/lib/house-plugin.mjs')],
      categories: { correctness: 'off' },
      overrides: [circleRule, ...houseRules()],
    };
    writeFileSync(join(house, '.oxlintrc.json'), JSON.stringify(config));
    for (const [place, text] of Object.entries(files)) {
      const path = join(house, 'packages', place);
      mkdirSync(dirname(path), { recursive: true });
      writeFileSync(path, text);
    }
    // It ends with 1 where it found something.
    const { stdout } = await run(
      join(ROOT, 'node_modules/.bin/oxlint'),
      ['--config', join(house, '.oxlintrc.json'), '--format', 'json', '.'],
      { cwd: house },
    ).catch((/** @type {{ stdout?: string }} */ failed) => ({ stdout: failed.stdout ?? '' }));
    /** @type {{ diagnostics: { filename: string, code: string, message: string }[] }} */
    const { diagnostics } = JSON.parse(stdout);
    /** @type {Record<string, string[]>} */
    const said = {};
    for (const { filename, code, message } of diagnostics) {
      (said[relative('packages', filename)] ??= []).push(`${code}: ${message}`);
    }
    return said;
  } finally {
    rmSync(house, { recursive: true });
  }
}

/** What it says of files in one folder, one for each text. */
async function saysOfEach(/** @type {string} */ folder, /** @type {readonly string[]} */ texts) {
  const places = texts.map((text, at) => [`${folder}/new-${at}.ts`, text]);
  const said = await saysOf(Object.fromEntries(places));
  return texts.map((_, at) => said[`${folder}/new-${at}.ts`] ?? []);
}
const imports = (/** @type {string} */ what) =>
  `import { x } from '${what}';\nexport const y = x;\n`;

describe('a package', () => {
  const names = /** @type {(keyof typeof packages)[]} */ (Object.keys(packages));
  /** @type {Record<string, string[]>} */
  let said;
  // All at once: to start the linter is most of what it does here.
  beforeAll(async () => {
    const each = names.flatMap((name) =>
      names.map((other) => [`${name}/src/of-${other}.ts`, imports(`@bright-cellar/${other}`)]),
    );
    said = await saysOf(Object.fromEntries(each));
  });
  test.each(names)('%s may import those that are drawn below it, and no other', (name) => {
    const others = names.filter((one) => one !== name);
    const taken = others.filter((other) => !said[`${name}/src/of-${other}.ts`]);
    expect(taken.sort()).toEqual([...packages[name]].sort());
  });

  test('is imported by its name, never by its folder', async () => {
    const said = await saysOf({
      'server/src/new.ts': imports('../../core/src/device.js'),
      'server/src/tickets/new.ts': imports('../../../core/src/x.js'),
    });
    expect(Object.keys(said).sort()).toEqual(['server/src/new.ts', 'server/src/tickets/new.ts']);
  });
});

describe('core', () => {
  const unknown = ['node:fs', 'node:crypto', 'fs', 'react', 'express', 'drizzle-orm', 'left-pad'];
  test('knows the packages that are named, and no other', async () => {
    const said = await saysOfEach(
      'core/src',
      [...unknown, 'zod', 'papaparse', './x.js'].map(imports),
    );
    expect(said.map(({ length }) => length)).toEqual([...unknown.map(() => 1), 0, 0, 0]);
  });

  test('does not hand on what it may not know, nor fetch it later', async () => {
    const said = await saysOfEach('core/src', [
      "export * from 'node:fs';\n",
      "export { readFileSync } from 'node:fs';\n",
      "export const later = () => import('node:fs');\n",
    ]);
    expect(said.map(({ length }) => length)).toEqual([1, 1, 1]);
  });

  test('has no clock, no chance and no Node', async () => {
    const given = 'export const at = (t: string) => new Date(t);\n';
    const read = [
      'new Date()',
      'Date.now()',
      'Math.random()',
      'process.env',
      'setTimeout(() => 1)',
    ];
    const said = await saysOfEach('core/src', [
      ...read.map((what) => `export const x = () => ${what};\n`),
      given,
    ]);
    expect(said.map(({ length }) => length)).toEqual([1, 1, 1, 1, 1, 0]);
  });
});

describe('a room of core', () => {
  test('stands on those that are named, and is entered by its index', async () => {
    const said = await saysOf({
      'core/src/device/new.ts': imports('../ticket/index.js'),
      'core/src/ticket/new.ts': imports('../device/erase.js'),
      'core/src/backup/new.ts': imports('../device/index.js'),
      'core/src/operations/new.ts': imports('../crossing/report.js'),
    });
    expect(Object.keys(said).sort()).toEqual(['core/src/device/new.ts', 'core/src/ticket/new.ts']);
  });
});

describe('a room of the server', () => {
  test('is entered by its index only', async () => {
    const [inside, index, longer] = await saysOfEach('server/src/tickets', [
      imports('../archives/list.js'),
      imports('../archives/index.js'),
      imports('../archives/index.js.js'),
    ]);
    expect(inside).toEqual([
      'house(may-not-import): “../archives/list.js”: Enter a subject by its index.',
    ]);
    expect(index).toEqual([]);
    expect(longer).toHaveLength(1);
  });

  test('is not entered from one that stands below it', async () => {
    const said = await saysOf({
      'server/src/kernel/new.ts': imports('../tickets/index.js'),
      'server/src/archives/new.ts': imports('../tickets/index.js'),
      'server/src/operations/erase/new.ts': imports('../../regular/index.js'),
    });
    expect(Object.values(said).map(({ length }) => length)).toEqual([1, 1, 1]);
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
  test('is read through its store, except where a kind of rack says how', async () => {
    const files = ['node:fs', 'node:fs/promises', 'fs', '../store/read.js'];
    const inRooms = ['open', 'verify', 'care', 'commit', 'pack'].flatMap((room) =>
      files.map((file, at) => [`archive/src/${room}/new-${at}.ts`, imports(file)]),
    );
    const said = await saysOf({
      ...Object.fromEntries(inRooms),
      'archive/src/store/new.ts': imports('node:fs'),
    });
    const refused = inRooms.map(([place = '']) => place).filter((place) => !place.endsWith('3.ts'));
    expect(Object.keys(said).sort()).toEqual(refused.sort());
  });
});

test('a circle is refused, over however many files; types may point back', async () => {
  const said = await saysOf({
    'core/src/one.ts': `${imports('./two.js')}export const x = 1;\n`,
    'core/src/two.ts': `${imports('./three.js')}export const x = 1;\n`,
    'core/src/three.ts': `${imports('./one.js')}`,
    'core/src/four.ts':
      "import type { X } from './five.js';\nexport type Y = X;\nexport const z = 1;\n",
    'core/src/five.ts': "import { z } from './four.js';\nexport type X = typeof z;\n",
  });
  expect(Object.keys(said).sort()).toEqual(
    ['one', 'three', 'two'].map((name) => `core/src/${name}.ts`),
  );
});
