import { routes, type Operation } from '@bright-cellar/contract';
import { problem, type OperationResult } from '@bright-cellar/core';
import { screen } from '@testing-library/react';
import { expect, test } from 'vitest';
import { FakeServer, Refusal } from '../testing/fake-server.js';
import { aBench, aBerth, anOperation, aDesk } from '../testing/made-up.js';
import { show, write } from '../testing/show.js';
import { OperationPanel } from './operation-panel.js';

const result: OperationResult<'backup'> = {
  items: 1_590,
  bytes: 9_900_000_000,
  failed: [{ class: 'videos', reason: 'it changed while it was read', count: 10, ids: [] }],
  storedBytes: 8_100_000_000,
  newItems: 1_590,
  newBytes: 9_900_000_000,
  durationMs: 400_000,
  workedMs: 390_000,
  digest: 'd1',
};

function panel(operation: Operation, screenText = 'Backup is running.') {
  const server = new FakeServer()
    .answers(routes.bench, aBench(aBerth({ screen: screenText })))
    .answers(routes.operation, operation)
    .answers(routes.desk, aDesk());
  /** It is that from now on, for whoever asks. */
  const becomes = (now: Operation): Operation => {
    server.answers(routes.operation, now);
    return now;
  };
  return { server, becomes, user: show(<OperationPanel id={operation.id} />) };
}

test('what runs says its phase, amount, rate, time left as a range, and what the device shows', async () => {
  panel(anOperation());
  expect(await screen.findByText('25 %')).toBeDefined();
  expect(screen.getByText('2.50 GB')).toBeDefined();
  expect(screen.getByText('of 10.0 GB')).toBeDefined();
  expect(screen.getByText('25.0 MB/s')).toBeDefined();
  expect(screen.getByText('4–6 min')).toBeDefined();
  expect(await screen.findByText('Backup is running.')).toBeDefined();
});

test('it is paused and let go on with one button', async () => {
  const { server, user, becomes } = panel(anOperation());
  server.answers(routes.pauseOperation, ({ paused }) =>
    becomes(anOperation({ state: paused ? 'paused' : 'running' })),
  );
  await user.click(await screen.findByRole('button', { name: 'Pause' }));
  expect(await screen.findByText(/Paused. Leave the device on its cable/)).toBeDefined();
  await user.click(screen.getByRole('button', { name: 'Go on' }));
  expect(server.sentTo(routes.pauseOperation)).toEqual([{ paused: true }, { paused: false }]);
});

test('what must be done on the device stands out', async () => {
  panel(anOperation({ needs: 'Unlock the phone on berth 1 with its passcode.' }));
  expect(await screen.findByText('Unlock the phone on berth 1 with its passcode.')).toBeDefined();
});

test('a stop that is refused says why, and a second one is not asked for while it stops', async () => {
  const { server, user, becomes } = panel(anOperation());
  server.answers(routes.stopOperation, new Refusal('not-found'));
  await user.click(await screen.findByRole('button', { name: 'Stop' }));
  expect(await screen.findByText('That is not here, or not here any more.')).toBeDefined();
  server.answers(routes.stopOperation, () => becomes(anOperation({ state: 'stopping' })));
  await user.click(screen.getByRole('button', { name: 'Stop' }));
  expect(await screen.findByRole('button', { name: 'Stopping …' })).toHaveProperty(
    'disabled',
    true,
  );
});

test('at the end: how many taken, how many failed and why, and another try of just those', async () => {
  const { server, user, becomes } = panel(
    anOperation({
      state: 'done',
      result,
      retryable: 10,
      estimate: {
        at: '2026-11-24T12:00:00.000Z',
        items: 1_600,
        bytes: 10e9,
        stored: { low: 8e9, likely: 8.2e9, high: 8.4e9 },
        ms: { low: 350_000, likely: 400_000, high: 450_000 },
        linkMs: 380_000,
      },
    }),
  );
  expect(await screen.findByText('1,590')).toBeDefined();
  expect(
    screen.getByText('Videos: 10 items not taken, it changed while it was read.'),
  ).toBeDefined();
  expect(screen.getByText(/Expected were 8\.00–8\.40 GB on the rack/)).toBeDefined();
  server.answers(routes.retryFailed, () =>
    becomes(anOperation({ startedAt: '2026-11-24T13:00:00.000Z' })),
  );
  await user.click(screen.getByRole('button', { name: 'Try the 10 failed items again' }));
  await write(user, screen.getByLabelText('Its password'), 'copper lantern nine wrens{Enter}');
  await screen.findByText('25 %');
  expect(server.sentTo(routes.retryFailed)).toEqual([
    { fromDesk: false, password: 'copper lantern nine wrens' },
  ]);
});

test('one that was cut off goes on from what is on the rack, with its password, or is given up', async () => {
  const cut = anOperation({
    state: 'interrupted',
    problem: problem('device-left'),
    keptBytes: 2_400_000_000,
  });
  const { server, user } = panel(cut);
  expect(await screen.findByText('2.40 GB')).toBeDefined();
  server.answers(routes.continueOperation, new Refusal('wrong-password'));
  await write(user, screen.getByLabelText('Password of the backup'), 'not this{Enter}');
  expect(await screen.findByText('The password does not open this backup.')).toBeDefined();
  server.answers(
    routes.discardOperation,
    anOperation({ state: 'interrupted', problem: problem('device-left') }),
  );
  await user.click(screen.getByRole('button', { name: 'Give it up and free the space' }));
  expect(server.sentTo(routes.discardOperation)).toHaveLength(1);
});
