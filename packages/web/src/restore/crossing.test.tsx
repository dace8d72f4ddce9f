import { routes } from '@bright-cellar/contract';
import {
  anyDay,
  nothingLeftOut as without,
  nothingSparable as sparable,
  type CrossingReport,
  type DataClass,
} from '@bright-cellar/core';
import { screen, within } from '@testing-library/react';
import { expect, test, vi } from 'vitest';
import { FakeServer } from '../testing/fake-server.js';
import { aBerth, aDesk, anOperation, BACKUP, TICKET } from '../testing/made-up.js';
import { show, write } from '../testing/show.js';
import { CrossingChoice } from './crossing-choice.js';
import { StartCrossing, type Foreseen, type Part } from './start-crossing.js';

const line = (change: Partial<CrossingReport[number]>): CrossingReport[number] => ({
  ...{ class: 'contacts', whole: 0, changed: 0, changes: [], present: 0, beside: 0 },
  ...{ notShown: 0, stays: [], bytes: 0, ...change },
});
const LOSSY = [
  line({ class: 'contacts', whole: 1, changed: 2, changes: [{ field: 'picture', count: 2 }] }),
  line({ class: 'photographs', stays: [{ why: 'no-place', count: 8 }] }),
];

const classes = (['contacts', 'photographs', 'notes'] as const).map((id) => ({
  ...{ class: id, items: 12, bytes: 9000 },
}));
const rowOf = (name: string) =>
  screen.getAllByRole('row').find((row) => within(row).queryByText(name));

test('each class is in or out, and says what becomes of it', async () => {
  const onChoose = vi.fn<(chosen: ReadonlySet<DataClass>) => void>();
  const onDays = vi.fn();
  const onWithout = vi.fn();
  const chosen = new Set<DataClass>(['contacts', 'photographs']);
  const user = show(
    <CrossingChoice
      {...{ backup: { classes }, chosen, onChoose, over: false, days: anyDay, onDays }}
      {...{ without, onWithout }}
      sparable={{
        doubles: [{ class: 'photographs', items: 3, bytes: 6000 }],
        videos: [{ from: 48e6, items: 2, bytes: 120e6, doubles: 0 }],
      }}
      report={[...LOSSY, line({ class: 'notes', whole: 7 })]}
    />,
  );
  expect(rowOf('Contacts')?.textContent).toContain('3 contacts2 changed');
  expect(screen.getByText('Changed: picture (2).')).toBeDefined();
  expect(screen.getByText(/^8 items stay\. This family keeps nothing of the kind\./)).toBeDefined();
  expect(rowOf('Notes')?.textContent).toContain('left out');
  screen.getByLabelText('Notes').focus();
  await user.keyboard(' ');
  expect(onChoose).toHaveBeenLastCalledWith(new Set(['contacts', 'photographs', 'notes']));
  await write(user, screen.getByLabelText('Only from'), '2026-03-01');
  expect(onDays).toHaveBeenLastCalledWith({ since: '2026-03-01', until: null });
  await user.click(screen.getByLabelText('Leave out what is there twice (3 files, 6.00 kB)'));
  expect(onWithout).toHaveBeenLastCalledWith({ videosFrom: null, doubles: true });
  await user.click(screen.getByLabelText('Long videos'));
  await user.click(
    await screen.findByRole('option', { name: 'Without those of 48.0 MB and more: 2, 120 MB' }),
  );
  expect(onWithout).toHaveBeenLastCalledWith({ videosFrom: 48e6, doubles: false });
  await user.click(screen.getByRole('button', { name: 'Take all' }));
  expect(onChoose).toHaveBeenLastCalledWith(new Set(['contacts', 'photographs', 'notes']));
});

const asked = () =>
  new FakeServer()
    .answers(routes.desk, aDesk('none', null, 'restore'))
    .answers(routes.startForesee, anOperation({ kind: 'foresee', phase: 'opening' }))
    .answers(routes.startCross, anOperation({ kind: 'cross', phase: 'opening' }));

const contacts: Part = { classes: new Set(['contacts']), days: anyDay, without, lookIn: null };
function form(foreseen: Foreseen | null, part = contacts) {
  const events = { onForesee: vi.fn(), onStarted: vi.fn() };
  const user = show(
    <StartCrossing
      backup={{ id: BACKUP }}
      archive={{ ticketNumber: TICKET, reminder: '' }}
      berth={aBerth({ berth: 2 })}
      part={part}
      foreseen={foreseen}
      {...events}
    />,
  );
  return { user, ...events };
}

test('first what would arrive is found out', async () => {
  const server = asked();
  const { user, onForesee } = form(null);
  await write(
    user,
    screen.getByLabelText('Password of the backup'),
    'gull tide supper moss{Enter}',
  );
  await expect.poll(() => onForesee).toHaveBeenCalledWith(BACKUP);
  expect(server.sentTo(routes.startForesee)).toMatchObject([{ choice: { contacts: true } }]);
  // It is needed once more.
  expect(screen.getByLabelText('Password of the backup')).toHaveProperty(
    'value',
    'gull tide supper moss',
  );
});

test('of what is in hand nothing is asked for but what that is', async () => {
  const server = asked();
  const { user, onForesee } = form(null, {
    classes: new Set(),
    days: anyDay,
    without,
    lookIn: BACKUP,
  });
  await write(
    user,
    screen.getByLabelText('Password of the backup'),
    'gull tide supper moss{Enter}',
  );
  await expect.poll(() => onForesee).toHaveBeenCalled();
  expect(server.sentTo(routes.startForesee)).toMatchObject([{ choice: {}, lookIn: BACKUP }]);
});

test('it is sent once the serial is right, and the customer knows what they lose', async () => {
  const server = asked();
  const { user, onStarted } = form({ id: BACKUP, report: LOSSY, sparable });
  const send = screen.getByRole('button', { name: 'Send onto berth 2' });
  await write(user, screen.getByLabelText('Password of the backup'), 'gull tide supper moss');
  await write(user, screen.getByLabelText('Serial, last 4'), 'TEST');
  expect(send).toHaveProperty('disabled', true);
  await user.click(screen.getByLabelText(/^The customer knows/));
  await user.click(send);
  await expect.poll(() => onStarted).toHaveBeenCalledWith(BACKUP);
  expect(server.sentTo(routes.startCross)).toMatchObject([
    { foreseen: BACKUP, customerKnows: true, serialTail: 'TEST' },
  ]);
});

test('where nothing is lost nobody is asked whether the customer knows', async () => {
  asked();
  form({ id: BACKUP, report: [line({ whole: 3 })], sparable });
  expect(await screen.findByLabelText('Serial, last 4')).toBeDefined();
  expect(screen.queryByLabelText(/^The customer knows/)).toBeNull();
});

test('where nothing would go over nothing can be sent', () => {
  asked();
  form({ id: BACKUP, report: [line({ present: 3 })], sparable });
  expect(screen.getByText('Nothing of what was chosen would go over.')).toBeDefined();
  expect(screen.queryByRole('button', { name: /^Send/ })).toBeNull();
});
