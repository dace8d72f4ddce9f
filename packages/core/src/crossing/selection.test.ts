import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { choiceOfClasses } from '../backup/index.js';
import type { DataClass } from '../device/index.js';
import { mediaTypes, type Records } from '../formats/index.js';
import type { Message } from '../records/message.js';
import { noContact } from '../records/contact.js';
import type { ReadItem } from './convert.js';
import { listOf } from '../records/fields.js';
import { attachedTo, chosenPart, inHand, onlySelected, pickKey, type Picked } from './selection.js';

const item = (path: string, format: string | null, modified = '2026-03-01T12:00:00.000Z') => ({
  class: path.split('/')[0] as DataClass,
  ...{ kind: 'file' as const, path, format, modified },
});
const read = (path: string, format: string, records: Records): ReadItem => ({
  ...{ item: item(path, format), records, taking: null },
});
const said = (thread: string, day: string, attachment: string | null = null): Message => ({
  ...{ thread, from: '+44 7700 900111', text: `on ${day}`, at: new Date(`${day}T10:00:00Z`) },
  attachment,
});
const conversation = (name: string, ...messages: Message[]) => [
  read(`messages/${name}/2026.jsonl`, mediaTypes.thread, { kind: 'messages', messages }),
  read(`messages/${name}/thread.json`, mediaTypes.threadPeople, {
    kind: 'threads',
    threads: [{ name, isGroup: false, members: ['+44 7700 900111'] }],
  }),
];
const recordsIn = (all: readonly ReadItem[]) => all.flatMap(({ records }) => [...listOf(records)]);
const nothing: Picked = {
  ...{ paths: new Set(), applications: new Set(), records: new Map(), inStores: 0 },
};

describe('only some days', () => {
  const march = { since: '2026-03-01', until: '2026-03-31' };
  const part = chosenPart(choiceOfClasses(['messages', 'photographs', 'notes']), march, 'UTC');

  test('leave of a conversation what was said then, what came along with it, and who is in it', () => {
    const picture = 'messages/ana/photos/march.jpg';
    const [spoken, people] = conversation(
      'ana',
      said('ana', '2026-02-10', 'messages/ana/photos/february.jpg'),
      said('ana', '2026-03-10', picture),
    );
    const silent = conversation('ben', said('ben', '2026-01-01'));
    const left = onlySelected(
      [spoken, people, ...silent].filter((one) => one !== undefined),
      part,
    );
    expect(left.map(({ item: { path }, isPart = false }) => [path, isPart])).toEqual([
      ['messages/ana/2026.jsonl', true],
      ['messages/ana/thread.json', false],
    ]);
    expect(attachedTo(left)).toEqual([picture]);
  });

  test('are those of the zone; what is of no day goes whole, what was not chosen not at all', () => {
    const auckland = chosenPart(choiceOfClasses(['photographs']), march, 'Pacific/Auckland');
    const evening = item('photographs/a.jpg', 'image/jpeg', '2026-02-28T20:00:00.000Z');
    expect([part.hasItem(evening), auckland.hasItem(evening)]).toEqual([false, true]);
    expect(part.hasItem(item('notes/old.md', 'text/markdown', '2019-01-01T00:00:00.000Z'))).toBe(
      true,
    );
    expect(part.hasItem(item('contacts/a.vcf', mediaTypes.vcard))).toBe(false);
  });

  test('any days together leave all of it, and each message once', () => {
    const day = fc.date({
      ...{ min: new Date('2026-01-01'), max: new Date('2026-12-31'), noInvalidDate: true },
    });
    fc.assert(
      fc.property(fc.array(day, { maxLength: 30 }), day, (days, border) => {
        const messages = days.map((at, n) => ({ ...said('ana', '2026-01-01'), at, text: `${n}` }));
        const all = conversation('ana', ...messages);
        const before = new Date(border.getTime() - 86_400_000).toISOString().slice(0, 10);
        const spans = [
          { since: null, until: before },
          { since: border.toISOString().slice(0, 10), until: null },
        ];
        const parts = spans.flatMap((span) =>
          recordsIn(onlySelected(all, chosenPart(choiceOfClasses(['messages']), span, 'UTC'))),
        );
        const texts = parts.flatMap((one) => ('text' in one ? [one.text] : []));
        expect(texts.toSorted()).toEqual(messages.map(({ text }) => text).toSorted());
      }),
      { numRuns: 100 },
    );
  });
});

describe('what is in hand', () => {
  test('is those records, those files and those applications, and nothing beside them', () => {
    const [ana, ben] = ['Ana Reed', 'Ben Sallow'].map((name) => ({ ...noContact, name }));
    if (!ana || !ben) throw new Error('two were made');
    const hand = inHand({
      ...nothing,
      paths: new Set(['photographs/one.jpg']),
      applications: new Set(['tansy']),
      records: new Map([['contacts', new Set([pickKey('contacts', ana)])]]),
    });
    const card = item('contacts/all.vcf', mediaTypes.vcard);
    expect(hand.hasItem(card)).toBe(true);
    expect(hand.hasItem(item('photographs/one.jpg', 'image/jpeg'))).toBe(true);
    expect(hand.hasItem(item('photographs/two.jpg', 'image/jpeg'))).toBe(false);
    expect(hand.hasItem(item('applications/tansy/store', null))).toBe(true);
    expect(hand.hasItem(item('applications/corbel/store', null))).toBe(false);
    expect(hand.hasItem(item('messages/ana/2026.jsonl', mediaTypes.thread))).toBe(false);
    const both = read(card.path, mediaTypes.vcard, { kind: 'contacts', contacts: [ana, ben] });
    const [left] = onlySelected([both], hand);
    expect(left).toMatchObject({ isPart: true, records: { contacts: [{ name: 'Ana Reed' }] } });
  });

  test('a message is known by its moment, whose it is and its words', () => {
    const own = { ...said('ana', '2026-03-10'), from: 'me' };
    const other = said('ana', '2026-03-10');
    const hand = inHand({
      ...nothing,
      records: new Map([['messages', new Set([pickKey('messages', own)])]]),
    });
    expect(recordsIn(onlySelected(conversation('ana', own, other), hand))).toMatchObject([
      own,
      { name: 'ana' },
    ]);
    expect(recordsIn(onlySelected(conversation('ben', said('ben', '2026-01-01')), hand))).toEqual(
      [],
    );
  });
});
