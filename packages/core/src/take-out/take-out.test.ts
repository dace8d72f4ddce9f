import { XMLParser } from 'fast-xml-parser';
import fc from 'fast-check';
import Papa from 'papaparse';
import { describe, expect, test } from 'vitest';
import { mediaTypes, parseRecords } from '../formats/index.js';
import { noContact } from '../records/contact.js';
import {
  bookmarksFile,
  callsFile,
  contactsFile,
  notesPage,
  Paths,
  photographName,
  photographPatternProblem,
  safeName,
  writeConversation,
  type ToldConversation,
} from './index.js';
import { daysWanted } from '../values/index.js';

const ZONE = 'Atlantic/Azores';
const at = new Date('2026-07-01T10:05:09Z');
const told = (said: Partial<ToldConversation['said'][number]>[]): ToldConversation => ({
  ...{ people: ['Ada Birch'], sources: ['Messages', 'Tansy'] },
  said: said.map((one) => ({ at, from: '', text: '', source: 'Tansy', with: null, ...one })),
});

describe('a conversation', () => {
  test('is a page with names, times of a clock that it names, and what came with it in place', () => {
    const [page] = writeConversation(
      told([
        {
          text: 'Look <b>here</b>',
          with: { name: 'a b.jpg', path: 'media/a b.jpg' },
        },
        {
          from: 'Ada Birch',
          text: 'مرحبا',
          with: { name: 'song.wav', path: null },
        },
      ]),
      'html',
      ZONE,
    );
    expect(page?.name).toBe('conversation.html');
    expect(page?.text()).toContain('Times are those of Atlantic/Azores');
    expect(page?.text()).toContain('>10:05</time>, Tansy<br><b>The owner</b>');
    expect(page?.text()).toContain('Look &lt;b&gt;here&lt;/b&gt;');
    expect(page?.text()).toContain('<img src="media/a%20b.jpg"');
    expect(page?.text()).toContain('song.wav, which was not taken');
  });

  test('a long one is told on several pages, each with the way to the next', () => {
    const pages = writeConversation(told(Array.from({ length: 2001 }, () => ({}))), 'html', ZONE);
    expect(pages.map(({ name }) => name)).toEqual([
      ...['conversation.html', 'page-2.html', 'page-3.html'],
    ]);
    expect(pages[1]?.text()).toContain(
      '<a href="conversation.html">Earlier</a> <a href="page-3.html">',
    );
    expect(pages.map(({ text }) => text().split('<article>').length - 1)).toEqual([1000, 1000, 1]);
  });

  test('whatever was written, it is letters on the page and nothing else', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme', maxLength: 60 }), fc.string(), (text, from) => {
        const [page] = writeConversation(told([{ text, from }]), 'html', ZONE);
        const bare = writeConversation(told([{ text: 'x', from: 'y' }]), 'html', ZONE)[0];
        const tags = (page_: string | undefined) => (page_ ?? '').match(/<[^>]*>/g)?.join('');
        // The owner has no name in it.
        if (from !== '') expect(tags(page?.text())).toBe(tags(bare?.text()));
      }),
    );
  });

  test('of the days that were chosen, by the clock that was chosen', () => {
    const days = { since: '2026-07-01', until: '2026-07-02' };
    const isWanted = daysWanted(days, 'Pacific/Auckland');
    // Twelve hours ahead of UTC in that month.
    expect(isWanted(Date.parse('2026-06-30T11:59:59Z'))).toBe(false);
    expect(isWanted(Date.parse('2026-06-30T12:00:00Z'))).toBe(true);
    expect(isWanted(Date.parse('2026-07-02T11:59:59Z'))).toBe(true);
    expect(isWanted(Date.parse('2026-07-02T12:00:00Z'))).toBe(false);
    expect(daysWanted({ since: null, until: null }, 'UTC')(0)).toBe(true);
    expect(daysWanted({ since: '2026-07-01', until: null }, 'UTC')(0)).toBe(false);
  });

  test('as lines and as XML it is read by others', () => {
    const one = told([{ from: 'Ada', text: '<&> "quoted"\n=1+1' }]);
    const [xml] = writeConversation(one, 'xml', ZONE);
    const parsed = new XMLParser().parse(xml?.text() ?? '') as { records: { record: object } };
    expect(parsed.records.record).toMatchObject({ from: 'Ada', at: '2026-07-01T10:05:09+00:00' });
    const [lines] = writeConversation(one, 'jsonl', ZONE);
    expect(JSON.parse(lines?.text() ?? '')).toMatchObject({ text: '<&> "quoted"\n=1+1' });
    const [csv] = writeConversation(one, 'csv', ZONE);
    expect(Papa.parse<string[]>(csv?.text() ?? '').data[1]).toContain('<&> "quoted"\n=1+1');
  });
});

