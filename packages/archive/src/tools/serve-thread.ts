import { parentPort } from 'node:worker_threads';
import { collectGarbage } from './collect.js';
import { END } from './end-thread.js';

/** What a thread does with what it is sent. */
export interface Service<Message> {
  hear: (message: Message) => void | Promise<void>;
  /** Closes what the thread has open. */
  close: () => void;
}

/**
 * A thread's side of its messages: they are dealt with one after the other, and what was used for one is
 * given back before the next. `endThread` ends the thread after those that came before.
 */
export function serveThread<Message>({ hear, close }: Service<Message>): void {
  let before: Promise<void> = Promise.resolve();
  parentPort?.on('message', (message: Message | typeof END) => {
    // In two steps: a message that has been dealt with must not be held while its memory is collected.
    before = before.then(() => (message === END ? end(close) : hear(message))).then(collectGarbage);
  });
}

function end(close: () => void): void {
  try {
    close();
  } finally {
    parentPort?.close();
  }
}
