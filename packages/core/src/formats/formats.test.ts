import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { noContact } from '../records/contact.js';
import type { CalendarEvent, WallTime } from '../records/event.js';
import type { Task } from '../records/task.js';
import { kindOf, mediaTypes, parseRecords, writeRecords, type Records } from './index.js';

import { newRule, oldRule } from './old-rule.js';

const bytes = (text: string) => new TextEncoder().encode(text);
const latin1 = (text: string) => Uint8Array.from(text, (c) => c.charCodeAt(0));
const { thread, shortMessages, callLog, vcard } = mediaTypes;

test('each media type holds one kind of record, and an unknown one none', () => {
  expect([thread, shortMessages, callLog, vcard, 'image/jpeg', null].map(kindOf)).toEqual([
    ...['messages', 'messages', 'calls', 'contacts', null, null],
  ]);
  expect(() => parseRecords('image/jpeg', bytes(''), 'a')).toThrow('no such format');
});

describe.each(Object.values(mediaTypes))('%s', (mediaType) => {
  test('hostile contents are records or an error, and nothing else', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 200 }), (contents) => {
        let records;
        try {
          records = parseRecords(mediaType, contents, 'a/b/c');
        } catch (e) {
          expect(e).toBeInstanceOf(Error);
          return;
        }
        expect(records.kind).toBe(kindOf(mediaType));
      }),
    );
  });
});

describe('a conversation', () => {
  const path = 'messages/thread-001/2026-01.jsonl';

  test('is named by its folder, and its pictures lie beside it', () => {
    const lines =
      '{"at":"2026-01-02T03:04:05.000Z","from":"me","text":"Déjà vu","attachment":"media/a.jpg"}\r\n' +
      '\n{"at":"2026-01-02T03:05:05.000Z","from":"+44 7700 900001","text":""}';
    expect(parseRecords(thread, bytes(lines), path)).toEqual({
      kind: 'messages',
      messages: [
        {
          thread: 'thread-001',
          at: new Date('2026-01-02T03:04:05Z'),
          from: 'me',
          text: 'Déjà vu',
          attachment: 'messages/thread-001/media/a.jpg',
        },
        {
          thread: 'thread-001',
          at: new Date('2026-01-02T03:05:05Z'),
          from: '+44 7700 900001',
          text: '',
          attachment: null,
        },
      ],
    });
  });

  test.each(['rubbish', '{"at":"yesterday","from":"me","text":""}', '{"from":"me"}'])(
    'refuses %s',
    (line) => {
      expect(() => parseRecords(thread, bytes(line), path)).toThrow();
    },
  );
});

test('texts of a handset, in its eight bits, with tabs in what was written', () => {
  const line = '2026-01-02T03:04:05.000Z\t+44 7700 900001\tDéjà\tvu\r\n';
  expect(parseRecords(shortMessages, latin1(line), 'messages/TextsDB/0001.txt')).toEqual({
    kind: 'messages',
    messages: [
      {
        thread: '+44 7700 900001',
        at: new Date('2026-01-02T03:04:05Z'),
        from: '+44 7700 900001',
        text: 'Déjà\tvu',
        attachment: null,
      },
    ],
  });
});

test.each([
  ['me', 'TextsDB'],
  ['me>+44 1', '+44 1'],
  ['+44 1>+44 1,+44 2', '+44 1,+44 2'],
])('a text of a handset from %s is in the conversation %s', (who, thread) => {
  const line = latin1(`2026-01-02T03:04:05.000Z\t${who}\thello\n`);
  const where = 'messages/TextsDB/0001.txt';
  const records = parseRecords(shortMessages, line, where);
  expect(records).toMatchObject({ messages: [{ thread, text: 'hello' }] });
  expect(writeRecords(shortMessages, records, where)).toEqual(line);
});

describe('a call log', () => {
  const calls = (...lines: string[]) =>
    parseRecords(
      callLog,
      bytes(['at,kind,number,seconds', ...lines, ''].join('\n')),
      'calls/1.csv',
    );

  test('has a call a line, below its header', () => {
    expect(
      calls('2026-01-02T03:04Z,outgoing,+44 1,61', '2026-01-02T03:06Z,missed,"+44, 3",'),
    ).toEqual({
      kind: 'calls',
      calls: [
        { at: new Date('2026-01-02T03:04Z'), kind: 'outgoing', number: '+44 1', seconds: 61 },
        { at: new Date('2026-01-02T03:06Z'), kind: 'missed', number: '+44, 3', seconds: 0 },
      ],
    });
    expect(calls()).toEqual({ kind: 'calls', calls: [] });
  });

  test('what is no moment, or no kind of call, is no record', () => {
    expect(() => calls('yesterday,missed,+44 3,0')).toThrow('not a moment');
    expect(() => calls('2026-01-02T03:06Z,shouted,+44 3,0')).toThrow('not a kind of call');
  });
});

