import type { Contents, PutMode, Room, Stored, StoredFile } from '../store.js';

/**
 * What a place that this computer reaches over a network can do, whatever it is: whole files by their names. Errors carry a
 * POSIX code; `ENOTCONN` where it is not reached.
 */
export interface Medium {
  room(): Promise<Room>;
  /** All that lies below a prefix, which is empty or ends with `/`; in the order of names. */
  list(prefix: string): Promise<Stored[]>;
  /** Names at its top below which something lies. */
  folders(): Promise<string[]>;
  /** @throws `ENOENT`, `EINVAL` where it is no plain file */
  open(name: string): Promise<StoredFile>;
  /** Writes a whole file, which is durable then, or not there at all. @throws `EEXIST` where it must be absent and is there */
  put(name: string, contents: Contents, how: PutMode): Promise<void>;
  /** Gives a file another name, over one that has it. @throws `ENOENT` */
  move(from: string, to: string): Promise<void>;
  /** What is not there is removed already. */
  remove(name: string): Promise<void>;
  /** The same of all that lies below a prefix. */
  removeAll(prefix: string): Promise<void>;
  /** Other bytes in the place of a file's own, as far as it keeps places. One that is not there is left so. */
  overwrite(name: string): Promise<void>;
  /** When a file was written, in ms, by the medium's own clock; null where it is not there. */
  writtenAt(name: string): Promise<number | null>;
  /** Clears away what was cut off while it was written, and does not go on. */
  tidy(): Promise<void>;
}

export const codedError = (code: string, cause?: unknown) =>
  Object.assign(new Error(code, { cause }), { code });
