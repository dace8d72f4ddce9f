import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { mediaTypes } from '../formats/index.js';
import { noContact, plainNumber } from '../records/contact.js';
import { applicationOf, extractFormats, extractSetName, extractSetSchema } from './choices.js';
import { plainStyle, writeExtract, type ExtractStyle } from './formats.js';
import { extractOf, isOfSet, keyed, mediaPath, namesIn, type ExtractRecord } from './records.js';

const plain = plainStyle;
/** Anything that people write, without what no text format of ours takes (XML 1.0 forbids most control characters). */
const text = fc
  .string({ unit: 'grapheme', maxLength: 30 })
  .map((t) => t.replace(/[^\t\n\u0020-\ud7ff\ue000-\ufffd]/g, '').replace(/\r/g, ''));
const records = fc
  .array(
    fc.record({
      thread: fc.constantFrom('a', 'b'),
      at: fc.integer({ min: 0, max: 5 }).map((minute) => new Date(minute * 60_000)),
      from: fc.constantFrom('me', '+44 7700 900001'),
      to: fc.constant<string[]>([]),
      text,
      attachment: fc.constant(null),
    }),
    { maxLength: 25 },
  )
  .map(keyed);

describe.each(extractFormats)('as %s', (format) => {
  test('whatever was written: adding in two goes holds the same records as one, and twice adds nothing', () => {
    fc.assert(
      fc.property(records, fc.nat(25), (all, cut) => {
        const first = writeExtract(format, all.slice(0, cut), plain, null);
        const both = writeExtract(format, all, plain, first.file);
        expect(first.added + both.added).toBe(all.length);
        expect(writeExtract(format, all, plain, both.file)).toEqual({ file: both.file, added: 0 });
        for (const { key } of all) expect(both.file).toContain(key);
      }),
    );
  });

  test('is in the order of time', () => {
    const made = keyed(
      [3, 1, 2].map((minute) => ({
        thread: 'a',
        at: new Date(minute * 60_000),
        from: 'me',
        to: [],
        text: `said at ${minute}`,
        attachment: null,
      })),
    );
    const { file } = writeExtract(format, made, plain, null);
    const places = [1, 2, 3].map((minute) => file.indexOf(`said at ${minute}`));
    expect(places).toEqual([...places].sort((a, b) => a - b));
  });

  test('refuses to be added to something else', () => {
    expect(() => writeExtract(format, [], plain, 'not such a file')).toThrow();
  });
});

describe('what is written', () => {
  const one = (change: Partial<ExtractRecord>) =>
    keyed([
      {
        thread: 'a',
        at: new Date('2026-11-25T14:05:00Z'),
        from: '+44 7700 900001',
        to: [],
        text: 'hello',
        attachment: null,
        ...change,
      },
    ]);

  test('names numbers that are in the contacts, and dates as asked', () => {
    const names = new Map([[plainNumber('+44 7700 900001'), 'Ada Birch']]);
    const { file } = writeExtract('jsonl', one({}), { ...plain, dates: 'words', names }, null);
    expect(JSON.parse(file)).toMatchObject({ from: 'Ada Birch', at: '25 Nov 2026, 14:05' });
    const seconds = writeExtract('jsonl', one({}), { ...plain, dates: 'seconds' }, null);
    expect(JSON.parse(seconds.file)).toMatchObject({ from: '+44 7700 900001', at: '1795615500' });
  });

  test('is told by the clock that was asked for, and to whoever was there', () => {
    const style: ExtractStyle = {
      ...{ ...plain, zone: 'Europe/Vienna', names: new Map([['+447700900001', 'Ada Birch']]) },
      threads: new Map([
        ['t1', { name: 't1', isGroup: true, members: ['+44 7700 900001', '+44 7700 900002'] }],
      ]),
    };
    const own = one({ thread: 't1', from: 'me' });
    expect(JSON.parse(writeExtract('jsonl', own, style, null).file)).toMatchObject({
      at: '2026-11-25T15:05:00+01:00',
      thread: 'Ada Birch, +44 7700 900002',
      to: 'Ada Birch, +44 7700 900002',
    });
    const theirs = one({ thread: 't1' });
    expect(JSON.parse(writeExtract('jsonl', theirs, style, null).file)).toMatchObject({
      ...{ from: 'Ada Birch', to: 'me, +44 7700 900002' },
    });
    // Where the device keeps nobody, those who said something are in it.
    const unknown = one({ thread: 'thread-003' });
    expect(JSON.parse(writeExtract('jsonl', unknown, style, null).file)).toMatchObject({
      ...{ thread: 'Ada Birch', to: 'me' },
    });
  });

  test('as a page is conversations, each in time, with what came with it in its place', () => {
    const said = (thread: string, minute: number, attachment: string | null = null) => ({
      ...{ thread, at: new Date(minute * 60_000), from: `from ${thread}`, to: [] },
      ...{ text: `said in ${thread} at ${minute}`, attachment },
    });
    const all = keyed([said('b', 3), said('a', 2, 'x/b/1.jpg'), said('a', 9, 'x/a/film.webm')]);
    const style = { ...plain, places: new Map([['x/b/1.jpg', 'm/b/1.jpg']]) };
    const { file } = writeExtract('html', all, style, null);
    const order = ['<h2>from a', 'in a at 2', 'in a at 9', '<h2>from b', 'in b at 3'];
    const places = order.map((words) => file.indexOf(words));
    expect(places).toEqual([...places].sort((one, other) => one - other));
    expect(places).not.toContain(-1);
    expect(file).toContain('<img src="m/b/1.jpg"');
    expect(file).toContain('film.webm, which was not taken');
    // What comes late stands where it was said.
    const late = writeExtract('html', [...all, ...keyed([said('a', 5)])], style, file).file;
    expect(late.indexOf('in a at 5')).toBeGreaterThan(late.indexOf('in a at 2'));
    expect(late.indexOf('in a at 5')).toBeLessThan(late.indexOf('in a at 9'));
    const calls = writeExtract(
      'html',
      all,
      { ...plain, isList: true, title: 'Call log' },
      null,
    ).file;
    expect(calls.match(/<h2>/g)).toHaveLength(1);
  });

  test('is added to a page of before, which was one table', () => {
    const before =
      '<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Records</title></head><body><table><thead></thead><tbody>\n' +
      '<tr data-key="mww72kqo-4d10fbce"><td>25 Nov 2026, 14:04</td><td>thread-001</td><td>Ada</td><td></td><td>older &amp; gone</td><td>t/1.jpg</td></tr>\n' +
      '</tbody></table></body></html>\n';
    const { file, added } = writeExtract('html', one({}), plain, before);
    expect(added).toBe(1);
    expect(file).toContain('older &amp; gone');
    expect(file).toContain('data-key="mww72kqo-4d10fbce"');
    expect(file).toContain('hello');
    expect(writeExtract('html', one({}), plain, file).file).toBe(file);
  });

  test('is text in HTML, never markup, and no formula in a spreadsheet', () => {
    const html = writeExtract('html', one({ text: '<script>alert(1)</script>' }), plain, null).file;
    expect(html).not.toContain('<script>');
    const csv = writeExtract('csv', one({ text: '=1+1' }), plain, null).file;
    expect(csv).toContain("'=1+1");
  });
});

