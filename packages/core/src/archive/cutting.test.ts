import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import {
  CHUNK_MAX,
  contentCut,
  cutSegment,
  cutSizesFor,
  cuttingFor,
  GEAR_BYTES,
  gearTable,
  SEGMENT_BYTES,
} from './cutting.js';

/** Bytes that look random and are the same every time. */
function noise(length: number, seed: number): Uint8Array {
  const bytes = new Uint8Array(length);
  let state = seed | 1;
  for (let i = 0; i < length; i++) {
    state ^= state << 13;
    state ^= state >>> 17;
    state ^= state << 5;
    bytes[i] = state;
  }
  return bytes;
}

const gear = gearTable(noise(GEAR_BYTES, 7));
const sizes = cutSizesFor(10e6);
const chunksOf = (bytes: Uint8Array, table = gear) => {
  const ends = cutSegment(bytes, 'content', table, sizes);
  return ends.map((end, i) => bytes.subarray(ends[i - 1] ?? 0, end));
};
const keyed = (chunk: Uint8Array) => Buffer.from(chunk).toString('latin1');
const joined = (...parts: Uint8Array[]) => {
  const whole = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    whole.set(part, at);
    at += part.length;
  }
  return whole;
};

describe('content-defined cuts', () => {
  test('cover any contents once, in order, within the lengths promised', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 2_000_000 }), fc.integer(), (length, seed) => {
        const bytes = noise(length, seed);
        const chunks = chunksOf(bytes);
        expect(Buffer.compare(joined(...chunks), bytes)).toBe(0);
        for (const chunk of chunks.slice(0, -1)) {
          expect(chunk.length).toBeGreaterThanOrEqual(sizes.min);
          expect(chunk.length).toBeLessThanOrEqual(sizes.max);
        }
      }),
      { numRuns: 20 },
    );
  });

  test('gather around the middle length', () => {
    const chunks = chunksOf(noise(8_000_000, 3));
    const mean = 8_000_000 / chunks.length;
    expect(mean).toBeGreaterThan(sizes.middle * 0.6);
    expect(mean).toBeLessThan(sizes.middle * 1.6);
  });

  test('after an insertion find the old cuts again: all but a few chunks are the same', () => {
    const before = noise(4_000_000, 5);
    for (const at of [0, 777_777, 3_999_000]) {
      const after = joined(before.subarray(0, at), noise(100, 9), before.subarray(at));
      const known = new Set(chunksOf(before).map(keyed));
      const fresh = chunksOf(after).filter((chunk) => !known.has(keyed(chunk)));
      expect(fresh.length).toBeLessThanOrEqual(3);
    }
  });

  test('depend on the key: another archive cuts the same contents elsewhere', () => {
    const bytes = noise(2_000_000, 11);
    const other = chunksOf(bytes, gearTable(noise(GEAR_BYTES, 8))).map((c) => c.length);
    expect(chunksOf(bytes).map((c) => c.length)).not.toEqual(other);
  });

  test('depend on nothing before the chunk', () => {
    const bytes = noise(1_000_000, 13);
    const shifted = joined(noise(500, 1), bytes);
    expect(contentCut(shifted, 500, shifted.length, gear, sizes) - 500).toBe(
      contentCut(bytes, 0, bytes.length, gear, sizes),
    );
  });

  test('do not go on for ever over contents without any variety', () => {
    const ends = cutSegment(new Uint8Array(1_000_000), 'content', gear, sizes);
    expect(ends.at(-1)).toBe(1_000_000);
    expect(ends.length).toBeLessThanOrEqual(Math.ceil(1_000_000 / sizes.min));
  });
});

test('photographs and packed files are cut in plain pieces, databases by their contents', () => {
  const photograph = { class: 'photographs', path: 'photographs/one', bytes: 3e6 } as const;
  expect(cuttingFor(photograph)).toBe('pieces');
  expect(cuttingFor({ class: 'documents', path: 'documents/x.ZIP', bytes: 3e6 })).toBe('pieces');
  expect(cuttingFor({ class: 'applications', path: 'applications/db', bytes: 3e6 })).toBe(
    'content',
  );
  expect(cuttingFor({ class: 'applications', path: 'applications/db', bytes: 900 })).toBe('pieces');
  const ends = cutSegment(new Uint8Array(2 * CHUNK_MAX + 1), 'pieces', gear, sizes);
  expect(ends).toEqual([CHUNK_MAX, 2 * CHUNK_MAX, 2 * CHUNK_MAX + 1]);
});

describe('another version of this program', () => {
  // It finds what earlier ones stored only if it cuts where they cut: these are the places, for good.
  test('cuts in the same lengths', () => {
    const [least, most] = [cutSizesFor(256 * 2 ** 20 - 1), cutSizesFor(256 * 2 ** 20)];
    expect(least).toEqual({
      ...{ min: 16_384, middle: 65_536, max: 262_144 },
      ...{ maskBefore: 0xffffc000 | 0, maskAfter: 0xfffc0000 | 0 },
    });
    expect(most).toEqual({
      ...{ min: 131_072, middle: 524_288, max: 1_048_576 },
      ...{ maskBefore: 0xfffff800 | 0, maskAfter: 0xffff8000 | 0 },
    });
    expect([CHUNK_MAX, SEGMENT_BYTES]).toEqual([1_048_576, 8_388_608]);
  });

  test('cuts at the same places', () => {
    expect(cutSegment(noise(700_000, 21), 'content', gear, sizes)).toMatchInlineSnapshot(`
      [
        66953,
        190282,
        269144,
        359473,
        433623,
        513133,
        585911,
        654444,
        700000,
      ]
    `);
    expect(cutSegment(noise(4_000_000, 23), 'content', gear, cutSizesFor(1e9)))
      .toMatchInlineSnapshot(`
      [
        585497,
        1119966,
        1709282,
        2646285,
        3395980,
        4000000,
      ]
    `);
  });

  test('takes the table out of the same bytes', () => {
    const material = new Uint8Array(GEAR_BYTES);
    material.set([0xff, 0, 0, 1], 0);
    material.set([0, 1, 2, 3], 4);
    material.set([0x7f, 0xee, 0xdd, 0xcc], 1020);
    const table = gearTable(material);
    expect([table.length, table[0], table[1], table[2], table[255]]).toEqual([
      ...[256, -16_777_215, 66_051, 0, 0x7feeddcc],
    ]);
    expect(() => gearTable(material.subarray(1))).toThrow('a gear table takes 1,024 bytes');
  });

  test('cuts by their contents what is at least a quarter of a megabyte', () => {
    const database = { class: 'applications', path: 'applications/db' } as const;
    expect(cuttingFor({ ...database, bytes: 262_143 })).toBe('pieces');
    expect(cuttingFor({ ...database, bytes: 262_144 })).toBe('content');
  });
});

describe('where the contents end', () => {
  test('a chunk ends with them, and what is no longer than the shortest is not cut', () => {
    const bytes = noise(300_000, 17);
    expect(contentCut(bytes, 0, sizes.min, gear, sizes)).toBe(sizes.min);
    expect(contentCut(bytes, 100, 100 + sizes.min - 1, gear, sizes)).toBe(100 + sizes.min - 1);
    expect(cutSegment(new Uint8Array(0), 'content', gear, sizes)).toEqual([]);
    const first = contentCut(bytes, 0, bytes.length, gear, sizes);
    expect(contentCut(bytes, 0, first - 1, gear, sizes)).toBe(first - 1);
    expect(contentCut(bytes, 0, first, gear, sizes)).toBe(first);
  });
});
