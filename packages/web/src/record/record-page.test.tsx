import { routes, type AuditCheck, type RecordEntry } from '@bright-cellar/contract';
import { screen } from '@testing-library/react';
import { expect, test } from 'vitest';
import { FakeServer } from '../testing/fake-server.js';
import { aSession } from '../testing/made-up.js';
import { choose, show, write } from '../testing/show.js';
import { RecordPage } from './record-page.js';

const digest = '0123456789abcdef'.repeat(4);
const entry = (id: number, change: Partial<RecordEntry> = {}): RecordEntry => ({
  ...{ id, at: '2026-11-28T09:00:00.000Z', by: 'Wren', ticketNumber: null, action: 'sign-in' },
  what: 'Signed in.',
  ...change,
});
const opened = (entries: RecordEntry[]) =>
  new FakeServer()
    .answers(routes.session, aSession())
    .answers(routes.people, [])
    .answers(routes.auditHead, { entries: entries.length, digest })
    .answers(routes.audit, { rows: entries, next: null });

test('it is read, and looked through by what it is about', async () => {
  const server = opened([
    entry(2, { by: null, ticketNumber: '26110001', what: 'Backup taken: 3 items, 0 failed.' }),
    entry(1),
  ]);
  const user = show(<RecordPage />);
  expect(await screen.findByText('Backup taken: 3 items, 0 failed.')).toBeDefined();
  expect(screen.getByText('the program')).toBeDefined();
  expect(screen.getByText(/01234567 89abcdef/)).toBeDefined();
  await choose(user, 'About', 'Racks');
  await write(user, screen.getByLabelText('Ticket'), '26110001');
  const asked = server.asked.map(({ path }) => path);
  expect(asked.some((path) => path.includes('group=racks') && path.includes('26110001'))).toBe(
    true,
  );
  const table = screen.getByRole('link', { name: 'Take out as a table' });
  expect(table.getAttribute('href')).toContain('group=racks&ticket=26110001');
});

const check = async (found: AuditCheck, typed = '') => {
  opened([]).answers(routes.checkAudit, found);
  const user = show(<RecordPage />);
  if (typed) await write(user, await screen.findByLabelText(/^Seal/), typed);
  await user.click(await screen.findByRole('button', { name: 'Check the record' }));
};
const whole = { entries: 12, digest, broken: null, printedAt: null };

test('a record that follows, with a seal from paper and without', async () => {
  await check(whole);
  expect(await screen.findByText(/All 12 entries follow each other/)).toBeDefined();
});
test('a seal that no entry has', async () => {
  await check(whole, 'ffff ffff ffff ffff');
  expect(await screen.findByText('No entry has the seal that was typed.')).toBeDefined();
});
test('a seal that one has', async () => {
  await check({ ...whole, printedAt: { entry: 7, at: '2026-11-27T18:00:00.000Z' } }, digest);
  expect(await screen.findByText(/that of entry 7, of/)).toBeDefined();
});
test('an entry that was changed, and what to do', async () => {
  await check({ ...whole, broken: { entry: 13, at: '2026-11-27T18:00:00.000Z' } });
  expect(await screen.findByText(/Entry 13, of .* was changed/)).toBeDefined();
  expect(screen.getByText(/wrote into the database/)).toBeDefined();
});
test('too few digits are not looked for', async () => {
  const server = opened([]);
  const user = show(<RecordPage />);
  await write(user, await screen.findByLabelText(/^Seal/), 'ffff{Enter}');
  expect(screen.getByText(/16 digits or more/)).toBeDefined();
  expect(server.asked.some(({ path }) => path.startsWith('/api/audit/check'))).toBe(false);
});

test('who may not read it is told who may', async () => {
  new FakeServer().answers(routes.session, aSession('technician'));
  show(<RecordPage />);
  expect(await screen.findByText('Only keepers may read this.')).toBeDefined();
});
