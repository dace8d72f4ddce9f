import { Failure, problemOf } from '@bright-cellar/core';
import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import { PasswordDesks } from './password-desk.js';

const MINUTE = 60_000;
const changed = vi.fn();
const given = { password: 'ferry lantern quince mole', reminder: 'the usual' };
const fromDesk = { fromDesk: true, password: '' };
const DEVICE = 'device-42';

beforeEach(() => {
  vi.useFakeTimers();
});
afterEach(() => {
  vi.useRealTimers();
});

const opened = (purpose: 'new' | 'open' = 'new') => {
  const desks = new PasswordDesks(changed);
  return { desks, token: desks.open(DEVICE, 'Quillon Q40', purpose).token };
};
const code = (work: () => unknown) => {
  try {
    work();
    return null;
  } catch (error) {
    return problemOf(error).code;
  }
};
/** What the work that was started got as its password. */
const started = (desks: PasswordDesks, after: 'hold' | 'forget', device = DEVICE) =>
  desks.use(device, fromDesk, after, async (wanted) => wanted.password);

describe('what a customer types on their own page', () => {
  test('goes to their own device’s work, and to no other', async () => {
    const { desks, token } = opened();
    desks.give(token, given);
    await expect(started(desks, 'forget', 'device-43')).rejects.toMatchObject({
      problem: { code: 'not-found' },
    });
    expect(await started(desks, 'forget')).toBe(given.password);
  });

  test('is forgotten after a quarter of an hour when no work fetches it', () => {
    const { desks, token } = opened();
    desks.give(token, given);
    vi.advanceTimersByTime(14 * MINUTE);
    expect(desks.stateOf(DEVICE).state).toBe('given');
    vi.advanceTimersByTime(2 * MINUTE);
    expect(desks.stateOf(DEVICE)).toEqual({ state: 'none', until: null });
    expect(code(() => desks.view(token))).toBe('not-found');
  });

  test('is held for the proof of what it was used for, four hours at most, and its page is closed', async () => {
    const { desks, token } = opened();
    desks.give(token, given);
    await started(desks, 'hold');
    expect(desks.stateOf(DEVICE).state).toBe('held');
    expect(code(() => desks.view(token))).toBe('not-found');
    expect(code(() => desks.give(token, { ...given, password: 'another one altogether' }))).toBe(
      'not-found',
    );
    vi.advanceTimersByTime(239 * MINUTE);
    expect(await started(desks, 'hold')).toBe(given.password);
    vi.advanceTimersByTime(241 * MINUTE);
    expect(desks.stateOf(DEVICE).state).toBe('none');
  });

  test('is forgotten once the proof has started', async () => {
    const { desks, token } = opened();
    desks.give(token, given);
    await started(desks, 'forget');
    await expect(started(desks, 'forget')).rejects.toBeInstanceOf(Failure);
  });

  test('stays where the work could not start, unless it opened nothing', async () => {
    const { desks, token } = opened('open');
    desks.give(token, given);
    const failing = (problem: 'device-busy' | 'wrong-password') =>
      desks.use(DEVICE, fromDesk, 'hold', async () => {
        throw new Failure(problem);
      });
    await expect(failing('device-busy')).rejects.toBeInstanceOf(Failure);
    expect(desks.stateOf(DEVICE).state).toBe('given');
    changed.mockClear();
    await expect(failing('wrong-password')).rejects.toBeInstanceOf(Failure);
    expect(changed).toHaveBeenCalledOnce();
    expect(desks.stateOf(DEVICE).state).toBe('none');
  });

  test('must be a password where it is a new one; of an archive that is there it is whatever it is', () => {
    const chosen = opened('new');
    expect(code(() => chosen.desks.give(chosen.token, { ...given, password: '1234' }))).toBe(
      'weak-password',
    );
    const known = opened('open');
    known.desks.give(known.token, { ...given, password: '1234' });
    expect(known.desks.stateOf(DEVICE).state).toBe('given');
  });

  test('a second page for a device takes the place of the first', () => {
    const { desks, token } = opened();
    const second = desks.open(DEVICE, 'Quillon Q40', 'new').token;
    expect(second).not.toBe(token);
    expect(code(() => desks.view(token))).toBe('not-found');
    expect(desks.view(second)).toEqual({ device: 'Quillon Q40', purpose: 'new', given: false });
  });
});

test('a password typed at the counter is passed on as it is, and nothing is kept of it', async () => {
  const desks = new PasswordDesks(changed);
  const typed = { fromDesk: false, password: 'typed at the counter' };
  expect(await desks.use(DEVICE, typed, 'hold', async ({ password }) => password)).toBe(
    typed.password,
  );
  expect(desks.stateOf(DEVICE).state).toBe('none');
});
