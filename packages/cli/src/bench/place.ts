import { spawnSync } from 'node:child_process';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { run } from './run-process.js';

const CELLAR = fileURLToPath(new URL('../../bin/cellar.mjs', import.meta.url));

/** A scratch folder with a password and an escrow identity in it. */
export function prepare(folder: string): { password: string; recipient: string } {
  mkdirSync(folder, { recursive: true });
  const password = join(folder, 'password.txt');
  writeFileSync(password, 'four words for measuring\n', { mode: 0o600 });
  const made = spawnSync('age-keygen', ['-o', join(folder, 'identity.txt')], { encoding: 'utf8' });
  const recipient = /age1[0-9a-z]+/.exec(made.stderr)?.[0];
  if (!recipient) throw new Error('age-keygen gave no key');
  return { password, recipient };
}

/** `cellar`, called in a folder, and the largest resident memory of each of its commands, bytes. */
export function cellarIn(folder: string) {
  const peakBytes: Record<string, number> = {};
  const cellar = async (command: string, ...args: string[]) => {
    const result = await run('node', [CELLAR, command, ...args], folder);
    peakBytes[command] = Math.max(peakBytes[command] ?? 0, result.peakBytes);
    return result;
  };
  return { cellar, peakBytes };
}
