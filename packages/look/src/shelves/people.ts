import { plainNumber } from '@bright-cellar/core/look';
import { byName, listed, newestFirst, shelf } from './define.js';

/** Whom the customer knows. */
export const contacts = shelf({
  id: 'contacts',
  rows(contents) {
    const all = contents.records('contacts').flatMap(({ records }) => records.contacts);
    const seen = new Map<string, number>();
    const ways = all.map(({ numbers, emails }) => [
      ...new Set([...numbers.map(plainNumber), ...emails.map((email) => email.toLowerCase())]),
    ]);
    for (const way of ways.flat()) seen.set(way, (seen.get(way) ?? 0) + 1);
    const told = all
      .map(({ picture, ...contact }, n) => ({
        ...contact,
        ...{ card: n, hasPicture: picture !== null },
        isTwice: (ways[n] ?? []).some((way) => way !== '' && (seen.get(way) ?? 0) > 1),
      }))
      .sort((a, b) => byName.compare(a.name, b.name));
    return listed(told, ({ name, numbers, emails, addresses, organisation, note }) => [
      ...[name, ...numbers, ...emails, ...addresses, organisation, note],
    ]);
  },
});

/** Who called whom, the newest first, each with whose the number is. */
export const calls = shelf({
  id: 'calls',
  rows(contents) {
    const all = contents.records('calls').flatMap(({ records }) =>
      records.calls.map(({ at, ...call }) => ({
        ...{ ...call, name: contents.people.of(call.number).name, at: at.toISOString() },
      })),
    );
    return listed(
      all.sort(newestFirst),
      ({ name, number }) => [name, number],
      ({ at }) => at,
    );
  },
});
