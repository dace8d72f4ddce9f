import { setTimeout as sleep } from 'node:timers/promises';
import { expect, test } from 'vitest';
import { zipStream } from './zip-stream.js';

async function* endless(ended: () => void): AsyncGenerator<Uint8Array> {
  try {
    for (;;) {
      await sleep(1);
      yield Buffer.alloc(100_000);
    }
  } finally {
    ended();
  }
}

test('whoever stops reading ends what is read for it, and nothing after it is opened', async () => {
  let ended = 0;
  let opened = 0;
  const zip = zipStream((put) => {
    put('endless', { compress: false }, () => endless(() => (ended += 1)));
    put('next', {}, () => {
      opened += 1;
      return endless(() => undefined);
    });
  });
  let read = 0;
  for await (const piece of zip) if ((read += piece.length) > 500_000) break;
  await expect.poll(() => ended).toBe(1);
  expect(opened).toBe(0);
});

test('what fails in a file ends all of it, and is heard by whoever reads', async () => {
  const zip = zipStream((put) => {
    put('a', {}, async function* () {
      yield Buffer.from('as far as it goes');
      throw new Error('the cable');
    });
  });
  await expect(async () => {
    for await (const piece of zip) expect(piece).toBeDefined();
  }).rejects.toThrow('the cable');
  await sleep(20);
});
