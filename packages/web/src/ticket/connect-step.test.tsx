import { routes } from '@bright-cellar/contract';
import { useQuery } from '@tanstack/react-query';
import { screen } from '@testing-library/react';
import { expect, test } from 'vitest';
import { queries } from '../api/queries.js';
import { FakeServer, Refusal } from '../testing/fake-server.js';
import { aBench, aBerth, aTicket, TICKET } from '../testing/made-up.js';
import { show } from '../testing/show.js';
import { ConnectStep } from './connect-step.js';

const described = () => {
  const ticket = aTicket({ berth: null });
  return { ...ticket, device: { ...ticket.device, serial: 'VA7K-9', readFrom: 'typed' as const } };
};

/** Shown once whatever stands beside it knows the bench too: what is not there then is not only late. */
function BenchIsKnown() {
  return useQuery(queries.bench()).data ? <p>the bench is known</p> : null;
}

test('a hidden setting is told step by step while it is off', async () => {
  const openingSteps = ['Open the settings.', 'Write the word into the ledger.'];
  new FakeServer().answers(
    routes.bench,
    aBench(aBerth({ workshopPort: 'off', openingSteps }, TICKET)),
  );
  show(<ConnectStep ticket={aTicket()} open />);
  const steps = await screen.findAllByText(/settings|ledger/);
  expect(steps.map((s) => s.textContent)).toEqual(openingSteps);
});

test('nothing is asked for once every condition is met', async () => {
  new FakeServer().answers(routes.bench, aBench(aBerth({}, TICKET)));
  show(
    <>
      <ConnectStep ticket={aTicket()} open />
      <BenchIsKnown />
    </>,
  );
  await screen.findByText('the bench is known');
  expect(screen.queryByLabelText('Readiness')).toBeNull();
});

test('a device that locks itself once its step is done is not asked to be opened again', async () => {
  new FakeServer().answers(routes.bench, aBench(aBerth({ lock: 'locked' }, TICKET)));
  show(
    <>
      <ConnectStep ticket={aTicket()} open={false} />
      <BenchIsKnown />
    </>,
  );
  await screen.findByText('the bench is known');
  expect(screen.queryByLabelText('Readiness')).toBeNull();
});

test('a described device is tied to one that nobody else’s ticket has; another serial is questioned first', async () => {
  const what = 'The ticket says serial VA7K-9; the device on berth 1 says VA7K0000TEST.';
  const asked = new FakeServer()
    .answers(
      routes.bench,
      aBench(aBerth(), aBerth({ id: 'd2', berth: 2, name: 'Taken' }, '26110009')),
    )
    .answers(routes.tieDevice, ({ questionAnswered }) =>
      questionAnswered ? aTicket() : new Refusal('device-differs', { what }),
    );
  const user = show(<ConnectStep ticket={described()} open />);
  await user.click(await screen.findByRole('button', { name: /It is the one on berth 1/ }));
  expect(screen.queryByRole('button', { name: /berth 2/ })).toBeNull();
  expect(await screen.findByText(what)).toBeDefined();
  await user.click(screen.getByRole('button', { name: /I looked and asked/ }));
  expect(asked.sentTo(routes.tieDevice)).toEqual([
    { deviceId: 'd1', questionAnswered: false },
    { deviceId: 'd1', questionAnswered: true },
  ]);
});

test('any other refusal offers no way around it', async () => {
  new FakeServer()
    .answers(routes.bench, aBench(aBerth()))
    .answers(routes.tieDevice, new Refusal('device-not-here'));
  const user = show(<ConnectStep ticket={described()} open />);
  await user.click(await screen.findByRole('button', { name: /It is the one on berth 1/ }));
  expect(await screen.findByText('The device is not on the bench.')).toBeDefined();
  expect(screen.queryByRole('button', { name: /I looked and asked/ })).toBeNull();
});
