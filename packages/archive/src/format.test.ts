import { execFileSync } from 'node:child_process';
import { createDecipheriv, createHash, hkdfSync } from 'node:crypto';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { Blake3Hasher } from '@napi-rs/blake-hash';
import { Decrypter } from 'age-encryption';
import { describe, expect, test } from 'vitest';
import { opened } from './test-archives.js';
import { verifyOpen } from './verify/verify.js';

/**
 * A second reader, written from docs/archive-format.md alone: it shares no code with the first. When
 * this breaks, either the page or the program is wrong.
 */
const VECTORS = fileURLToPath(new URL('../../../docs/test-vectors/archive-v1', import.meta.url));
const ARCHIVE = join(VECTORS, 'archive');
const vectors = JSON.parse(readFileSync(join(VECTORS, 'vectors.json'), 'utf8')) as {
  archive: {
    password: string;
    archiveKey: string;
    backups: string[];
    contents: Record<string, string>;
  };
  keys: Record<
    'archiveKey' | 'fileId' | 'pack' | 'backup' | 'index' | 'roster' | 'chunkId' | 'cuttingSha256',
    string
  >;
  chunk: { text: string; id: string };
  cuts: { ends: number[] };
};
const hex = (text: string) => Buffer.from(text, 'hex');
const sha256 = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest();

const derived = (key: Uint8Array, purpose: string, salt: Uint8Array, length: number) =>
  Buffer.from(hkdfSync('sha256', key, salt, `bright-cellar/1/${purpose}`, length));

function chunkId(key: Uint8Array, chunk: Uint8Array): string {
  const hasher = Blake3Hasher.newKeyed(derived(key, 'chunk-id', Buffer.alloc(0), 32));
  return hasher.update(chunk).digest('hex');
}

/** The plaintexts of a sealed file, by the offsets of their frames. */
function openSealed(
  path: string,
  key: Uint8Array,
  kind: number,
  purpose: string,
): Map<number, Buffer> {
  const file = readFileSync(path);
  const header = file.subarray(0, 32);
  expect(header.subarray(0, 8).toString()).toBe('BRCELLAR');
  expect([...header.subarray(8, 16)]).toEqual([1, kind, 0, 0, 0, 0, 0, 0]);
  const fileKey = derived(key, purpose, header.subarray(16), 32);
  const frames = new Map<number, Buffer>();
  for (let at = 32; ;) {
    const word = file.readUInt32BE(at);
    const length = word & 0x0fff_ffff;
    const last = word >>> 31;
    const nonce = Buffer.alloc(12);
    nonce.writeUInt8(last, 3);
    nonce.writeBigUInt64BE(BigInt(at), 4);
    const decipher = createDecipheriv('aes-256-gcm', fileKey, nonce);
    decipher.setAAD(Buffer.concat([header, file.subarray(at, at + 8)]));
    decipher.setAuthTag(file.subarray(at + 8 + length, at + 24 + length));
    const body = Buffer.concat([
      decipher.update(file.subarray(at + 8, at + 8 + length)),
      decipher.final(),
    ]);
    const compressed = (word & 0x4000_0000) !== 0;
    const plain = compressed
      ? execFileSync('zstd', ['-d', '-q', '-c'], { input: body, stdio: ['pipe', 'pipe', 'ignore'] })
      : body;
    expect(plain.length).toBe(file.readUInt32BE(at + 4));
    if (last === 0) frames.set(at, plain);
    at += 24 + length;
    if (last === 1) {
      expect(at).toBe(file.length);
      return frames;
    }
  }
}

/** The JSON lines that a sealed file holds. */
const jsonLines = (frames: ReturnType<typeof openSealed>) =>
  [...frames.values()]
    .map(String)
    .join('')
    .trimEnd()
    .split('\n')
    .map((line) => JSON.parse(line) as Record<string, unknown>);

