import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { kindOf, lossesOf, mediaTypes, parseRecords, writeRecords, type Records } from './index.js';

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
        thread: 'TextsDB',
        at: new Date('2026-01-02T03:04:05Z'),
        from: '+44 7700 900001',
        text: 'Déjà\tvu',
        attachment: null,
      },
    ],
  });
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
      contacts: [{ name: 'Ada Birch', numbers: ['+44 1'] }],
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
        contacts: [{ name: 'Jo Müller', numbers: ['+44 1'] }],
      });
    }
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
      fc.record({ name: text, numbers: fc.array(text.filter(Boolean), { maxLength: 3 }) }),
      {
        minLength: 1,
        maxLength: 4,
      },
    ),
  }),
};

describe.each(Object.values(mediaTypes))('written as %s', (mediaType) => {
  const kind = kindOf(mediaType) ?? 'messages';
  const any: fc.Arbitrary<Records> = some[kind];

  test('what it says it holds comes back as it was, and whatever it writes can be read', () => {
    fc.assert(
      fc.property(any, (records) => {
        const again = parseRecords(mediaType, writeRecords(mediaType, records, path), path);
        const isWhole = Object.keys(lossesOf(mediaType, records, path)).length === 0;
        if (isWhole) expect(again).toEqual(records);
        else expect(again).not.toEqual(records);
      }),
      { numRuns: 300 },
    );
  });

  test('holds records of its own kind only', () => {
    const other: Records =
      kind === 'calls' ? { kind: 'messages', messages: [] } : { kind: 'calls', calls: [] };
    expect(() => writeRecords(mediaType, other, path)).toThrow('no such format');
    expect(() => lossesOf(mediaType, other, path)).toThrow('no such format');
  });
});

test('what a handset cannot hold is counted by what it is', () => {
  const message = { thread: 'Ada', at: new Date(0), from: 'me', text: 'hello', attachment: null };
  const messages = [
    message,
    { ...message, text: 'two\nlines — and a dash' },
    { ...message, thread: 'Bo', attachment: 'a/b.jpg' },
  ];
  expect(lossesOf(shortMessages, { kind: 'messages', messages }, path)).toEqual({
    ...{ attachment: 1, conversation: 1, letters: 1, 'line-breaks': 1 },
  });
  expect(lossesOf(thread, { kind: 'messages', messages: [message] }, path)).toEqual({});
});

test('a file of several cards holds several, and what is escaped in them is read', () => {
  const cards =
    'BEGIN:VCARD\r\nVERSION:4.0\r\nFN:Birch\\, Ada\\; \\\\ co\\nand more\r\nEND:VCARD\r\n' +
    'BEGIN:VCARD\r\nVERSION:3.0\r\nN:Bi\\;rch;A\\,da;;;\r\nTEL:1\r\nEND:VCARD\r\n';
  expect(parseRecords(vcard, bytes(cards), 'a')).toEqual({
    kind: 'contacts',
    contacts: [
      { name: 'Birch, Ada; \\ co\nand more', numbers: [] },
      { name: 'A,da Bi;rch', numbers: ['1'] },
    ],
  });
});
