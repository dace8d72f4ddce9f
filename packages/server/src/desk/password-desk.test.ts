import type { DeskAction } from '@bright-cellar/contract';
import { Failure, problemOf } from '@bright-cellar/core';
import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import { HeldPassword } from '../kernel/held-password.js';
import { newDeviceId } from '../testing/ids.js';
import { PasswordDesks } from './password-desk.js';

const MINUTE = 60_000;
const changed = vi.fn();
const record: string[] = [];
const events = {
  changed,
  opened: ({ action, technician }: { action: string; technician: string | null }) =>
    void record.push(`opened ${action} ${technician ?? 'by a stranger'}`),
  filled: ({ action }: { action: string }) => void record.push(`filled ${action}`),
};
const given = { password: 'ferry lantern quince mole', reminder: 'the usual' };
const fromDesk = { fromDesk: true, password: '' };
const DEVICE = newDeviceId();

beforeEach(() => {
  vi.useFakeTimers();
});
afterEach(() => {
  vi.useRealTimers();
});

const opened = (action: DeskAction = 'backup') => {
  const desks = new PasswordDesks(events);
  return { desks, token: desks.open(DEVICE, 'Quillon Q40', action).token };
};
const code = async (work: () => unknown) => {
  try {
    await work();
    return null;
  } catch (error) {
    return problemOf(error).code;
  }
};
/** What the work that was started got as its password. */
const started = (
  desks: PasswordDesks,
  after: 'hold' | 'forget',
  device = DEVICE,
  action: DeskAction = after === 'hold' ? 'backup' : 'proof',
) => desks.use(device, fromDesk, action, after, async (wanted) => wanted.password);

describe('what a customer types on their own page', () => {
  test('goes to their own device’s work, and to no other', async () => {
    const { desks, token } = opened();
    await desks.give(token, given);
    await expect(started(desks, 'forget', newDeviceId())).rejects.toMatchObject({
      problem: { code: 'not-found' },
    });
    expect(await started(desks, 'forget')).toBe(given.password);
  });

  test('is forgotten after a quarter of an hour when no work fetches it', async () => {
    const { desks, token } = opened();
    await desks.give(token, given);
    vi.advanceTimersByTime(14 * MINUTE);
    expect(desks.stateOf(DEVICE).state).toBe('given');
    vi.advanceTimersByTime(2 * MINUTE);
    expect(desks.stateOf(DEVICE)).toMatchObject({ state: 'none', until: null });
    expect(await code(() => desks.view(token, null))).toBe('not-found');
  });

  test('is held for the proof of what it was used for, four hours at most, and its page is closed', async () => {
    const { desks, token } = opened();
    await desks.give(token, given);
    await started(desks, 'hold');
    expect(desks.stateOf(DEVICE).state).toBe('held');
    expect(await code(() => desks.view(token, null))).toBe('not-found');
    expect(
      await code(() => desks.give(token, { ...given, password: 'another one altogether' })),
    ).toBe('not-found');
    vi.advanceTimersByTime(239 * MINUTE);
    expect(await started(desks, 'hold')).toBe(given.password);
    vi.advanceTimersByTime(241 * MINUTE);
    expect(desks.stateOf(DEVICE).state).toBe('none');
  });

  test('is forgotten once the proof has started', async () => {
    const { desks, token } = opened();
    await desks.give(token, given);
    await started(desks, 'forget');
    await expect(started(desks, 'forget')).rejects.toBeInstanceOf(Failure);
  });

  test('stays where the work could not start, unless it opened nothing', async () => {
    const { desks, token } = opened('further');
    await desks.give(token, given);
    const failing = (problem: 'device-busy' | 'wrong-password') =>
      desks.use(DEVICE, fromDesk, 'further', 'hold', async () => {
        throw new Failure(problem);
      });
    await expect(failing('device-busy')).rejects.toBeInstanceOf(Failure);
    expect(desks.stateOf(DEVICE).state).toBe('given');
    changed.mockClear();
    await expect(failing('wrong-password')).rejects.toBeInstanceOf(Failure);
    expect(changed).toHaveBeenCalledOnce();
    expect(desks.stateOf(DEVICE).state).toBe('none');
  });

  test('must be a password where it is a new one; of an archive that is there it is whatever it is', async () => {
    const chosen = opened('backup');
    expect(await code(() => chosen.desks.give(chosen.token, { ...given, password: '1234' }))).toBe(
      'weak-password',
    );
    const known = opened('further');
    await known.desks.give(known.token, { ...given, password: '1234' });
    expect(known.desks.stateOf(DEVICE).state).toBe('given');
  });

  test('a second page for a device takes the place of the first', async () => {
    const { desks, token } = opened();
    const second = desks.open(DEVICE, 'Quillon Q40', 'backup').token;
    expect(second).not.toBe(token);
    expect(await code(() => desks.view(token, null))).toBe('not-found');
    expect(desks.view(second, null)).toMatchObject({
      ...{ device: 'Quillon Q40', action: 'backup', openings: 1, openedBy: [] },
    });
  });
});

