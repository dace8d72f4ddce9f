import { appendFileSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { mkdir, rename } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { Failure } from '@bright-cellar/core';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { sha512sumPasses, withFolder } from '../test-archives.js';
import {
  BAG_INFO,
  BAGIT,
  checkTags,
  MANIFEST,
  parseManifest,
  sha512Of,
  tagFilesOf,
  TAG_MANIFEST,
} from './bag.js';
import { archiveIn } from '../store/archive-files.js';

const ARCHIVE = '1f0c8f2e-92ab-4bb1-8f5c-0d4f6c6f3a11';

/** A small bag in a folder. */
async function makeBag(folder: string): Promise<Map<string, string>> {
  const files = { 'data/a.pack': 'first', 'data/keys/b.age': 'second' };
  const manifest = new Map(Object.entries(files).map(([name, text]) => [name, sha512Of(text)]));
  const tags = tagFilesOf(ARCHIVE, manifest, 11, '2026-03-01');
  for (const [name, text] of [...Object.entries(files), ...tags]) {
    await mkdir(dirname(join(folder, name)), { recursive: true });
    writeFileSync(join(folder, name), text);
  }
  return tags;
}

describe('a bag', () => {
  test('passes sha512sum, payload and tag files', async () => {
    await withFolder(async (folder) => {
      await makeBag(folder);
      expect(sha512sumPasses(folder)).toBe(true);
      rmSync(join(folder, MANIFEST));
      await rename(join(folder, TAG_MANIFEST), join(folder, MANIFEST));
      // Its list of tag files names the manifest, which is gone now.
      expect(sha512sumPasses(folder)).toBe(false);
    });
  });

  test('says what RFC 8493 asks for: version, encoding, and bytes and files of the payload', async () => {
    const tags = tagFilesOf(ARCHIVE, new Map([['data/a', sha512Of('a')]]), 1, '2026-03-01');
    expect(tags.get(BAGIT)).toBe('BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n');
    expect(tags.get(BAG_INFO)).toContain('Payload-Oxum: 1.1\n');
    expect(tags.get(BAG_INFO)).toContain(`External-Identifier: ${ARCHIVE}\n`);
    expect(tags.get(TAG_MANIFEST)).not.toContain(TAG_MANIFEST);
  });

  test('whose tag files differ from what was written says which one', async () => {
    await withFolder(async (folder) => {
      const tags = await makeBag(folder);
      await expect(checkTags(archiveIn(folder))).resolves.toBe(sha512Of(tags.get(MANIFEST) ?? ''));
      for (const name of tags.keys()) {
        const before = readFileSync(join(folder, name));
        appendFileSync(join(folder, name), 'more\n');
        await expect(checkTags(archiveIn(folder)), name).rejects.toThrow(Failure);
        rmSync(join(folder, name));
        await expect(checkTags(archiveIn(folder)), `${name} missing`).rejects.toMatchObject({
          problem: { what: expect.stringContaining(name) as string },
        });
        writeFileSync(join(folder, name), before);
      }
      await expect(checkTags(archiveIn(folder))).resolves.toBeDefined();
    });
  });

  test('whose manifest is a link is refused: it could be changed without the bag', async () => {
    await withFolder(async (folder) => {
      await makeBag(folder);
      await rename(join(folder, MANIFEST), join(folder, 'elsewhere'));
      symlinkSync('elsewhere', join(folder, MANIFEST));
      await expect(checkTags(archiveIn(folder))).rejects.toThrow(Failure);
    });
  });
});

describe('a manifest', () => {
  const name = fc.string({ minLength: 1, unit: 'grapheme' }).filter((s) => /^[^\0\n\r]+$/.test(s));

  test('comes back as it was', () => {
    fc.assert(
      fc.property(fc.uniqueArray(name, { maxLength: 10 }), (names) => {
        const manifest = new Map(names.map((n) => [`data/${n}`, sha512Of(n)]));
        fc.pre([...manifest.keys()].every((n) => !n.split('/').includes('..')));
        const text = tagFilesOf(ARCHIVE, manifest, 0, '2026-03-01').get(MANIFEST) ?? '';
        expect(new Map([...parseManifest(text, MANIFEST)].sort())).toEqual(
          new Map([...manifest].sort()),
        );
      }),
    );
  });

  const sha512 = sha512Of('x');
  test.each([
    ['that leads out of the bag', `${sha512}  data/../../etc/passwd\n`],
    ['with an absolute path', `${sha512}  /etc/passwd\n`],
    ['with a short digest', `${sha512.slice(1)}  data/a\n`],
    ['with a digest in capitals', `${sha512.toUpperCase()}  data/a\n`],
    ['that names a file twice', `${sha512}  data/a\n${sha512}  data/a\n`],
    ['that is no manifest', 'hello\n'],
  ])('%s is refused', (_what, text) => {
    expect(() => parseManifest(text, MANIFEST)).toThrow(Failure);
  });
});