test('contacts come back from every version of a card, and from a spreadsheet no formula does', () => {
  const ada = {
    ...noContact,
    ...{ name: 'Ada van Birch', numbers: ['+44 1'], emails: ['ada@example.org'] },
    ...{ addresses: ['1 Quay, Harrowmere'], birthday: '1984-02-29', note: 'two\nlines' },
    picture: { mediaType: 'image/png', base64: 'iVBORw0KGgo='.padStart(400, 'A') },
  };
  for (const format of ['vcard-4', 'vcard-3'] as const) {
    const text = contactsFile([ada], format);
    const again = parseRecords(mediaTypes.vcard, new TextEncoder().encode(text), 'a');
    expect(again).toEqual({ kind: 'contacts', contacts: [ada] });
  }
  expect(contactsFile([{ ...ada, birthday: '--02-29' }], 'vcard-3')).toContain('Born on 02-29');
  const { data } = Papa.parse<string[]>(contactsFile([{ ...ada, name: '=cmd|A1' }], 'csv'));
  expect(data[1]?.[0]).toBe("'=cmd|A1");
});

test('lists name the clock that they tell times by', () => {
  const call = { at, kind: 'missed' as const, number: '+44 1', seconds: 0, name: 'Ada' };
  const rows = Papa.parse<string[]>(callsFile([call], ZONE)).data;
  expect(rows[0]?.[0]).toBe('when (Atlantic/Azores)');
  expect(rows[1]).toEqual(['2026-07-01 10:05:09', 'missed', 'Ada', "'+44 1", '0']);
  expect(notesPage([{ text: '# <i>Tide</i>\nlow', at }], ZONE)).toContain('&lt;i&gt;Tide');
});

test('a bookmark that is no address of the web is not pressed', () => {
  const file = bookmarksFile([
    { name: 'Tide', page: 'https://www.example.com/?a=1&b=2' },
    { name: 'Harm', page: 'javascript:alert(1)' },
  ]);
  expect(file).toContain('<a href="https://www.example.com/?a=1&amp;b=2">Tide</a>');
  expect(file.match(/<a /g)).toHaveLength(1);
});

test.each([
  ['{date}_{counter}', '2026-07-01_0007.jpg'],
  ['{time} {original}', '100509 IMG 1.jpg'],
  ['{place}/{album} {counter}', '47.21N-25.30W_Summer 0007.jpg'],
])('a photograph is called %s', (pattern, name) => {
  const photograph = {
    ...{ path: 'photographs/2026/IMG 1.jpg', at, album: 'Summer' },
    place: { latitude: 47.21, longitude: -25.3 },
  };
  expect(photographName(pattern, photograph, 7, ZONE)).toBe(name);
});

test('patterns that cannot be are said to be so', () => {
  expect(photographPatternProblem('{date}_{counter}')).toBeNull();
  expect(photographPatternProblem('{who}_{counter}')).toContain('{who}');
  expect(photographPatternProblem('{date}')).toContain('called the same');
});

test('no name leads elsewhere, and none is given twice', () => {
  fc.assert(
    fc.property(
      fc.array(fc.string({ unit: 'binary', maxLength: 12 }), { maxLength: 8 }),
      (names) => {
        const paths = new Paths();
        const given = names.map((name) => paths.free(safeName(name)).toLowerCase());
        expect(new Set(given).size).toBe(given.length);
        for (const name of given) {
          expect(name).not.toMatch(/[\\/\0]/);
          expect(['', '.', '..', 'con']).not.toContain(name);
        }
      },
    ),
  );
});
