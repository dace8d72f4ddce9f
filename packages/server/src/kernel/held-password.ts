/**
 * A password that waits for its work. It is held as bytes, so that it can be overwritten when it is done; a string of it
 * exists only for as long as somebody uses one.
 */
export class HeldPassword {
  readonly #bytes: Buffer;

  constructor(password: string) {
    // Not from Node's pool: nobody else has these bytes.
    this.#bytes = Buffer.alloc(Buffer.byteLength(password));
    this.#bytes.write(password);
  }

  /** For a test that looks. */
  get bytes(): Buffer {
    return this.#bytes;
  }

  use(): string {
    return this.#bytes.toString('utf8');
  }

  forget(): void {
    this.#bytes.fill(0);
  }
}

/** Holds passwords for as long as some work takes, however it ends. */
export async function whileHeld<Name extends string, Result>(
  passwords: Record<Name, string>,
  work: (held: Record<Name, HeldPassword>) => Promise<Result>,
): Promise<Result> {
  const all = Object.entries<string>(passwords).map(
    ([name, password]) => [name, new HeldPassword(password)] as const,
  );
  try {
    return await work(Object.fromEntries(all) as Record<Name, HeldPassword>);
  } finally {
    for (const [, held] of all) held.forget();
  }
}
