import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { shortened } from '../device/index.js';
import { noContact, type Contact } from '../records/contact.js';
import type { CalendarEvent } from '../records/event.js';
import {
  allSaid,
  mergeRules,
  type MergedKind,
  type MergedRecords,
  type MergeRules,
} from './fields.js';
import {
  removesTooMuch,
  plannedMerge,
  rememberedAfter,
  type Held,
  type MergeInput,
  type MergeLine,
  type Remembered,
} from './plan.js';
import { contactAfter, withJoined } from './join.js';
import type { SideName } from './merge-record.js';
import { lettersAside, merged } from './merging.js';

/** Two sides in memory, and what is remembered of them; as sync does it, but at once. */
class Sides<Kind extends MergedKind> {
  readonly kind: Kind;
  readonly device = new Map<string, Held<MergedRecords[Kind]>>();
  readonly partner = new Map<string, Held<MergedRecords[Kind]>>();
  remembered: Remembered<MergedRecords[Kind]>[] = [];
  /** What the device can hold of a record. */
  fits: (record: MergedRecords[Kind]) => MergedRecords[Kind];
  #ids = 0;

  constructor(kind: Kind, fits = (record: MergedRecords[Kind]) => record) {
    this.kind = kind;
    this.fits = fits;
  }

  put(side: SideName, record: MergedRecords[Kind], id = `${side} ${(this.#ids += 1)}`): string {
    const held = side === 'device' ? this.fits(record) : record;
    this[side].set(id, { id, record: held, changedAt: null });
    return id;
  }

  plan(how: Partial<MergeInput<MergedRecords[Kind]>> = {}): MergeLine<MergedRecords[Kind]>[] {
    const { device, partner, remembered } = this;
    return plannedMerge(this.kind, {
      ...{ device: [...device.values()], partner: [...partner.values()], remembered },
      ...{ direction: 'both', rule: 'ask', ...how },
    });
  }

  sync(
    how: Partial<MergeInput<MergedRecords[Kind]>> = {},
    also = (planned: MergeLine<MergedRecords[Kind]>[]) => planned,
  ): MergeLine<MergedRecords[Kind]>[] {
    const lines = also(this.plan(how));
    this.remembered = lines.flatMap((line) => {
      const after = { device: line.ids.device, partner: line.ids.partner };
      for (const side of ['device', 'partner'] as const) {
        const step = line.steps[side];
        if (step.do === 'add') after[side] = this.put(side, step.record);
        else if (step.do === 'change') this.put(side, step.record, step.id);
        else if (step.do === 'remove') this[side].delete(step.id);
      }
      // What a side holds after is read back from it.
      const held = (side: SideName) => this[side].get(after[side] ?? '') ?? null;
      return (
        rememberedAfter(this.kind, line, { device: held('device'), partner: held('partner') }) ?? []
      );
    });
    return lines;
  }

  said(side: SideName): string[] {
    const rules = mergeRules[this.kind] as unknown as MergeRules<MergedRecords[Kind]>;
    return [...this[side].values()].map(({ record }) => allSaid(rules, record)).toSorted();
  }

  records(side: SideName): MergedRecords[Kind][] {
    return [...this[side].values()].map(({ record }) => record);
  }
}

const steps = (lines: readonly MergeLine<unknown>[]) =>
  lines.flatMap(({ steps: { device, partner } }) =>
    [device.do, partner.do].filter((one) => one !== 'nothing'),
  );
const ana: Contact = {
  ...noContact,
  ...{ name: 'Ana Fernhill', numbers: ['+44 7700 900111'], emails: ['ana@mill.example'] },
};

