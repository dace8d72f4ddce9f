import { Failure } from '@bright-cellar/core';
import { Decrypter, Encrypter, generateIdentity, identityToRecipient } from 'age-encryption';
import { PasswordIdentity, PasswordRecipient } from './passphrase.js';

/** A shop's escrow: what archives are sealed to, and the identity that opens them, which takes two people. */
export interface Escrow {
  /** `age1…`. */
  recipient: string;
  /** The identity in an age v1 file under the second phrase, in one under the first. */
  sealed: Uint8Array;
}

/** Both phrases, in the order of the people they belong to. Neither opens anything without the other. */
export type TwoPhrases = readonly [first: string, second: string];

async function seal(bytes: Uint8Array, phrase: string): Promise<Uint8Array> {
  const encrypter = new Encrypter();
  encrypter.addRecipient(new PasswordRecipient(phrase));
  return encrypter.encrypt(bytes);
}

async function unseal(file: Uint8Array, phrase: string): Promise<Uint8Array> {
  const decrypter = new Decrypter();
  decrypter.addIdentity(new PasswordIdentity(phrase));
  try {
    return await decrypter.decrypt(file);
  } catch (error) {
    throw new Failure(
      'wrong-password',
      {
        what: 'Those two phrases do not open the escrow.',
        next: 'Each of the two types their own phrase again.',
      },
      { cause: error },
    );
  }
}

export async function newEscrow([first, second]: TwoPhrases): Promise<Escrow> {
  const identity = await generateIdentity();
  const inner = await seal(Buffer.from(identity), second);
  return { recipient: await identityToRecipient(identity), sealed: await seal(inner, first) };
}

/** @returns `AGE-SECRET-KEY-1…` @throws Failure `wrong-password` */
export async function openEscrow(sealed: Uint8Array, [first, second]: TwoPhrases): Promise<string> {
  const identity = await unseal(await unseal(sealed, first), second);
  return Buffer.from(identity).toString('utf8');
}
