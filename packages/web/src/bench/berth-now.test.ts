import type { BenchView, Berth, Operation } from '@bright-cellar/contract';
import { backupReadiness } from '@bright-cellar/core';
import { deviceFacts, type Change } from '@bright-cellar/core/testing';
import { expect, test } from 'vitest';
import { berthNow, berthPath, dropPath } from './berth-now.js';

const berth = (change: Change | null, ticketNumber: string | null = null): Berth => {
  const facts = change && deviceFacts({ id: 'd1', ...change });
  return {
    number: 1,
    connection: 'cable',
    asks: [],
    odd: [],
    device: facts,
    readiness: facts && !facts.empty ? backupReadiness(facts) : [],
    ticketNumber,
    customerName: null,
  };
};
const bench: Pick<BenchView, 'away'> = { away: [] };
const running = {
  kind: 'backup',
  phase: 'taking',
  doneBytes: 50,
  totalBytes: 200,
  needs: null,
  leftLowMs: null,
  leftHighMs: null,
} as Operation;

test.each<[string, Berth, boolean]>([
  ['Free', berth(null), false],
  ['Unlock the phone on berth 1 with its passcode.', berth({ lock: 'locked' }), true],
  ['Open a ticket for it.', berth({}), true],
  ['Open and readable.', berth({}, '26110001'), false],
  [
    'On the phone on berth 1, approve this bench.',
    berth({ empty: true, lock: 'no-passcode', approval: 'asking' }),
    true,
  ],
  ['Empty. Can take a restore.', berth({ empty: true }), false],
])('says “%s”', (sentence, where, needs) => {
  expect(berthNow(where, bench, undefined)).toEqual({ sentence, needs, share: null });
});

test('what runs comes before what the device shows, and lights the lamp only when it needs somebody', () => {
  expect(berthNow(berth({ lock: 'locked' }), bench, running)).toEqual({
    sentence: 'Taking items',
    needs: false,
    share: 0.25,
  });
  expect(berthNow(berth({}), bench, { ...running, needs: 'Unlock it.' }).needs).toBe(true);
});

test('a device that is away in the middle of a restore keeps its berth', () => {
  const away = [{ deviceId: 'd1', name: 'Test phone', berth: 1 }];
  expect(berthNow(berth(null), { ...bench, away }, undefined).sentence).toMatch(
    /^Test phone is away/,
  );
});

test('a press leads to the ticket, to a new one, or to the counter', () => {
  expect(berthPath(berth({}, '26110001'))).toBe('/tickets/26110001');
  expect(berthPath(berth({}))).toBe('/tickets/new/d1');
  expect(berthPath(berth({ empty: true }))).toBe('/');
});

test('files that are dragged onto a berth go onto its device, on its ticket, or on the only one there is', () => {
  const back = '/tickets/26110001/applications-back?onto=d1';
  const theirs = berth({}, '26110001');
  const empty = berth({ empty: true });
  expect(dropPath(theirs, [theirs, berth({}, '26110002')])).toBe(back);
  expect(dropPath(empty, [empty, theirs])).toBe(back);
  expect(dropPath(empty, [empty, theirs, berth({}, '26110002')])).toBeNull();
  expect(dropPath(berth({}), [berth({})])).toBe('/tickets/new/d1');
  expect(dropPath(berth(null), [theirs])).toBeNull();
});
