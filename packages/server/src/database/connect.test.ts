import { describe, expect, test } from 'vitest';
import { untilUndisturbed } from './connect.js';

const fromDatabase = (code: string) =>
  new Error('query failed', { cause: Object.assign(new Error(code), { code }) });

/** What fails so many times before it works. */
function failing(times: number, error: Error) {
  let tries = 0;
  const work = async () => {
    tries += 1;
    if (tries <= times) throw error;
    return 'done';
  };
  return { work, tries: () => tries };
}

describe('a transaction that others disturbed', () => {
  test.each(['ER_LOCK_DEADLOCK', 'ER_LOCK_WAIT_TIMEOUT'])('by %s is done again', async (code) => {
    const { work, tries } = failing(5, fromDatabase(code));
    expect(await untilUndisturbed(work)).toBe('done');
    expect(tries()).toBe(6);
  });

  test('again and again is not done for ever', async () => {
    const error = fromDatabase('ER_LOCK_DEADLOCK');
    const { work, tries } = failing(99, error);
    await expect(untilUndisturbed(work)).rejects.toBe(error);
    expect(tries()).toBe(6);
  });

  test('by nothing of the kind is done once', async () => {
    const { work, tries } = failing(1, fromDatabase('ER_DUP_ENTRY'));
    await expect(untilUndisturbed(work)).rejects.toThrow('query failed');
    expect(tries()).toBe(1);
  });
});
