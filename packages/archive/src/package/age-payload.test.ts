import { randomBytes } from 'node:crypto';
import { Failure } from '@bright-cellar/core';
import { Decrypter, Encrypter } from 'age-encryption';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { ESCROW, quickly } from '../test-archives.js';
import { AgeSealer, beginAge, openAge, SEALED_PIECE_BYTES } from './age-payload.js';

const identity = quickly.kind === 'escrow' ? quickly.identity : '';
const PIECE = SEALED_PIECE_BYTES - 16;

async function* inPieces(bytes: Uint8Array, length: number): AsyncGenerator<Uint8Array> {
  for (let at = 0; at < bytes.length; at += length) yield bytes.subarray(at, at + length);
}

async function seal(contents: Uint8Array, length: number): Promise<Buffer> {
  const { bytes, payloadKey } = await beginAge({ recipient: ESCROW });
  const sealer = new AgeSealer(payloadKey);
  const sealed: Buffer[] = [bytes];
  for await (const piece of inPieces(contents, length)) sealed.push(...sealer.seal(piece));
  return Buffer.concat([...sealed, ...sealer.finish()]);
}

async function open(file: Uint8Array, length = 50_000): Promise<Buffer> {
  const pieces: Buffer[] = [];
  for await (const piece of openAge(inPieces(file, length), { identity })) pieces.push(piece);
  return Buffer.concat(pieces);
}

/** Where the format's own pieces end, and just beside. */
const lengths = [0, 1, PIECE - 1, PIECE, PIECE + 1, 2 * PIECE, 2 * PIECE + 77];

describe('an age file', () => {
  test.each(lengths)('of %i bytes comes back, and is the library’s too', async (length) => {
    const contents = randomBytes(length);
    const sealed = await seal(contents, 30_011);
    expect((await open(sealed)).equals(contents)).toBe(true);
    const decrypter = new Decrypter();
    decrypter.addIdentity(identity);
    expect(Buffer.from(await decrypter.decrypt(sealed)).equals(contents)).toBe(true);
    const encrypter = new Encrypter();
    encrypter.addRecipient(ESCROW);
    expect((await open(await encrypter.encrypt(contents))).equals(contents)).toBe(true);
  });

  test('is the same however its bytes come, in and out', async () => {
    const pieces = fc.integer({ min: 1, max: 200_000 });
    await fc.assert(
      fc.asyncProperty(fc.nat(300_000), pieces, pieces, async (length, into, out) => {
        const contents = randomBytes(length);
        expect((await open(await seal(contents, into), out)).equals(contents)).toBe(true);
      }),
      { numRuns: 15 },
    );
  });
});

describe('an age file that is not what was written', () => {
  const contents = randomBytes(3 * PIECE + 500);
  const damaged = { problem: { code: 'package-damaged' } };
  let file: Buffer;
  let payload: number;
  const prepare = async () => {
    file = await seal(contents, 100_000);
    payload = file.length - (contents.length + 4 * 16);
  };

  test('with one bit changed anywhere is refused', async () => {
    await prepare();
    for (let at = payload; at < file.length; at += 9973) {
      const changed = Buffer.from(file);
      changed.writeUInt8(changed.readUInt8(at) ^ 4, at);
      await expect(open(changed), `${at}`).rejects.toMatchObject(damaged);
    }
  });

  test('cut off anywhere is refused, at the end of a piece too', async () => {
    await prepare();
    const cuts = [1, 2, 3].map((n) => payload + n * SEALED_PIECE_BYTES);
    for (const cut of [...cuts, file.length - 1, payload + 5, payload, payload - 10, 40, 0]) {
      await expect(open(file.subarray(0, cut)), `${cut}`).rejects.toMatchObject(damaged);
    }
  });

  test('with pieces in another order, twice, or more of them is refused', async () => {
    await prepare();
    const piece = (n: number) =>
      file.subarray(payload + n * SEALED_PIECE_BYTES, payload + (n + 1) * SEALED_PIECE_BYTES);
    const [head, first, second, rest] = [
      file.subarray(0, payload),
      piece(0),
      piece(1),
      file.subarray(payload + 2 * SEALED_PIECE_BYTES),
    ];
    const others = [
      [head, second, first, rest],
      [head, first, first, second, rest],
      [head, first, rest],
      [file, first],
      [file, Buffer.alloc(1)],
    ];
    for (const [number, parts] of others.entries()) {
      await expect(open(Buffer.concat(parts)), `${number}`).rejects.toMatchObject(damaged);
    }
  });

  test('gives nothing of a piece before that piece has been checked', async () => {
    await prepare();
    const changed = Buffer.from(file);
    const at = payload + SEALED_PIECE_BYTES + 10;
    changed.writeUInt8(changed.readUInt8(at) ^ 1, at);
    const seen: Buffer[] = [];
    await expect(
      (async () => {
        for await (const piece of openAge(inPieces(changed, 1000), { identity })) seen.push(piece);
      })(),
    ).rejects.toThrow(Failure);
    expect(Buffer.concat(seen).equals(contents.subarray(0, PIECE))).toBe(true);
  });

  test('that is no age file at all is refused before it is read to its end', async () => {
    let given = 0;
    const endless = async function* () {
      for (;;) {
        given += 2 ** 16;
        yield randomBytes(2 ** 16);
      }
    };
    await expect(
      (async () => {
        for await (const piece of openAge(endless(), { identity })) expect(piece).toBeNull();
      })(),
    ).rejects.toMatchObject(damaged);
    expect(given).toBeLessThan(2 ** 20);
  });
});

test('the wrong secret is said to be wrong, not the file damaged', async () => {
  const file = await seal(Buffer.from('contents'), 10);
  const reading = async () => {
    for await (const piece of openAge(inPieces(file, 100), { password: 'not this one at all' })) {
      expect(piece).toBeNull();
    }
  };
  await expect(reading()).rejects.toMatchObject({ problem: { code: 'wrong-password' } });
});

test('a recipient that is none is refused before anything is written', async () => {
  await expect(beginAge({ recipient: 'age1nobody' })).rejects.toMatchObject({
    problem: { code: 'input-not-valid' },
  });
});
