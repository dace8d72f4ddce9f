import {
  handoverLanguageIds,
  type Archive,
  type Backup,
  type Keeping,
  type Proof,
  type Ticket,
} from '@bright-cellar/contract';
import { dataClassIds } from '@bright-cellar/core';
import { describe, expect, test } from 'vitest';
import { drawHandover, handoverOf } from './handover.js';

const ticket: Ticket = {
  ...{ number: '24110017', customerName: 'Orla Wickbank', reason: 'repair', notes: '' },
  ...{ openedAt: '2026-11-02T09:00:00.000Z', promisedAt: null, step: null, openedBy: 'Wren' },
  device: {
    ...{ id: 'd', serial: 'VA7K00000001', imei: null, family: 'vireo', familyName: 'Vireo' },
    ...{ kind: 'phone', model: 'Arc 7', name: 'Phone', osName: 'Vireo OS', osVersion: '17.2' },
    readFrom: 'cable',
  },
  customer: { id: 'c', name: 'Orla Wickbank', phone: '', email: '' },
  agreed: { backup: true, lookIn: false, escrow: false, keepDays: 30 },
  ...{ agreements: [], berth: null, archiveIds: [], knownArchive: null },
  ...{ operations: [], history: [], closedAt: null, settling: [] },
  runSheet: [
    step('backup', 'Back up', 'done', ['3,000 items, 400 MB']),
    step('erase', 'Erase', 'skipped', []),
    step('restore', 'Restore', 'waiting', []),
  ],
};

function step(id: string, title: string, state: string, evidence: string[]) {
  return { id, title, state, evidence, sentence: null, skippable: false } as Ticket['runSheet'][0];
}

const proof = (change: Partial<Proof>): Proof => ({
  ...{ id: 'p', copyId: 'one', level: 'full', outcome: 'whole', items: 1, bytes: 1 },
  ...{ storedBytes: 1, what: '', by: 'Wren', current: true, gone: false },
  at: '2026-11-03T09:00:00.000Z',
  ...change,
});

const backup = (change: Partial<Backup>): Backup => ({
  ...{ id: 'b', archiveId: 'a', takenAt: '2026-11-02T10:00:00.000Z', takenBy: 'Wren' },
  ...{ osVersion: '17.2', items: 3000, bytes: 400e6, storedBytes: 300e6, newItems: 3000 },
  ...{ newBytes: 400e6, durationMs: 1, digest: '', failed: [] },
  classes: [
    { class: 'messages', items: 2990, bytes: 1e6 },
    { class: 'notes', items: 0, bytes: 0 },
  ],
  scope: { mode: 'everything', encrypted: true, everything: true },
  coverage: [
    { id: 'm', what: 'Messages', state: 'inside', why: '2,990', returns: null },
    { id: 'payment-cards', what: 'Payment cards', state: 'outside', why: 'Tied.', returns: '' },
    {
      ...{ id: 'wearable', what: 'What only a band holds', state: 'outside' },
      ...{ why: 'It was not unpaired.', returns: 'Unpair it.' },
    },
    { id: 'photographs', what: 'Photographs', state: 'partly', why: '3 of it', returns: null },
  ],
  proofs: [proof({})],
  ...change,
});

const keeping: Keeping = {
  ...{ dueAt: '2026-12-02T00:00:00.000Z', untilTold: false, hold: null, longer: null },
};

const keptOf = (
  change: Partial<Backup>,
  more: Partial<Archive> = {},
  kept: Partial<Keeping> = {},
) => {
  const archive = {
    ...{ passwordHolder: 'customer', encrypted: true, escrow: false, disposal: null },
    backups: [backup(change)],
    ...more,
  } as Archive;
  return { archive, keeping: { ...keeping, ...kept } };
};

const told = (...of: Parameters<typeof keptOf>) => {
  const sections = handoverOf(ticket, [keptOf(...of)]);
  const lines = (title: string) =>
    Object.fromEntries(
      (sections.find((one) => one.title === title)?.lines ?? []).map(({ name, text }) => [
        name,
        text,
      ]),
    );
  return { sections, of: lines };
};