describe('a contact', () => {
  const inStep = (contact = ana) => {
    const sides = new Sides('contacts');
    const ids = { device: sides.put('device', contact), partner: sides.put('partner', contact) };
    sides.sync();
    return { sides, ids };
  };

  test('that says the same on both sides is one, and nothing is done', () => {
    const sides = new Sides('contacts');
    sides.put('device', ana);
    sides.put('partner', { ...ana, numbers: ['+447700900111'] });
    expect(steps(sides.sync())).toEqual([]);
    expect(sides.remembered).toHaveLength(1);
  });

  test('is merged part by part, and its numbers one by one', () => {
    const { sides, ids } = inStep();
    sides.put('device', { ...ana, numbers: [...ana.numbers, '0151 4960000'] }, ids.device);
    sides.put('partner', { ...ana, note: 'Mill', numbers: ['+44 7700 900222'] }, ids.partner);
    sides.sync();
    expect(sides.said('device')).toEqual(sides.said('partner'));
    expect(sides.records('partner')).toMatchObject([
      { note: 'Mill', numbers: ['+44 7700 900222', '0151 4960000'] },
    ]);
  });

  test('that one side removed goes on the other; one that the other changed meanwhile is asked about', () => {
    const { sides, ids } = inStep();
    sides.device.delete(ids.device);
    expect(sides.plan()).toMatchObject([{ steps: { partner: { do: 'remove' } }, conflict: null }]);
    sides.put('partner', { ...ana, note: 'Mill' }, ids.partner);
    const [line] = sides.plan();
    expect(line).toMatchObject({ isOpen: true, conflict: { about: 'removed', on: 'device' } });
    expect(steps(line ? [line] : [])).toEqual([]);
    const decided = (decision: 'device' | 'partner') =>
      steps(sides.plan({ decisions: new Map([[line?.key ?? '', decision]]) }));
    expect(decided('device')).toEqual(['remove']);
    expect(decided('partner')).toEqual(['add']);
  });

  test('of which both changed the same is decided by a rule, or by somebody', () => {
    const { sides, ids } = inStep();
    sides.put('device', { ...ana, note: 'Mill' }, ids.device);
    sides.put('partner', { ...ana, note: 'Weir', birthday: '1984-03-07' }, ids.partner);
    const [open] = sides.plan();
    expect(open).toMatchObject({ isOpen: true, conflict: { fields: ['note'] } });
    // What nobody has to be asked about is done all the same.
    expect(open?.steps.device).toMatchObject({ do: 'change', fields: ['birthday'] });
    const noteAfter = (rule: 'device' | 'partner') => {
      const [line] = sides.plan({ rule });
      const { device, partner } = line?.steps ?? {};
      return [device, partner].map((step) =>
        step?.do === 'change' ? step.record.note : undefined,
      );
    };
    expect(noteAfter('device')).toEqual(['Mill', 'Mill']);
    expect(noteAfter('partner')).toEqual(['Weir', undefined]);
    sides.sync({ rule: 'both' });
    expect(sides.said('device')).toEqual(sides.said('partner'));
    expect(
      sides
        .records('device')
        .map(({ note }) => note)
        .toSorted(),
    ).toEqual(['Mill', 'Weir']);
    expect(steps(sides.sync())).toEqual([]);
  });

  test('whose newer word counts, where both sides say when that was', () => {
    const { sides, ids } = inStep();
    const put = (side: SideName, note: string, changedAt: number | null) =>
      sides[side].set(ids[side], { id: ids[side], record: { ...ana, note }, changedAt });
    put('device', 'Mill', 2000);
    put('partner', 'Weir', 1000);
    expect(sides.plan({ rule: 'newer' })).toMatchObject([
      {
        isOpen: false,
        steps: { partner: { record: { note: 'Mill' } }, device: { do: 'nothing' } },
      },
    ]);
    put('partner', 'Weir', null);
    expect(sides.plan({ rule: 'newer' })).toMatchObject([{ isOpen: true }]);
  });

  test('that the device holds shortened is no change of it, and stays long on the other side', () => {
    const short = ({ name, numbers, ...more }: Contact): Contact => ({
      ...more,
      ...{ name: name.slice(0, 6), numbers: numbers.slice(0, 1) },
    });
    const sides = new Sides('contacts', short);
    const id = sides.put('partner', { ...ana, numbers: [...ana.numbers, '0151 4960000'] });
    sides.sync();
    expect(steps(sides.sync())).toEqual([]);
    // A change elsewhere in it does not carry the shortened ones along.
    const [held] = sides.device.values();
    sides.put('device', { ...ana, ...held?.record, note: 'Mill' }, held?.id);
    sides.sync();
    expect(sides.partner.get(id)?.record).toMatchObject({
      ...{ name: 'Ana Fernhill', numbers: ['+44 7700 900111', '0151 4960000'], note: 'Mill' },
    });
    expect(steps(sides.sync())).toEqual([]);
  });
});