describe('cards', () => {
  const contacts = (contents: Uint8Array) => parseRecords(vcard, contents, 'contacts/1.vcf');
  const card = (...lines: string[]) =>
    ['BEGIN:VCARD', 'VERSION:3.0', ...lines, 'END:VCARD', ''].join('\r\n');

  test.each([
    ['a name and a number', card('N:Birch;Ada;;;', 'FN:Ada Birch', 'TEL;TYPE=CELL:+44 1')],
    ['lines of another system', card('FN:Ada Birch', 'TEL:+44 1').replaceAll('\r', '')],
    ['only a name in parts', card('N:Birch;Ada;;;', 'TEL:+44 1')],
  ])('%s', (_, text) => {
    expect(contacts(bytes(text))).toEqual({
      kind: 'contacts',
      contacts: [{ ...noContact, name: 'Ada Birch', numbers: ['+44 1'] }],
    });
  });

  test.each([
    ['nobody', card('TEL:+44 1'), '', ['+44 1']],
    ['several numbers', card('FN:Ada', 'TEL:1', 'TEL:2'), 'Ada', ['1', '2']],
    ['what looks encoded and is not', card('FN:A=41'), 'A=41', []],
    ['letters of many', card('FN:Åsa 李'), 'Åsa 李', []],
  ])('%s', (_, text, name, numbers) => {
    expect(contacts(bytes(text))).toMatchObject({ contacts: [{ name, numbers }] });
  });

  test('old ones, with letters of their own', () => {
    const old = (property: string) =>
      `BEGIN:VCARD\nVERSION:2.1\n${property}\nTEL;CELL:+44 1\nEND:VCARD\n`;
    const quoted = 'ENCODING=QUOTED-PRINTABLE';
    for (const contents of [
      bytes(old(`N;CHARSET=ISO-8859-1;${quoted}:M=FCller;Jo`)),
      bytes(old(`N;CHARSET=UTF-8;${quoted}:M=C3=BCller;Jo`)),
      latin1(old('N:Müller;Jo')),
    ]) {
      expect(contacts(contents)).toEqual({
        kind: 'contacts',
        contacts: [{ ...noContact, name: 'Jo Müller', numbers: ['+44 1'] }],
      });
    }
  });
});

