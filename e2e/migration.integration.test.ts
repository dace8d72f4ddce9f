import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { beforeEach, describe, expect, test } from 'vitest';
import type { Archive, Operation, Rack, Ticket } from '@bright-cellar/contract';
import { resultOf, type Answer } from './api.js';
import { openShop } from './open-shop.js';
import { eventually, openOwned, OWNED, PASSWORD, WIPED } from './product.js';

/** From an old device onto a new one: a backup is taken, and sent while it is taken. */

const TAIL = '0T57';
const { product, api } = await openShop({
  ...{ installMs: 300, waitForDeviceMs: 60_000 },
  only: [OWNED, WIPED],
  // So slow that something can happen in the middle.
  rate: 7e5,
});

let ticket = '';
beforeEach(async () => {
  await openOwned(product);
  await product.press(WIPED, { do: 'pull-cable' });
  await product.press(WIPED, { do: 'plug', berth: 2 });
  await product.press(WIPED, { do: 'erase' });
  await product.press(WIPED, { do: 'charge', percent: 90 });
  await product.press(WIPED, { do: 'owner-lock-off' });
  await product.press(WIPED, { do: 'approve', passcode: '' });
  ticket = await api.openTicket(OWNED);
});

async function migrate(more: object = {}): Promise<Answer<Operation>> {
  const { body: racks } = await api.get<Rack[]>('/api/racks');
  return api.post(`/api/tickets/${ticket}/migrations`, {
    ...{ mode: 'everything', choice: {}, encrypted: true, accepted: [], fromDesk: false },
    ...{ rackId: racks[0]?.id, archiveId: null, password: PASSWORD },
    ...{ passwordHolder: 'customer', reminder: '', onto: { deviceId: WIPED, serialTail: TAIL } },
    ...more,
  });
}

const runningBackup = async (): Promise<Operation | undefined> =>
  (await api.get<Operation[]>('/api/operations')).body.find((one) => one.kind === 'backup');
const operation = async (id: string): Promise<Operation> =>
  (await api.get<Operation>(`/api/operations/${id}`)).body;

/** Starts it, and waits until something of it was sent while the backup was still taken. */
async function underWay(): Promise<{ restore: string; backup: string }> {
  const { body } = await migrate();
  expect(body.code, JSON.stringify(body)).toBeUndefined();
  const backup = await eventually('something sent while the backup is taken', async () => {
    const running = await runningBackup();
    const { doneBytes } = await operation(body.id);
    return doneBytes > 0 && running;
  });
  return { restore: body.id, backup: backup.id };
}

/** All of it is on the new device as it is in the backup, and the backup is proven. */
async function isOver({ restore, backup }: { restore: string; backup: string }): Promise<void> {
  const taken = await api.ended(backup);
  const ended = await api.ended(restore);
  const { compared } = resultOf(ended, 'restore');
  expect(compared).toEqual({
    ...{ same: resultOf(taken, 'backup').items, different: 0, missing: 0, extra: 0 },
  });
  const { body: archive } = await api.get<Archive>(`/api/archives/${taken.archiveId}`);
  expect(archive.provenAt).not.toBeNull();
  const { body: visit } = await api.get<Ticket>(`/api/tickets/${ticket}`);
  const states = visit.runSheet.map(({ id, state }) => [id, state]);
  expect(states).toEqual(
    expect.arrayContaining([
      ['backup', 'done'],
      ['prove', 'done'],
      ['restore', 'done'],
    ]),
  );
}

test('a restore of a backup that was taken before goes on by itself after a pulled cable', async () => {
  const { backupId } = await api.provenBackup(OWNED);
  const { body } = await api.post(`/api/backups/${backupId}/restores`, {
    ...{ deviceId: WIPED, serialTail: TAIL, password: PASSWORD },
  });
  expect(body.code, JSON.stringify(body)).toBeUndefined();
  await eventually('something sent', async () => (await operation(body.id)).doneBytes > 0);
  await product.press(WIPED, { do: 'pull-cable' });
  await eventually('what is to be done, said', async () =>
    (await operation(body.id)).needs?.startsWith('Connect the device again'),
  );
  await product.press(WIPED, { do: 'plug', berth: 2 });
  const { items, compared } = resultOf(await api.ended(body.id), 'restore');
  expect(compared).toEqual({ same: items, different: 0, missing: 0, extra: 0 });
});

test('an owner lock that nobody saw before shows itself in the middle: its owner is waited for', async () => {
  const { backupId } = await api.provenBackup(OWNED);
  await product.press(WIPED, { do: 'leave-owner-lock' });
  const { body } = await api.post(`/api/backups/${backupId}/restores`, {
    ...{ deviceId: WIPED, serialTail: TAIL, password: PASSWORD },
  });
  expect(body.code, JSON.stringify(body)).toBeUndefined();
  const waits = await eventually('its owner asked for', async () => {
    const now = await operation(body.id);
    return now.needs?.includes('asks for its owner') && now;
  });
  expect(waits).toMatchObject({ state: 'running', phase: 'installing' });
  await product.press(WIPED, { do: 'owner-lock-off' });
  const { items, compared } = resultOf(await api.ended(body.id), 'restore');
  expect(compared).toEqual({ same: items, different: 0, missing: 0, extra: 0 });
});

describe('old to new', () => {
  test('goes over while the backup is taken; that is proven, and all of it is compared', async () => {
    await isOver(await underWay());
  });

  test('what changes on the old device meanwhile is on the new one as it is in the backup', async () => {
    const both = await underWay();
    await product.press(OWNED, { do: 'write-note', text: 'written in the middle' });
    await isOver(both);
  });

  test.each([
    ['new', WIPED, 2],
    ['old', OWNED, 1],
  ] as const)(
    'goes on by itself after the cable of the %s one was pulled',
    async (_, device, berth) => {
      const both = await underWay();
      await product.press(device, { do: 'pull-cable' });
      await sleep(2_000);
      await product.press(device, { do: 'plug', berth });
      if (device === OWNED) await openOwned(product);
      await isOver(both);
    },
    150_000,
  );

  test('ends where the backup is stopped, and the new device has nothing', async () => {
    const { restore, backup } = await underWay();
    await api.post(`/api/operations/${backup}/stop`);
    const ended = await api.ended(restore);
    expect(ended.problem?.code).toBe('backup-unfinished');
    expect(existsSync(join(product.data, 'bench', WIPED, 'contents'))).toBe(false);
  });

  test.each([
    ['wrong-serial', { onto: { deviceId: WIPED, serialTail: '0000' } }],
    ['input-not-valid', { mode: 'quick' }],
    ['device-in-use', { onto: { deviceId: OWNED, serialTail: '0000' } }],
  ])('nothing is started where it is refused: %s', async (code, more) => {
    const { body } = await migrate(more);
    expect(body.code).toBe(code);
    expect(await runningBackup()).toBeUndefined();
  });
});
