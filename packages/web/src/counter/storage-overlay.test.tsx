import { routes } from '@bright-cellar/contract';
import { linkDeviceSchema } from '@bright-cellar/core';
import { screen } from '@testing-library/react';
import { expect, test } from 'vitest';
import { FakeServer, Refusal } from '../testing/fake-server.js';
import { choose, show, write } from '../testing/show.js';
import { StorageOverlay } from './storage-overlay.js';

function overlay() {
  let closed = 0;
  const server = new FakeServer()
    .answers(routes.storagePlaces, [{ path: '/media/CARD', capacity: 64e9, free: 60e9 }])
    .answers(routes.storageFolders, ({ path }) => ({
      folders: path === '/media/CARD' ? ['recovered', 'other'] : ['0a8f'],
    }))
    .answers(routes.connectStorage, { deviceId: linkDeviceSchema.parse('storage-1'), berth: 2 });
  const user = show(<StorageOverlay onClose={() => closed++} />);
  return { server, user, closed: () => closed };
}
const put = () => screen.getByRole('button', { name: 'Put it on the bench' });
const press = async (user: ReturnType<typeof overlay>['user'], name: RegExp | string) =>
  user.click(await screen.findByRole('button', { name }));

test('a folder deep in a medium, recovered from a device that nobody can read a serial of', async () => {
  const { server, user, closed } = overlay();
  await press(user, /media\/CARD 4.00 GB of 64.0 GB in use/);
  await press(user, 'recovered');
  await press(user, '0a8f');
  await press(user, 'Back');
  expect(screen.getByText('/media/CARD/recovered')).toBeDefined();
  expect(put()).toHaveProperty('disabled', true);
  await choose(user, 'What it is', 'A folder recovered from a device');
  await write(user, screen.getByLabelText('Model'), ' Slate 4 ');
  await user.click(put());
  expect(server.sentTo(routes.connectStorage)).toEqual([
    {
      ...{ folder: '/media/CARD/recovered', of: 'recovered', kind: 'phone' },
      ...{ name: 'recovered', model: 'Slate 4', serial: null },
    },
  ]);
  expect(closed()).toBe(1);
});

test('a serial is as it stands on the device, or none; what is refused says why', async () => {
  const { server, user, closed } = overlay();
  await press(user, /media\/CARD/);
  await write(user, screen.getByLabelText('Model'), 'Slate 4');
  await write(user, screen.getByLabelText('Serial'), 'sl4');
  expect(screen.getByText(/^Four letters and digits or more/)).toBeDefined();
  expect(put()).toHaveProperty('disabled', true);
  await write(user, screen.getByLabelText('Serial'), '-0011');
  server.answers(routes.connectStorage, new Refusal('already-exists', { what: 'It is here.' }));
  await user.click(put());
  expect(await screen.findByText('It is here.')).toBeDefined();
  expect(server.sentTo(routes.connectStorage).at(-1)?.serial).toBe('SL4-0011');
  expect(closed()).toBe(0);
});