describe('a calendar', () => {
  const events = (text: string) => {
    const records = parseRecords(mediaTypes.icalendar, bytes(text), 'calendar/1.ics');
    return records.kind === 'events' ? records.events : [];
  };
  const calendar = (...lines: string[]) =>
    ['BEGIN:VCALENDAR', 'VERSION:2.0', ...lines, 'END:VCALENDAR', ''].join('\r\n');
  const timed = (...lines: string[]) => calendar('BEGIN:VEVENT', ...lines, 'END:VEVENT');

  test('has an event with its zone, its length, how it recurs and when it wants to be noticed', () => {
    const [event] = events(
      timed(
        ...['UID:1', 'DTSTART;TZID=Atlantic/Azores:20260327T090000', 'DURATION:PT1H30M'],
        ...['SUMMARY:Tide\\, then supper', 'RRULE:FREQ=WEEKLY;BYDAY=FR'],
        ...['EXDATE;TZID=Atlantic/Azores:20260403T090000,20260410T090000'],
        ...['BEGIN:VALARM', 'ACTION:DISPLAY', 'TRIGGER:-PT15M', 'END:VALARM'],
      ),
    );
    expect(event).toMatchObject({
      title: 'Tide, then supper',
      start: { wall: '2026-03-27T09:00:00', zone: 'Atlantic/Azores' },
      end: { wall: '2026-03-27T10:30:00', zone: 'Atlantic/Azores' },
      rule: 'FREQ=WEEKLY;BYDAY=FR',
      without: ['2026-04-03T09:00:00', '2026-04-10T09:00:00'],
      alarms: [15],
    });
  });

  test('what else happens, and what does not, is told in the zone of its start, however it is written', () => {
    const [event] = events(
      timed(
        ...['UID:1', 'DTSTART;TZID=Europe/Vienna:20260327T090000', 'RRULE:FREQ=DAILY;COUNT=5'],
        // The clocks there go forward on the 29th.
        ...['EXDATE:20260328T080000Z,20260330T070000Z'],
        ...['RDATE;TZID=Europe/Vienna:20260401T170000', 'RDATE;VALUE=PERIOD:20260402T150000Z/PT1H'],
      ),
    );
    expect(event?.without).toEqual(['2026-03-28T09:00:00', '2026-03-30T09:00:00']);
    expect(event?.also).toEqual(['2026-04-01T17:00:00', '2026-04-02T17:00:00']);
  });

  test('a zone that only the calendar knows is its moment', () => {
    const zone = [
      ...['BEGIN:VTIMEZONE', 'TZID:Here', 'BEGIN:STANDARD', 'DTSTART:19700101T000000'],
      ...['TZOFFSETFROM:+0200', 'TZOFFSETTO:+0200', 'END:STANDARD', 'END:VTIMEZONE'],
    ];
    const event = ['BEGIN:VEVENT', 'DTSTART;TZID=Here:20260327T090000', 'END:VEVENT'];
    expect(events(calendar(...zone, ...event))[0]?.start).toEqual({
      wall: '2026-03-27T07:00:00',
      zone: 'UTC',
    });
    expect(events(calendar(...event))[0]?.start.zone).toBeNull();
  });

  test('an old one, with letters of its own and rules of another grammar', () => {
    const old =
      'BEGIN:VCALENDAR\nVERSION:1.0\nBEGIN:VEVENT\nDTSTART:20260327T090000Z\n' +
      'SUMMARY;CHARSET=ISO-8859-1;ENCODING=QUOTED-PRINTABLE:D=E9j=E0 vu, =\nagain\n' +
      'RRULE:W2 MO FR #6\nEND:VEVENT\nEND:VCALENDAR\n';
    expect(events(old)).toMatchObject([
      {
        title: 'Déjà vu, again',
        start: { wall: '2026-03-27T09:00:00', zone: 'UTC' },
        rule: 'FREQ=WEEKLY;COUNT=6;INTERVAL=2;BYDAY=MO,FR',
      },
    ]);
  });

  test.each([
    ['D1', 'FREQ=DAILY;INTERVAL=1;COUNT=2'],
    ['D3 20261231T000000Z', 'FREQ=DAILY;INTERVAL=3;UNTIL=20261231T000000Z'],
    ['MP1 2+ FR 1- SA #0', 'FREQ=MONTHLY;INTERVAL=1;BYDAY=2FR,-1SA'],
    ['MD1 15 LD #12', 'FREQ=MONTHLY;INTERVAL=1;BYMONTHDAY=15,-1;COUNT=12'],
    ['YM1 6 7 #3', 'FREQ=YEARLY;INTERVAL=1;BYMONTH=6,7;COUNT=3'],
    ['YD1 100 #0', 'FREQ=YEARLY;INTERVAL=1;BYYEARDAY=100'],
  ])('%s recurs as %s', (old, rule) => {
    expect(newRule(old)).toBe(rule);
    const again = newRule(oldRule(rule) ?? '');
    // Twice is what nothing said means, and nobody need say it.
    expect(again).toBe(rule);
  });

  test.each(['FREQ=MONTHLY;BYDAY=MO;BYSETPOS=-1', 'FREQ=HOURLY', 'FREQ=WEEKLY;WKST=SU'])(
    'the old grammar has no word for %s',
    (rule) => {
      expect(oldRule(rule)).toBeNull();
    },
  );

  test('what is no rule, no time or no calendar is no record', () => {
    expect(() => newRule('every other day')).toThrow('not a rule');
    expect(() => events(timed('SUMMARY:When'))).toThrow('without a start');
    expect(() => events('BEGIN:VCARD\r\nEND:VCARD\r\n')).toThrow('not a calendar');
  });
});

test('a card with everything that is kept of somebody', () => {
  const text = [
    ...[
      'BEGIN:VCARD',
      'VERSION:3.0',
      'FN:Ada Birch',
      'TEL;VALUE=uri:tel:+44-1',
      'EMAIL:ada@example.org',
    ],
    ...[
      'ADR:;;1 Quay;Harrowmere;;H1;',
      'BDAY:1984-02-29',
      'ORG:Ferry\\, Ltd;Ropes',
      'NOTE:calls back',
    ],
    ...['END:VCARD', ''],
  ].join('\r\n');
  expect(parseRecords(vcard, bytes(text), 'a')).toEqual({
    kind: 'contacts',
    contacts: [
      {
        ...{ name: 'Ada Birch', numbers: ['+44-1'], emails: ['ada@example.org'] },
        ...{ addresses: ['1 Quay, Harrowmere, H1'], birthday: '1984-02-29' },
        ...{ organisation: 'Ferry, Ltd, Ropes', note: 'calls back', picture: null },
      },
    ],
  });
});

