// @ts-check
import { setFlagsFromString } from 'node:v8';

/**
 * Preloaded into every process of a product under test, into `cellar` there, and into what loads the demo's made-up past.
 *
 * A password's key takes next to none of the work that it is made to take: a walk derives a thousand of them. Each file says
 * itself how heavy it is, so it opens like any other. Whether a new password is among those that anybody would try first is
 * not looked up: it takes each process half a core-second to sort the words for that (strong-password.test.ts does it).
 *
 * What `fetch` reads answers with is left as it is compiled first: making it faster takes each process a fifth of a
 * core-second, which one that lives for half a minute never gets back.
 */
setFlagsFromString('--liftoff-only');

const [, program = ''] = process.argv;
/** @param {string} path below `packages` @returns {Promise<Record<string, object>>} what it gives */
const built = (path) => import(new URL(`../../packages/${path}`, import.meta.url).href);

const [isServer, isCellar] = ['server', 'cli'].map((name) =>
  program.includes(`/packages/${name}/`),
);

if (isServer || isCellar) {
  const bundle = isCellar ? 'cli/dist/bundle/cli' : 'server/dist/run';
  const { PasswordRecipient } = await built(`${bundle}/passphrase.js`);
  Object.assign(/** @type {object} */ (PasswordRecipient), { workFactor: 4 });
}
if (isServer) {
  const { estimator } = await built('server/dist/run/strong-password.js');
  Object.assign(/** @type {object} */ (estimator), { problemOf: async () => null });
}
