import { randomBytes } from 'node:crypto';
import { closeSync, openSync, symlinkSync, writeFileSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import fc from 'fast-check';
import { expect, test } from 'vitest';
import { withFolder } from '../test-archives.js';
import { alignedBytes, openOnMedium } from './medium-file.js';

test('a file is the same from its medium, whatever is read of it, into whatever', async () => {
  await withFolder(async (folder) => {
    const path = join(folder, 'file');
    const bytes = randomBytes(2_500_001);
    writeFileSync(path, bytes);
    const straight = alignedBytes(1_000_000);
    const piece = fc.record({
      from: fc.oneof(
        fc.nat(2_600_000),
        fc.nat(700).map((n) => n * 4096),
      ),
      length: fc.oneof(
        fc.nat(1_200_000),
        fc.nat(200).map((n) => n * 4096),
      ),
      isStraight: fc.boolean(),
    });
    fc.assert(
      fc.property(fc.array(piece, { minLength: 1, maxLength: 8 }), (pieces) => {
        const file = openOnMedium(path);
        try {
          expect(file.size).toBe(bytes.length);
          for (const { from, length, isStraight } of pieces) {
            const into = isStraight ? straight.subarray(0, length) : new Uint8Array(length);
            let count = 0;
            for (;;) {
              const more = Number(file.read(into.subarray(count), from + count));
              if (more === 0) break;
              count += more;
            }
            const expected = bytes.subarray(from, from + into.length);
            expect(count).toBe(expected.length);
            expect(Buffer.compare(into.subarray(0, count), expected)).toBe(0);
          }
        } finally {
          file.close();
        }
      }),
      { numRuns: 60 },
    );
  });
});

test('what was written a moment ago is there, and what is no plain file is not opened', async () => {
  await withFolder(async (folder) => {
    const path = join(folder, 'file');
    const fd = openSync(path, 'w');
    writeSync(fd, 'not synced by anybody');
    const file = openOnMedium(path);
    const into = new Uint8Array(100);
    expect(file.read(into, 0)).toBe(21);
    expect(Buffer.from(into.subarray(0, 21)).toString()).toBe('not synced by anybody');
    file.close();
    closeSync(fd);
    symlinkSync(path, join(folder, 'link'));
    expect(() => openOnMedium(join(folder, 'link'))).toThrow('ELOOP');
    expect(() => openOnMedium(folder)).toThrow();
  });
});
