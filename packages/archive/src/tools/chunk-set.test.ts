import { createHash, randomBytes } from 'node:crypto';
import { Worker } from 'node:worker_threads';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { ChunkSet } from './chunk-set.js';

const idOf = (number: number) => createHash('sha256').update(`${number}`).digest();

describe('the set of chunks', () => {
  test('answers as a set does, whatever is asked in whatever order', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.boolean(), fc.nat(60)), { maxLength: 200 }), (steps) => {
        const set = new ChunkSet();
        set.grow();
        const model = new Set<number>();
        for (const [adds, number] of steps) {
          if (adds) {
            expect(set.add(idOf(number))).toBe(!model.has(number));
            model.add(number);
          } else expect(set.has(idOf(number))).toBe(model.has(number));
        }
      }),
    );
  });

  test('grows by tables and forgets nothing of the earlier ones', () => {
    const set = new ChunkSet();
    set.grow();
    const ids = Array.from({ length: 60_000 }, (_, number) => idOf(number));
    const others = Array.from({ length: 1000 }, (_, number) => idOf(ids.length + number));
    const before = ids.filter((id) => {
      const isNew = set.add(id);
      set.grow();
      return !isNew;
    });
    expect(before).toEqual([]);
    expect(set.tables().length).toBeGreaterThan(1);
    expect(ids.filter((id) => !set.has(id))).toEqual([]);
    expect(others.filter((id) => set.has(id))).toEqual([]);
    expect(set.add(idOf(0))).toBe(false);
  });

  test('is seen by whoever is given its tables', () => {
    const set = new ChunkSet();
    set.grow();
    const other = new ChunkSet(set.tables());
    set.add(idOf(1));
    expect(other.has(idOf(1))).toBe(true);
    expect(other.add(idOf(1))).toBe(false);
    other.add(idOf(2));
    expect(set.has(idOf(2))).toBe(true);
  });

  test('holds all of a list only if every one is there', () => {
    const set = new ChunkSet();
    set.grow();
    const ids = [1, 2, 3].map(idOf);
    for (const id of ids) set.add(id);
    expect(set.hasAll(Buffer.concat(ids))).toBe(true);
    expect(set.hasAll(Buffer.concat([...ids, idOf(4)]))).toBe(false);
    expect(set.hasAll(Buffer.alloc(0))).toBe(true);
  });

  test('an id whose first bytes are zeros is an id like any other', () => {
    const set = new ChunkSet();
    set.grow();
    const id = Buffer.concat([Buffer.alloc(8), randomBytes(24)]);
    expect(set.has(id)).toBe(false);
    expect(set.add(id)).toBe(true);
    expect(set.has(id)).toBe(true);
  });

  test('loses nothing when threads add at the same moment', async () => {
    const set = new ChunkSet();
    set.grow();
    // Writes as the set does, from another thread: the layout is what the threads of one process agree on.
    const code = `
      const { parentPort, workerData } = require('node:worker_threads');
      const { createHash } = require('node:crypto');
      const words = new Int32Array(workerData.table, 4);
      const count = new Int32Array(workerData.table, 0, 1);
      const mask = words.length / 4 - 1;
      for (let n = workerData.from; n < workerData.to; n++) {
        const id = createHash('sha256').update(String(n)).digest();
        const first = id.readInt32LE(0) | 1;
        for (let slot = id.readInt32LE(4) & mask; ; slot = (slot + 1) & mask) {
          if (Atomics.compareExchange(words, slot * 4, 0, first) !== 0) continue;
          for (const at of [1, 2, 3]) Atomics.store(words, slot * 4 + at, id.readInt32LE(at * 4));
          Atomics.add(count, 0, 1);
          break;
        }
      }
      parentPort.postMessage('done');`;
    const table = set.tables()[0];
    const theirs = new Worker(code, { eval: true, workerData: { table, from: 5000, to: 10_000 } });
    const done = new Promise((resolve) => theirs.once('message', resolve));
    for (let number = 0; number < 5000; number++) set.add(idOf(number));
    await done;
    await theirs.terminate();
    for (let number = 0; number < 10_000; number++)
      expect(set.has(idOf(number)), `${number}`).toBe(true);
  });
});