describe('a device that keeps only so many letters', () => {
  const letters = { device: { name: 8, note: 4 }, partner: {} };
  const long = { ...ana, name: 'Ana Fernhill', note: 'By the mill' };
  const kept = (record: Contact) => shortened('contacts', record, letters.device);

  test('never gets more than it keeps; the other side stays whole, also where nothing is remembered', () => {
    const held = (id: string, record: Contact) => ({ id, record, changedAt: null });
    const of = (device: Contact[]) =>
      merged({
        ...{ kind: 'contacts', remembered: [], decisions: new Map(), joins: [], letters },
        way: { direction: 'both', rule: 'ask', without: [] },
        device: device.map((record) => held('d', record)),
        partner: [held('p', long)],
      });
    expect(of([]).lines).toMatchObject([
      { steps: { device: { do: 'add', record: { name: 'Ana Fern', note: 'By t' } } } },
    ]);
    const { lines } = of([kept(long)]);
    expect(steps(lines as MergeLine<Contact>[])).toEqual([]);
    expect(lettersAside('contacts', lines, 'device', letters.device)).toBe(1);
    // What its owner wrote there anew counts as theirs.
    expect(of([{ ...kept(long), note: 'Home' }]).lines).toMatchObject([{ isOpen: true }]);
  });

  test('a name that grows beyond what it keeps is no change there', () => {
    const sides = new Sides('contacts', kept);
    const id = sides.put('partner', { ...long, name: 'Ana Fern' });
    sides.sync({ letters });
    sides.put('partner', long, id);
    expect(steps(sides.plan({ letters }))).toEqual([]);
    sides.put('partner', { ...long, name: 'Bea Fernhill' }, id);
    expect(steps(sides.sync({ letters }))).toHaveLength(1);
    expect([...sides.device.values()].map(({ record }) => record.name)).toEqual(['Bea Fern']);
    expect(steps(sides.plan({ letters }))).toEqual([]);
  });
});

describe('two cards of one person', () => {
  const twin: Contact = {
    ...noContact,
    name: 'Fernhill, Ana',
    numbers: ['07700 900111', '0151 4960000'],
  };

  test('become one on both sides, whichever side had which; and are told apart again where that is taken back', () => {
    const sides = new Sides('contacts');
    sides.put('device', ana);
    sides.put('device', { ...noContact, name: 'Ben Tarn' });
    sides.put('partner', { ...ana, note: 'Mill' });
    sides.put('partner', twin);
    const plain = sides.plan();
    const [one, other] = ['Ana Fernhill', 'Fernhill, Ana'].map((name) =>
      plain.find((line) => contactAfter(line)?.name === name),
    );
    const joins = [[one?.key ?? '', other?.key ?? '']] as const;
    expect(withJoined(plain, [])).toEqual(plain);
    sides.sync({}, (lines) => withJoined(lines, joins));
    for (const side of ['device', 'partner'] as const) {
      expect(
        sides
          .records(side)
          .map(({ name }) => name)
          .toSorted(),
      ).toEqual(['Ana Fernhill', 'Ben Tarn']);
      expect(sides.records(side)).toContainEqual({
        ...{ ...ana, note: 'Mill', numbers: ['+44 7700 900111', '0151 4960000'] },
      });
    }
    expect(steps(sides.sync())).toEqual([]);
  });
});

