import { describe, expect, test } from 'vitest';
import { dueOn } from './due.js';

const at = (day: string) => new Date(`${day}T10:00:00Z`);

describe('an archive is due', () => {
  test('so many days after the end of the visit that it was taken in', () => {
    expect(dueOn([{ closedAt: at('2026-03-01'), keepDays: 30 }], null)).toEqual(at('2026-03-31'));
    expect(dueOn([{ closedAt: at('2026-03-01'), keepDays: 0 }], null)).toEqual(at('2026-03-01'));
  });

  test('by the visit that keeps it longest, and never while one is open', () => {
    const early = { closedAt: at('2026-03-01'), keepDays: 90 };
    const late = { closedAt: at('2026-05-20'), keepDays: 7 };
    expect(dueOn([early, late], null)).toEqual(at('2026-05-30'));
    expect(dueOn([early, { closedAt: null, keepDays: 0 }], null)).toBeNull();
  });

  test('later where somebody said so, never sooner, and not at all until they are told', () => {
    const visit = { closedAt: at('2026-03-01'), keepDays: 30 };
    expect(dueOn([visit], { until: at('2026-12-24') })).toEqual(at('2026-12-24'));
    expect(dueOn([visit], { until: at('2026-03-02') })).toEqual(at('2026-03-31'));
    expect(dueOn([visit], 'until-told')).toBeNull();
  });

  test('not where nothing is known of any visit', () => {
    expect(dueOn([], null)).toBeNull();
  });
});
