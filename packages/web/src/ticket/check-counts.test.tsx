import { routes } from '@bright-cellar/contract';
import { screen } from '@testing-library/react';
import { expect, test } from 'vitest';
import { FakeServer } from '../testing/fake-server.js';
import {
  aBackup,
  aBench,
  aBerth,
  anArchive,
  anOperation,
  ARCHIVE,
  aTicket,
  BACKUP,
} from '../testing/made-up.js';
import { show } from '../testing/show.js';
import { CheckCounts } from './check-counts.js';

const amount = (id: 'contacts' | 'notes' | 'photographs', items: number) => ({
  ...{ class: id, items, bytes: 100 * items },
});
const backup = aBackup({
  classes: [amount('contacts', 12), amount('notes', 3), amount('photographs', 8)],
});
const ended = { state: 'done', archiveId: ARCHIVE, backupId: BACKUP } as const;
const compared = { same: 23, different: 0, missing: 0, extra: 0 };
const outcome = { items: 23, bytes: 1, failed: [], durationMs: 1 };
const restored = aTicket({
  operations: [anOperation({ ...ended, kind: 'restore', result: { ...outcome, compared } })],
});
const server = (...content: ReturnType<typeof amount>[]) =>
  new FakeServer()
    .answers(routes.archive, anArchive({ backups: [backup] }))
    .answers(routes.bench, aBench(...(content.length > 0 ? [aBerth({ content })] : [])));
const row = (name: string) =>
  screen.findByRole('row', { name: new RegExp(`^${name}`) }).then((found) => found.textContent);

test('each class of the backup stands beside what the device holds now', async () => {
  server(amount('contacts', 12), amount('notes', 4), amount('photographs', 6));
  show(<CheckCounts ticket={restored} />);
  expect(await row('Contacts')).toBe('Contacts1212the same');
  expect(await row('Notes')).toBe('Notes341 item more: it was used since');
  expect(await row('Photographs')).toBe('Photographs862 items fewer than in the backup');
});

test('without the device nothing is said of what it holds', async () => {
  server();
  show(<CheckCounts ticket={restored} />);
  expect(await row('Contacts')).toBe('Contacts12–');
  expect(screen.getByText(/^Connect the device once more/)).toBeDefined();
});

test('of another family, what arrived and what stayed is told as it was read back', async () => {
  server(amount('contacts', 12));
  const none = { changes: [], beside: 0, notShown: 0, bytes: 0 };
  const report = [
    { ...none, class: 'contacts', whole: 10, changed: 1, present: 1, stays: [] },
    {
      ...{ ...none, class: 'photographs', whole: 0, changed: 0, present: 0 },
      stays: [{ why: 'no-place', count: 8 }],
    },
  ];
  const result = { ...outcome, report, otherwise: [] };
  const operation = anOperation({ ...ended, kind: 'cross', result: result as never });
  show(<CheckCounts ticket={aTicket({ operations: [operation] })} />);
  expect(await row('Contacts')).toBe('Contacts121212 contacts there');
  expect(await row('Notes')).toBe('Notes30left out');
  expect(await row('Photographs')).toMatch(/nothing there; 8 items not: This family keeps nothing/);
});
