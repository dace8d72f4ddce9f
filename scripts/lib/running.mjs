// @ts-check
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { homedir } from 'node:os';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { isAlive } from './processes.mjs';
import { say, Sentence } from './say.mjs';

/** Throws where a data folder is in use by another start. @param {string} data */
export function mustBeFree(data) {
  const lock = join(data, 'run/start.pid');
  const other = existsSync(lock) ? Number(readFileSync(lock, 'utf8')) : 0;
  if (other && isAlive(other)) {
    throw new Sentence(
      `Bright Cellar is running on ${data} already (process ${other}). Stop it, or choose another folder with --data DIR.`,
    );
  }
}

/**
 * Runs the product on a data folder until somebody stops it: Ctrl-C, or whoever keeps services.
 * @param {string} data
 * @param {() => Promise<{ stop: () => Promise<void> }>} start starts it, and says where it is
 */
export async function runUntilStopped(data, start) {
  const lock = join(data, 'run/start.pid');
  mkdirSync(join(data, 'run'), { recursive: true, mode: 0o700 });
  writeFileSync(lock, String(process.pid));
  const interrupted = new Promise((done) => {
    process.once('SIGINT', done);
    process.once('SIGTERM', done);
  });
  let product;
  try {
    product = await start();
    await interrupted;
    say('Stopping');
  } finally {
    await product?.stop();
    rmSync(lock, { force: true });
  }
}

/** Where an installation is. @satisfies {NonNullable<import('node:util').ParseArgsConfig['options']>[string]} */
export const dataOption = /** @type {const} */ ({
  type: 'string',
  default: join(homedir(), '.bright-cellar'),
});

/**
 * What was typed after a command. @throws Sentence its usage, where it is anything else
 * @template {NonNullable<import('node:util').ParseArgsConfig['options']>} Options
 * @param {Options} options @param {string} usage
 * @returns {ReturnType<typeof parseArgs<{ options: Options }>>['values']}
 */
export function typedOptions(options, usage) {
  try {
    return parseArgs({ options }).values;
  } catch {
    throw new Sentence(`Usage: ${usage}`);
  }
}

/**
 * Where it is served on loopback. @param {string} text @param {number} beside so many ports after it are used too
 * @returns {number}
 */
export function portFrom(text, beside) {
  const port = Number(text);
  const most = 65_535 - beside;
  if (!Number.isInteger(port) || port < 1 || port > most) {
    throw new Sentence(`--port takes a number from 1 to ${most}, not “${text}”.`);
  }
  return port;
}
