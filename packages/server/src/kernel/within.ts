/**
 * Something that must end: by itself, in so many milliseconds, or when somebody says so. It is watched here, since `fetch` may lose
 * a signal once its request is collected.
 */
export async function within<T>(
  signal: AbortSignal,
  ms: number,
  work: (signal: AbortSignal) => Promise<T>,
): Promise<T> {
  signal.throwIfAborted();
  const over = new AbortController();
  const end = () => over.abort(signal.reason);
  const timer = setTimeout(end, ms);
  signal.addEventListener('abort', end);
  try {
    return await new Promise<T>((resolve, reject) => {
      over.signal.addEventListener('abort', () => reject(new Error('it took too long')));
      work(over.signal).then(resolve, reject);
    });
  } finally {
    clearTimeout(timer);
    signal.removeEventListener('abort', end);
  }
}
