import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { DataClass, Takes, Taking } from '../device/index.js';
import { kindOf, mediaTypes, parseRecords, writeRecords, type Records } from '../formats/index.js';
import { noContact } from '../records/contact.js';
import type { CalendarEvent } from '../records/event.js';
import type { Message } from '../records/message.js';
import { crossRecords, tallyOf, type Outgoing, type ReadItem } from './convert.js';
import { listOf } from '../records/fields.js';
import { CrossingTally, goesOver, losesSomething, staysBehind } from './report.js';
import { CrossingTarget, type SourceItem } from './target.js';

const taking = (
  of: DataClass,
  format: string | null,
  place: string,
  ...shows: string[]
): Taking => ({
  ...{ class: of, format, place, shows, letters: {} },
});
const phone: Takes = {
  adds: true,
  changes: false,
  items: [
    taking('contacts', mediaTypes.vcard, 'contacts/{n}.vcf'),
    taking('calendar', mediaTypes.icalendar, 'calendar/{n}.ics'),
    taking('messages', mediaTypes.thread, 'messages/{conversation}/{month}.jsonl'),
    taking('messages', mediaTypes.threadPeople, 'messages/{conversation}/thread.json'),
    taking('messages', null, '{path}', 'image/jpeg'),
    taking('photographs', null, '{path}', 'image/jpeg'),
  ],
  applications: [
    { id: 'tansy', crosses: true, version: '8.2' },
    { id: 'crossword', crosses: false, version: null },
  ],
};
const handset: Takes = {
  adds: true,
  changes: false,
  items: [
    taking('contacts', mediaTypes.oldVcard, 'contacts/NamesDB/{n}.vcf'),
    taking('calendar', mediaTypes.oldCalendar, 'calendar/DatesDB/{n}.vcs'),
    taking('tasks', mediaTypes.oldTaskList, 'tasks/TodosDB/{n}.vcs'),
    taking('messages', mediaTypes.shortMessages, 'messages/TextsDB/{n}.txt'),
    taking('notes', mediaTypes.memo, 'notes/MemosDB/{n}.txt'),
  ],
  applications: [],
};

const at = (minute: number) => new Date(Date.UTC(2026, 0, 2, 3, minute));
const said = (thread: string, from: string, text: string, minute = 0): Message => ({
  ...{ thread, from, text, at: at(minute), attachment: null },
});

/** What a device sends across: files of records, each with its format. */
class Source {
  readonly items: { item: SourceItem; records: Records | null }[] = [];

  file(path: string, format: string | null, records: Records | null = null): this {
    const item = { class: path.split('/')[0] as DataClass, kind: 'file' as const, path, format };
    this.items.push({ item, records });
    return this;
  }

  messages(path: string, ...messages: Message[]): this {
    return this.file(path, mediaTypes.thread, { kind: 'messages', messages });
  }

  people(name: string, isGroup: boolean, ...members: string[]): this {
    const threads = [{ name, isGroup, members }];
    return this.file(`messages/${name}/thread.json`, mediaTypes.threadPeople, {
      kind: 'threads',
      threads,
    });
  }
}

function cross(source: Source, takes: Takes, onTarget = new Source(), isSameFamily = false) {
  const target = new CrossingTarget(takes, isSameFamily);
  for (const { item, records } of onTarget.items) target.holds(item, records);
  const tally = new CrossingTally();
  const read = source.items.flatMap(({ item, records }): ReadItem[] => {
    const way = target.wayOf(item);
    if (way.way === 'stays') tally.stays(item.class, way.why);
    if (!records || (way.way !== 'records' && way.way !== 'aside')) return [];
    return [{ item, records, taking: way.way === 'records' ? way.taking : null }];
  });
  const outgoing = crossRecords(read, target, tally);
  for (const one of outgoing) tallyOf(one, tally);
  return { outgoing, report: tally.report(), target };
}

/** What the device then reads in each file. */
const arrived = (outgoing: readonly Outgoing[]) =>
  outgoing.map(({ path, format, contents, kind, meant }) => ({
    path,
    format,
    records:
      contents instanceof Uint8Array
        ? listOf(parseRecords(format, contents, path))
        : contents.format === format && kindOf(format) === kind
          ? meant
          : [],
  }));

/** The device after what arrived: for what is brought a second time. */
function after(outgoing: readonly Outgoing[]): Source {
  const there = new Source();
  const files = outgoing.map(({ path, format, contents, kind, meant }) => {
    const bytes =
      contents instanceof Uint8Array
        ? contents
        : writeRecords(format, { kind, [kind]: meant } as unknown as Records, path);
    return { path, format, records: parseRecords(format, bytes, path) };
  });
  for (const { path, format, records } of files.toSorted((a) =>
    a.records.kind === 'threads' ? -1 : 1,
  )) {
    there.file(path, format, records);
  }
  return there;
}

