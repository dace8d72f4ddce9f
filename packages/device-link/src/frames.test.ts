import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { framesIn } from './frames.js';

async function* inPieces(bytes: Buffer, lengths: readonly number[]): AsyncGenerator<Uint8Array> {
  let at = 0;
  for (let turn = 0; at < bytes.length; turn += 1) {
    const length = lengths[turn % lengths.length] ?? 1;
    yield bytes.subarray(at, at + length);
    at += length;
  }
}

async function all(
  sent: Buffer | string,
  listed: readonly { bytes: number }[],
  lengths = [7],
): Promise<(string | null)[]> {
  const found: (string | null)[] = [];
  const pieces = inPieces(Buffer.from(sent), lengths);
  const entries = listed.map((one) => ({ ...one, revision: 'r1' }));
  for await (const one of framesIn(pieces, entries)) found.push(one?.toString('latin1') ?? null);
  return found;
}

test('however it was cut on its way, each comes out as it went in', async () => {
  const contents = fc.array(fc.uint8Array({ maxLength: 300 }), { minLength: 1, maxLength: 12 });
  const cuts = fc.array(fc.integer({ min: 1, max: 400 }), { minLength: 1, maxLength: 5 });
  await fc.assert(
    fc.asyncProperty(contents, cuts, async (many, lengths) => {
      const sent = Buffer.concat(
        many.flatMap((one) => [Buffer.from(`{"bytes":${one.length},"revision":"r1"}\n`), one]),
      );
      const entries = many.map(({ length }) => ({ bytes: length }));
      const wanted = many.map((one) => Buffer.from(one).toString('latin1'));
      expect(await all(sent, entries, lengths)).toEqual(wanted);
    }),
  );
});

test('one that is refused, of another length or another revision than was listed, does not keep the others back', async () => {
  const sent = [
    '{"error":"read-error"}\n{"bytes":2,"revision":"r1"}\nab{"bytes":3,"revision":"r1"}\nabc',
    '{"bytes":4,"revision":"r2"}\nabcd{"bytes":0,"revision":"r1"}\n',
  ].join('');
  const entries = [{ bytes: 4 }, { bytes: 2 }, { bytes: 9 }, { bytes: 4 }, { bytes: 0 }];
  expect(await all(sent, entries)).toEqual([null, 'ab', null, null, '']);
});

describe('what is not believed', () => {
  test.each([
    ['nothing of the kind', '<html>', 'no-answer'],
    ['a line without an end', 'x'.repeat(10_000), 'not-valid'],
    ['a line that is no head', '{"bytes":"many"}\n', 'not-valid'],
    ['no word of a revision', '{"bytes":5}\nabcde', 'not-valid'],
    ['more than any small one has', '{"bytes":9000000,"revision":"r1"}\n', 'not-valid'],
    ['less than was said', '{"bytes":5,"revision":"r1"}\nab', 'no-answer'],
    ['an end before the last', '', 'no-answer'],
  ])('%s', async (_what, sent, code) => {
    await expect(all(sent, [{ bytes: 5 }])).rejects.toMatchObject({ code });
  });
});

test('whoever leaves early lets the connection go', async () => {
  let isLeft = false;
  async function* endless(): AsyncGenerator<Uint8Array> {
    try {
      for (;;) yield Buffer.from('{"bytes":1,"revision":"r1"}\na');
    } finally {
      isLeft = true;
    }
  }
  for await (const one of framesIn(endless(), [
    { bytes: 1, revision: 'r1' },
    { bytes: 1, revision: 'r1' },
  ])) {
    expect(one?.toString()).toBe('a');
    break;
  }
  expect(isLeft).toBe(true);
});
