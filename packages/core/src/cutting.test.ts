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
const keyed = (chunk: Uint8Array) => chunk.join();
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
        expect(joined(...chunks).join() === bytes.join()).toBe(true);
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
