import { LinkError } from '@bright-cellar/device-link';
import { expect, test } from 'vitest';
import { CUTS_AT_MOST, throughCuts } from './wait-for-device.js';

/** A device that is always back at once. */
const session = { untilBack: async () => undefined };

test('what is cut off is done again, and what never ends well is not done for ever', async () => {
  let tries = 0;
  const cut = async (times: number) => {
    tries += 1;
    if (tries <= times) throw new LinkError('left');
    return tries;
  };
  expect(await throughCuts(session, () => cut(CUTS_AT_MOST))).toBe(CUTS_AT_MOST + 1);
  tries = 0;
  await expect(throughCuts(session, () => cut(Infinity))).rejects.toMatchObject({ code: 'left' });
  expect(tries).toBe(CUTS_AT_MOST + 1);
});
