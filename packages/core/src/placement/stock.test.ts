import { expect, test } from 'vitest';
import {
  archiveIdSchema,
  copyIdSchema,
  deviceIdSchema,
  idSchema,
  rackIdSchema,
} from '../values/index.js';
import { wholeStock, type StockPage, type StockRack } from './stock.js';

const uuid = (kind: string, n: number) =>
  `${kind}000000-0000-4000-8000-${String(n).padStart(12, '0')}`;
const rate = { low: 1, high: 1 };
const rack = (n: number, here: boolean): StockRack => ({
  ...{ id: rackIdSchema.parse(uuid('01', n)), name: `Rack ${n}`, here, offPremises: false },
  ...{ ailing: false, capacity: 10, free: 5, reserve: 1, reads: rate, writes: rate },
});
/** A page of archives, each with one copy of this size. */
const page = (from: number, count: number, next: string | null, bytes = 1): StockPage => {
  const numbers = Array.from({ length: count }, (_, n) => from + n);
  return {
    archives: numbers.map((n) => ({
      ...{
        id: archiveIdSchema.parse(uuid('02', n)),
        deviceId: deviceIdSchema.parse(uuid('03', n)),
      },
      ...{ customerId: idSchema.parse(uuid('04', n)), deviceName: '', customerName: '' },
      ...{ ticketNumber: '', takenAt: '2026-11-24T09:00:00.000Z' },
    })),
    copies: numbers.map((n) => ({
      ...{ id: copyIdSchema.parse(uuid('05', n)), archiveId: archiveIdSchema.parse(uuid('02', n)) },
      ...{ rackId: rack(1, true).id, bytes, damaged: false },
    })),
    next,
  };
};
const [here, away, named] = [rack(1, true), rack(2, false), rack(3, false)];

test('what lies on racks that are here, and on one that is named, is asked for until its end, and each is there once', async () => {
  const asked: string[] = [];
  const shop = { racks: [here, away, named], keepsOffPremises: true };
  const stock = await wholeStock(shop, named.id, async (on, after) => {
    expect(on).toEqual([here.id, named.id]);
    asked.push(after);
    return after === '' ? page(0, 3, 'more') : page(2, 3, null, 7);
  });
  expect(asked).toEqual(['', 'more']);
  expect(stock).toMatchObject(shop);
  expect(stock.archives).toHaveLength(5);
  // As it was told last.
  expect(stock.copies.map(({ bytes }) => bytes)).toEqual([1, 1, 7, 7, 7]);
});

test('where no rack is here nothing is asked', async () => {
  const shop = { racks: [away], keepsOffPremises: false };
  const stock = await wholeStock(shop, undefined, () => Promise.reject(new Error('asked')));
  expect(stock).toEqual({ ...shop, archives: [], copies: [] });
});

test('a plan is made of ten thousand archives at most', async () => {
  let pages = 0;
  const shop = { racks: [here], keepsOffPremises: false };
  const stock = await wholeStock(shop, undefined, async () => page(pages++ * 2500, 2500, 'more'));
  expect(pages).toBe(4);
  expect(stock.archives).toHaveLength(10_000);
});
