import { createCipheriv, createDecipheriv, createHash, randomBytes } from 'node:crypto';
import { linkSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

/** What every process of one installation has in common: a folder of its own, and a key that never leaves it. */
interface Installation {
  folder: string;
  key: Buffer;
}

const KEY_FILE = 'installation.key';
const KEY_BYTES = 32;
const NONCE_BYTES = 12;
const TAG_BYTES = 16;

let installation: Installation | null = null;

/** Says where this installation is; its key is made where there is none yet. Once, when a process starts. */
export function openInstallation(folder: string): void {
  mkdirSync(folder, { recursive: true, mode: 0o700 });
  const path = join(folder, KEY_FILE);
  // Two processes start at once: the key of whoever is first is everybody's.
  const draft = `${path}.${randomBytes(8).toString('hex')}`;
  writeFileSync(draft, randomBytes(KEY_BYTES), { mode: 0o600, flag: 'wx', flush: true });
  try {
    linkSync(draft, path);
  } catch (error) {
    if (!(error instanceof Error && 'code' in error && error.code === 'EEXIST')) throw error;
  } finally {
    rmSync(draft);
  }
  const key = readFileSync(path);
  if (key.length !== KEY_BYTES) throw new Error(`“${path}” is not a key of this program.`);
  installation = { folder, key };
}

function opened(): Installation {
  if (!installation) throw new Error('no installation was opened');
  return installation;
}

/** What opens the sealed secrets of this installation: for what is sealed itself, and nowhere else. */
export const installationKey = (): Buffer => opened().key;

/** Tells this installation from others, and nothing of its key: eight hexadecimal digits. */
export const installationName = (): string =>
  createHash('sha256').update('name').update(opened().key).digest('hex').slice(0, 8);

/** A folder of this installation, by its name. It may not be there yet. */
export const installationFolder = (name: string): string => join(opened().folder, name);

/** Seals a small secret under the installation's key: what a row keeps of it opens nowhere else. @returns base64 */
export function sealSecret(secret: string): string {
  const nonce = randomBytes(NONCE_BYTES);
  const cipher = createCipheriv('aes-256-gcm', opened().key, nonce);
  const sealed = Buffer.concat([cipher.update(secret, 'utf8'), cipher.final()]);
  return Buffer.concat([nonce, sealed, cipher.getAuthTag()]).toString('base64');
}

/** @throws Error where it was sealed by another installation, or is not what was sealed */
export function openSecret(sealed: string): string {
  const bytes = Buffer.from(sealed, 'base64');
  const decipher = createDecipheriv(
    'aes-256-gcm',
    opened().key,
    bytes.subarray(0, NONCE_BYTES),
  ).setAuthTag(bytes.subarray(-TAG_BYTES));
  const opens = decipher.update(bytes.subarray(NONCE_BYTES, -TAG_BYTES));
  return Buffer.concat([opens, decipher.final()]).toString('utf8');
}
