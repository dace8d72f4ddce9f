import { plainNumber } from '@bright-cellar/core/look';
import { byName, newestFirst, shelf } from './define.js';

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
    return all
      .map((contact, n) => ({
        ...contact,
        isTwice: (ways[n] ?? []).some((way) => way !== '' && (seen.get(way) ?? 0) > 1),
      }))
      .sort((a, b) => byName.compare(a.name, b.name));
  },
  words: ({ name, numbers, emails, addresses, organisation, note }) => [
    ...[name, ...numbers, ...emails, ...addresses, organisation, note],
  ],
});

/** Who called whom, the newest first, each with whose the number is. */
export const calls = shelf({
  id: 'calls',
  rows: (contents) =>
    contents
      .records('calls')
      .flatMap(({ records }) =>
        records.calls.map(({ at, ...call }) => ({
          ...{ ...call, name: contents.people.of(call.number).name, at: at.toISOString() },
        })),
      )
      .sort(newestFirst),
  words: ({ name, number }) => [name, number],
  at: ({ at }) => at,
});
