import { seriesOf } from '@bright-cellar/core/look';
import { byName, listed, newestFirst, shelf } from './define.js';

/** Pages that somebody wants to find again. */
export const bookmarks = shelf({
  id: 'bookmarks',
  rows: (contents) =>
    listed(
      contents.records('bookmarks').flatMap(({ records }) => records.bookmarks),
      ({ name, page }) => [name, page],
    ),
});

/** Pages that were looked at, the newest first. */
export const visits = shelf({
  id: 'visits',
  rows(contents) {
    const all = contents
      .records('visits')
      .flatMap(({ records }) =>
        records.visits.map(({ at, page }) => ({ at: at.toISOString(), page })),
      );
    return listed(
      all.sort(newestFirst),
      ({ page }) => [page],
      ({ at }) => at,
    );
  },
});

/** When the device wakes somebody. */
export const alarms = shelf({
  id: 'alarms',
  rows: (contents) =>
    listed(
      contents
        .records('alarms')
        .flatMap(({ records }) => records.alarms)
        .sort((a, b) => (a.time < b.time ? -1 : 1)),
      ({ time, days, label }) => [time, days, label],
    ),
});

/** What was measured, a series each. */
export const health = shelf({
  id: 'health',
  rows: (contents) =>
    listed(
      seriesOf(contents.records('measurements').flatMap(({ records }) => records.measurements)),
      ({ what, unit }) => [what, unit],
    ),
});

/** Where the device shows its applications. */
export const screens = shelf({
  id: 'screens',
  rows: (contents) =>
    listed(
      contents.records('screens').flatMap(({ records }) => records.screens),
      ({ pages, dock }) => [...pages.flat(), ...dock],
    ),
});

/** Applications by how much they keep, the most first. */
export const applications = shelf({
  id: 'applications',
  rows(contents) {
    const all = new Map<string, { items: number; bytes: number }>();
    for (const file of contents.files('applications')) {
      const { path, bytes } = contents.file(file);
      const name = path.split('/')[1] ?? '';
      const one = all.get(name) ?? { items: 0, bytes: 0 };
      all.set(name, { items: one.items + 1, bytes: one.bytes + bytes });
    }
    const told = [...all]
      .map(([name, sizes]) => ({ name, ...sizes }))
      .sort((a, b) => b.bytes - a.bytes || byName.compare(a.name, b.name));
    return listed(told, ({ name }) => [name]);
  },
});
