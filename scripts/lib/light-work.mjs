// @ts-check
import { fileURLToPath, pathToFileURL } from 'node:url';
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
const cellar = fileURLToPath(
  new URL('../../packages/cli/dist/bundle/cli/main.js', import.meta.url),
);
const isServer = program.includes('/packages/server/dist/run/');
/** @param {string} part of the program that runs @returns {Promise<Record<string, object>>} what it gives */
const partOf = (part) =>
  import(pathToFileURL((isServer ? program : cellar).replace(/js$/, `${part}.js`)).href);

if (isServer || program.includes('/packages/cli/')) {
  const { PasswordRecipient } = await partOf('passphrase');
  Object.assign(/** @type {object} */ (PasswordRecipient), { workFactor: 4 });
}
if (isServer) {
  const { estimator } = await partOf('strong-password');
  Object.assign(/** @type {object} */ (estimator), { problemOf: async () => null });
}
