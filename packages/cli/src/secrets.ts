import { readFile } from 'node:fs/promises';
import { withPassword, type Secret } from '@bright-cellar/archive';
import { UsageError } from './usage.js';

/** Options by which a command is given a secret: always a file, never the secret itself. */
export interface SecretOptions {
  passwordFile?: string;
  identityFile?: string;
}

/** The first line of a file. @throws UsageError when there is none. */
export async function readPassword(path: string): Promise<string> {
  const text = await readFile(path, 'utf8').catch((error: unknown) => {
    throw new UsageError(`The password file ${path} cannot be read.`, { cause: error });
  });
  const [line = ''] = text.split(/\r?\n/, 1);
  if (line === '') throw new UsageError(`The password file ${path} is empty.`);
  return line;
}

/** The identity of an age identity file. @throws UsageError. */
export async function readIdentity(path: string): Promise<string> {
  const text = await readFile(path, 'utf8').catch((error: unknown) => {
    throw new UsageError(`The identity file ${path} cannot be read.`, { cause: error });
  });
  const identity = text.split(/\r?\n/).find((line) => line.startsWith('AGE-SECRET-KEY-1'));
  if (identity === undefined) throw new UsageError(`${path} holds no age identity.`);
  return identity;
}

export async function readSecret(options: SecretOptions): Promise<Secret | null> {
  if (options.passwordFile !== undefined)
    return withPassword(await readPassword(options.passwordFile));
  if (options.identityFile !== undefined) {
    return { kind: 'escrow', identity: await readIdentity(options.identityFile) };
  }
  return null;
}

/** @throws UsageError when none was given. */
export async function requireSecret(options: SecretOptions): Promise<Secret> {
  const secret = await readSecret(options);
  if (!secret) throw new UsageError('Give --password-file or --identity-file.');
  return secret;
}
