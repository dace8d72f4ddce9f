import { expect, test } from 'vitest';
import { yearBefore } from './year.js';

test('the past is a year long, the same each time, and has nobody in it on a Sunday', () => {
  const last = new Date('2026-11-20T00:00:00Z');
  const visits = yearBefore(last, 200);
  expect(yearBefore(last, 200)).toEqual(visits);
  const days = visits.map(({ takenAt }) => new Date(takenAt));
  expect(days.every((day) => day.getUTCDay() !== 0)).toBe(true);
  expect(Math.max(...days.map(Number))).toBeLessThan(last.getTime());
  expect(Math.min(...days.map(Number))).toBeGreaterThan(last.getTime() - 368 * 86_400_000);
  expect(new Set(visits.map(({ device }) => device.serial)).size).toBe(200);
});
