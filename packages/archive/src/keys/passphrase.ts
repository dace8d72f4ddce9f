import { createCipheriv, createDecipheriv, randomBytes, scrypt } from 'node:crypto';
import { Stanza, type Identity, type Recipient } from 'age-encryption';

/**
 * The scrypt recipient of age v1 (C2SP age specification, "The scrypt recipient type") on Node's own
 * scrypt. The library's is in JavaScript, three times slower, and would hold up the event loop for
 * two seconds; this one runs in the thread pool. Interoperates with every age implementation.
 */
const LABEL = 'age-encryption.org/v1/scrypt';
const SALT_BYTES = 16;
const FILE_KEY_BYTES = 16;
const TAG_BYTES = 16;

/** log2 of scrypt's N: 128 MiB and about 0.6 s a guess here; see docs/decisions/0002-primitives.md. */
export const WORK_FACTOR = 17;
/** A file that asks for more than this is not one of ours and would be a way to exhaust memory. */
const MAX_WORK_FACTOR = 18;

function wrapKey(password: string, salt: Uint8Array, logN: number): Promise<Buffer> {
  const N = 2 ** logN;
  const labelled = Buffer.concat([Buffer.from(LABEL), salt]);
  return new Promise((resolve, reject) => {
    scrypt(
      password.normalize('NFC'),
      labelled,
      32,
      { N, r: 8, p: 1, maxmem: 128 * N * 8 + 2 ** 20 },
      (error, key) => (error ? reject(error) : resolve(key)),
    );
  });
}

const base64 = (bytes: Uint8Array) => Buffer.from(bytes).toString('base64').replace(/=+$/, '');

export class PasswordRecipient implements Recipient {
  readonly #password: string;
  readonly #logN: number;

  /** What a new one is made with. */
  static readonly workFactor: number = WORK_FACTOR;

  constructor(password: string, logN = PasswordRecipient.workFactor) {
    this.#password = password;
    this.#logN = logN;
  }

  async wrapFileKey(fileKey: Uint8Array): Promise<Stanza[]> {
    const salt = randomBytes(SALT_BYTES);
    const key = await wrapKey(this.#password, salt, this.#logN);
    const cipher = createCipheriv('chacha20-poly1305', key, Buffer.alloc(12), {
      authTagLength: TAG_BYTES,
    });
    const body = Buffer.concat([cipher.update(fileKey), cipher.final(), cipher.getAuthTag()]);
    return [new Stanza(['scrypt', base64(salt), String(this.#logN)], body)];
  }
}

export class PasswordIdentity implements Identity {
  readonly #password: string;

  constructor(password: string) {
    this.#password = password;
  }

  /** @returns null when the password is another one. @throws when the stanza is malformed. */
  async unwrapFileKey(stanzas: Stanza[]): Promise<Uint8Array | null> {
    const stanza = stanzas.find((s) => s.args[0] === 'scrypt');
    if (!stanza) return null;
    const [, saltText = '', logNText = ''] = stanza.args;
    const salt = Buffer.from(saltText, 'base64');
    if (
      stanzas.length !== 1 ||
      stanza.args.length !== 3 ||
      salt.length !== SALT_BYTES ||
      !/^[1-9][0-9]?$/.test(logNText) ||
      Number(logNText) > MAX_WORK_FACTOR ||
      stanza.body.length !== FILE_KEY_BYTES + TAG_BYTES
    ) {
      throw new Error('malformed scrypt stanza');
    }
    const key = await wrapKey(this.#password, salt, Number(logNText));
    const decipher = createDecipheriv('chacha20-poly1305', key, Buffer.alloc(12), {
      authTagLength: TAG_BYTES,
    });
    decipher.setAuthTag(stanza.body.subarray(FILE_KEY_BYTES));
    try {
      return Buffer.concat([
        decipher.update(stanza.body.subarray(0, FILE_KEY_BYTES)),
        decipher.final(),
      ]);
    } catch {
      return null;
    }
  }
}
