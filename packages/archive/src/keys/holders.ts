import { Failure } from '@bright-cellar/core';
import { Decrypter, Encrypter, type Stanza } from 'age-encryption';
import { PasswordIdentity, PasswordRecipient } from './passphrase.js';
import { ArchiveKey } from './archive-key.js';

/**
 * Who can open an archive: each holder has one age v1 file with the archive's key in it. `age -d` opens
 * such a file and prints the 32 bytes.
 */
export type HolderKind = 'password' | 'escrow';

/** What somebody opens an archive with. */
export type Secret =
  | { kind: 'password'; password: string }
  /** `AGE-SECRET-KEY-1…`: the shop's escrow identity. */
  | { kind: 'escrow'; identity: string };

export const withPassword = (password: string): Secret => ({ kind: 'password', password });

export async function wrapForPassword(key: ArchiveKey, password: string): Promise<Uint8Array> {
  const encrypter = new Encrypter();
  encrypter.addRecipient(new PasswordRecipient(password));
  return wrap(encrypter, key);
}

/** @throws Failure `input-not-valid` when that is no `age1…` recipient. */
export async function wrapForEscrow(key: ArchiveKey, recipient: string): Promise<Uint8Array> {
  const encrypter = new Encrypter();
  try {
    encrypter.addRecipient(recipient);
  } catch (error) {
    throw new Failure(
      'input-not-valid',
      { what: 'The escrow recipient is not an age recipient (age1…).' },
      { cause: error },
    );
  }
  return wrap(encrypter, key);
}

async function wrap(encrypter: Encrypter, key: ArchiveKey): Promise<Uint8Array> {
  const bytes = key.bytes();
  try {
    return await encrypter.encrypt(bytes);
  } finally {
    bytes.fill(0);
  }
}

/**
 * The key out of a holder's file.
 * @throws Failure `wrong-password`, or `archive-damaged` when the file is not a key file at all.
 */
export async function unwrap(file: Uint8Array, secret: Secret): Promise<ArchiveKey> {
  const decrypter = new Decrypter();
  const answer = { refused: false };
  if (secret.kind === 'escrow') {
    try {
      decrypter.addIdentity(secret.identity);
    } catch (error) {
      throw new Failure('wrong-password', {}, { cause: error });
    }
  } else {
    const identity = new PasswordIdentity(secret.password);
    decrypter.addIdentity({
      async unwrapFileKey(stanzas: Stanza[]) {
        const fileKey = await identity.unwrapFileKey(stanzas);
        answer.refused = fileKey === null;
        return fileKey;
      },
    });
  }
  try {
    const bytes = await decrypter.decrypt(file);
    const key = ArchiveKey.of(bytes);
    bytes.fill(0);
    return key;
  } catch (error) {
    // The library has no code for it: its own identities say so in words only.
    if (
      answer.refused ||
      (error instanceof Error && error.message.includes('no identity matched'))
    ) {
      throw new Failure('wrong-password');
    }
    throw new Failure(
      'archive-damaged',
      { what: 'The key file of this archive is damaged.' },
      { cause: error },
    );
  }
}
