import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { choiceOf, choiceOfClasses, type Choice } from './choice.js';
import { dataClassIds, sensitiveClasses } from './classes.js';
import { coverageOf, holdsEverything, recoveredCoverage, type CoverageGroup } from './coverage.js';
import type { ClassAmount } from './device.js';
import { deviceFacts } from './test-devices.js';

const amounts: ClassAmount[] = dataClassIds.map((c, i) => ({
  class: c,
  items: i + 1,
  bytes: (i + 1) * 1000,
}));
const phone = deviceFacts({ content: amounts });
const everything = { choice: choiceOf('everything', {}), encrypted: true };
const takenBy = (choice: Choice) => amounts.filter((a) => choice[a.class] === true);
const line = (lines: ReturnType<typeof coverageOf>, id: string) => lines.find((l) => l.id === id);

describe('what a backup holds', () => {
  test('everything, encrypted: each class of the device is inside', () => {
    const lines = coverageOf(phone, everything, amounts);
    for (const id of dataClassIds) expect(line(lines, id)?.state).toBe('inside');
  });

  test('without encryption the sensitive classes are outside, and say how they get in', () => {
    const lines = coverageOf(phone, { ...everything, encrypted: false }, amounts);
    for (const id of sensitiveClasses) {
      expect(line(lines, id)).toMatchObject({ state: 'outside', returns: 'Switch encryption on.' });
    }
    expect(line(lines, 'networks')?.state).toBe('outside');
    expect(line(lines, 'contacts')?.state).toBe('inside');
  });

  test('a family that does not tell the two apart loses nothing by it', () => {
    const open = deviceFacts({
      content: amounts,
      capabilities: { ...phone.capabilities, sensitiveOnlyEncrypted: false },
    });
    const lines = coverageOf(open, { ...everything, encrypted: false }, amounts);
    expect(line(lines, 'health')?.state).toBe('inside');
  });

  test('a sealed store, a paired wearable and a withdrawn application are named', () => {
    const group: CoverageGroup = {
      class: 'applications',
      id: 'tansy',
      name: 'Tansy',
      items: 3,
      bytes: 30,
      sealed: true,
      offered: true,
    };
    const device = { ...phone, wearable: 'A band' };
    const lines = coverageOf(device, everything, amounts, [
      group,
      { ...group, id: 'tides', name: 'Tides', sealed: false, offered: false },
    ]);
    expect(line(lines, 'applications')).toMatchObject({ state: 'partly' });
    expect(line(lines, 'applications')?.returns).toMatch(/Confirm the number in Tansy/);
    expect(line(lines, 'wearable')?.returns).toMatch(/Unpair A band/);
    expect(line(lines, 'withdrawn-tides')?.why).toMatch(/no longer offers/);
  });

  test('whatever is chosen: each class once, what is not inside says why and how it returns, and what no backup holds is always told', () => {
    fc.assert(
      fc.property(fc.subarray([...dataClassIds]), fc.boolean(), (classes, encrypted) => {
        const choice = choiceOfClasses(classes);
        const lines = coverageOf(phone, { choice, encrypted }, takenBy(choice));
        expect(new Set(lines.map((l) => l.id)).size).toBe(lines.length);
        for (const id of dataClassIds) expect(line(lines, id)).toBeDefined();
        for (const l of lines) {
          if (l.state === 'inside') expect(l.returns).toBeNull();
          else {
            expect(l.why.length).toBeGreaterThan(5);
            expect(l.returns).toMatch(/\.$/);
          }
        }
        for (const id of dataClassIds) {
          const inside = classes.includes(id) && (encrypted || !sensitiveClasses.has(id));
          expect(line(lines, id)?.state).toBe(inside ? 'inside' : 'outside');
        }
        expect(line(lines, 'payment-cards')).toBeDefined();
        const whole = classes.length === dataClassIds.length && encrypted;
        expect(holdsEverything(phone, { choice, encrypted })).toBe(whole);
      }),
    );
  });
});

test('of what somebody else recovered it is said that nobody knows what is missing, and what no backup holds', () => {
  const lines = recoveredCoverage({ items: 12, bytes: 3e6 });
  expect(line(lines, 'not-recovered')).toMatchObject({ state: 'outside' });
  expect(line(lines, 'recovered')).toMatchObject({ state: 'inside', why: '12 items, 3.00 MB' });
  expect(line(lines, 'payment-cards')?.state).toBe('outside');
  for (const l of lines) expect(l.state === 'inside' || l.returns !== null).toBe(true);
});