test('what a device keeps in the same way lies there as it is', () => {
  const source = new Source()
    .people('thread-001', false, '+44 1')
    .messages('messages/thread-001/2026-01.jsonl', said('thread-001', 'me', 'hello'))
    .file('messages/thread-001/media/a.jpg', 'image/jpeg')
    .file('contacts/0001-Ada.vcf', mediaTypes.vcard, {
      kind: 'contacts',
      contacts: [{ ...noContact, name: 'Ada' }],
    });
  const { outgoing, report } = cross(source, phone);
  expect(outgoing.map(({ path, contents }) => [path, contents instanceof Uint8Array])).toEqual([
    ['messages/thread-001/thread.json', false],
    ['messages/thread-001/2026-01.jsonl', false],
    ['contacts/0001-Ada.vcf', false],
  ]);
  expect(losesSomething(report)).toBe(false);
});

test('a device that knows cards of an earlier version is sent such', () => {
  const takes = {
    ...phone,
    items: [taking('contacts', mediaTypes.directoryCard, 'contacts/{n}.vcf')],
  };
  const source = new Source().file('contacts/0001-Ada.vcf', mediaTypes.vcard, {
    kind: 'contacts',
    contacts: [{ ...noContact, name: 'Ada', numbers: ['+44 1'] }],
  });
  const { outgoing, report } = cross(source, takes);
  const cards = outgoing.map(({ contents }) =>
    contents instanceof Uint8Array ? new TextDecoder().decode(contents) : 'as it is',
  );
  expect(cards).toEqual([
    'BEGIN:VCARD\r\nVERSION:3.0\r\nN:Ada;;;;\r\nFN:Ada\r\nTEL:+44 1\r\nEND:VCARD\r\n',
  ]);
  expect(losesSomething(report)).toBe(false);
});

describe('onto a handset', () => {
  test('a conversation is one text a file, each of which says with whom', () => {
    const source = new Source()
      .people('thread-001', false, '+44 1')
      .people('thread-002', true, '+44 1', '+44 2')
      .messages('messages/thread-001/2026-01.jsonl', said('thread-001', '+44 1', 'Déjà vu', 1), {
        ...said('thread-001', 'me', 'two\nlines 🫖', 2),
        attachment: 'messages/thread-001/media/a.jpg',
      })
      .messages('messages/thread-002/2026-01.jsonl', said('thread-002', '+44 2', 'to all', 3));
    const { outgoing, report } = cross(source, handset);
    expect(arrived(outgoing).map(({ path, records }) => [path, ...records])).toMatchObject([
      ['messages/TextsDB/0001.txt', { from: '+44 1', thread: '+44 1', text: 'Déjà vu' }],
      ['messages/TextsDB/0002.txt', { from: 'me', thread: '+44 1', text: 'two lines ?' }],
      ['messages/TextsDB/0003.txt', { from: '+44 2', thread: '+44 1,+44 2', text: 'to all' }],
    ]);
    expect(report).toMatchObject([
      {
        ...{ class: 'messages', whole: 2, changed: 1, stays: [] },
        changes: [
          { field: 'words', count: 1 },
          { field: 'attachment', count: 1 },
        ],
      },
    ]);
  });

  test('what recurs in a zone keeps its time on the wall, and what stands in the place of one occurrence is one of its own', () => {
    const event: CalendarEvent = {
      ...{ uid: 'choir', title: 'Choir', place: '', notes: '', alarms: [15], instead: null },
      ...{ rule: 'FREQ=WEEKLY;BYDAY=FR', also: [], without: ['2026-04-10T09:00:00'] },
      start: { wall: '2026-03-27T09:00:00', zone: 'Atlantic/Azores' },
      end: { wall: '2026-03-27T10:00:00', zone: 'Atlantic/Azores' },
    };
    const moved = {
      ...{ ...event, rule: null, without: [], instead: '2026-04-03T09:00:00', alarms: [] },
      start: { wall: '2026-04-03T11:00:00', zone: 'Atlantic/Azores' },
      end: null,
    };
    const source = new Source().file('calendar/1.ics', mediaTypes.icalendar, {
      kind: 'events',
      events: [event, moved],
    });
    const { outgoing, report } = cross(source, handset);
    expect(arrived(outgoing).map(({ records }) => records)).toMatchObject([
      [
        {
          start: { wall: '2026-03-27T09:00:00', zone: null },
          rule: 'FREQ=WEEKLY;BYDAY=FR',
          without: ['2026-04-10T09:00:00', '2026-04-03T09:00:00'],
          alarms: [15],
        },
      ],
      // Summer time: an hour behind UTC in winter, none in April.
      [{ uid: 'choir 2026-04-03T09:00:00', start: { wall: '2026-04-03T11:00:00', zone: 'UTC' } }],
    ]);
    expect(report[0]?.changes.map(({ field }) => field)).toEqual(['zone', 'recurrence']);
  });

  test('what changes of an appointment is told once: its zone, or that it is a whole day', () => {
    const once = { uid: 'a', title: 'A', place: '', notes: '', end: null, rule: null, also: [] };
    const event = { ...once, without: [], instead: null, alarms: [] };
    const zoned = { ...event, start: { wall: '2026-07-01T09:00:00', zone: 'Atlantic/Azores' } };
    const weekly = { rule: 'FREQ=WEEKLY;COUNT=3', without: ['2026-07-08'] };
    const days = { ...event, uid: 'b', start: { wall: '2026-07-01', zone: null }, ...weekly };
    const source = new Source().file('calendar/1.ics', mediaTypes.icalendar, {
      kind: 'events',
      events: [zoned, days],
    });
    expect(cross(source, handset).report[0]?.changes).toEqual([
      { field: 'zone', count: 1 },
      { field: 'whole-day', count: 1 },
    ]);
  });

  test('a task goes over with when it is due, and loses that it is a whole day, and its zone', () => {
    const task = { uid: '', notes: '', done: true, priority: 1, rule: null, alarms: [] };
    const at = (wall: string, zone: string | null) => ({ due: { wall, zone } });
    const tasks = [
      { ...task, title: 'Whole', ...at('2026-07-01', null) },
      { ...task, title: 'Zoned', ...at('2026-07-01T09:00:00', 'Atlantic/Azores') },
      { ...task, title: 'Whenever', due: null },
    ];
    const source = new Source().file('tasks/1.ics', mediaTypes.taskList, { kind: 'tasks', tasks });
    const { outgoing, report } = cross(source, handset);
    expect(arrived(outgoing).map(({ path, records }) => [path, ...records])).toMatchObject([
      ['tasks/TodosDB/0001.vcs', { title: 'Whole', done: true, priority: 1 }],
      ['tasks/TodosDB/0002.vcs', at('2026-07-01T09:00:00', 'UTC')],
      ['tasks/TodosDB/0003.vcs', { title: 'Whenever', due: null }],
    ]);
    expect(report).toMatchObject([
      {
        ...{ class: 'tasks', whole: 1, changed: 2 },
        changes: [
          { field: 'whole-day', count: 1 },
          { field: 'zone', count: 1 },
        ],
      },
    ]);
  });

  test('what it has no place for stays, and is counted with why', () => {
    const source = new Source()
      .file('photographs/2026/a.jpg', 'image/jpeg')
      .file('applications/tansy/settings.json', 'application/json');
    const { report } = cross(source, handset);
    expect(report.map((one) => [one.class, staysBehind(one), one.stays[0]?.why])).toEqual([
      ['photographs', 1, 'no-place'],
      ['applications', 1, 'no-application'],
    ]);
  });
});

