import fc from 'fast-check';
import { expect, test } from 'vitest';
import { defaultNamePattern, nameAfter, nameParts, patternProblem } from './name-pattern.js';

const parts = {
  ticket: '26110007',
  date: '2026-11-25',
  time: '1405',
  family: 'vireo',
  model: 'Arc 7',
  device: 'Tamsin’s phone',
  serial: '4Q81',
  customer: 'Élodie Ash/../gate',
};

test('the usual name carries ticket, date and device, and can be read', () => {
  expect(patternProblem(defaultNamePattern)).toBeNull();
  expect(nameAfter(defaultNamePattern, parts)).toBe('26110007_2026-11-25-1405_vireo-arc-7_4q81');
  expect(nameAfter('{ticket} {date} {customer}', parts)).toBe(
    '26110007-2026-11-25-elodie-ash-gate',
  );
});

test('a pattern without ticket or date, or with a part that there is not, says so', () => {
  expect(patternProblem('{ticket}')).toMatch(/must carry/);
  expect(patternProblem('{ticket}{date}{moon}')).toMatch(/\{moon\}/);
});

test('whatever a customer is called, the name is one plain folder', () => {
  fc.assert(
    fc.property(fc.string({ unit: 'grapheme' }), fc.string(), (customer, device) => {
      for (const name of Object.keys(nameParts)) {
        const made = nameAfter(`{ticket}_{date}_{${name}}`, { ...parts, customer, device });
        expect(made).toMatch(/^26110007_2026-11-25[\p{L}\p{N}_-]*$/u);
        expect(made.length).toBeLessThanOrEqual(120);
      }
    }),
  );
});

test('a pattern is as long as a name may be, and no longer', () => {
  const pattern = (length: number) => '{ticket}{date}'.padEnd(length, 'x');
  expect(patternProblem(pattern(120))).toBeNull();
  expect(patternProblem(pattern(121))).toBe('That pattern is too long.');
  expect(nameAfter(pattern(120), { ...parts, ticket: '2'.repeat(60), date: '1'.repeat(60) })).toBe(
    '2'.repeat(60) + '1'.repeat(60),
  );
});