test('a password typed at the counter is passed on as it is, and nothing is kept of it', async () => {
  const desks = new PasswordDesks(events);
  const typed = { fromDesk: false, password: 'typed at the counter' };
  expect(await desks.use(DEVICE, typed, 'backup', 'hold', async ({ password }) => password)).toBe(
    typed.password,
  );
  expect(desks.stateOf(DEVICE).state).toBe('none');
});

describe('a customer’s page', () => {
  test('is closed by the first that is typed: what comes after takes its place by no means', async () => {
    const { desks, token } = opened();
    await desks.give(token, given);
    expect(await code(() => desks.view(token, null))).toBe('not-found');
    const another = { ...given, password: 'somebody else’s four words' };
    expect(await code(() => desks.give(token, another))).toBe('not-found');
  });

  test('serves the one thing that it named, and what belongs to it', async () => {
    const { desks, token } = opened('proof');
    await desks.give(token, given);
    for (const action of ['backup', 'further', 'restore', 'package', 'look', 'regular'] as const) {
      await expect(started(desks, 'hold', DEVICE, action)).rejects.toMatchObject({
        problem: { code: 'not-found', what: 'What the customer typed was for something else.' },
      });
    }
    expect(await started(desks, 'forget', DEVICE, 'proof')).toBe(given.password);
  });

  test('is on record: each opening, by whom of the shop, and that it was filled', async () => {
    record.length = 0;
    const { desks, token } = opened('restore');
    desks.view(token, 'Wren Gorsegate');
    const seen = desks.view(token, null);
    expect(seen).toMatchObject({ openings: 2, openedBy: ['Wren Gorsegate'] });
    await desks.give(token, given);
    expect(record).toEqual([
      ...['opened restore Wren Gorsegate', 'opened restore by a stranger', 'filled restore'],
    ]);
    expect(desks.stateOf(DEVICE)).toMatchObject({ openings: 2, openedBy: ['Wren Gorsegate'] });
  });

  test('what was typed is overwritten when it is done: forgotten, replaced, or out of time', async () => {
    const made: Buffer[] = [];
    const forget = vi.spyOn(HeldPassword.prototype, 'forget').mockImplementation(function (
      this: HeldPassword,
    ) {
      made.push(this.bytes);
      this.bytes.fill(0);
    });
    for (const end of ['used', 'replaced', 'late'] as const) {
      const { desks, token } = opened();
      await desks.give(token, given);
      if (end === 'used') await started(desks, 'forget');
      if (end === 'replaced') desks.open(DEVICE, 'Quillon Q40', 'backup');
      if (end === 'late') {
        vi.advanceTimersByTime(16 * MINUTE);
        desks.stateOf(DEVICE);
      }
    }
    forget.mockRestore();
    expect(made).toHaveLength(3);
    for (const bytes of made) expect([...bytes].every((byte) => byte === 0)).toBe(true);
  });
});
