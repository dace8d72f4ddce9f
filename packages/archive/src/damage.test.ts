import { cpSync, readFileSync, statSync, truncateSync, writeFileSync } from 'node:fs';
import { randomBytes } from 'node:crypto';
import { join } from 'node:path';
import fc from 'fast-check';
import { Failure } from '@bright-cellar/core';
import { describe, expect, test } from 'vitest';
import { repairFrom } from './care/repair.js';
import { decodeLines } from './format/backup-lines.js';
import { parseManifest } from './format/bag.js';
import { decodeBlocks } from './format/chunk-index.js';
import { compress, decompress } from './format/compression.js';
import { nameOfText, textOfName } from './format/names.js';
import { FRAME_HEAD_BYTES, readFrameHead } from './format/sealed.js';
import { SealedReader, SealedWriter } from './format/sealed-file.js';
import { ArchiveKey } from './keys/archive-key.js';
import { openAge } from './package/age-payload.js';
import { namesOf } from './open/archive-contents.js';
import {
  opened,
  pack,
  refusal,
  treeOf,
  withFolder,
  writeTree,
  payloadOf,
} from './test-archives.js';
import { unpackBackup } from './unpack/unpack.js';
import { readProofs, recordProof } from './verify/proofs.js';
import { verifyOpen, verifySealed } from './verify/verify.js';
import { FolderFiles } from './store/folder-files.js';
import { archiveIn } from './store/archive-files.js';

const sealed = (folder: string) => verifySealed(archiveIn(folder), { level: 'bytes', threads: 0 });
const fully = (folder: string) =>
  opened(folder, (archive) => verifyOpen(archive, { level: 'full', threads: 0 }));

function flip(path: string, at: number, bit = 0): void {
  const bytes = readFileSync(path);
  bytes.writeUInt8(bytes.readUInt8(at) ^ (1 << bit), at);
  writeFileSync(path, bytes);
}

/** An archive of two backups that share some of their contents, and a copy of it. */
async function withTwo(
  use: (archive: string, copy: string, folder: string) => Promise<void>,
): Promise<void> {
  await withFolder(async (folder) => {
    const source = join(folder, 'source');
    await writeTree(source, {
      'photographs/shared.jpg': randomBytes(400_000),
      'notes/1.txt': 'one',
      'notes/2.txt': 'two',
    });
    const archive = join(folder, 'archive');
    await pack(source, archive);
    await writeTree(source, { 'photographs/later.jpg': randomBytes(300_000) });
    await pack(source, archive);
    const copy = join(folder, 'copy');
    cpSync(archive, copy, { recursive: true });
    await use(archive, copy, folder);
  });
}

