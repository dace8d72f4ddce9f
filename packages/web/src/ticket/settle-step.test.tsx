import { routes, type Ticket } from '@bright-cellar/contract';
import { screen } from '@testing-library/react';
import { expect, test } from 'vitest';
import { FakeServer, Refusal } from '../testing/fake-server.js';
import { aTicket } from '../testing/made-up.js';
import { show, write } from '../testing/show.js';
import { SayDone, SettledWord } from './settle-step.js';

type Step = Ticket['runSheet'][number];
const repair = (change: Partial<Step> = {}): Step => ({
  id: 'repair',
  title: 'Repair',
  state: 'ready',
  evidence: [],
  sentence: 'Repair the device, then say so.',
  skippable: true,
  ...change,
});

test('a person’s word, with what they found, makes such a step done', async () => {
  const asked = new FakeServer().answers(routes.settleStep, aTicket());
  const user = show(<SayDone step={repair()} ticket={aTicket()} />);
  await write(user, screen.getByLabelText('What was found'), 'New glass, dried out{Enter}');
  await screen.findByRole('button', { name: 'Repair: done' });
  expect(asked.sentTo(routes.settleStep)).toEqual([
    { state: 'done', reason: 'New glass, dried out' },
  ]);
});

test('a step is skipped with a reason, and with none it is not', async () => {
  const asked = new FakeServer().answers(routes.settleStep, aTicket());
  const user = show(<SettledWord step={repair()} ticket={aTicket()} />);
  await user.click(screen.getByRole('button', { name: /^Skip this step/ }));
  const skip = screen.getByRole('button', { name: 'Skip it' });
  await write(user, screen.getByLabelText('Reason'), '   ');
  expect(skip).toHaveProperty('disabled', true);
  await write(user, screen.getByLabelText('Reason'), 'Beyond repair');
  await user.click(skip);
  expect(asked.sentTo(routes.settleStep)).toEqual([{ state: 'skipped', reason: 'Beyond repair' }]);
  expect(screen.queryByRole('dialog')).toBeNull();
});

test('what may not be skipped says why, beside the question', async () => {
  new FakeServer().answers(
    routes.settleStep,
    new Refusal('step-refused', { what: 'The device was erased: it must be restored.' }),
  );
  const user = show(<SettledWord step={repair()} ticket={aTicket()} />);
  await user.click(screen.getByRole('button', { name: /^Skip this step/ }));
  await write(user, screen.getByLabelText('Reason'), 'No time{Enter}');
  expect(await screen.findByText('The device was erased: it must be restored.')).toBeDefined();
});

test('a word can be taken back', async () => {
  const asked = new FakeServer().answers(routes.settleStep, aTicket());
  const done = repair({ state: 'done', skippable: false });
  const user = show(<SettledWord step={done} ticket={aTicket()} />);
  expect(screen.queryByRole('button', { name: /^Skip/ })).toBeNull();
  await user.click(screen.getByRole('button', { name: /^Open it again/ }));
  expect(asked.sentTo(routes.settleStep)).toEqual([{ state: 'open', reason: '' }]);
});
