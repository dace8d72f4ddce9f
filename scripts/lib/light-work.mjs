// @ts-check
import { PasswordRecipient } from '../../packages/archive/dist/keys/passphrase.js';

/**
 * Preloaded into every process of a product under test, and into what loads the demo's made-up past: a password's key takes a
 * hundredth of the work that it is made to take. A walk derives a thousand of them. Each file says itself how heavy it is, so it opens like any other.
 */
Object.assign(PasswordRecipient, { workFactor: 10 });