describe('one flipped bit', () => {
  test('anywhere in a bag is found without the password and named by file; a copy repairs it', async () => {
    await withTwo(async (archive, copy) => {
      expect(await sealed(archive)).toMatchObject({ whole: true, damagedFiles: [] });
      const names = [
        ...(await payloadOf(archive)),
        'manifest-sha512.txt',
        'tagmanifest-sha512.txt',
        'bag-info.txt',
      ];
      await fc.assert(
        fc.asyncProperty(
          fc.constantFrom(...names),
          fc.double({ min: 0, max: 1, maxExcluded: true, noNaN: true }),
          fc.integer({ min: 0, max: 7 }),
          async (name, where, bit) => {
            const path = join(archive, name);
            flip(path, Math.floor(where * statSync(path).size), bit);
            const report = await sealed(archive);
            expect(report.whole).toBe(false);
            expect(report.damagedFiles).not.toEqual([]);
            if (name.startsWith('data/')) expect(report.damagedFiles).toEqual([name]);
            const { stillDamaged } = await repairFrom(archiveIn(archive), archiveIn(copy), {
              threads: 0,
            });
            expect(stillDamaged).toEqual([]);
            expect(await sealed(archive)).toMatchObject({ whole: true });
          },
        ),
        { numRuns: 30, endOnFailure: true },
      );
      expect(treeOf(archive)).toMatchObject({});
    });
  });

  test('in a pack is named, by item and backup, to whoever has the password; all others are restored', async () => {
    await withTwo(async (archive, _copy, folder) => {
      const [first] = namesOf('pack', await payloadOf(archive));
      const packs = namesOf('pack', await payloadOf(archive));
      const large =
        packs.find((name) => statSync(join(archive, name)).size > 390_000) ?? first ?? '';
      flip(join(archive, large), 100_000);
      const report = await fully(archive);
      expect(report.damagedFiles).toEqual([large]);
      expect(new Set(report.contents?.damaged.map(({ path }) => path))).toEqual(
        new Set(['photographs/shared.jpg']),
      );
      expect(report.contents?.damaged).toHaveLength(2);
      const result = await opened(archive, async (open) =>
        unpackBackup({
          archive: open,
          backup: (await open.backups()).summaries.at(-1)?.header.backup ?? '',
          to: join(folder, 'out'),
        }),
      );
      expect(result.damaged).toEqual(['photographs/shared.jpg']);
      expect(result.items).toBe(5);
    });
  });

  test('in both copies at the same place is said, and nothing is made worse', async () => {
    await withTwo(async (archive, copy) => {
      const [name = ''] = namesOf('pack', await payloadOf(archive));
      for (const each of [archive, copy]) flip(join(each, name), 50);
      expect(await repairFrom(archiveIn(archive), archiveIn(copy), { threads: 0 })).toEqual({
        repaired: [],
        stillDamaged: [name],
      });
    });
  });

  test('a copy of another archive repairs nothing', async () => {
    await withTwo(async (archive, _copy, folder) => {
      await writeTree(join(folder, 'else'), { a: 'x' });
      await pack(join(folder, 'else'), join(folder, 'another'));
      expect(
        await refusal(
          repairFrom(archiveIn(archive), archiveIn(join(folder, 'another')), { threads: 0 }),
        ),
      ).toBe('archive-of-another');
    });
  });
});

describe('a file cut short, missing, or added', () => {
  test('is found at every level', async () => {
    await withTwo(async (archive, copy) => {
      const names = await payloadOf(archive);
      for (const name of names) {
        truncateSync(join(archive, name), Math.floor(statSync(join(archive, name)).size / 2));
        const report = await verifySealed(archiveIn(archive), { level: 'structure', threads: 0 });
        expect(report.whole, name).toBe(false);
        expect((await sealed(archive)).damagedFiles).toEqual([name]);
        await repairFrom(archiveIn(archive), archiveIn(copy), { threads: 0 });
      }
      writeFileSync(join(archive, 'data/packs/more'), 'x');
      expect(
        (await verifySealed(archiveIn(archive), { level: 'structure' })).damagedFiles,
      ).toContain('data/packs/more');
    });
  });
});

describe('a proof', () => {
  test('is kept with the archive, dated, with its level and what it found; never a name of a customer’s file', async () => {
    await withTwo(async (archive) => {
      await recordProof(archiveIn(archive), await fully(archive), new Date('2026-11-25T08:00:00Z'));
      const [pack_ = ''] = namesOf('pack', await payloadOf(archive));
      flip(join(archive, pack_), 60);
      await recordProof(archiveIn(archive), await fully(archive), new Date('2026-11-26T08:00:00Z'));
      const proofs = await readProofs(archiveIn(archive));
      expect(proofs).toMatchObject([
        { level: 'full', whole: true, items: 11, at: '2026-11-25T08:00:00.000Z' },
        { level: 'full', whole: false, damagedFiles: [pack_] },
      ]);
      expect(JSON.stringify(proofs)).not.toMatch(/jpg|notes/);
    });
  });

  test('a sample and the structure find nothing wrong with a whole archive', async () => {
    await withTwo(async (archive) => {
      for (const level of ['sample', 'structure'] as const) {
        const report = await opened(archive, (open) => verifyOpen(open, { level, threads: 0 }));
        expect(report).toMatchObject({ whole: true, level });
      }
      expect(await refusal(verifySealed(archiveIn(archive), { level: 'sample' }))).toBe(
        'input-not-valid',
      );
    });
  });
});

