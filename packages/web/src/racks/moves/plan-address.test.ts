import { expect, test } from 'vitest';
import { archiveIdSchema, copyIdSchema, deviceIdSchema, rackIdSchema } from '@bright-cellar/core';
import type { Stock } from '@bright-cellar/core/placement';
import {
  addressOf,
  pinsOf,
  planByHand,
  planFrom,
  wishOf,
  withMove,
  type ByHand,
  type Wished,
} from './plan-address.js';

const uuid = (n: number) => `00000000-0000-4000-8000-${String(n).padStart(12, '0')}`;
const [rack, other] = [rackIdSchema.parse(uuid(1)), rackIdSchema.parse(uuid(2))];
const archive = archiveIdSchema.parse(uuid(3));
const moved: ByHand = [archive, rack, other];
const empty: Wished = {
  ...{ kind: 'by-hand', rack: '', other: '', gigabytes: '', before: '', customer: '', device: '' },
};

test('a plan is the same when its address is opened again', () => {
  const wished: Wished = { ...empty, kind: 'room', rack, gigabytes: '12.5' };
  expect(planFrom(addressOf(wished, [moved]))).toEqual({ wished, byHand: [moved] });
  const byHand = new URL(planByHand(...moved), 'http://shop.example').searchParams;
  expect(planFrom(byHand)).toEqual({ wished: empty, byHand: [moved] });
});

test('an address that makes no sense is a plan of nothing', () => {
  const odd = new URLSearchParams({ wish: 'everything', move: 'a.b.c', rack: 'x' });
  expect(planFrom(odd)).toEqual({ wished: { ...empty, rack: 'x' }, byHand: [] });
});

test.each<[Partial<Wished>, object | null]>([
  [{}, { kind: 'by-hand' }],
  [{ kind: 'empty' }, null],
  [
    { kind: 'empty', rack },
    { kind: 'empty', rackId: rack },
  ],
  [
    { kind: 'room', rack, gigabytes: '1,5' },
    { kind: 'room', rackId: rack, bytes: 1_500_000_000 },
  ],
  [{ kind: 'room', rack, gigabytes: 'much' }, null],
  [{ kind: 'room', rack, gigabytes: '0' }, null],
  [{ kind: 'spread', rack, other: rack }, null],
  [
    { kind: 'spread', rack, other },
    { kind: 'spread', rackIds: [rack, other] },
  ],
  [{ kind: 'older', rack }, null],
  [
    { kind: 'older', rack, before: '2026-03-01' },
    { kind: 'older', rackId: rack, before: '2026-03-01T00:00:00.000Z' },
  ],
  [
    { kind: 'customer', rack, customer: uuid(9) },
    { kind: 'customer', rackId: rack, customerId: uuid(9) },
  ],
  [
    { kind: 'together', device: uuid(8) },
    { kind: 'together', deviceId: uuid(8) },
  ],
])('%j is wished once all of it is there', (typed, wish) => {
  expect(wishOf({ ...empty, ...typed })).toEqual(wish);
});

test('what is moved by hand is said of the copy that lies there, and the last word counts', () => {
  const copyId = copyIdSchema.parse(uuid(4));
  const stock: Stock = {
    racks: [],
    copies: [{ id: copyId, archiveId: archive, rackId: rack, bytes: 1, damaged: false }],
    archives: [
      {
        ...{ id: archive, deviceId: deviceIdSchema.parse(uuid(8)), customerId: uuid(9) },
        ...{ deviceName: 'a', customerName: 'b', ticketNumber: '100001' },
        takenAt: '2026-01-01T00:00:00.000Z',
      },
    ],
    keepsOffPremises: false,
  };
  expect(pinsOf(stock, [moved])).toEqual([{ copyId, rackId: other }]);
  expect(pinsOf(stock, [[archive, other, rack]])).toEqual([]);
  expect(withMove([moved], [archive, rack, rack])).toEqual([[archive, rack, rack]]);
});
