import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { Message } from '../records/message.js';
import { dateStyles, extractFormats } from './choices.js';
import { plainStyle, writeExtract } from './formats.js';
import { readOpenFile } from './open-file.js';
import { guessedMapping, nameKey, readBack, type ReadBack } from './read-back.js';
import { extractOf, keyed } from './records.js';

const ANA = '+44 7700 900001';
const BEN = '+44 7700 900002';
const nobody = new Map<string, string>();

function back(text: string, numbers = nobody, zone = 'UTC'): ReadBack {
  const file = readOpenFile(text);
  return readBack(file, guessedMapping(file), numbers, zone);
}
const told = ({ messages }: ReadBack) =>
  messages.map(({ thread, at, from, text }) => [thread, at.toISOString(), from, text]);

/** Something that is said: with words, and no two of them the same in the same moment. */
const words = fc
  .string({ unit: 'grapheme', minLength: 1, maxLength: 30 })
  .map((t) => t.replace(/[^\t\n\u0020-\ud7ff\ue000-\ufffd]/g, '').replace(/\r/g, ''))
  .filter((t) => t.trim() !== '');
const messages = fc
  .uniqueArray(
    fc.record({
      thread: fc.constantFrom(ANA, `${ANA},${BEN}`),
      at: fc.integer({ min: 1.7e12, max: 1.8e12 }).map((at) => new Date(at)),
      from: fc.constantFrom('me', ANA),
      text: words,
      attachment: fc.constant(null),
    }),
    { maxLength: 20, minLength: 1, selector: ({ at }) => at.getTime() },
  )
  .map((all) => all.toSorted((a, b) => a.at.getTime() - b.at.getTime()));
const threads = new Map([
  [ANA, { name: ANA, isGroup: false, members: [ANA] }],
  [`${ANA},${BEN}`, { name: `${ANA},${BEN}`, isGroup: true, members: [ANA, BEN] }],
]);

describe.each(extractFormats)('a file of ours as %s', (format) => {
  test.each(dateStyles)('comes back as it was, its times told as %s', (dates) => {
    fc.assert(
      fc.property(messages, (all: Message[]) => {
        const records = keyed(extractOf({ kind: 'messages', messages: all }));
        const style = { ...plainStyle, dates, threads, zone: 'Europe/Berlin' };
        const { file } = writeExtract(format, records, style, null);
        const read = back(file, nobody, 'Europe/Berlin');
        expect(read).toMatchObject({ leftOut: [], unknown: [], twice: 0, calls: [] });
        expect(told(read)).toEqual(
          all.map(({ thread, at, from, text }) => [thread, at.toISOString(), from, text]),
        );
      }),
      { numRuns: 60 },
    );
  });

  test('calls come back as calls', () => {
    const calls = [
      { at: new Date(1.7e12), kind: 'incoming' as const, number: ANA, seconds: 62 },
      { at: new Date(1.7e12 + 5_000), kind: 'outgoing' as const, number: BEN, seconds: 5 },
      { at: new Date(1.7e12 + 9_000), kind: 'missed' as const, number: ANA, seconds: 0 },
    ];
    const { file } = writeExtract(
      format,
      keyed(extractOf({ kind: 'calls', calls })),
      { ...plainStyle, isList: true },
      null,
    );
    expect(back(file)).toMatchObject({ messages: [], calls, leftOut: [] });
  });
});

describe('a file that somebody edited', () => {
  test('two that were joined bring nothing twice, in the order of time', () => {
    const line = (at: string, text: string) => ({ at, thread: ANA, from: ANA, to: 'me', text });
    const lines = [
      line('2026-03-02T10:00:00Z', 'later'),
      line('2026-03-01T10:00:00Z', 'first'),
      line('2026-03-02T10:00:00Z', 'later'),
    ];
    const read = back(lines.map((one) => JSON.stringify(one)).join('\n'));
    expect(read.messages.map(({ text }) => text)).toEqual(['first', 'later']);
    expect(read.twice).toBe(1);
  });

  test.each([
    [
      'a semicolon between cells, other names of columns, the day first',
      'Date;Sender;Conversation;Message\r\n25/11/2026 14:05;Ana;Ana;Hello; there\r\n'.replace(
        '; there',
        ' there',
      ),
    ],
    [
      'quotes, a mark at its start, the month first',
      '\ufeff"when","who","with","text"\n"11/25/2026 2:05 PM","Ana","Ana","Hello there"\n',
    ],
    ['as words', 'at,from,thread,text\n"25 Nov 2026, 14:05",Ana,Ana,Hello there\n'],
    ['as a spreadsheet tells it', 'at,from,thread,text\n2026-11-25 14:05:00,Ana,Ana,Hello there\n'],
  ])('with %s', (_, file) => {
    const read = back(file, new Map([[nameKey('ANA'), ANA]]), 'Europe/Berlin');
    expect(told(read)).toEqual([[ANA, '2026-11-25T13:05:00.000Z', ANA, 'Hello there']]);
  });

  test('says of each line that does not come back why, and which names have no number', () => {
    const lines = [
      { at: 'yesterday', from: ANA, thread: ANA, text: 'x' },
      { at: '2026-03-01T10:00:00Z', from: '', thread: ANA, text: 'x' },
      { at: '2026-03-01T10:00:00Z', from: 'Cleo', thread: 'Cleo', text: 'x' },
      { at: '2026-03-01T10:00:00Z', from: 'me', thread: '', to: '', text: 'x' },
      { at: '2026-03-01T10:00:00Z', from: ANA, thread: ANA, text: ' ' },
      { at: '2026-03-01T10:00:00Z', from: ANA, thread: ANA, text: 'good', attachment: 'a/1.jpg' },
    ];
    const read = back(`${lines.map((one) => JSON.stringify(one)).join('\n')}\nnot one\n`);
    expect(read.leftOut).toEqual([
      { line: 1, why: 'no-moment' },
      { line: 2, why: 'nobody' },
      { line: 3, why: 'unknown-name' },
      { line: 4, why: 'nobody' },
      { line: 5, why: 'no-words' },
    ]);
    expect(read).toMatchObject({ unknown: ['Cleo'], without: 1 });
    expect(read.messages).toHaveLength(1);
  });

  test('a formula that a spreadsheet was kept from is what it was', () => {
    const record = { thread: ANA, at: new Date(1.7e12), from: ANA, to: [], attachment: null };
    const { file } = writeExtract('csv', keyed([{ ...record, text: '=1+1' }]), plainStyle, null);
    expect(file).toContain("'=1+1");
    expect(back(file).messages[0]).toMatchObject({ text: '=1+1', from: ANA });
  });

  test.each(['', 'just words', '<html><body>nothing</body></html>', '[1, 2]', '{"at": 5'])(
    'what is no such file is refused: %j',
    (file) => {
      expect(() => readOpenFile(file)).toThrow();
    },
  );

  test('whatever it is, it is read or refused', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary', maxLength: 200 }), (file) => {
        for (const start of ['', '<records><record>', '<html><article data-key="', '{"at":']) {
          try {
            back(start + file);
          } catch (error) {
            expect(String(error)).toContain('no such file');
          }
        }
      }),
      { numRuns: 300 },
    );
  });
});
