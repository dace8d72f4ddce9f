import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { mergeRules } from '../merge/fields.js';
import { noContact, type Contact } from '../records/contact.js';
import { mediaTypes, parseRecords, patchedRecords, writeCards, writeRecords } from './index.js';

const bytes = (text: string) => new TextEncoder().encode(text.trimStart().replaceAll('\n', '\r\n'));
const text = (contents: Uint8Array | null) =>
  contents === null ? null : new TextDecoder('latin1').decode(contents);
const contactsIn = (contents: Uint8Array) => {
  const records = parseRecords(mediaTypes.vcard, contents, 'a.vcf');
  if (records.kind !== 'contacts') throw new Error('none');
  return records.contacts;
};
const eventsIn = (contents: Uint8Array) => {
  const records = parseRecords(mediaTypes.icalendar, contents, 'a.ics');
  if (records.kind !== 'events') throw new Error('none');
  return records.events;
};

describe('a card', () => {
  const card = bytes(`
BEGIN:VCARD
VERSION:3.0
UID:ana-1
N:Fernhill;Ana;;;
FN:Ana Fernhill
item1.TEL;TYPE=CELL,VOICE:+44 7700 900111
TEL;TYPE=HOME:0151 496 0000
X-FAVOURITE:yes
CATEGORIES:choir,mill
NOTE:A long note that was folded by whoever wrote it so that it goes on in
  the next line
END:VCARD
`);

  test('keeps what nobody here knows, and the kind of each number that stays', () => {
    const [was] = contactsIn(card);
    const record = { ...was, numbers: ['+447700900111', '0151 496 0999'] };
    const patched = patchedRecords(mediaTypes.vcard, card, 'a.vcf', [
      { at: 0, record, fields: ['numbers'] },
    ]);
    expect(text(patched)).toContain('item1.TEL;TYPE=CELL,VOICE:+44 7700 900111\r\n');
    expect(text(patched)).toContain('X-FAVOURITE:yes\r\nCATEGORIES:choir,mill\r\n');
    expect(text(patched)).toContain(
      'folded by whoever wrote it so that it goes on in\r\n  the next',
    );
    expect(text(patched)).not.toContain('0151 496 0000');
    expect(contactsIn(patched ?? card)).toEqual([
      { ...was, numbers: ['+44 7700 900111', '0151 496 0999'] },
    ]);
  });

  test('of a handset stays in its old encoding, quoted over several lines', () => {
    const old = writeRecords(
      mediaTypes.oldVcard,
      {
        kind: 'contacts',
        contacts: [
          { ...noContact, name: 'Zoë Fernhill', note: `Né à l’écluse ${'très '.repeat(30)}` },
        ],
      },
      'a.vcf',
    );
    const [was] = contactsIn(old);
    const patched = patchedRecords(mediaTypes.oldVcard, old, 'a.vcf', [
      { at: 0, record: { ...was, organisation: 'Mühle' }, fields: ['organisation'] },
    ]);
    expect(contactsIn(patched ?? old)).toEqual([{ ...was, organisation: 'Mühle' }]);
  });

  test('goes out of a file without the others; the last leaves none', () => {
    const two = writeCards(
      [
        { ...noContact, name: 'Ana' },
        { ...noContact, name: 'Ben' },
      ],
      '3.0',
    );
    const remove = (at: number, from: Uint8Array) =>
      patchedRecords(mediaTypes.vcard, from, 'a.vcf', [{ at, record: null, fields: [] }]);
    const left = remove(0, two);
    expect(contactsIn(left ?? two).map(({ name }) => name)).toEqual(['Ben']);
    expect(remove(0, left ?? two)).toBeNull();
  });

  test('whatever is changed in it is what it says then, and nothing else is', () => {
    const words = fc
      .string({
        unit: fc.constantFrom('a', 'b', ' ', 'é', ';', ',', '\\', ':', '=', '?'),
        maxLength: 60,
      })
      .map((s) => s.trim());
    const contact: fc.Arbitrary<Contact> = fc.record({
      ...{
        name: words.filter((one) => one !== ''),
        note: words,
        organisation: words.map((one) => one.replaceAll(/[;,\\]/g, '')),
      },
      numbers: fc.uniqueArray(fc.stringMatching(/^0[0-9]{5,9}$/), { maxLength: 3 }),
      emails: fc.uniqueArray(fc.stringMatching(/^[a-z]{1,8}@[a-z]{1,8}\.example$/), {
        maxLength: 2,
      }),
      ...{
        addresses: fc.constant([]),
        birthday: fc.constantFrom('', '1984-03-07'),
        picture: fc.constant(null),
      },
    });
    const { fields } = mergeRules.contacts;
    const some = fc.subarray(fields.map(({ field }) => field));
    fc.assert(
      fc.property(
        contact,
        contact,
        some,
        fc.constantFrom('3.0', '4.0' as const),
        (was, is, changed, version) => {
          const contents = writeCards([was], version);
          const [before] = contactsIn(contents);
          if (!before) throw new Error('none');
          const record = fields
            .filter(({ field }) => changed.includes(field))
            .reduce((one, field) => field.taken(one, is), before);
          const patched = patchedRecords(mediaTypes.vcard, contents, 'a.vcf', [
            { at: 0, record, fields: changed },
          ]);
          const [after] = contactsIn(patched ?? contents);
          for (const { field, said } of fields)
            expect([field, after && said(after)]).toEqual([field, said(record)]);
        },
      ),
      { numRuns: 300 },
    );
  });
});

