import { occurrencesOf } from '@bright-cellar/core/look';
import { listed, shelf } from './define.js';

/** What recurs for ever is told for so long after the backup. */
const AHEAD_MS = 366 * 86_400_000;

/** What is to be done: what is due first, then what is due never; behind them what is done. */
export const tasks = shelf({
  id: 'tasks',
  rows(contents) {
    const all = contents.records('tasks').flatMap(({ records }) => records.tasks);
    const rows = all.map(({ title, notes, due, done, priority, rule }, task) => ({
      ...{ title, notes, done, priority, isRepeated: rule !== null, task },
      ...{ due: due?.wall ?? '', zone: due?.zone ?? null },
    }));
    const orderOf = ({ done, due }: (typeof rows)[number]) =>
      `${Number(done)}${due === '' ? '~' : due}`;
    return listed(
      rows.sort((a, b) => (orderOf(a) < orderOf(b) ? -1 : 1)),
      ({ title, notes }) => [title, notes],
    );
  },
});

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
