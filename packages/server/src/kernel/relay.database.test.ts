import type { Change } from '@bright-cellar/contract';
import { afterAll, beforeEach, expect, test, vi } from 'vitest';
import { outbox } from '../database/schema.js';
import { makeLog } from '../log.js';
import { testCatalogue } from '../testing/catalogue.js';
import { Relay } from './relay.js';
import { unitOfWork } from './unit-of-work.js';

const { db, acting, clock } = await testCatalogue();
const ending = new AbortController();
afterAll(() => ending.abort());

let told: string[] = [];
const changesToldBy = (changes: Change[]) => changes.map(({ subject, ref }) => `${subject} ${ref}`);
let upTo = 0;
const relay = new Relay({ db, clock, log: makeLog('server', 'silent') }, (changes, last) => {
  told.push(...changesToldBy(changes));
  upTo = last;
});
const change = (ref: string) =>
  unitOfWork({ ...acting, committed: () => relay.wake() }, async (unit) =>
    unit.changed('ticket', ref),
  );
await change('before anybody listened');
void relay.follow(ending.signal);
// It knows where it stands.
await vi.waitFor(async () => expect(await relay.since(1)).not.toBeNull(), { timeout: 30_000 });
beforeEach(() => {
  told = [];
});

test('what is committed is told at once, and what was there before is not', async () => {
  await expect
    .poll(async () => {
      await change('now');
      return told;
    })
    .toContain('ticket now');
  expect(told).not.toContain('ticket before anybody listened');
});

test('a transaction that began earlier and committed later is told too, and nothing twice', async () => {
  let commit = (): void => undefined;
  const held = new Promise<void>((resolve) => {
    commit = resolve;
  });
  const slow = db.transaction(async (tx) => {
    await tx.insert(outbox).values({ at: clock.now(), subject: 'ticket', ref: 'slow' });
    await held;
  });
  await new Promise((resolve) => setTimeout(resolve, 50));
  await change('fast');
  await expect.poll(() => told).toContain('ticket fast');
  commit();
  await slow;
  await change('after');
  await expect.poll(() => told).toContain('ticket slow');
  await expect.poll(() => told).toContain('ticket after');
  expect(told.filter((one) => one === 'ticket fast')).toHaveLength(1);
});

test('a browser that was away is told what it missed; one that was away too long reads everything again', async () => {
  await change('seen');
  await expect.poll(() => told).toContain('ticket seen');
  const last = upTo;
  await change('missed');
  await change('missed');
  await expect.poll(() => told).toContain('ticket missed');
  const missed = (await relay.since(last)) ?? [];
  expect(missed.filter(({ ref }) => ref === 'missed')).toHaveLength(1);
  // From another database, or from the future.
  expect(await relay.since(1e9)).toBeNull();
  await db.delete(outbox);
  await change('new');
  await expect.poll(() => told).toContain('ticket new');
  expect(await relay.since(last)).toBeNull();
});
