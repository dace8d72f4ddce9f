import fc from 'fast-check';
import { expect, test } from 'vitest';
import { mediaTypes, parseRecords, writeRecords } from '../formats/index.js';
import type { CalendarEvent } from './event.js';
import { apartOf, togetherOf, withOccurrences } from './occurrence.js';

const weekly: CalendarEvent = {
  ...{ uid: 'choir', title: 'Choir', place: '', notes: '', alarms: [], instead: null },
  ...{ rule: 'FREQ=WEEKLY', also: [], without: ['2026-01-08T19:00:00'] },
  start: { wall: '2026-01-01T19:00:00', zone: null },
  end: { wall: '2026-01-01T21:00:00', zone: null },
};
const moved = (instead: string): CalendarEvent => ({
  ...{ ...weekly, rule: null, without: [], instead },
  ...{ start: { wall: `${instead.slice(0, 10)}T20:00:00`, zone: null }, end: null },
});

test('what lies apart in an old calendar is read back as what it stands for, whatever it is called', () => {
  const walls = fc.uniqueArray(
    fc
      .integer({ min: 1, max: 28 })
      .map((day) => `2026-02-${String(day).padStart(2, '0')}T19:00:00`),
    { minLength: 1, maxLength: 6 },
  );
  const uid = fc.stringMatching(/^[!-~]([ -~]{0,20}[!-~])?$/);
  fc.assert(
    fc.property(walls, uid, (others, name) => {
      const all = [{ ...weekly, uid: name }, ...others.map((at) => ({ ...moved(at), uid: name }))];
      const kept = all.flatMap((event) => {
        const contents = writeRecords(
          mediaTypes.oldCalendar,
          { kind: 'events', events: [apartOf(event, others)] },
          'a.vcs',
        );
        const read = parseRecords(mediaTypes.oldCalendar, contents, 'a.vcs');
        return read.kind === 'events' ? read.events : [];
      });
      expect(kept.every(({ instead }) => instead === null)).toBe(true);
      expect(kept.map((one) => withOccurrences(togetherOf(one), new Set(others)))).toEqual(all);
    }),
  );
});

test('what happens once, and what is only called like it, is what it was', () => {
  for (const event of [moved('2026-02-05T19:00:00'), { ...weekly, uid: 'a 2026-02-05T19:00:00' }])
    expect(togetherOf(event)).toBe(event);
});
