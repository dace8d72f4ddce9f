import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { choiceOf, choiceOfClasses, type Choice } from './choice.js';
import { dataClassIds, sensitiveClasses, type ClassAmount } from '../device/index.js';
import { coverageOf, holdsEverything, recoveredCoverage, type CoverageGroup } from './coverage.js';
import { deviceFacts } from '../test-devices.js';
import { Hits } from '../test-hits.js';

const amounts: ClassAmount[] = dataClassIds.map((c, i) => ({
  class: c,
  items: i + 1,
  bytes: (i + 1) * 1000,
}));
const phone = deviceFacts({ content: amounts });
const everything = { choice: choiceOf('everything', {}), encrypted: true };
const takenBy = (choice: Choice) => amounts.filter((a) => choice[a.class] === true);
const line = (lines: ReturnType<typeof coverageOf>, id: string) => lines.find((l) => l.id === id);

describe('what a backup holds', () => {
  test('everything, encrypted: each class of the device is inside', () => {
    const lines = coverageOf(phone, everything, amounts);
    for (const id of dataClassIds) expect(line(lines, id)?.state).toBe('inside');
  });

  test('without encryption the sensitive classes are outside, and say how they get in', () => {
    const lines = coverageOf(phone, { ...everything, encrypted: false }, amounts);
    for (const id of sensitiveClasses) {
      expect(line(lines, id)).toMatchObject({ state: 'outside', returns: 'Switch encryption on.' });
    }
    expect(line(lines, 'networks')?.state).toBe('outside');
    expect(line(lines, 'contacts')?.state).toBe('inside');
  });

  test('a family that does not tell the two apart loses nothing by it', () => {
    const open = deviceFacts({
      content: amounts,
      capabilities: { ...phone.capabilities, sensitiveOnlyEncrypted: false },
    });
    const lines = coverageOf(open, { ...everything, encrypted: false }, amounts);
    expect(line(lines, 'health')?.state).toBe('inside');
  });

  test('a sealed store, a paired wearable and a withdrawn application are named', () => {
    const group: CoverageGroup = {
      class: 'applications',
      id: 'tansy',
      name: 'Tansy',
      items: 3,
      bytes: 30,
      sealed: true,
      offered: true,
    };
    const device = { ...phone, wearable: 'A band' };
    const lines = coverageOf(device, everything, amounts, [
      group,
      { ...group, id: 'tides', name: 'Tides', sealed: false, offered: false },
    ]);
    expect(line(lines, 'applications')).toMatchObject({ state: 'partly' });
    expect(line(lines, 'applications')?.returns).toMatch(/Confirm the number in Tansy/);
    expect(line(lines, 'wearable')?.returns).toMatch(/Unpair A band/);
    expect(line(lines, 'withdrawn-tides')?.why).toMatch(/no longer offers/);
  });

  test('whatever is chosen: each class once, what is not inside says why and how it returns, and what no backup holds is always told', () => {
    const met = new Hits('inside', 'outside', 'whole', 'not whole');
    const some = fc.oneof(fc.subarray([...dataClassIds]), fc.constant([...dataClassIds]));
    fc.assert(
      fc.property(some, fc.boolean(), (classes, encrypted) => {
        const choice = choiceOfClasses(classes);
        const lines = coverageOf(phone, { choice, encrypted }, takenBy(choice));
        expect(new Set(lines.map((l) => l.id)).size).toBe(lines.length);
        for (const id of dataClassIds) expect(line(lines, id)).toBeDefined();
        for (const l of lines) {
          if (l.state === 'inside') expect(l.returns).toBeNull();
          else {
            expect(l.why.length).toBeGreaterThan(5);
            expect(l.returns).toMatch(/\.$/);
          }
        }
        for (const id of dataClassIds) {
          const inside = classes.includes(id) && (encrypted || !sensitiveClasses.has(id));
          met.hit(inside ? 'inside' : 'outside');
          expect(line(lines, id)?.state).toBe(inside ? 'inside' : 'outside');
        }
        expect(line(lines, 'payment-cards')).toBeDefined();
        const whole = classes.length === dataClassIds.length && encrypted;
        met.hit(whole ? 'whole' : 'not whole');
        expect(holdsEverything(phone, { choice, encrypted })).toBe(whole);
      }),
    );
    met.expectEach(1);
  });
});

test('a backup holds everything only when each class that is there is wanted, given out, and nothing of it left out', () => {
  const notes = deviceFacts({
    content: [
      { class: 'notes', items: 1, bytes: 1 },
      { class: 'health', items: 0, bytes: 0 },
    ],
  });
  const holds = (choice: Choice, device = notes, encrypted = true) =>
    holdsEverything(device, { choice, encrypted });
  expect(holds({ notes: true })).toBe(true);
  expect(holds({ notes: true }, notes, false)).toBe(true);
  expect(holds({})).toBe(false);
  expect(holds({ 'notes/a': true })).toBe(false);
  expect(holds({ notes: true, 'notes/a': false })).toBe(false);
  expect(holds({ notes: true, 'notes/a#1': false })).toBe(false);
  const health = deviceFacts({ content: [{ class: 'health', items: 1, bytes: 1 }] });
  expect(holds({ notes: true, health: true }, health)).toBe(true);
  expect(holds({ notes: true }, health)).toBe(false);
  expect(holds({ health: true }, health, false)).toBe(false);
  const unlisted = deviceFacts({ content: null });
  expect(holds({ notes: true }, unlisted)).toBe(false);
  expect(holds(choiceOf('everything', {}), unlisted)).toBe(true);
  expect(holds(choiceOf('everything', {}), unlisted, false)).toBe(false);
});

