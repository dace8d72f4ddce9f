import fc from 'fast-check';
import { expect, test } from 'vitest';
import type { DataClass } from '../device/index.js';
import { LeavingOut, nothingLeftOut } from './leave-out.js';

const file = fc.record({
  class: fc.constantFrom<DataClass>('photographs', 'videos', 'music', 'messages'),
  bytes: fc.integer({ min: 0, max: 5_000_000 }),
});
/** Some of them once more: the same bytes stand under the same word. */
const files = fc
  .array(file, { maxLength: 60 })
  .chain((all) => fc.shuffledSubarray([...all, ...all.slice(0, all.length / 2)]));
const nameOf = ({ class: id, bytes }: { class: DataClass; bytes: number }) => `${id} ${bytes}`;
const sum = (some: readonly { bytes: number }[]) => some.reduce((all, { bytes }) => all + bytes, 0);

test('without a rule everything goes, and what each rule would save is what it saves', () => {
  fc.assert(
    fc.property(files, (all) => {
      const bare = new LeavingOut(nothingLeftOut);
      expect(all.filter((one) => bare.whyStays(one, nameOf(one)) !== null)).toEqual([]);
      const { doubles, videos } = bare.sparable();
      const under = (rule: typeof nothingLeftOut) => {
        const leaving = new LeavingOut(rule);
        return all.filter((one) => leaving.whyStays(one, nameOf(one)) !== null);
      };
      expect(sum(under({ videosFrom: null, doubles: true }))).toBe(sum(doubles));
      for (const { from, items, bytes, doubles: twice } of videos) {
        const long = under({ videosFrom: from, doubles: false });
        expect([long.length, sum(long)]).toEqual([items, bytes]);
        expect(sum(under({ videosFrom: from, doubles: true }))).toBe(sum(doubles) - twice + bytes);
      }
    }),
  );
});

test('of what is there twice one always goes, and messages always do', () => {
  fc.assert(
    fc.property(files, (all) => {
      const leaving = new LeavingOut({ videosFrom: null, doubles: true });
      const go = all.filter((one) => leaving.whyStays(one, nameOf(one)) === null);
      expect(new Set(go.map(nameOf))).toEqual(new Set(all.map(nameOf)));
      const isMessage = (one: { class: DataClass }) => one.class === 'messages';
      expect(go.filter(isMessage).length).toBe(all.filter(isMessage).length);
    }),
  );
});

test('videos are told by a length that somebody would say', () => {
  const leaving = new LeavingOut(nothingLeftOut);
  for (const bytes of [123_456, 98_765, 4_321, 200])
    leaving.whyStays({ class: 'videos', bytes }, String(bytes));
  expect(leaving.sparable().videos).toEqual([
    { from: 120_000, items: 1, bytes: 123_456, doubles: 0 },
    { from: 98_000, items: 2, bytes: 123_456 + 98_765, doubles: 0 },
  ]);
});
