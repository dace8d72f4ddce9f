import { existsSync, mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, test } from 'vitest';
import { inNewFolder } from './onto-rack.js';

describe('the folder that something is taken out into', () => {
  const WANTED = 'extracts/26120001/taken-out-2026-12-02-04-19-34';
  let rack: string;

  beforeEach(() => {
    rack = mkdtempSync(join(tmpdir(), 'rack-'));
  });
  afterEach(() => rmSync(rack, { recursive: true, force: true }));

  test('is nobody else’s, also where several begin in one second', async () => {
    const folders = await Promise.all(
      Array.from({ length: 5 }, () => inNewFolder(rack, WANTED, (folder) => folder)),
    );
    expect(folders.sort()).toEqual([WANTED, ...[2, 3, 4, 5].map((n) => `${WANTED}-${n}`)]);
    for (const folder of folders) expect(existsSync(join(rack, folder))).toBe(true);
  });

  test('goes again where nothing was to be taken out', async () => {
    const refused = new Error('not found');
    const began = inNewFolder(rack, WANTED, () => {
      throw refused;
    });
    await expect(began).rejects.toBe(refused);
    expect(readdirSync(join(rack, 'extracts/26120001'))).toEqual([]);
  });

  test('does not bring back a rack that is gone', async () => {
    rmSync(rack, { recursive: true });
    await expect(inNewFolder(rack, WANTED, () => null)).rejects.toMatchObject({
      problem: { code: 'rack-not-here' },
    });
    expect(existsSync(rack)).toBe(false);
  });
});
