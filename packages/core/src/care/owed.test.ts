import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { owedTo, whereTo, type Target } from './owed.js';
import { copyCounts, dueSince } from './rules.js';

const rack = (change: Partial<Target> = {}): Target => ({
  ...{ id: 'a', name: 'Alder', present: true, offPremises: false, free: 1000, reserve: 100 },
  ...{ ailing: false, has: null },
  ...change,
});
const old = { isNewest: false, isDamaged: false, storedBytes: 90 };
const one = { copies: 1, offPremises: false };
const away = { copies: 1, offPremises: true };

describe('what an archive is owed', () => {
  test.each([
    [{ count: 1, offPremises: false }, { copies: '1', offPremises: false }, null],
    [{ count: 0, offPremises: false }, { copies: '1', offPremises: false }, one],
    [
      { count: 1, offPremises: false },
      { copies: '3', offPremises: false },
      { copies: 2, offPremises: false },
    ],
    [{ count: 2, offPremises: true }, { copies: '2', offPremises: true }, null],
    [{ count: 2, offPremises: false }, { copies: '2', offPremises: true }, away],
    [{ count: 1, offPremises: false }, { copies: '2', offPremises: true }, away],
    [{ count: 5, offPremises: false }, { copies: '2', offPremises: false }, null],
  ] as const)('%j under %j', (good, rules, expected) => {
    expect(owedTo({ ...good, older: 0 }, rules)).toEqual(expected);
  });
});

test('a copy that is older is owed what is new, however many are asked for', () => {
  const good = { count: 1, offPremises: true, older: 2 };
  expect(owedTo(good, { copies: '1', offPremises: false })).toEqual({
    ...{ copies: 2, offPremises: false },
  });
  expect(owedTo({ ...good, older: 1 }, { copies: '3', offPremises: true })).toEqual({
    ...{ copies: 2, offPremises: false },
  });
});

describe('where an owed copy goes', () => {
  const named = (racks: Target[], owed = one, bytes = 100) => {
    const found = whereTo(owed, racks, bytes);
    return 'rack' in found ? found.rack.name : found.why;
  };

  test('is where an older copy lies, else where most room is left', () => {
    const [full, roomy] = [rack({ name: 'Full', free: 210 }), rack({ name: 'Roomy' })];
    expect(named([full, roomy])).toBe('Roomy');
    expect(named([full, roomy, rack({ name: 'Old', free: 150, has: old })])).toBe('Old');
    // Nothing new goes onto one that ails while another can take it.
    const ailing = rack({ name: 'Ailing', free: 5000, ailing: true });
    expect(named([full, ailing])).toBe('Full');
    expect(named([ailing])).toBe('Ailing');
  });

  test('is no rack that has it, nor one whose copy is damaged: that is repaired', () => {
    const has = rack({ has: { isNewest: true, isDamaged: false, storedBytes: 100 } });
    const damaged = rack({ has: { isNewest: false, isDamaged: true, storedBytes: 100 } });
    expect(named([has, damaged])).toMatch(/Every rack has it/);
  });

  test('keeps the reserve to the byte', () => {
    expect(named([rack({ free: 200 })])).toMatch(/No room for it on Alder/);
    expect(named([rack({ free: 201 })])).toBe('Alder');
  });

  test('says which drive to connect', () => {
    expect(named([rack({ present: false }), rack({ name: 'Birch', present: false })])).toBe(
      'Connect Alder or Birch.',
    );
  });

  test('is off the premises where that is what is owed, and only then', () => {
    const [near, far] = [rack({ free: 5000 }), rack({ name: 'Far', offPremises: true })];
    expect(named([near, far])).toBe('Alder');
    expect(named([near, far], away)).toBe('Far');
    expect(named([near], away)).toMatch(/off the premises/);
    // Of two that are owed, one may stay here; the one that goes away goes first.
    expect(named([near, far], { copies: 2, offPremises: true })).toBe('Far');
    expect(named([near], { copies: 2, offPremises: true })).toBe('Alder');
  });

  test('whatever it says, it keeps what it promises; and paying ends', () => {
    const target = fc.record({
      id: fc.uuid(),
      name: fc.string({ minLength: 1 }),
      present: fc.boolean(),
      offPremises: fc.boolean(),
      free: fc.nat(1000),
      reserve: fc.nat(300),
      ailing: fc.boolean(),
      has: fc.option(
        fc.record({ isNewest: fc.boolean(), isDamaged: fc.boolean(), storedBytes: fc.nat(100) }),
      ),
    });
    const rules = fc.record({
      copies: fc.constantFrom(...copyCounts),
      offPremises: fc.boolean(),
    });
    fc.assert(
      fc.property(fc.array(target, { maxLength: 6 }), rules, (targets, wanted) => {
        let racks: Target[] = targets;
        for (let paid = 0; ; paid++) {
          expect(paid).toBeLessThanOrEqual(racks.length);
          const good = racks.filter(({ has }) => has?.isNewest === true && !has.isDamaged);
          const owed = owedTo(
            {
              ...{ count: good.length, offPremises: good.some((r) => r.offPremises) },
              older: racks.filter(({ has }) => has && !has.isNewest && !has.isDamaged).length,
            },
            wanted,
          );
          if (!owed) return;
          const found = whereTo(owed, racks, 100);
          if (!('rack' in found)) {
            expect(found.why).not.toBe('');
            return;
          }
          const { rack: best } = found;
          expect(best.present).toBe(true);
          expect(best.has?.isNewest ?? false).toBe(false);
          const needed = 100 - (best.has?.storedBytes ?? 0);
          expect(best.free - needed).toBeGreaterThan(best.reserve);
          racks = racks.map((r) =>
            r === best
              ? {
                  ...{ ...r, free: r.free - needed },
                  has: { isNewest: true, isDamaged: false, storedBytes: 100 },
                }
              : r,
          );
        }
      }),
    );
  });
});

test('a copy is due by days', () => {
  const now = new Date('2026-11-27T00:00:00Z');
  expect(dueSince({ checkEvery: 'never' }, now)).toBeNull();
  expect(dueSince({ checkEvery: '30' }, now)?.toISOString()).toBe('2026-10-28T00:00:00.000Z');
});