describe('one way only', () => {
  test.each([
    ['onto-device', 'device', 'partner'],
    ['off-device', 'partner', 'device'],
  ] as const)(
    '%s writes nothing on the other side, and forgets none of its changes',
    (direction, onto, from) => {
      const sides = new Sides('contacts');
      const ids = { device: sides.put('device', ana), partner: sides.put('partner', ana) };
      sides.sync();
      sides.put(onto, { ...ana, note: 'Mill' }, ids[onto]);
      sides.put(onto, { ...noContact, name: 'Ben Tarn' });
      sides.put(from, { ...ana, birthday: '1984-03-07' }, ids[from]);
      sides.put(from, { ...noContact, name: 'Cas Lowmoor' });
      const before = sides.said(from);
      sides.sync({ direction });
      expect(sides.said(from)).toEqual(before);
      expect(
        sides
          .records(onto)
          .map(({ name }) => name)
          .toSorted(),
      ).toEqual([...['Ana Fernhill', 'Ben Tarn', 'Cas Lowmoor']]);
      expect(sides[onto].get(ids[onto])?.record).toMatchObject({
        note: 'Mill',
        birthday: '1984-03-07',
      });
      expect(steps(sides.sync({ direction }))).toEqual([]);
      // Both ways later: what was not sent then goes now.
      sides.sync();
      expect(sides.said('device')).toEqual(sides.said('partner'));
      expect(sides[from].get(ids[from])?.record).toMatchObject({ note: 'Mill' });
    },
  );
});

describe('an event', () => {
  const weekly: CalendarEvent = {
    ...{ uid: 'w1', title: 'Choir', place: 'Hall', notes: '', alarms: [15] },
    start: { wall: '2026-03-05T19:00:00', zone: 'Europe/London' },
    end: { wall: '2026-03-05T21:00:00', zone: 'Europe/London' },
    ...{ rule: 'FREQ=WEEKLY', also: [], without: [], instead: null },
  };
  const instead: CalendarEvent = {
    ...weekly,
    ...{ title: 'Choir, outdoors', rule: null, instead: '2026-03-12T19:00:00' },
  };

  test('is the same by its mark; what stands for one of its occurrences is another', () => {
    const sides = new Sides('events');
    for (const side of ['device', 'partner'] as const)
      for (const event of [weekly, instead]) sides.put(side, event);
    expect(steps(sides.sync())).toEqual([]);
    expect(sides.remembered).toHaveLength(2);
  });

  test('whose recurrence was changed here and whose title there has both', () => {
    const sides = new Sides('events');
    const ids = { device: sides.put('device', weekly), partner: sides.put('partner', weekly) };
    sides.sync();
    const changed = { ...weekly, without: ['2026-03-19T19:00:00'], rule: 'FREQ=WEEKLY;COUNT=9' };
    sides.put('device', changed, ids.device);
    sides.put('partner', { ...weekly, title: 'Choir practice', alarms: [15, 60] }, ids.partner);
    const lines = sides.sync();
    expect(lines).toMatchObject([{ conflict: null }]);
    expect(sides.records('device')).toEqual([
      { ...changed, title: 'Choir practice', alarms: [15, 60] },
    ]);
    expect(sides.said('partner')).toEqual(sides.said('device'));
  });

  test('at the same moment, told in another zone, is where it was', () => {
    const once = { ...weekly, rule: null };
    const sides = new Sides('events');
    sides.put('device', once);
    sides.put('partner', {
      ...once,
      start: { wall: '2026-03-05T19:00:00', zone: 'UTC' },
      end: { wall: '2026-03-05T21:00:00', zone: 'UTC' },
    });
    expect(steps(sides.plan())).toEqual([]);
  });
});

test('what removes more than anybody removes at once is held up', () => {
  const sides = new Sides('contacts');
  for (let n = 0; n < 200; n++) {
    const contact = { ...noContact, name: `Somebody ${n}` };
    sides.put('device', contact);
    sides.put('partner', contact);
  }
  sides.sync();
  const ids = [...sides.device.keys()];
  for (const id of ids.slice(0, 5)) sides.device.delete(id);
  expect(removesTooMuch(sides.plan())).toEqual([]);
  for (const id of ids.slice(0, 20)) sides.device.delete(id);
  expect(removesTooMuch(sides.plan())).toEqual(['partner']);
});