test('every sentence of a backup of a part', () => {
  const device = deviceFacts({
    wearable: 'Wrist 3',
    content: [
      { class: 'notes', items: 4, bytes: 4000 },
      { class: 'music', items: 2, bytes: 9000 },
      { class: 'health', items: 1, bytes: 10 },
      { class: 'applications', items: 6, bytes: 600 },
      { class: 'calls', items: 3, bytes: 30 },
      { class: 'alarms', items: 0, bytes: 0 },
    ],
  });
  const app = { class: 'applications' as const, items: 3, bytes: 300, offered: true, sealed: true };
  const groups: CoverageGroup[] = [
    { ...app, id: 'tansy', name: 'Tansy' },
    { ...app, id: 'tides', name: 'Tides' },
    { ...app, id: 'fern', name: 'Fern', sealed: false, offered: false },
    { ...app, id: 'moss', name: 'Moss', sealed: false, offered: null },
    { ...app, id: 'gorse', name: 'Gorse', sealed: true, offered: false },
  ];
  const choice = { notes: true, calls: true, health: true, applications: true };
  const lines = coverageOf(
    device,
    { choice, encrypted: false },
    [
      { class: 'notes', items: 1, bytes: 1000 },
      { class: 'calls', items: 3, bytes: 30 },
      { class: 'applications', items: 6, bytes: 600 },
    ],
    groups,
  );
  expect(lines.map((l) => `${l.state} ${l.id}, ${l.what}: ${l.why} ${l.returns ?? ''}`))
    .toMatchInlineSnapshot(`
    [
      "outside music, Music: Not chosen (2 items, 9.00 kB). Only from the device itself, or from another backup.",
      "outside health, Health: The device gives it out only for an encrypted backup (1 item, 10 B). Switch encryption on.",
      "outside networks, Wi-Fi networks and their keys: The device gives them out only for an encrypted backup. Switch encryption on, or the customer types each key again.",
      "outside wearable, What only Wrist 3 holds: A wearable hands its data over when it is unpaired. Unpair Wrist 3 on the device, then take the backup.",
      "partly notes, Notes: 1 item, 1.00 kB of it; 3 items, 3.00 kB not chosen. What was not chosen: only from the device itself.",
      "partly applications, Application data: Tansy and Tides and Gorse keep a sealed store. Confirm the number in Tansy and Tides and Gorse on the device, then take the backup.",
      "partly withdrawn-fern, Fern: Its data is inside, but the store no longer offers the application. It does not come back by itself: tell the customer now.",
      "inside calls, Call log: 3 items, 30 B ",
      "outside payment-cards, Payment cards: They are tied to the chip of this one device. The customer adds each card again, with their bank.",
      "outside enrolment, Fingerprint and face: They never leave the device. The customer enrols them again.",
      "outside server-mail, Mail that lives on its server: The device only shows it. It is fetched again once the mail account is signed in.",
      "outside offline-maps, Maps kept for offline use: They can be downloaded and are left out. Download them again over Wi-Fi.",
      "outside store-content, Applications themselves, and what the store sold: The store gives them out again; their data is inside. They download by themselves after the restore, over Wi-Fi.",
      "outside synced, Items synced from another computer: That computer has them. Sync with that computer again.",
      "outside online-only, What lives only in the customer’s online account: Full-size photographs and messages kept online are not on the device. They return when the customer signs in to their account, if it still has them.",
    ]
  `);
  const one = coverageOf(device, { choice, encrypted: true }, amounts, groups.slice(0, 1));
  expect(line(one, 'applications')?.why).toBe('Tansy keeps a sealed store.');
  expect(line(one, 'networks')).toBeUndefined();
  const unchosen = coverageOf(device, { choice: {}, encrypted: true }, [], groups);
  expect(unchosen.filter((l) => l.id.startsWith('withdrawn'))).toEqual([]);
});

test('of what somebody else recovered it is said that nobody knows what is missing, and what no backup holds', () => {
  const lines = recoveredCoverage({ items: 12, bytes: 3e6 });
  expect(line(lines, 'not-recovered')).toMatchObject({ state: 'outside' });
  expect(line(lines, 'recovered')).toMatchObject({ state: 'inside', why: '12 items, 3.00 MB' });
  expect(line(lines, 'payment-cards')?.state).toBe('outside');
  for (const l of lines) expect(l.state === 'inside' || l.returns !== null).toBe(true);
});
