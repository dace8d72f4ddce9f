/** A thread takes as long to start as it takes to read or seal so much. */
const WORTH_A_THREAD_BYTES = 8 * 2 ** 20;

/** How many threads so much work is worth; 0: it is done in this one. */
export const threadsFor = (bytes: number, most: number): number =>
  Math.min(most, Math.floor(bytes / WORTH_A_THREAD_BYTES));