test.each([
  ['of 4.0', 'PHOTO:data:image/jpeg;base64,AAAA\r\n BBBB', 'image/jpeg'],
  ['of 4.0, escaped', 'PHOTO:data:image/png\\;base64\\,AAAABBBB', 'image/png'],
  ['of 3.0', 'PHOTO;ENCODING=b;TYPE=JPEG:AAAA\r\n BBBB', 'image/jpeg'],
  ['of 2.1', 'PHOTO;GIF;ENCODING=BASE64:\r\n AAAA\r\n BBBB\r\n', 'image/gif'],
  ['that says nothing of its kind', 'PHOTO;ENCODING=b:AAAABBBB', 'image/jpeg'],
  ['that lies elsewhere', 'PHOTO;VALUE=uri:https://example.org/ada.jpg', null],
  ['that is a drawing with scripts', 'PHOTO:data:image/svg+xml;base64,AAAABBBB', null],
  ['that is torn', 'PHOTO;ENCODING=b;TYPE=JPEG:AAAABBB', null],
])('a picture %s', (_, line, mediaType) => {
  const card = ['BEGIN:VCARD', 'VERSION:3.0', 'FN:Ada', line, 'TEL:1', 'END:VCARD', ''];
  const picture = mediaType === null ? null : { mediaType, base64: 'AAAABBBB' };
  expect(parseRecords(vcard, bytes(card.join('\r\n')), 'a')).toMatchObject({
    contacts: [{ numbers: ['1'], picture }],
  });
});

/** Anything that a record may hold, halves of letters and line breaks included. */
const text = fc.string({
  unit: fc.oneof(
    fc.constantFrom(...['a', 'é', '—', '李', '=', ';', ',', ':', '\\', '\t', '\r', '\n', '"', ' ']),
    fc.string({ unit: 'binary', minLength: 1, maxLength: 1 }),
  ),
  maxLength: 20,
});
const at = fc.date({
  min: new Date('1990-01-01'),
  max: new Date('2060-01-01'),
  noInvalidDate: true,
});
const values = fc.array(text.filter(Boolean), { maxLength: 3 });
const dayAt = at.map((moment) => moment.toISOString().slice(0, 10));
const wallAt = at.map((moment) => moment.toISOString().slice(0, 19));
const wallTime: fc.Arbitrary<WallTime> = fc.oneof(
  fc.record({ wall: dayAt, zone: fc.constant(null) }),
  fc.record({ wall: wallAt, zone: fc.constantFrom(null, 'UTC', 'Atlantic/Azores') }),
);
const calendarEvent: fc.Arbitrary<CalendarEvent> = wallTime.chain((start) => {
  const wall = start.wall.includes('T') ? wallAt : dayAt;
  return fc.record({
    ...{ uid: text, title: text, place: text, notes: text },
    start: fc.constant(start),
    end: fc.oneof(
      fc.constant(null),
      wall.map((one) => ({ ...start, wall: one })),
    ),
    rule: fc.constantFrom(null, 'FREQ=WEEKLY;BYDAY=MO,WE', 'FREQ=MONTHLY;COUNT=5;BYMONTHDAY=-1'),
    also: fc.array(wall, { maxLength: 2 }),
    without: fc.array(wall, { maxLength: 2 }),
    instead: fc.oneof(fc.constant(null), wall),
    alarms: fc.array(fc.integer({ min: -600, max: 20_000 }), { maxLength: 2 }),
  });
});
/** What is never due recurs from no day, and rings at none. */
const task: fc.Arbitrary<Task> = fc
  .record({
    ...{ uid: text, title: text, notes: text, due: fc.option(wallTime), done: fc.boolean() },
    priority: fc.integer({ min: 0, max: 9 }),
    rule: fc.constantFrom(null, 'FREQ=WEEKLY;BYDAY=MO,WE', 'FREQ=DAILY;INTERVAL=3'),
    alarms: fc.array(fc.integer({ min: -600, max: 20_000 }), { maxLength: 2 }),
  })
  .map((one) => (one.due ? one : { ...one, rule: null, alarms: [] }));
