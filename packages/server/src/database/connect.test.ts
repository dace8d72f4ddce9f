import { describe, expect, test } from 'vitest';
import { problemOf } from '@bright-cellar/core';
import { DrizzleQueryError } from 'drizzle-orm';
import { databaseFailure, isDatabaseAway, Overtaken, untilUndisturbed } from './connect.js';

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
  test.each([
    fromDatabase('ER_LOCK_DEADLOCK'),
    fromDatabase('ER_LOCK_WAIT_TIMEOUT'),
    new Overtaken(),
  ])('is done again: %s', async (error) => {
    const { work, tries } = failing(5, error);
    expect(await untilUndisturbed(work)).toBe('done');
    expect(tries()).toBe(6);
  });

  test('again and again is not done for ever', async () => {
    const error = fromDatabase('ER_LOCK_DEADLOCK');
    const { work, tries } = failing(99, error);
    await expect(untilUndisturbed(work)).rejects.toBe(error);
    expect(tries()).toBe(12);
  });

  test('by nothing of the kind is done once', async () => {
    const { work, tries } = failing(1, fromDatabase('ER_DUP_ENTRY'));
    await expect(untilUndisturbed(work)).rejects.toThrow('query failed');
    expect(tries()).toBe(1);
  });
});

describe('a database that is not there', () => {
  const caused = (code: string) => Object.assign(new Error(code), { code });
  const away = [
    new DrizzleQueryError('select 1', [], caused('ECONNREFUSED')),
    new DrizzleQueryError('select 1', [], caused('PROTOCOL_CONNECTION_LOST')),
    Object.assign(caused('ECONNREFUSED'), { fatal: true }),
  ];

  test('is told from a mistake, and from anything else that cannot be reached', () => {
    for (const error of away) expect(isDatabaseAway(error)).toBe(true);
    expect(isDatabaseAway(new DrizzleQueryError('x', [], caused('ER_DUP_ENTRY')))).toBe(false);
    expect(isDatabaseAway(caused('ECONNREFUSED'))).toBe(false);
    expect(isDatabaseAway('ECONNREFUSED')).toBe(false);
  });

  test('is said to be away, and nothing of the question', () => {
    const [error] = away;
    expect(problemOf(databaseFailure(error))).toEqual({
      code: 'database-away',
      what: 'The shop’s catalogue does not answer just now.',
      safe: 'What was saved is safe; the catalogue is being started again.',
      next: 'Try again in a few seconds.',
    });
    const other = new Error('something else');
    expect(databaseFailure(other)).toBe(other);
  });
});
