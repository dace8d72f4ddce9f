import { occurrencesOf } from '@bright-cellar/core/look';
import { listed, shelf } from './define.js';

/** What recurs for ever is told for so long after the backup. */
const AHEAD_MS = 366 * 86_400_000;

/** Everything that happens, in the order of time. */
export const calendar = shelf({
  id: 'calendar',
  rows(contents) {
    const events = contents.records('events').flatMap(({ records }) => records.events);
    const until = contents.takenAt + AHEAD_MS;
    const numbers = new Map(events.map((event, n) => [event, n]));
    const all = occurrencesOf(events, until, contents.zone).map(({ event, ...occurrence }) => ({
      event: numbers.get(event) ?? 0,
      at: new Date(occurrence.at).toISOString(),
      until: new Date(occurrence.until).toISOString(),
      isWholeDay: occurrence.isWholeDay,
      zone: event.start.zone,
      ...{ title: event.title, place: event.place, notes: event.notes, alarms: event.alarms },
      isRepeated: event.rule !== null || event.instead !== null,
    }));
    return listed(
      all,
      ({ title, place, notes }) => [title, place, notes],
      ({ at }) => at,
    );
  },
});
