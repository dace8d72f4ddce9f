import { routes } from '@bright-cellar/contract';
import { screen } from '@testing-library/react';
import { expect, test } from 'vitest';
import { FakeServer, Refusal } from '../testing/fake-server.js';
import { aRack, aTicket } from '../testing/made-up.js';
import { choose, show, write } from '../testing/show.js';
import { ScheduleOverlay } from './schedule-overlay.js';

const server = () =>
  new FakeServer()
    .answers(routes.racks, [
      aRack({ id: aTicket().device.id, present: false, name: 'Away' }),
      aRack(),
    ])
    .answers(routes.schedule, []);
const overlay = () => show(<ScheduleOverlay ticket={aTicket()} onClose={() => undefined} />);
const keep = () => screen.getByRole('button', { name: 'Keep it so' });

test('by itself only on the day and hour that somebody chose, not over the network unless they want', async () => {
  const asked = server();
  const user = overlay();
  await choose(user, 'How often', 'Every two weeks');
  await choose(user, 'Day', 'Friday');
  await user.clear(screen.getByLabelText('Time'));
  await write(user, screen.getByLabelText('Time'), '18:30');
  await user.click(keep());
  await screen.findByText('/regular');
  expect(asked.sentTo(routes.schedule)).toEqual([
    {
      wholeCustomer: false,
      extract: null,
      schedule: {
        rule: 'fortnightly',
        weekday: 5,
        at: 18 * 60 + 30,
        quiet: null,
        catchUp: true,
        overNetwork: false,
      },
    },
  ]);
});

test('a time that is none is said, and not kept', async () => {
  const asked = server();
  const user = overlay();
  await user.clear(screen.getByLabelText('Time'));
  await write(user, screen.getByLabelText('Time'), '25:00{Enter}');
  expect(screen.getByText('A time, as 13:00.')).toBeDefined();
  expect(keep()).toHaveProperty('disabled', true);
  expect(asked.sentTo(routes.schedule)).toEqual([]);
});

test('quiet hours need both ends', async () => {
  const asked = server();
  const user = overlay();
  await write(user, screen.getByLabelText('Quiet from'), '22:00');
  expect(keep()).toHaveProperty('disabled', true);
  await write(user, screen.getByLabelText('Quiet until'), '6:00');
  await user.click(keep());
  await screen.findByText('/regular');
  expect(asked.sentTo(routes.schedule)[0]?.schedule.quiet).toEqual({ from: 1320, to: 360 });
});

test('an open file says that anybody can read it, and goes onto a rack that is here', async () => {
  const asked = server();
  const user = overlay();
  await choose(user, 'What', 'Messages');
  expect(screen.getByText(/open file that anybody can read/)).toBeDefined();
  await choose(user, 'As', 'CSV, for a spreadsheet');
  await user.click(screen.getByLabelText(/^With the pictures/));
  await user.click(keep());
  await screen.findByText('/regular');
  expect(asked.sentTo(routes.schedule)[0]?.extract).toEqual({
    rackId: aRack().id,
    what: {
      kind: 'records',
      set: 'messages',
      format: 'csv',
      dates: 'words',
      named: true,
      media: false,
      videos: true,
      clock: 'shop',
      since: null,
      until: null,
      append: true,
    },
  });
});

test('what the customer did not agree to is refused with what to do', async () => {
  server().answers(routes.schedule, new Refusal('not-agreed'));
  const user = overlay();
  await user.click(keep());
  expect(await screen.findByText('The customer has not agreed to this.')).toBeDefined();
});