const folder = 'messages/Ada';
const path = `${folder}/1`;
const some = {
  messages: fc.record({
    kind: fc.constant('messages' as const),
    messages: fc.array(
      fc.record({
        thread: fc.constantFrom('Ada', 'Bo'),
        at,
        from: text,
        text,
        attachment: fc.constantFrom(null, `${folder}/media/a.jpg`, 'elsewhere/a.jpg'),
      }),
      { maxLength: 5 },
    ),
  }),
  threads: fc.record({
    kind: fc.constant('threads' as const),
    threads: fc.array(
      fc.record({
        name: fc.constantFrom('Ada', 'Bo'),
        isGroup: fc.boolean(),
        members: fc.array(text, { maxLength: 4 }),
      }),
      { minLength: 1, maxLength: 2 },
    ),
  }),
  calls: fc.record({
    kind: fc.constant('calls' as const),
    calls: fc.array(
      fc.record({
        at,
        kind: fc.constantFrom('incoming' as const, 'outgoing' as const, 'missed' as const),
        number: text,
        seconds: fc.nat(),
      }),
      { maxLength: 5 },
    ),
  }),
  contacts: fc.record({
    kind: fc.constant('contacts' as const),
    contacts: fc.array(
      fc.record({
        name: text,
        numbers: values,
        emails: values,
        addresses: values,
        birthday: fc.constantFrom('', '1984-02-29', '--12-31'),
        organisation: text,
        note: text,
        picture: fc.option(
          fc.record({
            mediaType: fc.constantFrom('image/jpeg', 'image/png', 'image/gif', 'image/webp'),
            base64: fc.base64String({ minLength: 4, maxLength: 300 }),
          }),
        ),
      }),
      { minLength: 1, maxLength: 4 },
    ),
  }),
  events: fc.record({
    kind: fc.constant('events' as const),
    events: fc.array(calendarEvent, { maxLength: 4 }),
  }),
  tasks: fc.record({
    kind: fc.constant('tasks' as const),
    tasks: fc.array(task, { maxLength: 4 }),
  }),
  notes: fc.record({
    kind: fc.constant('notes' as const),
    notes: fc.array(fc.record({ text }), { minLength: 1, maxLength: 2 }),
  }),
  bookmarks: fc.record({
    kind: fc.constant('bookmarks' as const),
    bookmarks: fc.array(fc.record({ name: text, page: text }), { maxLength: 4 }),
  }),
  visits: fc.record({
    kind: fc.constant('visits' as const),
    visits: fc.array(fc.record({ at, page: text }), { maxLength: 4 }),
  }),
  alarms: fc.record({
    kind: fc.constant('alarms' as const),
    alarms: fc.array(
      fc.record({ time: fc.constantFrom('00:00', '06:40', '23:59'), days: text, label: text }),
      { maxLength: 4 },
    ),
  }),
  measurements: fc.record({
    kind: fc.constant('measurements' as const),
    measurements: fc.array(
      fc.record({
        at,
        what: text,
        value: fc.double({ noDefaultInfinity: true, noNaN: true }).map((n) => n + 0),
        unit: text,
      }),
      { maxLength: 4 },
    ),
  }),
  screens: fc.record({
    kind: fc.constant('screens' as const),
    screens: fc.array(
      fc.record({
        pages: fc.array(fc.array(text, { maxLength: 3 }), { maxLength: 3 }),
        dock: fc.array(text, { maxLength: 3 }),
      }),
      { minLength: 1, maxLength: 2 },
    ),
  }),
};

/** Formats of keyboard handsets: ISO 8859-1, and fewer things to say. */
const OLD = new Set<string>([
  ...[mediaTypes.shortMessages, mediaTypes.memo, mediaTypes.oldVcard, mediaTypes.oldCalendar],
  mediaTypes.oldTaskList,
]);

/** The same records with every text in them made so by a function. */
function retold<T>(value: T, of: (text: string) => string): T {
  if (typeof value === 'string') return of(value) as T;
  if (value === null || typeof value !== 'object' || value instanceof Date) return value;
  if (Array.isArray(value)) return value.map((one: unknown) => retold(one, of)) as T;
  return Object.fromEntries(
    Object.entries(value).map(([key, one]) => [
      key,
      key === 'base64' || key === 'kind' ? (one as unknown) : retold(one as unknown, of),
    ]),
  ) as T;
}