describe('the page describes what is written', () => {
  test('the whole path from the password to the contents', async () => {
    const [keyFile = ''] = readdirSync(join(ARCHIVE, 'data/keys'));
    const decrypter = new Decrypter();
    decrypter.addPassphrase(vectors.archive.password);
    const key = await decrypter.decrypt(readFileSync(join(ARCHIVE, 'data/keys', keyFile)));
    expect(Buffer.from(key).toString('hex')).toBe(vectors.archive.archiveKey);

    const chunks = new Map<string, Buffer>();
    for (const name of readdirSync(join(ARCHIVE, 'data/indexes'))) {
      for (const frame of openSealed(
        join(ARCHIVE, 'data/indexes', name),
        key,
        3,
        'index',
      ).values()) {
        for (let at = 0; at < frame.length;) {
          const pack = frame.toString('hex', at, at + 16);
          const path = join(ARCHIVE, `data/packs/${pack}.pack`);
          const bytes = readFileSync(path);
          expect(Number(frame.readBigUInt64BE(at + 16))).toBe(bytes.length);
          expect(frame.toString('hex', at + 24, at + 88)).toBe(
            createHash('sha512').update(bytes).digest('hex'),
          );
          const frames = openSealed(path, key, 1, 'pack');
          const count = frame.readUInt32BE(at + 88);
          for (let n = 0; n < count; n++) {
            const entry = frame.subarray(at + 92 + 44 * n, at + 92 + 44 * (n + 1));
            const chunk = frames.get(entry.readUInt32BE(32)) ?? Buffer.alloc(0);
            expect(chunk.length).toBe(entry.readUInt32BE(40));
            expect(entry.toString('hex', 0, 32)).toBe(chunkId(key, chunk));
            chunks.set(entry.toString('hex', 0, 32), chunk);
          }
          at += 92 + 44 * count;
        }
      }
    }

    const [, second = ''] = vectors.archive.backups;
    const list =
      readdirSync(join(ARCHIVE, 'data/backups')).find((name) => name.startsWith(second)) ?? '';
    const lines = jsonLines(openSealed(join(ARCHIVE, 'data/backups', list), key, 2, 'backup'));
    expect(lines[0]).toMatchObject({
      type: 'backup',
      format: 1,
      backup: second,
      label: 'second',
      device: null,
    });
    expect(lines.at(-1)).toMatchObject({ type: 'end', failed: 0, newItems: 2 });
    const contents: Record<string, string> = {};
    for (const line of lines.filter(({ type, kind }) => type === 'item' && kind === 'file')) {
      const ids = String(line.chunks).match(/.{64}/g) ?? [];
      const whole = Buffer.concat(ids.map((id) => chunks.get(id) ?? Buffer.alloc(0)));
      expect(whole.length).toBe(line.bytes);
      contents[String(line.path)] = sha256(whole).toString('hex');
    }
    expect(contents).toMatchObject(vectors.archive.contents);
  });

  test('the roster says what belongs into the archive, and the manifest says the same', async () => {
    const key = hex(vectors.archive.archiveKey);
    const [name = ''] = readdirSync(join(ARCHIVE, 'data/rosters'));
    const lines = jsonLines(openSealed(join(ARCHIVE, 'data/rosters', name), key, 4, 'roster'));
    const { archive } = JSON.parse(readFileSync(join(ARCHIVE, 'data/archive.json'), 'utf8')) as {
      archive: string;
    };
    expect(name).toMatch(/^00000002-[0-9a-f]{8}\.roster$/);
    expect(lines[0]).toEqual({ type: 'roster', format: 1, archive, generation: 2 });
    const files = lines.filter(({ type }) => type === 'file');
    const backups = lines.filter(({ type }) => type === 'backup');
    expect(lines.at(-1)).toEqual({ type: 'end', files: files.length, backups: backups.length });
    expect(backups.map(({ backup }) => backup)).toEqual(vectors.archive.backups);
    const manifest = readFileSync(join(ARCHIVE, 'manifest-sha512.txt'), 'utf8')
      .trimEnd()
      .split('\n');
    const stated = files.map((file) => `${String(file.sha512)}  ${String(file.name)}`);
    expect(manifest.filter((line) => !line.endsWith('.roster')).sort()).toEqual(stated.sort());
    for (const { name: file, bytes, sha512 } of files) {
      const contents = readFileSync(join(ARCHIVE, String(file)));
      expect(contents.length).toBe(bytes);
      expect(createHash('sha512').update(contents).digest('hex')).toBe(sha512);
    }
  });

  test('keys, ids and cuts', () => {
    const { keys, chunk, cuts } = vectors;
    const key = hex(keys.archiveKey);
    for (const purpose of ['pack', 'backup', 'index', 'roster'] as const) {
      expect(derived(key, purpose, hex(keys.fileId), 32).toString('hex')).toBe(keys[purpose]);
    }
    const material = derived(key, 'cutting', Buffer.alloc(0), 1024);
    expect(sha256(material).toString('hex')).toBe(keys.cuttingSha256);
    expect(chunkId(key, Buffer.from(chunk.text))).toBe(chunk.id);

    const parts: Buffer[] = [];
    for (let part = sha256(Buffer.from('cut')); parts.length < 31_250; part = sha256(part))
      parts.push(part);
    const contents = Buffer.concat(parts);
    const ends: number[] = [];
    let from = 0;
    while (from < contents.length) {
      let hash = 0;
      let at = from + 16_384 - 32;
      for (; ; at++) {
        const length = at + 1 - from;
        if (at + 1 >= contents.length || length >= 262_144) break;
        hash = (((hash * 2) | 0) + material.readInt32BE((contents[at] ?? 0) * 4)) | 0;
        const bits = length <= 65_536 ? 18 : 14;
        if (length > 16_384 && hash >>> (32 - bits) === 0) break;
      }
      from = Math.min(at + 1, contents.length);
      ends.push(from);
    }
    expect(ends).toEqual(cuts.ends);
  });

  test('and the program itself opens what it wrote then', async () => {
    const secret = { kind: 'password', password: vectors.archive.password } as const;
    const report = await opened(
      ARCHIVE,
      (archive) => verifyOpen(archive, { level: 'full', threads: 0 }),
      secret,
    );
    expect(report).toMatchObject({ whole: true });
    expect(report.contents?.backups).toHaveLength(2);
  });
});
