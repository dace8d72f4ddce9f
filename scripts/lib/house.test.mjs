// @ts-check
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { ESLint } from 'eslint';
import tseslint from 'typescript-eslint';
import { afterAll, describe, expect, test } from 'vitest';
import { circleRule, houseRules, packages, rooms, unnamedRooms } from './house.mjs';
import { ROOT } from './setup.mjs';

const linter = new ESLint({
  cwd: ROOT,
  overrideConfigFile: true,
  overrideConfig: [
    { files: ['**/*.ts', '**/*.tsx'], languageOptions: { parser: tseslint.parser } },
    ...houseRules(),
    circleRule,
  ],
});

/** What the linter says of a file of this text at this place. */
async function saysOf(/** @type {string} */ place, /** @type {string} */ text) {
  const [result] = await linter.lintText(text, { filePath: join(ROOT, 'packages', place) });
  return (result?.messages ?? []).map(({ ruleId, message }) => `${ruleId}: ${message}`);
}
const imports = (/** @type {string} */ what) =>
  `import { x } from '${what}';\nexport const y = x;\n`;

describe('a package', () => {
  const names = /** @type {(keyof typeof packages)[]} */ (Object.keys(packages));
  test.each(names)('%s may import those that are drawn below it, and no other', async (name) => {
    for (const other of names.filter((one) => one !== name)) {
      const said = await saysOf(`${name}/src/new.ts`, imports(`@bright-cellar/${other}`));
      const allowed = /** @type {readonly string[]} */ (packages[name]).includes(other);
      expect(said.length, `${name} → ${other}`).toBe(allowed ? 0 : 1);
    }
  });

  test('is imported by its name, never by its folder', async () => {
    expect(await saysOf('server/src/new.ts', imports('../../core/src/device.js'))).toHaveLength(1);
    expect(
      await saysOf('server/src/tickets/new.ts', imports('../../../core/src/x.js')),
    ).not.toEqual([]);
  });
});

describe('core', () => {
  test.each(['node:fs', 'node:crypto', 'fs', 'react', 'express', 'drizzle-orm', 'left-pad'])(
    'does not know %s',
    async (what) => expect(await saysOf('core/src/new.ts', imports(what))).toHaveLength(1),
  );
  test.each(['zod', 'papaparse', './device.js'])('knows %s', async (what) =>
    expect(await saysOf('core/src/new.ts', imports(what))).toEqual([]),
  );
  test.each(['new Date()', 'Date.now()', 'Math.random()', 'process.env', 'setTimeout(() => 1, 2)'])(
    'has no %s',
    async (what) =>
      expect(await saysOf('core/src/new.ts', `export const x = () => ${what};\n`)).toHaveLength(1),
  );
  test('reads a moment that it is given', async () => {
    expect(
      await saysOf('core/src/new.ts', 'export const at = (t: string) => new Date(t);\n'),
    ).toEqual([]);
  });
});

describe('a room of the server', () => {
  test('is entered by its index only', async () => {
    const inside = imports('../archives/list.js');
    expect(await saysOf('server/src/tickets/new.ts', inside)).toEqual([
      'no-restricted-imports: ' +
        "'../archives/list.js' import is restricted from being used by a pattern. Enter a subject by its index.",
    ]);
    expect(await saysOf('server/src/tickets/new.ts', imports('../archives/index.js'))).toEqual([]);
  });

  test('is not entered from one that stands below it', async () => {
    expect(await saysOf('server/src/kernel/new.ts', imports('../tickets/index.js'))).toHaveLength(
      1,
    );
    expect(await saysOf('server/src/archives/new.ts', imports('../tickets/index.js'))).toHaveLength(
      1,
    );
    expect(
      await saysOf('server/src/operations/erase/new.ts', imports('../../regular/index.js')),
    ).toHaveLength(1);
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
  test.each(['open/new.ts', 'verify/new.ts', 'care/new.ts', 'commit/commit.ts', 'pack/heal.ts'])(
    'is read through its store in %s',
    async (place) => {
      for (const what of ['node:fs', 'node:fs/promises', 'fs']) {
        expect(await saysOf(`archive/src/${place}`, imports(what))).toHaveLength(1);
      }
      expect(await saysOf(`archive/src/${place}`, imports('../store/read.js'))).toEqual([]);
    },
  );

  test('is in files of this computer where a kind of rack says how', async () => {
    expect(await saysOf('archive/src/store/new.ts', imports('node:fs'))).toEqual([]);
  });
});

describe('a circle', () => {
  const folder = mkdtempSync(join(ROOT, 'packages/core/src/circle-'));
  afterAll(() => rmSync(folder, { recursive: true }));
  const write = (/** @type {string} */ name, /** @type {string} */ text) =>
    writeFileSync(join(folder, name), text);

  test('is refused, over however many files; types may point back', async () => {
    write('one.ts', `${imports('./two.js')}export const x = 1;\n`);
    write('two.ts', `${imports('./three.js')}export const x = 1;\n`);
    write('three.ts', `${imports('./one.js')}`);
    write(
      'four.ts',
      "import type { X } from './five.js';\nexport type Y = X;\nexport const z = 1;\n",
    );
    write('five.ts', "import { z } from './four.js';\nexport type X = typeof z;\n");
    const results = await linter.lintFiles([join(folder, '*.ts')]);
    const found = results.flatMap(({ filePath, messages }) =>
      messages.map(({ ruleId }) => `${filePath.split('/').at(-1)} ${ruleId}`),
    );
    expect(found.sort()).toEqual(
      ['one.ts', 'three.ts', 'two.ts'].map((name) => `${name} import-x/no-cycle`),
    );
  });
});