/** Without what no text file holds: halves of letters, and line ends of other systems; a note or a screen a file. */
function heldByAll(records: Records): Records {
  const held = retold(records, (text) =>
    text
      .replaceAll(/\p{Surrogate}/gu, '-')
      .replaceAll('\r', 'r')
      .replace(/^\ufeff/, ''),
  );
  if (held.kind === 'notes') return { ...held, notes: held.notes.slice(0, 1) };
  if (held.kind === 'screens') return { ...held, screens: held.screens.slice(0, 1) };
  if (held.kind === 'threads')
    return { ...held, threads: held.threads.slice(0, 1).map((one) => ({ ...one, name: 'Ada' })) };
  if (held.kind === 'messages') {
    const near = (of: string | null) => (of?.startsWith(folder) ? of : null);
    const messages = held.messages.map((one) => ({
      ...one,
      thread: 'Ada',
      attachment: near(one.attachment),
    }));
    return { ...held, messages };
  }
  return held;
}

function heldByHandset(records: Records): Records {
  const held = retold(heldByAll(records), (text) =>
    text.replaceAll(/[^\p{ASCII}\u00a0-\u00ff]/gu, '?'),
  );
  if (held.kind === 'messages') {
    const plain = (text: string) => text.replaceAll(/[\t\n>]/g, ' ');
    const messages = held.messages.map((one) => ({
      ...{ ...one, from: plain(one.from), text: one.text.replaceAll('\n', ' '), attachment: null },
    }));
    return { ...held, messages };
  }
  if (held.kind === 'contacts') {
    const contacts = held.contacts.map((one) => ({
      ...{ ...one, birthday: one.birthday.replace(/^-.*/, '') },
      picture: one.picture && { ...one.picture, mediaType: 'image/jpeg' },
    }));
    return { ...held, contacts };
  }
  // No whole days, and no zone but UTC and wherever one is.
  const at = ({ wall, zone }: WallTime): WallTime => ({
    wall: wall.includes('T') ? wall : `${wall}T00:00:00`,
    zone: zone === 'UTC' ? 'UTC' : null,
  });
  if (held.kind === 'tasks')
    return { ...held, tasks: held.tasks.map((one) => ({ ...one, due: one.due && at(one.due) })) };
  if (held.kind !== 'events') return held;
  const events = held.events.map((one) => {
    const walls = (all: string[]) => all.map((wall) => at({ wall, zone: null }).wall);
    return {
      ...{ ...one, start: at(one.start), end: one.end && at(one.end), instead: null },
      ...{ also: walls(one.also), without: walls(one.without) },
    };
  });
  return { ...held, events };
}

describe.each(Object.values(mediaTypes))('written as %s', (mediaType) => {
  const kind = kindOf(mediaType) ?? 'messages';
  const any: fc.Arbitrary<Records> = some[kind];

  test('whatever it writes can be read, as the same records again when it is written once more', () => {
    fc.assert(
      fc.property(any, (records) => {
        const write = (some: Records) =>
          parseRecords(mediaType, writeRecords(mediaType, some, path), path);
        const arrived = write(records);
        expect(arrived.kind).toBe(kind);
        expect(write(arrived)).toEqual(arrived);
      }),
      { numRuns: 100 },
    );
  });

  test('what it can hold comes back as it was', () => {
    const isOld = OLD.has(mediaType);
    fc.assert(
      fc.property(any, (records) => {
        const held = isOld ? heldByHandset(records) : heldByAll(records);
        expect(parseRecords(mediaType, writeRecords(mediaType, held, path), path)).toEqual(held);
      }),
      { numRuns: 100 },
    );
  });

  test('holds records of its own kind only', () => {
    const other: Records =
      kind === 'calls' ? { kind: 'messages', messages: [] } : { kind: 'calls', calls: [] };
    expect(() => writeRecords(mediaType, other, path)).toThrow('no such format');
  });
});

test('a file of several cards holds several, and what is escaped in them is read', () => {
  const cards =
    'BEGIN:VCARD\r\nVERSION:4.0\r\nFN:Birch\\, Ada\\; \\\\ co\\nand more\r\nEND:VCARD\r\n' +
    'BEGIN:VCARD\r\nVERSION:3.0\r\nN:Bi\\;rch;A\\,da;;;\r\nTEL:1\r\nEND:VCARD\r\n';
  expect(parseRecords(vcard, bytes(cards), 'a')).toEqual({
    kind: 'contacts',
    contacts: [
      { ...noContact, name: 'Birch, Ada; \\ co\nand more' },
      { ...noContact, name: 'A,da Bi;rch', numbers: ['1'] },
    ],
  });
});
