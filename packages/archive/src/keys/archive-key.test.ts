import { randomBytes } from 'node:crypto';
import { describe, expect, test } from 'vitest';
import { ChunkIdentifier } from '../keys/chunk-identifier.js';
import { ArchiveKey, KEY_BYTES } from './archive-key.js';

const bytes = Buffer.alloc(KEY_BYTES, 7);

describe('an archive’s key', () => {
  test('has as many bytes as it must, and keeps its own copy of them', () => {
    expect(() => ArchiveKey.of(Buffer.alloc(KEY_BYTES - 1))).toThrow(RangeError);
    const given = Buffer.from(bytes);
    const key = ArchiveKey.of(given);
    given.fill(0);
    expect(key.bytes()).toEqual(bytes);
    key.bytes().fill(1);
    expect(key.bytes()).toEqual(bytes);
  });

  test('gives every use, and every file, a key of its own', () => {
    const key = ArchiveKey.of(bytes);
    const salts = [randomBytes(16), randomBytes(16)];
    const keys = ['pack', 'index', 'backup'].flatMap((use) =>
      salts.map((salt) => key.derive(use, salt)),
    );
    keys.push(key.chunkIdKey(), key.cuttingMaterial().subarray(0, KEY_BYTES), bytes);
    expect(new Set(keys.map((k) => k.toString('hex'))).size).toBe(keys.length);
    expect(key.derive('pack', salts[0] ?? bytes)).toEqual(
      ArchiveKey.of(bytes).derive('pack', salts[0] ?? bytes),
    );
  });

  test('that was forgotten is gone from memory', () => {
    const key = ArchiveKey.random();
    const before = key.bytes();
    key.forget();
    expect(key.bytes()).toEqual(Buffer.alloc(KEY_BYTES));
    expect(before).not.toEqual(key.bytes());
  });
});

describe('a chunk’s id', () => {
  test('is the same for the same bytes under one key, and tells nothing across keys', () => {
    const chunk = Buffer.from('the same photograph in two archives');
    const [one, again, other] = [
      new ChunkIdentifier(ArchiveKey.of(bytes)),
      new ChunkIdentifier(ArchiveKey.of(bytes)),
      new ChunkIdentifier(ArchiveKey.random()),
    ];
    const id = one.idOf(chunk);
    expect(id).toHaveLength(32);
    expect(one.idOf(Buffer.from('something in between'))).not.toEqual(id);
    expect(again.idOf(chunk)).toEqual(id);
    expect(other.idOf(chunk)).not.toEqual(id);
  });
});
