import { expect, test } from 'vitest';
import { noContact } from '../records/contact.js';
import { mergedKinds, mergeRules } from './fields.js';
import { sparableParts } from './rules.js';
import { withoutParts } from './without.js';

test('a contact without some of its parts is the rest of it', () => {
  const contact = {
    ...noContact,
    name: 'Ana',
    numbers: ['1'],
    note: 'Mill',
    birthday: '1984-02-29',
  };
  expect(withoutParts('contacts', contact, ['note', 'birthday'])).toEqual({
    ...{ ...noContact, name: 'Ana', numbers: ['1'] },
  });
  expect(withoutParts('contacts', contact, [])).toEqual(contact);
  // What it is called always stays.
  expect(sparableParts.contacts).not.toContain('name');
});

test('an event keeps its times', () => {
  const start = { wall: '2026-03-27T09:00:00', zone: null };
  const event = {
    ...{ uid: '1', title: 'Tide', place: 'Weir', notes: 'Boots', start, end: null, alarms: [5] },
    ...{ rule: null, also: [], without: [], instead: null },
  };
  expect(withoutParts('events', event, sparableParts.events)).toEqual({
    ...{ ...event, place: '', notes: '', alarms: [] },
  });
});

test.each(mergedKinds)('whatever may be spared of %s is a part of it', (kind) => {
  const parts = mergeRules[kind].fields.map(({ field }) => field);
  expect(parts).toEqual(expect.arrayContaining([...sparableParts[kind]]));
});