describe('whatever was changed on both sides', () => {
  const word = fc.constantFrom('', 'Mill', 'Weir', 'Tarn');
  const number = fc.constantFrom('07700 900101', '07700 900102', '07700 900103', '07700 900104');
  const contact = fc.record({
    name: fc.constantFrom('Ana', 'Ben', 'Cas', 'Dil', 'Eda'),
    numbers: fc.uniqueArray(number, { maxLength: 3 }),
    note: word,
    organisation: word,
  });
  const change = fc.record({
    side: fc.constantFrom<SideName>('device', 'partner'),
    at: fc.nat(20),
    what: fc.oneof(
      fc.record({ do: fc.constant('remove' as const) }),
      fc.record({ do: fc.constant('add' as const), contact }),
      fc.record({ do: fc.constant('change' as const), contact: fc.tuple(contact, fc.nat(3)) }),
    ),
  });
  type Change = typeof change extends fc.Arbitrary<infer C> ? C : never;
  const full = (some: Partial<Contact>): Contact => ({ ...noContact, ...some });
  function changed(sides: Sides<'contacts'>, { side, at, what }: Change): void {
    if (what.do === 'add') return void sides.put(side, full(what.contact));
    const held = [...sides[side].values()][at % Math.max(1, sides[side].size)];
    if (!held) return;
    if (what.do === 'remove') return void sides[side].delete(held.id);
    const [{ name, numbers, note, organisation }, part] = what.contact;
    const parts = [{ name }, { numbers }, { note }, { organisation }];
    sides.put(side, { ...held.record, ...parts[part] }, held.id);
  }
  const begun = fc.array(contact, { maxLength: 6 });
  const started = (all: readonly Partial<Contact>[]) => {
    const sides = new Sides('contacts');
    for (const one of all) sides.put('partner', full(one));
    sides.sync();
    return sides;
  };
  const rules = fc.constantFrom('device', 'partner', 'both' as const);

  test('both sides are alike after, and a second time changes nothing', () => {
    fc.assert(
      fc.property(begun, fc.array(change, { maxLength: 12 }), rules, (all, changes, rule) => {
        const sides = started(all);
        for (const one of changes) changed(sides, one);
        sides.sync({ rule });
        expect(sides.said('device')).toEqual(sides.said('partner'));
        expect(steps(sides.sync({ rule }))).toEqual([]);
      }),
      { numRuns: 400 },
    );
  });

  test('what is asked about waits, and nothing else is done twice for it', () => {
    fc.assert(
      fc.property(begun, fc.array(change, { maxLength: 12 }), (all, changes) => {
        const sides = started(all);
        for (const one of changes) changed(sides, one);
        const open = sides.sync().filter(({ isOpen }) => isOpen).length;
        const again = sides.sync();
        expect(steps(again)).toEqual([]);
        expect(again.filter(({ isOpen }) => isOpen)).toHaveLength(open);
      }),
      { numRuns: 400 },
    );
  });

  test('nothing is lost that nobody removed', () => {
    fc.assert(
      fc.property(begun, fc.array(change, { maxLength: 12 }), (all, changes) => {
        const sides = started(all);
        for (const one of changes.filter(({ what }) => what.do === 'add')) changed(sides, one);
        const before = [...sides.records('device'), ...sides.records('partner')];
        sides.sync({ rule: 'both' });
        for (const side of ['device', 'partner'] as const) {
          const after = sides.records(side);
          for (const { name, numbers, note } of before) {
            const those = after.filter((one) => one.name === name);
            const has = new Set(those.flatMap((one) => one.numbers));
            expect(numbers.every((one) => has.has(one))).toBe(true);
            expect(those.some((one) => note === '' || one.note === note)).toBe(true);
          }
        }
      }),
      { numRuns: 300 },
    );
  });

  test('of two changes it does not matter which came first, nor which side is which', () => {
    const part = fc.nat(3);
    fc.assert(
      fc.property(contact, contact, contact, part, part, (was, one, other, a, b) => {
        fc.pre(a !== b);
        const end = (order: readonly SideName[], mirrored: boolean) => {
          const sides = started([was]);
          for (const side of order) {
            const where = mirrored ? (side === 'device' ? 'partner' : 'device') : side;
            const what = side === 'device' ? ([one, a] as const) : ([other, b] as const);
            changed(sides, {
              ...{ side: where, at: 0 },
              what: { do: 'change', contact: [what[0], what[1]] },
            });
            sides.sync();
          }
          expect(sides.said('device')).toEqual(sides.said('partner'));
          return sides.said('device');
        };
        const first = end(['device', 'partner'], false);
        expect(end(['partner', 'device'], false)).toEqual(first);
        expect(end(['device', 'partner'], true)).toEqual(first);
      }),
      { numRuns: 200 },
    );
  });
});
