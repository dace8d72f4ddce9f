import { randomBytes } from 'node:crypto';
import { Failure } from '@bright-cellar/core';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import {
  decodeBlocks,
  encodeBlock,
  entriesOf,
  entryCount,
  EntryList,
  type ChunkEntry,
  type PackBlock,
} from './chunk-index.js';
import { FRAME_MAX_PLAIN, FRAME_OVERHEAD, HEADER_BYTES } from './sealed.js';

const SIZE = 40_000_000;

function blockOf(chunks: Omit<ChunkEntry, 'id'>[], size = SIZE): PackBlock {
  const entries = new EntryList();
  for (const one of chunks) entries.add({ id: randomBytes(32), ...one });
  const [pack, sha512] = [randomBytes(16).toString('hex'), randomBytes(64).toString('hex')];
  return { pack, size, sha512, entries: entries.bytes() };
}

const chunk = fc
  .record({
    offset: fc.integer({ min: HEADER_BYTES, max: 30_000_000 }),
    plain: fc.integer({ min: 0, max: FRAME_MAX_PLAIN }),
    saved: fc.integer({ min: 0, max: FRAME_MAX_PLAIN }),
  })
  .map(({ offset, plain, saved }) => ({ offset, plain, stored: Math.max(0, plain - saved) }));
const blocks = fc.array(fc.array(chunk, { maxLength: 20 }), { maxLength: 5 });

const decoded = (frame: Buffer) => [...decodeBlocks(frame)];

describe('an index', () => {
  test('says again what was said to it: packs, and where each chunk lies', () => {
    fc.assert(
      fc.property(blocks, (all) => {
        const written = all.map((chunks) => blockOf(chunks));
        const read = decoded(Buffer.concat(written.map(encodeBlock)));
        expect(read).toEqual(written);
        expect(read.map(entryCount)).toEqual(all.map(({ length }) => length));
        for (const [number, block] of read.entries()) {
          const places = [...entriesOf(block)].map(({ offset, stored, plain }) => ({
            ...{ offset, stored, plain },
          }));
          expect(places).toEqual(all[number]);
        }
      }),
    );
  });

  test('keeps its entries when the frame that it came in is used again', () => {
    const block = blockOf([{ offset: 32, stored: 10, plain: 10 }]);
    const frame = encodeBlock(block);
    const [read] = decoded(frame);
    frame.fill(0xff);
    expect(read?.entries).toEqual(block.entries);
  });

  test('of the fullest pack fits one frame; of that nothing is lost, and it takes no more', () => {
    const entries = new EntryList();
    for (let offset = HEADER_BYTES; !entries.isFull; offset += 1)
      entries.add({ id: randomBytes(32), offset, stored: 1, plain: 1 });
    const block = { ...blockOf([]), entries: entries.bytes() };
    expect(encodeBlock(block).length).toBeLessThanOrEqual(FRAME_MAX_PLAIN);
    expect([...entriesOf(block)].map(({ offset }) => offset - HEADER_BYTES)).toEqual(
      Array.from({ length: entries.count }, (_, number) => number),
    );
    const more = { id: randomBytes(32), offset: 32, stored: 1, plain: 1 };
    expect(() => entries.add(more)).toThrow(RangeError);
    entries.clear();
    expect(entries.bytes()).toHaveLength(0);
  });

  test.each([
    ['begins in the header', { offset: HEADER_BYTES - 1, stored: 5, plain: 5 }],
    ['ends after its pack', { offset: SIZE - FRAME_OVERHEAD - 4, stored: 5, plain: 5 }],
    ['is stored longer than it is', { offset: 32, stored: 6, plain: 5 }],
    ['is longer than any chunk', { offset: 32, stored: 5, plain: FRAME_MAX_PLAIN + 1 }],
  ])('with a chunk that %s is refused', (_what, place) => {
    expect(() => decoded(encodeBlock(blockOf([place])))).toThrow(Failure);
  });

  test('cut off anywhere gives whole blocks and then an error, never half a block', () => {
    const all = [1, 2, 3].map((count) =>
      blockOf(Array.from({ length: count }, () => ({ offset: 32, stored: 9, plain: 9 }))),
    );
    const frame = Buffer.concat(all.map(encodeBlock));
    const ends = all.map(
      (_, number) => Buffer.concat(all.slice(0, number + 1).map(encodeBlock)).length,
    );
    for (let cut = 1; cut < frame.length; cut++) {
      if (ends.includes(cut)) continue;
      const read: PackBlock[] = [];
      expect(() => {
        for (const block of decodeBlocks(frame.subarray(0, cut))) read.push(block);
      }, `${cut} bytes`).toThrow(Failure);
      expect(read).toEqual(all.slice(0, ends.filter((end) => end < cut).length));
    }
  });
});
