// @ts-check

/**
 * Preloaded into every process of a product under test, and into what loads the demo's made-up past: a password's key takes a
 * hundredth of the work that it is made to take. A walk derives a thousand of them. Each file says itself how heavy it is, so it opens like any other.
 */
const built = new URL('../../packages/server/dist/run/passphrase.js', import.meta.url);
/** @type {unknown} */
const passphrase = await import(built.href);
const { PasswordRecipient } = /** @type {{ PasswordRecipient: object }} */ (passphrase);
Object.assign(PasswordRecipient, { workFactor: 10 });
