// @ts-check
import { setFlagsFromString } from 'node:v8';

/**
 * Preloaded into every process of a product under test, into `cellar` there, and into what loads the demo's made-up past: a password's
 * key takes a hundredth of the work that it is made to take. A walk derives a thousand of them. Each file says itself how heavy it is,
 * so it opens like any other. What `fetch` reads answers with is left as it is compiled first: making it faster takes each process a
 * fifth of a core-second, which one that lives for half a minute never gets back.
 */
setFlagsFromString('--liftoff-only');

const program = process.argv[1]?.includes('/cli/') ? 'cli/dist/bundle/cli' : 'server/dist/run';
const built = new URL(`../../packages/${program}/passphrase.js`, import.meta.url);
/** @type {unknown} */
const passphrase = await import(built.href);
const { PasswordRecipient } = /** @type {{ PasswordRecipient: object }} */ (passphrase);
Object.assign(PasswordRecipient, { workFactor: 10 });