describe('the sheet that a customer takes home', () => {
  test('says what was done, what is inside, what is not and how it comes back', () => {
    const { sections, of } = told({});
    expect(of('What was done')).toEqual({
      Copied: 'On 2 November 2026 everything that could be taken was copied: 3,000 items, 400 MB.',
    });
    expect(of('What is inside')).toEqual({ '400 MB': 'Messages 2,990' });
    expect(of('What is not inside, and how it comes back')).toEqual({
      'Payment cards': 'They are tied to the chip of one device. Add each again, with your bank.',
      'What only a band holds': 'It was not unpaired. Unpair it.',
      Photographs: 'Only a part of it is inside.',
    });
    expect(of('The copy')).toMatchObject({
      Checked: 'Opened with its password and found whole, 3 November 2026.',
      Password: 'You hold it. Nobody can open the copy without it.',
      Kept: expect.stringContaining('Until 2 December 2026.') as unknown,
    });
    const titles = sections.map(({ title }) => title);
    expect(titles).not.toContain('What cannot be restored');
    // Nothing was put onto a device: there is nothing to do at home.
    expect(titles).not.toContain('At home, in this order');
  });

  test('says what is damaged, unless another copy is whole', () => {
    const damaged = proof({ outcome: 'damaged', what: '3 of messages cannot be restored.' });
    const { of } = told({ proofs: [damaged, proof({ copyId: 'one' })] });
    expect(of('What cannot be restored')['Damaged on the drive']).toMatch(/cannot be read/);
    expect(of('The copy').Checked).toMatch(/damaged/);
    const both = told({ proofs: [damaged, proof({ copyId: 'two' })] });
    expect(both.of('What cannot be restored')).toEqual({});
    expect(both.of('The copy').Checked).toMatch(/found whole/);
    const healed = told({ proofs: [proof({}), damaged] });
    expect(healed.of('What cannot be restored')).toEqual({});
  });

  test('never says that it opens where nobody saw it', () => {
    expect(told({ proofs: [] }).of('The copy').Checked).toMatch(/^Not yet/);
    const older = told({ proofs: [proof({ current: false })] });
    expect(older.of('The copy').Checked).toMatch(/^Not yet/);
  });

  test('says what could not be taken, and until when it is kept', () => {
    const failed = [{ class: 'messages' as const, reason: 'unreadable', count: 4 }];
    expect(told({ failed }).of('What cannot be restored')['Could not be taken']).toMatch(
      /^4 items/,
    );
    const hold = { reason: 'r', by: 'Wren', at: keeping.dueAt ?? '' };
    expect(told({}, {}, { hold }).of('The copy').Kept).toMatch(/^By the shop/);
    const open = told({}, {}, { dueAt: null });
    expect(open.of('The copy').Kept).toMatch(/^30 days after the visit, as agreed\./);
    const gone = { id: 'x', number: 12, doneAt: '2026-11-20T09:00:00.000Z' };
    expect(told({}, { disposal: gone }).of('The copy').Destroyed).toMatch(/number 12/);
  });

  const crossed = {
    ...{ kind: 'cross', state: 'done', deviceName: 'Marl Fell 5 MF5' },
    result: {
      items: 1204,
      report: [{ class: 'photographs', stays: [{ why: 'no-place', count: 21 }] }],
    },
  } as unknown as Ticket['operations'][0];

  test('says what crossed, what stayed, and what to do at home, in order', () => {
    const visit = { ...ticket, operations: [crossed] };
    const sections = handoverOf(visit, []);
    expect(sections.map(({ title }) => title)).toEqual(['What was done', 'At home, in this order']);
    expect(sections[0]?.lines[0]?.text).toBe(
      '1,204 items were brought over to Marl Fell 5 MF5, and each was read back. 21 items could not be brought over, as we told you.',
    );
    expect(sections[1]?.lines.map(({ name }) => name)).toEqual(['1', '2', '3', '4', '5']);
  });

  test('does not ask at home for what was done at the counter', () => {
    const settling = (['account', 'wifi', 'applications'] as const).map((id) => ({
      id,
      done: 1,
      of: 1,
    }));
    const last = handoverOf({ ...ticket, operations: [crossed], settling }, []).at(-1);
    expect(last?.lines.map(({ text }) => text.slice(0, 12))).toEqual([
      'Add your pay',
      'Look through',
    ]);
  });

  test.each(handoverLanguageIds)('says all of it in %s, and nothing in another', (language) => {
    const english = handoverOf({ ...ticket, operations: [crossed] }, [keptOf({})]);
    const sections = handoverOf({ ...ticket, operations: [crossed] }, [keptOf({})], language);
    expect(sections).toHaveLength(english.length);
    const texts = (all: typeof sections) =>
      all.flatMap(({ title, lines }) => [title, ...lines.map(({ text }) => text)]);
    for (const text of texts(sections)) expect(text).not.toMatch(/[{}]|undefined/);
    if (language === 'en') return;
    // What nobody wrote is the device's own word; sizes and counts are the same everywhere.
    const same = texts(sections).filter((text) => texts(english).includes(text));
    expect(same.filter((text) => !/^[\d., ]|unpaired/.test(text))).toEqual([]);
  });

  test.each(handoverLanguageIds)('is one page in %s, whatever was done', async (language) => {
    const classes = dataClassIds.map((id) => ({ class: id, items: 12_345, bytes: 1e9 }));
    const never = [
      ...['payment-cards', 'enrolment', 'server-mail', 'offline-maps', 'store-content', 'synced'],
      ...['online-only', 'withdrawn-tide-table'],
    ];
    const coverage = never.map((id) => ({
      ...{ id, what: 'Tide table', state: 'outside' as const, why: '', returns: null },
    }));
    const visit: Ticket = {
      ...{ ...ticket, operations: [crossed] },
      runSheet: ['backup', 'prove', 'repair', 'check'].map((id) => step(id, id, 'done', [])),
    };
    const sections = handoverOf(visit, [keptOf({ classes, coverage })], language);
    const shop = { name: 'The shop', address: '1 Quay', logo: null };
    const paper = await drawHandover(visit, sections, shop, language);
    expect(paper.toString('latin1')).toMatch(/\/Count 1\b/);
  });

  test('is a PDF of as many pages as it takes', async () => {
    const many = Array.from({ length: 90 }, (_, n) => ({
      name: `Line ${n}`,
      text: 'word '.repeat(30),
    }));
    const paper = await drawHandover(ticket, [{ title: 'Long', lines: many }], {
      name: 'The shop',
      address: '',
      logo: null,
    });
    expect(paper.subarray(0, 5).toString()).toBe('%PDF-');
    expect(paper.toString('latin1')).toMatch(/\/Count [3-9]/);
  });
});