describe('damaged input', () => {
  /** A parser says that it is damaged, or gives something; it never hangs, and never fails otherwise. */
  const survives = (parse: () => unknown) => {
    try {
      parse();
    } catch (error) {
      if (!(error instanceof Failure)) throw error;
    }
  };
  const bytes = fc.uint8Array({ maxLength: 600 }).map((b) => Buffer.from(b));

  test('of any kind is an error for every parser', async () => {
    await fc.assert(
      fc.asyncProperty(bytes, async (input) => {
        survives(() => [...decodeBlocks(input)]);
        survives(() => [...decodeLines(Buffer.concat([input, Buffer.from('\n')]))]);
        survives(() => parseManifest(input.toString('latin1'), 'manifest'));
        survives(() => decompress(input, 1000));
        if (input.length >= FRAME_HEAD_BYTES) survives(() => readFrameHead(input));
        const code = await refusal(
          (async () => {
            const file = (async function* () {
              yield input;
            })();
            for await (const _piece of openAge(file, { password: 'x' }));
          })(),
        );
        expect(['package-damaged', 'wrong-password']).toContain(code);
      }),
      { numRuns: 400 },
    );
  });

  test('a zstd frame that would give gigabytes is not begun', () => {
    const bomb = compress(Buffer.alloc(2 ** 20)) ?? Buffer.alloc(0);
    expect(decompress(bomb, 2 ** 20).length).toBe(2 ** 20);
    expect(() => decompress(bomb, 1000)).toThrow(Failure);
    // The same repeated block, a thousand times.
    const head = bomb.subarray(0, 6);
    const block = Buffer.from([0x02, 0x00, 0x10, 0x00]);
    const long = Buffer.concat([head, ...Array.from({ length: 5000 }, () => block)]);
    expect(() => decompress(long, 2 ** 20)).toThrow(Failure);
  });

  test('a sealed file with any bit changed, or cut anywhere, gives no wrong byte', async () => {
    await withFolder(async (folder) => {
      const key = ArchiveKey.random();
      const path = join(folder, 'sealed');
      const writer = new SealedWriter(path, 'index', key);
      const frames = [randomBytes(3000), Buffer.alloc(5000, 'again '), randomBytes(1)];
      for (const frame of frames) writer.append(frame);
      writer.finish();
      const whole = readFileSync(path);
      const files = new FolderFiles(folder);
      const read = async () => {
        const reader = await SealedReader.open(files, 'sealed', 'index', key);
        try {
          const plains: Buffer[] = [];
          for await (const { plain } of reader.frames()) plains.push(Buffer.from(plain));
          return plains;
        } finally {
          reader.close();
        }
      };
      expect(await read()).toEqual(frames);
      const refused = async (bytes: Buffer, what: string) => {
        writeFileSync(path, bytes);
        await expect(read(), what).rejects.toThrow(Failure);
      };
      // Every byte of the header and of the first frame's head, and some of all the others.
      for (let at = 0; at < whole.length; at += at < 64 ? 1 : 41) {
        const changed = Buffer.from(whole);
        changed.writeUInt8(changed.readUInt8(at) ^ (1 << (at % 8)), at);
        await refused(changed, `a bit of byte ${at}`);
        await refused(whole.subarray(0, at), `cut at ${at}`);
      }
      await refused(Buffer.concat([whole, Buffer.alloc(1)]), 'a byte more');
    });
  });
});

test('any name of bytes has one text, and comes back as it was', () => {
  fc.assert(
    fc.property(
      fc.oneof(
        fc.uint8Array({ maxLength: 60 }),
        fc.string({ unit: 'binary' }).map((s) => Buffer.from(s)),
      ),
      (name) => {
        const bytes = Buffer.from(name);
        expect(nameOfText(textOfName(bytes)).equals(bytes)).toBe(true);
        expect(JSON.parse(JSON.stringify(textOfName(bytes)))).toBe(textOfName(bytes));
      },
    ),
    { numRuns: 500 },
  );
});