describe('where a picture lies beside the file', () => {
  test('below its thread, so that two threads may hold one name', () => {
    expect(mediaPath({ attachment: 'messages/ada/1.jpg' })).toBe('ada/1.jpg');
    expect(mediaPath({ attachment: 'messages/bram/1.jpg' })).toBe('bram/1.jpg');
    expect(mediaPath({ attachment: null })).toBeNull();
  });

  test.each(['messages/../1.jpg', 'messages/ada/..', 'x', 'ada//', 'ada/a\\..\\b', 'ada/a\0b'])(
    'never out of its folder: %j',
    (attachment) => {
      expect(mediaPath({ attachment })).toBeNull();
    },
  );
});

describe('a file, letter by letter', () => {
  const said = keyed([
    {
      thread: 'ada',
      at: new Date('2026-11-25T14:05:00Z'),
      from: 'me',
      to: ['+44 7700 900001', '+44 7700 900002'],
      text: 'two\nlines, a "quote" & <sign>',
      attachment: 'messages/ada/1.jpg',
    },
    {
      ...{ thread: 'ada', at: new Date('2026-11-25T14:04:00Z'), from: '+44 7700 900001' },
      ...{ to: [], text: '', attachment: null },
    },
  ]);
  const later = keyed([
    {
      ...{ thread: 'bram', at: new Date('2026-11-26T09:00:00Z'), from: 'bram', to: [] },
      ...{ text: '-1 is less than nothing', attachment: null },
    },
  ]);

  test.each(extractFormats)('new, with more, and with nothing, as %s', (format) => {
    const first = writeExtract(format, said, plain, null).file;
    expect({
      new: first,
      more: writeExtract(format, [...said, ...later], plain, first).file,
      nothing: writeExtract(format, [], plain, null).file,
      'more than nothing': writeExtract(
        format,
        later,
        plain,
        writeExtract(format, [], plain, null).file,
      ).file,
      'nothing more': writeExtract(format, [], plain, first).file === first,
    }).toMatchSnapshot();
  });

  test('what was said in one moment stands in one order, whoever lists it first', () => {
    const at = new Date(0);
    const both = keyed(
      ['one', 'two', 'three'].map((text) => ({
        ...{ thread: 'a', at, from: 'me', to: [], text, attachment: null },
      })),
    );
    const one = writeExtract('jsonl', both, plain, null).file;
    expect(writeExtract('jsonl', [...both].reverse(), plain, null).file).toBe(one);
    const keys = one.split('\n').flatMap((line) => /"key":"([^"]*)"/.exec(line)?.slice(1) ?? []);
    expect(keys).toEqual([...keys].sort());
  });
});

