// @ts-check
import { vi } from 'vitest';

/**
 * Tests open hundreds of archives, and a password is made to be slow. Here it takes next to no work; each file
 * says itself how heavy it is, so it opens like any other. For a whole product `light-work.mjs` does the same.
 */
vi.mock(import('../../packages/archive/src/keys/passphrase.js'), async (original) => {
  const real = await original();
  class PasswordRecipient extends real.PasswordRecipient {
    /** @param {string} password */
    constructor(password, logN = 4) {
      super(password, logN);
    }
  }
  return { ...real, PasswordRecipient };
});
