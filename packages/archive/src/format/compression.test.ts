import { Failure } from '@bright-cellar/core';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { compress, decompress, FRAME_BLOCKS_MAX } from './compression.js';
import { FRAME_MAX_PLAIN } from './sealed.js';

/** Contents as devices hold them: encoders cut each into other blocks. */
const kinds: Record<string, (number: number) => string> = {
  messages: (n) =>
    `{"id":${n},"thread":${n % 37},"from":"+44 7700 900${100 + (n % 800)}","text":"See you at ${n % 24}:15"}\n`,
  'pages of a database': (n) =>
    n % 40 === 0 ? '\0'.repeat(900) : `${(n * 7919) % 100_003}|received|${n * 31}|name;`,
  'a log that changes its subject': (n) =>
    n % 3000 < 1500 ? `${n} battery ${n % 101} %\n` : `<step at="${n}" of="walk" metres="0.7"/>\n`,
  'one word': () => 'again ',
};

function contentsOf(line: (number: number) => string, length: number): Buffer {
  const lines: string[] = [];
  for (let bytes = 0, n = 0; bytes < length; n++)
    bytes += lines[lines.push(line(n)) - 1]?.length ?? 1;
  return Buffer.from(lines.join('')).subarray(0, length);
}

describe('what is compressed comes back', () => {
  for (const [name, line] of Object.entries(kinds)) {
    test(`${name}, in every length up to the longest chunk`, () => {
      const all = contentsOf(line, FRAME_MAX_PLAIN);
      for (let length = FRAME_MAX_PLAIN; length > 1000; length = Math.floor(length * 0.7)) {
        const plain = all.subarray(0, length);
        const packed = compress(plain);
        expect(packed, `${length} bytes`).not.toBeNull();
        if (packed) expect(decompress(packed, length).equals(plain), `${length} bytes`).toBe(true);
      }
    });
  }

  test('and any bytes, where compressing them helps at all', () => {
    const runs = fc.array(fc.tuple(fc.uint8Array({ maxLength: 40 }), fc.nat(4000)), {
      maxLength: 60,
    });
    fc.assert(
      fc.property(runs, (parts) => {
        const plain = Buffer.concat(
          parts.flatMap(([bytes, times]) => [Buffer.alloc(times, 'x'), Buffer.from(bytes)]),
        );
        const packed = compress(plain);
        if (packed) expect(decompress(packed, plain.length).equals(plain)).toBe(true);
      }),
      { numRuns: 300 },
    );
  });
});

describe('a frame made to harm', () => {
  const header = Buffer.from([0x28, 0xb5, 0x2f, 0xfd, 0x00, 0x48]);
  /** Blocks that repeat one byte 131,072 times. */
  const bomb = (blocks: number) =>
    Buffer.concat([
      header,
      ...Array.from({ length: blocks }, (_, n) => {
        const block = Buffer.alloc(4);
        block.writeUIntLE((0x20000 << 3) | 0b010 | (n === blocks - 1 ? 1 : 0), 0, 3);
        return block;
      }),
    ]);

  test('with more blocks than any chunk needs is refused before it is begun', () => {
    expect(() => decompress(bomb(FRAME_BLOCKS_MAX + 1), 131_072)).toThrow(Failure);
    expect(() => decompress(bomb(100_000), 2 ** 20)).toThrow(Failure);
  });

  test('that gives more or less than was said is refused', () => {
    expect(decompress(bomb(2), 262_144)).toHaveLength(262_144);
    expect(() => decompress(bomb(2), 262_143)).toThrow(Failure);
    expect(() => decompress(bomb(2), 262_145)).toThrow(Failure);
  });

  test('that goes on after its end, or has none, is refused', () => {
    const whole = bomb(1);
    expect(() => decompress(Buffer.concat([whole, whole]), 262_144)).toThrow(Failure);
    for (let cut = 0; cut < whole.length; cut++) {
      expect(() => decompress(whole.subarray(0, cut), 131_072), `${cut} bytes`).toThrow(Failure);
    }
  });
});
