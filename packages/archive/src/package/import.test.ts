import { existsSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Blake2BHasher } from '@napi-rs/blake-hash';
import { Encrypter } from 'age-encryption';
import { pack as tarPack } from 'tar-stream';
import { expect, test } from 'vitest';
import { ESCROW, IDENTITY, opened, refusal, withFolder, withIt } from '../test-archives.js';
import { checksumLine } from './export.js';
import { importPackage } from './import.js';
import { archiveIn } from '../store/archive-files.js';

const TOP = 'backup-2026-11-27-0000';
const files = { 'contents/notes/one.txt': 'the first', 'contents/notes/two.txt': 'and another' };
const truth = { items: 2, bytes: 'the first'.length + 'and another'.length };

/** A package that anybody could have made: only what it announces of itself is theirs to choose. */
async function packageThatSays(announced: Partial<typeof truth>): Promise<Buffer> {
  const tar = tarPack();
  const about = {
    ...{ format: 'bright-cellar-package', version: 1, takenAt: '2026-11-27T12:00:00.000Z' },
    ...{ label: '', ticket: '', device: null, ...truth, ...announced },
  };
  tar.entry({ name: `${TOP}/about.json` }, JSON.stringify(about));
  const checksums: Buffer[] = [];
  for (const [name, contents] of Object.entries(files)) {
    tar.entry({ name: `${TOP}/${name}` }, contents);
    const digest = new Blake2BHasher().update(Buffer.from(contents)).digestBuffer();
    checksums.push(checksumLine(digest, name));
  }
  tar.entry({ name: `${TOP}/checksums.b2` }, Buffer.concat(checksums));
  tar.finalize();
  const pieces: Buffer[] = [];
  for await (const piece of tar as AsyncIterable<Buffer>) pieces.push(piece);
  const encrypter = new Encrypter();
  encrypter.addRecipient(ESCROW);
  return Buffer.from(await encrypter.encrypt(Buffer.concat(pieces)));
}

test.each<[string, Partial<typeof truth>, string]>([
  ['what is in it', {}, 'none'],
  ['an item more than is in it', { items: 3 }, 'package-damaged'],
  ['an item less', { items: 1 }, 'package-damaged'],
  ['a byte more', { bytes: truth.bytes + 1 }, 'package-damaged'],
  ['nothing', { items: 0, bytes: 0 }, 'package-damaged'],
])('a package that announces %s', async (_, announced, outcome) => {
  await withFolder(async (folder) => {
    const from = join(folder, 'package.tar.age');
    const archive = join(folder, 'archive');
    writeFileSync(from, await packageThatSays(announced));
    const taken = importPackage({
      ...{
        from,
        packageSecret: { identity: IDENTITY },
        files: archiveIn(archive),
        secret: withIt,
        threads: 0,
      },
    });
    expect(await refusal(taken)).toBe(outcome);
    // Refused, nothing of it has the archive's name.
    expect(existsSync(archive)).toBe(outcome === 'none');
    if (outcome !== 'none') return;
    const { end } = await opened(archive, async (open) => open.latest(), withIt);
    expect(end).toMatchObject(truth);
  });
});