test('from a handset, conversations are found by their numbers, with who is in them', () => {
  const texts = [said('+44 1', '+44 1', 'one', 1), said('+44 1', 'me', 'two', 2)];
  const source = new Source();
  for (const [i, text] of texts.entries()) {
    source.file(`messages/TextsDB/000${i}.txt`, mediaTypes.shortMessages, {
      kind: 'messages',
      messages: [text],
    });
  }
  const { outgoing, report } = cross(source, phone);
  expect(arrived(outgoing)).toMatchObject([
    {
      path: 'messages/44-1/2026-01.jsonl',
      records: [{ text: 'one' }, { text: 'two', from: 'me' }],
    },
    { path: 'messages/44-1/thread.json', records: [{ isGroup: false, members: ['+44 1'] }] },
  ]);
  expect(report).toMatchObject([{ whole: 2, changed: 0 }]);
});

test('thirty thousand messages come back in their order, conversation by conversation', () => {
  const source = new Source();
  const texts = Array.from({ length: 30_000 }, (_, i) =>
    // Of some in the same moment, the order in which they lay is theirs.
    said('thread-001', i % 3 === 0 ? 'me' : '+44 1', `${i}`, Math.floor(i / 4)),
  );
  for (let from = 0; from < texts.length; from += 10_000) {
    source.messages(`messages/thread-001/part-${from}.jsonl`, ...texts.slice(from, from + 10_000));
  }
  const { outgoing, report } = cross(source, phone);
  const messages = outgoing
    .toSorted((a, b) => (a.path < b.path ? -1 : 1))
    .flatMap((one) => arrived([one])[0]?.records ?? [])
    .filter((one): one is Message => 'text' in one && 'thread' in one);
  expect(messages.map(({ text }) => text)).toEqual(texts.map(({ text }) => text));
  expect(report).toMatchObject([{ whole: 30_000, changed: 0 }]);
});

