import { Failure } from '@bright-cellar/core';
import { Decrypter, Encrypter, generateIdentity, identityToRecipient } from 'age-encryption';
import { PasswordIdentity, PasswordRecipient } from './passphrase.js';

/** A shop's escrow: what archives are sealed to, and the identity that opens them, which takes two people. */
export interface Escrow {
  /** `age1…`. */
  recipient: string;
  /** The identity in an age v1 file under both phrases together. */
  sealed: Uint8Array;
}

/** Both phrases, in the order of the people they belong to. Neither opens anything without the other. */
export type TwoPhrases = readonly [first: string, second: string];

/** One password out of two: neither can be tried without the other, and nobody learns which of them was wrong. */
const together = ([first, second]: TwoPhrases) =>
  [first, second].map((phrase) => phrase.normalize('NFC')).join('\u001f');

async function seal(bytes: Uint8Array, phrases: TwoPhrases): Promise<Uint8Array> {
  const encrypter = new Encrypter();
  encrypter.addRecipient(new PasswordRecipient(together(phrases)));
  return encrypter.encrypt(bytes);
}

async function unseal(file: Uint8Array, phrases: TwoPhrases): Promise<Uint8Array> {
  const decrypter = new Decrypter();
  decrypter.addIdentity(new PasswordIdentity(together(phrases)));
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

export async function newEscrow(phrases: TwoPhrases): Promise<Escrow> {
  const identity = await generateIdentity();
  return {
    recipient: await identityToRecipient(identity),
    sealed: await seal(Buffer.from(identity), phrases),
  };
}

/** @returns `AGE-SECRET-KEY-1…` @throws Failure `wrong-password` */
export async function openEscrow(sealed: Uint8Array, phrases: TwoPhrases): Promise<string> {
  return Buffer.from(await unseal(sealed, phrases)).toString('utf8');
}
