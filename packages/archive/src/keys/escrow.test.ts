import { expect, test } from 'vitest';
import { newEscrow, openEscrow } from './escrow.js';

test('takes both phrases, each in its place; neither opens anything by itself', async () => {
  const { recipient, sealed } = await newEscrow(['copper anvil', 'seven herons']);
  expect(recipient).toMatch(/^age1/);
  expect(await openEscrow(sealed, ['copper anvil', 'seven herons'])).toMatch(/^AGE-SECRET-KEY-1/);
  for (const wrong of [
    ['copper anvil', 'copper anvil'],
    ['seven herons', 'copper anvil'],
    ['copper anvil', 'eight herons'],
  ] as const) {
    await expect(openEscrow(sealed, wrong)).rejects.toMatchObject({
      problem: { code: 'wrong-password' },
    });
  }
});