describe('a calendar', () => {
  const calendar = bytes(`
BEGIN:VCALENDAR
VERSION:2.0
PRODID:-//somebody//EN
X-WR-CALNAME:Choir
BEGIN:VEVENT
UID:w1
DTSTAMP:20260101T000000Z
DTSTART;TZID=Europe/London:20260305T190000
DTEND;TZID=Europe/London:20260305T210000
RRULE:FREQ=WEEKLY
SUMMARY:Choir
ORGANIZER:mailto:wren@post.example
BEGIN:VALARM
ACTION:DISPLAY
TRIGGER:-PT15M
END:VALARM
END:VEVENT
BEGIN:VEVENT
UID:w1
DTSTAMP:20260101T000000Z
RECURRENCE-ID;TZID=Europe/London:20260312T190000
DTSTART;TZID=Europe/London:20260312T180000
SUMMARY:Choir\\, outdoors
END:VEVENT
END:VCALENDAR
`);

  test('has one of its events changed, and keeps its exceptions, its guests and its name', () => {
    const [was] = eventsIn(calendar);
    if (!was) throw new Error('none');
    const record = { ...was, title: 'Choir practice', without: ['2026-03-19T19:00:00'] };
    const patched = patchedRecords(mediaTypes.icalendar, calendar, 'a.ics', [
      { at: 0, record, fields: ['name', 'recurrence'] },
    ]);
    expect(text(patched)).toContain('ORGANIZER:mailto:wren@post.example');
    expect(text(patched)).toContain('X-WR-CALNAME:Choir');
    expect(text(patched)).toContain('TRIGGER:-PT15M');
    expect(eventsIn(patched ?? calendar)).toEqual([record, eventsIn(calendar)[1]]);
  });

  test('that is moved to another zone says what that zone is, once', () => {
    const [was] = eventsIn(calendar);
    if (!was) throw new Error('none');
    const zone = 'Pacific/Auckland';
    const record = { ...was, start: { ...was.start, zone }, end: was.end && { ...was.end, zone } };
    const patched = patchedRecords(mediaTypes.icalendar, calendar, 'a.ics', [
      { at: 0, record, fields: ['time'] },
    ]);
    expect(text(patched)?.match(/BEGIN:VTIMEZONE/g)).toHaveLength(1);
    expect(eventsIn(patched ?? calendar)[0]).toEqual(record);
  });

  test('loses one occurrence that stood for another, and stays', () => {
    const patched = patchedRecords(mediaTypes.icalendar, calendar, 'a.ics', [
      { at: 1, record: null, fields: [] },
    ]);
    expect(eventsIn(patched ?? calendar)).toEqual(eventsIn(calendar).slice(0, 1));
  });

  test('gets one occurrence more that stands for another', () => {
    const [was] = eventsIn(calendar);
    if (!was) throw new Error('none');
    const instead = '2026-03-26T19:00:00';
    const record = { ...was, rule: null, instead, title: 'Choir, in the chapel' };
    const patched = patchedRecords(mediaTypes.icalendar, calendar, 'a.ics', [
      { at: null, record, fields: [] },
    ]);
    expect(eventsIn(patched ?? calendar)).toEqual([...eventsIn(calendar), record]);
    expect(text(patched)).toContain('BEGIN:VTIMEZONE');
  });
});

describe('a file of several kinds of entries', () => {
  const mixed = bytes(`
BEGIN:VCALENDAR
VERSION:2.0
BEGIN:VTODO
UID:t1
SUMMARY:Bread
CLASS:PRIVATE
STATUS:NEEDS-ACTION
END:VTODO
BEGIN:VEVENT
UID:e1
DTSTART:20260327T090000Z
SUMMARY:Tide
END:VEVENT
BEGIN:VJOURNAL
UID:j1
SUMMARY:Key
DESCRIPTION:under the third stone
END:VJOURNAL
END:VCALENDAR
`);

  test('keeps all others where one of a kind is another, and what nobody here knows of it', () => {
    const task = { uid: 't1', title: 'Bread', notes: '', due: null, done: true };
    const record = { ...task, priority: 0, rule: null, alarms: [] };
    const done = patchedRecords(mediaTypes.taskList, mixed, 'a.ics', [
      { at: 0, record, fields: ['done'] },
    ]);
    const was = 'CLASS:PRIVATE\r\nSTATUS:NEEDS-ACTION\r\n';
    expect(text(done)).toBe(text(mixed)?.replace(was, 'CLASS:PRIVATE\r\nSTATUS:COMPLETED\r\n'));
    const words = patchedRecords(mediaTypes.journal, mixed, 'a.ics', [
      { at: 0, record: { text: 'Key\n\nwith Ana' }, fields: ['words'] },
    ]);
    expect(text(words)).toContain('UID:j1\r\nSUMMARY:Key\r\nDESCRIPTION:Key\\n\\nwith Ana\r\n');
    expect(text(words)).toContain('SUMMARY:Tide');
  });
});

test('an alarm of a handset goes with the event that it rings before', () => {
  const at = (wall: string) => ({ wall, zone: 'UTC' });
  const event = {
    ...{ uid: 'e1', title: 'Tide', place: '', notes: '', start: at('2026-03-27T09:00:00') },
    ...{ end: null, rule: null, also: [], without: [], instead: null, alarms: [15] },
  };
  const old = writeRecords(mediaTypes.oldCalendar, { kind: 'events', events: [event] }, 'a.vcs');
  const later = { ...event, start: at('2026-03-27T11:00:00') };
  const patched = patchedRecords(mediaTypes.oldCalendar, old, 'a.vcs', [
    { at: 0, record: later, fields: ['time'] },
  ]);
  expect(eventsIn(patched ?? old)).toEqual([later]);
});
