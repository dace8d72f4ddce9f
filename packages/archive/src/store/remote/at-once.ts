/** Requests that are under way at once. */
const AT_ONCE = 8;

/** Does something with each, some at once. The first error ends it when those that were begun are over. */
export async function atOnce<T>(all: readonly T[], work: (one: T) => Promise<void>): Promise<void> {
  const left = [...all];
  const ended = await Promise.allSettled(
    Array.from({ length: AT_ONCE }, async () => {
      for (let one = left.shift(); one !== undefined; one = left.shift()) {
        await work(one).catch((error: unknown) => {
          left.length = 0;
          throw error;
        });
      }
    }),
  );
  for (const end of ended) if (end.status === 'rejected') throw end.reason;
}
