import type Client from 'ssh2-sftp-client';
import { codedError } from '../remote/medium.js';

/** The part of an SFTP session that is used here. */
export type Session = Awaited<ReturnType<Client['connect']>>;

export type Done<T> = (error: Error | null | undefined, value?: T) => void;

/**
 * A session, and who waits for an answer of it. The library keeps nobody's question who asks after its connection was lost, or who
 * asked for something that it does in several requests: they would wait for ever. Here everybody hears of the end.
 */
export class Line {
  readonly #session: Session;
  readonly #waiting = new Set<() => void>();
  #isOver = false;
  /** Files that are open in it: one that ended under whoever reads slowly would take them along. */
  handles = 0;

  constructor(session: Session) {
    this.#session = session;
  }

  /** One call of the session. @throws what the box answers; `ENOTCONN` where it is lost before it does, or was before */
  ask<T>(make: (session: Session, done: Done<T>) => void): Promise<T> {
    return new Promise<T>((resolve, reject) => {
      const lost = () => reject(codedError('ENOTCONN'));
      if (this.#isOver) {
        lost();
        return;
      }
      this.#waiting.add(lost);
      make(this.#session, (error, value) => {
        this.#waiting.delete(lost);
        if (error) reject(error);
        else resolve(value as T);
      });
    });
  }

  get isOver(): boolean {
    return this.#isOver;
  }

  /** Tells everybody that it is lost. */
  end(): void {
    this.#isOver = true;
    for (const lost of this.#waiting) lost();
    this.#waiting.clear();
  }
}