describe('onto a device in use', () => {
  const source = () =>
    new Source()
      .people('thread-001', false, '+44 1')
      .messages('messages/thread-001/2026-01.jsonl', said('thread-001', '+44 1', 'one', 1), {
        ...said('thread-001', 'me', 'two', 2),
        attachment: 'messages/thread-001/media/a.jpg',
      });

  test('what is there is not doubled, and the rest comes into the conversation of the same people', () => {
    const there = new Source()
      .people('thread-009', false, '+441')
      .messages('messages/thread-009/2026-01.jsonl', said('thread-009', '+441', 'one', 1));
    const { outgoing, report } = cross(source(), phone, there);
    expect(arrived(outgoing)).toMatchObject([
      {
        path: 'messages/thread-009/2026-01 (2).jsonl',
        records: [{ text: 'two', attachment: 'messages/thread-009/media/a.jpg' }],
      },
    ]);
    expect(report).toMatchObject([{ whole: 1, present: 1 }]);
  });

  test('a folder of that name in which others are is left alone', () => {
    const there = new Source().people('thread-001', false, '+44 7');
    expect(cross(source(), phone, there).outgoing.map(({ path }) => path)).toEqual([
      ...['messages/thread-001-2/thread.json', 'messages/thread-001-2/2026-01.jsonl'],
    ]);
  });

  test('another version of somebody is kept, and theirs too', () => {
    const contacts = (...numbers: string[]): Records => ({
      kind: 'contacts',
      contacts: [{ ...noContact, name: 'Ada', numbers }],
    });
    const mine = new Source().file('contacts/1.vcf', mediaTypes.vcard, contacts('+44 1'));
    const theirs = (...numbers: string[]) =>
      new Source().file('contacts/1.vcf', mediaTypes.vcard, contacts(...numbers));
    expect(cross(mine, phone, theirs('+441')).report).toMatchObject([{ present: 1, whole: 0 }]);
    const { outgoing, report } = cross(mine, phone, theirs('+44 2'));
    expect(outgoing.map(({ path }) => path)).toEqual(['contacts/1 (2).vcf']);
    expect(report).toMatchObject([{ beside: 1, whole: 1 }]);
  });

  test('what an application has there of its own is not written over', () => {
    const mine = new Source().file('applications/tansy/a.json', 'application/json');
    const { target } = cross(mine, phone, mine);
    const [first] = mine.items;
    // One that was cut on its way goes on.
    expect(first && target.wayOf(first.item)).toEqual({ way: 'file', isShown: true });
    target.ownsApplication('tansy');
    expect(first && target.wayOf(first.item)).toEqual({ way: 'stays', why: 'own-there' });
  });
});

const words = fc.constantFrom('hello', 'Déjà vu', '🫖', 'two\nlines', '李', '');
const people = fc.constantFrom('+44 1', '+44 2', '+44 3');
const conversations = fc.array(
  fc.record({
    members: fc.uniqueArray(people, { minLength: 1, maxLength: 3 }),
    said: fc.array(fc.record({ by: fc.nat(3), words, minute: fc.nat(50) }), { maxLength: 12 }),
  }),
  { maxLength: 4 },
);

test.each([
  ['a phone', phone],
  ['a handset', handset],
])(
  'brought twice onto %s nothing is doubled, nothing is missing, and each is in its order',
  (_, takes) => {
    fc.assert(
      fc.property(conversations, (all) => {
        const source = new Source();
        for (const [i, { members, said: talk }] of all.entries()) {
          const name = `thread-${i}`;
          source.people(name, members.length > 1, ...members);
          const messages = talk
            .map(({ by, words: text, minute }) => said(name, members[by - 1] ?? 'me', text, minute))
            .toSorted((a, b) => a.at.getTime() - b.at.getTime());
          source.messages(`messages/${name}/2026-01.jsonl`, ...messages);
        }
        const first = cross(source, takes);
        const wanted = all.reduce((sum, { said: talk }) => sum + talk.length, 0);
        const came = arrived(first.outgoing).flatMap(({ records }) =>
          records.filter((one): one is Message => 'text' in one && 'thread' in one),
        );
        expect(came).toHaveLength(wanted);
        for (const thread of new Set(came.map((one) => one.thread))) {
          const times = came.filter((one) => one.thread === thread).map((one) => one.at.getTime());
          // Conversations of the same people are one there, each of them in its order.
          if (all.length === 1) expect(times).toEqual(times.toSorted((a, b) => a - b));
        }
        const second = cross(source, takes, after(first.outgoing));
        expect(second.outgoing).toEqual([]);
        expect(second.report.reduce((sum, one) => sum + one.present, 0)).toBeGreaterThanOrEqual(
          wanted,
        );
        expect(second.report.reduce((sum, one) => sum + goesOver(one), 0)).toBe(0);
      }),
    );
  },
);