describe('a key', () => {
  const record = (text: string) => ({
    ...{ thread: 't', at: new Date(36 ** 3), from: 'me', to: [], text, attachment: null },
  });

  test('is the moment and a fingerprint of what was said, the same in every version', () => {
    expect(
      keyed([record('hello'), record('hello'), record('other'), record('hello')]),
    ).toMatchObject(
      ['1000-', '1000-', '1000-', '1000-'].map((start) => ({
        key: expect.stringMatching(new RegExp(`^${start}[0-9a-f]{8}`)) as string,
      })),
    );
    const keys = keyed([record('hello'), record('hello'), record('other'), record('hello')]);
    expect(keys.map(({ key }) => key)).toMatchInlineSnapshot(`
      [
        "1000-da1c27c3",
        "1000-da1c27c3-2",
        "1000-454bc7ad",
        "1000-da1c27c3-3",
      ]
    `);
  });

  test('is FNV-1a of thread, sender and words', () => {
    const bytes = Array.from('t\nme\nhello', (c) => c.charCodeAt(0));
    const hash = bytes.reduce(
      (h, b) => Number((BigInt(h ^ b) * 16_777_619n) & 0xffffffffn),
      2_166_136_261,
    );
    expect(keyed([record('hello')])[0]?.key).toBe(`1000-${hash.toString(16).padStart(8, '0')}`);
  });
});

const { thread, shortMessages, callLog, vcard } = mediaTypes;
test.each([
  ['messages', 'messages', '', thread, true],
  ['messages', 'messages', '', shortMessages, true],
  ['messages', 'messages', '', null, false],
  ['messages', 'messages', '', 'image/jpeg', false],
  ['messages', 'notes', '', thread, false],
  ['calls', 'calls', '', callLog, true],
  ['calls', 'calls', '', vcard, false],
  ['calls', 'contacts', '', callLog, false],
  ['chats/tansy', 'applications', 'tansy', thread, true],
  ['chats/tansy', 'applications', 'corbel', thread, false],
  ['chats/tansy', 'applications', 'tansy', null, false],
  ['chats/tansy', 'messages', 'tansy', thread, false],
  ['messages', 'applications', 'tansy', thread, false],
] as const)('of %s: %s “%s” %s is %s', (set, dataClass, group, format, is) => {
  expect(isOfSet(set, { class: dataClass, group, format })).toBe(is);
});

describe('a set', () => {
  test('is a class, or the chats of any application', () => {
    for (const set of ['messages', 'calls', 'chats/tansy', 'chats/new-one.2']) {
      expect(extractSetSchema.parse(set)).toBe(set);
    }
    for (const not of ['notes', 'tansy', 'chats/', 'chats/../x', 'chats/a/b']) {
      expect(extractSetSchema.safeParse(not).success).toBe(false);
    }
    expect(applicationOf('chats/tansy')).toBe('tansy');
    expect(applicationOf('calls')).toBeNull();
  });

  test('has a name, the application’s own where it is known', () => {
    expect(extractSetName('messages')).toBe('Messages');
    expect(extractSetName('calls')).toBe('Call log');
    expect(extractSetName('chats/new-one')).toBe('Chats of New one');
    expect(extractSetName('chats/new-one', 'New! One')).toBe('Chats of New! One');
  });
});

test('what becomes of records in an open file', () => {
  const at = new Date('2026-01-02T03:04Z');
  const said = { thread: 'a', at, from: 'me', text: 'hi', attachment: null };
  expect(extractOf({ kind: 'messages', messages: [said] })).toEqual([{ ...said, to: [] }]);
  expect(
    extractOf({
      kind: 'calls',
      calls: [
        { at, kind: 'outgoing', number: '+44 1', seconds: 61 },
        { at, kind: 'incoming', number: '+44 2', seconds: 7 },
        { at, kind: 'missed', number: '+44 3', seconds: 0 },
      ],
    }).map(({ at: _, ...rest }) => rest),
  ).toEqual([
    { thread: '+44 1', from: 'me', to: ['+44 1'], text: 'outgoing call, 61 s', attachment: null },
    { thread: '+44 2', from: '+44 2', to: ['me'], text: 'incoming call, 7 s', attachment: null },
    { thread: '+44 3', from: '+44 3', to: ['me'], text: 'missed call', attachment: null },
  ]);
  expect(extractOf({ kind: 'contacts', contacts: [{ ...noContact, name: 'Ada' }] })).toEqual([]);
});

test('whose a number is: every number of a card that names somebody', () => {
  expect(
    namesIn({
      kind: 'contacts',
      contacts: [
        { ...noContact, name: 'Ada', numbers: ['+44 (1) 2', '3-4'] },
        { ...noContact, name: '', numbers: ['+44 1'] },
      ],
    }),
  ).toEqual([
    ['+4412', 'Ada'],
    ['34', 'Ada'],
  ]);
  expect(namesIn({ kind: 'calls', calls: [] })).toEqual([]);
});
