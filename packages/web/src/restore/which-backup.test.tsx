import { routes, type RestoreChoices } from '@bright-cellar/contract';
import { screen, within } from '@testing-library/react';
import { expect, test } from 'vitest';
import { FakeServer } from '../testing/fake-server.js';
import { show } from '../testing/show.js';
import { WhichBackup } from './which-backup.js';

type One = RestoreChoices['backups'][number];
const id = (n: number) => `00000000-0000-4000-8000-00000000000${n}`;
/** A rack that reads it in a minute or two. */
const ALDER = { rackName: 'Alder', isHere: true, readMs: { low: 60_000, high: 120_000 } };
const one = (n: number, more: Partial<One> = {}): One => ({
  ...{ id: id(n), archiveId: id(7), takenAt: `2026-11-0${n}T10:00:00.000Z`, troubles: [] },
  ...{ items: 100 * n, bytes: 1000 * n, ticketNumber: '26110001' },
  ...{ provenAt: '2026-11-20T10:00:00.000Z', places: [ALDER] },
  ...more,
});
const answers = (choices: RestoreChoices) =>
  new FakeServer().answers(routes.restoreChoices, choices);
const others = async () =>
  within(await screen.findByRole('region', { name: 'Which backup' }))
    .getAllByRole('listitem')
    .map(({ textContent }) => textContent);

test('the newest is said to be it, and what the others lack', async () => {
  answers({ proposed: id(3), passedOver: [], backups: [one(3), one(2)] });
  show(<WhichBackup backupId={id(3)} />);
  expect(await screen.findByText(/^The newest of this device: all of it, proven/)).toBeDefined();
  const [other] = await others();
  expect(other).toContain('100 items fewer than the newest, 1.00 kB');
  expect(other).toContain('on Alder, read in 1–2 min');
  expect(screen.getByText('It lies on Alder, read in 1–2 min.')).toBeDefined();
  expect(screen.queryByRole('note')).toBeNull();
});

test('one that is passed over is named with why; whoever looks at it is told of the better one', async () => {
  const newest = one(4, {
    ...{ troubles: ['part', 'away'], provenAt: null },
    places: [{ ...ALDER, rackName: 'Birch', isHere: false }],
  });
  answers({
    ...{ proposed: id(3), passedOver: [{ id: id(4), trouble: 'part' }] },
    backups: [newest, one(3)],
  });
  show(<WhichBackup backupId={id(4)} />);
  const note = await screen.findByRole('note');
  expect(note.textContent).toContain(
    'This backup holds only a chosen part, and lies on no rack that is here.',
  );
  expect(screen.getByRole('link', { name: 'take that one' }).getAttribute('href')).toBe(
    `/restore/${id(7)}/${id(3)}`,
  );
});

test('from the better one, the newer is told with what speaks against it', async () => {
  answers({
    ...{ proposed: id(3), passedOver: [{ id: id(4), trouble: 'part' }] },
    backups: [one(4, { troubles: ['part'] }), one(3)],
  });
  show(<WhichBackup backupId={id(3)} />);
  expect(await screen.findByText(/That of 4 Nov 2026 holds only a chosen part\./)).toBeDefined();
  expect((await others())[0]).toContain('the newest; holds only a chosen part');
});

test('an older one that holds more than the newest says so', async () => {
  answers({
    ...{ proposed: id(3), passedOver: [] },
    backups: [one(3), one(2, { items: 312 }), one(1, { items: 300 })],
  });
  show(<WhichBackup backupId={id(3)} />);
  const [more, asMany] = await others();
  expect(more).toContain('12 items more than the newest');
  expect(asMany).toContain('as many items as the newest');
});

test('where something speaks against each, that is said', async () => {
  answers({
    ...{ proposed: null, passedOver: [2, 1].map((n) => ({ id: id(n), trouble: 'unproven' })) },
    backups: [2, 1].map((n) => one(n, { troubles: ['unproven'] })),
  });
  show(<WhichBackup backupId={id(2)} />);
  expect((await screen.findByRole('note')).textContent).toContain(
    'Something speaks against every backup of this device.',
  );
});
