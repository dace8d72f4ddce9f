import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { dataClassIds, roomForRestore } from '../device/index.js';
import { fitOf, proposedLeavingOut } from './fit.js';
import type { Sparable } from './leave-out.js';

const device = (free: number, update = 0) => ({
  capacity: 64e9,
  used: 64e9 - free,
  osUpdate: update > 0 ? { version: '10.1', bytes: update } : null,
});

test('what it needs is told by its parts, and as much as a restore asks for', () => {
  const fit = fitOf(device(30e9, 1e9), 20e9);
  expect(fit).toEqual({
    ...{ contents: 20e9, made: 1e9, working: 2e9, later: 1e9 },
    ...{ need: 24e9, free: 30e9, over: 0 },
  });
  expect(fit.need - fit.later).toBe(roomForRestore(20e9, 64e9));
  expect(fitOf(device(23e9, 1e9), 20e9).over).toBe(1e9);
});

test('what downloads again is left out before what nobody can bring back', () => {
  const chosen = [
    { class: 'photographs', items: 900, bytes: 9e9 },
    { class: 'music', items: 100, bytes: 3e9 },
    { class: 'videos', items: 20, bytes: 8e9 },
    { class: 'contacts', items: 300, bytes: 1e6 },
  ] as const;
  expect(proposedLeavingOut(device(30e9), chosen)?.classes).toEqual([]);
  expect(proposedLeavingOut(device(20e9), chosen)?.classes).toEqual(['music']);
  expect(proposedLeavingOut(device(15e9), chosen)?.classes).toEqual(['videos']);
  expect(proposedLeavingOut(device(12e9), chosen)?.classes).toEqual(['music', 'videos']);
  expect(proposedLeavingOut(device(3e9), chosen)?.classes).toEqual([
    'photographs',
    'music',
    'videos',
  ]);
  expect(proposedLeavingOut(device(1e6), chosen)).toBeNull();
});

describe('rules', () => {
  const chosen = [
    { class: 'photographs', items: 900, bytes: 9e9 },
    { class: 'videos', items: 20, bytes: 8e9 },
    { class: 'music', items: 100, bytes: 3e9 },
  ] as const;
  const sparable: Sparable = {
    doubles: [
      { class: 'photographs', items: 90, bytes: 1e9 },
      { class: 'videos', items: 1, bytes: 2e9 },
    ],
    videos: [
      { from: 2e9, items: 2, bytes: 4e9, doubles: 2e9 },
      { from: 1e9, items: 4, bytes: 6e9, doubles: 2e9 },
    ],
  };
  const proposed = (free: number) => proposedLeavingOut(device(free), chosen, sparable);

  test('what is there twice goes first, then long videos before all of them', () => {
    const none = { videosFrom: null, doubles: false };
    expect(proposed(24e9)).toEqual({ classes: [], without: none, doubles: 0, videos: 0 });
    expect(proposed(20e9)).toEqual({
      ...{ classes: [], without: { videosFrom: null, doubles: true }, doubles: 3e9, videos: 0 },
    });
    expect(proposed(17e9)).toMatchObject({ classes: ['music'], without: { doubles: true } });
    // One of the two longest is there twice: left out for its length, it is not saved once more.
    expect(proposed(14e9)).toEqual({
      ...{ classes: ['music'], without: { videosFrom: 2e9, doubles: true } },
      ...{ doubles: 1e9, videos: 4e9 },
    });
    expect(proposed(11e9)).toMatchObject({ classes: ['videos', 'music'] });
  });

  test('what is left out with its class saves nothing more', () => {
    const all = proposed(1.5e9);
    expect(all?.classes).toContain('photographs');
    expect(all).toMatchObject({ videos: 0, doubles: 0 });
  });
});

test('what is proposed fits, and with any of it put back it does not', () => {
  const amounts = fc.uniqueArray(
    fc.record({
      class: fc.constantFrom(...dataClassIds),
      items: fc.constant(1),
      bytes: fc.integer({ min: 1, max: 20e9 }),
    }),
    { selector: (amount) => amount.class, maxLength: 7 },
  );
  fc.assert(
    fc.property(amounts, fc.integer({ min: 0, max: 60e9 }), (chosen, free) => {
      const out = proposedLeavingOut(device(free), chosen)?.classes;
      if (!out) return;
      const left = (without: readonly string[]) =>
        chosen
          .filter((one) => !without.includes(one.class))
          .reduce((sum, one) => sum + one.bytes, 0);
      expect(fitOf(device(free), left(out)).over).toBe(0);
      for (const back of out) {
        expect(fitOf(device(free), left(out.filter((one) => one !== back))).over).toBeGreaterThan(
          0,
        );
      }
    }),
    { numRuns: 60 },
  );
});
