import { routes, type TriedRack } from '@bright-cellar/contract';
import { screen } from '@testing-library/react';
import { expect, test } from 'vitest';
import { FakeServer, Refusal } from '../testing/fake-server.js';
import { aRack } from '../testing/made-up.js';
import { show, write } from '../testing/show.js';
import { AddRackOverlay } from './add-rack-overlay.js';

const tried: TriedRack = {
  ...{ capacity: 2e12, free: 1e12, writeRate: 1.2e8, readRate: 1.5e8 },
  ...{ isSound: true, keepsFirst: true },
};

function overlay(places: { path: string; marked: string | null }[]) {
  const server = new FakeServer()
    .answers(
      routes.rackPlaces,
      places.map((place) => ({ capacity: 2e12, free: 1e12, ...place })),
    )
    .answers(routes.tryRack, tried)
    .answers(routes.addRack, aRack({ name: 'Maple' }));
  const user = show(<AddRackOverlay onClose={() => undefined} />);
  return { server, user };
}
const at = (path: string) => ({ site: { kind: 'folder', path }, secret: '' });
const add = () => screen.getByRole('button', { name: 'Add it' });

test('a drive that was plugged in is tried, says what it is good for, and is added with a name', async () => {
  const { server, user } = overlay([{ path: '/media/stick', marked: null }]);
  await screen.findByRole('radio', { name: /\/media\/stick/, checked: true });
  expect(add()).toHaveProperty('disabled', true);
  await user.click(screen.getByRole('button', { name: 'Try it' }));
  expect(await screen.findByText('120 MB/s')).toBeDefined();
  expect(screen.getByText(/backups of 4 devices at once/)).toBeDefined();
  expect(add()).toHaveProperty('disabled', true);
  await write(user, screen.getByLabelText('Name'), 'Maple');
  await write(user, screen.getByLabelText('Note'), '26110007');
  await user.click(add());
  expect(server.sentTo(routes.tryRack)).toEqual([{ ...at('/media/stick') }]);
  expect(server.sentTo(routes.addRack)).toEqual([
    {
      ...at('/media/stick'),
      kind: 'drive',
      name: 'Maple',
      note: '26110007',
      reserve: 20e9,
      offPremises: false,
    },
  ]);
});

test('what gives back something else cannot be added', async () => {
  const { server, user } = overlay([{ path: '/media/stick', marked: null }]);
  server.answers(routes.tryRack, { ...tried, isSound: false });
  await user.click(await screen.findByRole('button', { name: 'Try it' }));
  expect(await screen.findByText(/nothing may be kept here/)).toBeDefined();
  await write(user, screen.getByLabelText('Name'), 'Maple');
  expect(add()).toHaveProperty('disabled', true);
});

test('a folder that is refused says why; another that is typed is tried anew', async () => {
  const { server, user } = overlay([]);
  expect(await screen.findByText(/No new drive is connected/)).toBeDefined();
  const path = screen.getByLabelText('Path of the folder');
  await write(user, path, '/srv/none');
  server.answers(routes.tryRack, new Refusal('input-not-valid'));
  await user.click(screen.getByRole('button', { name: 'Try it' }));
  expect(await screen.findByRole('alert')).toBeDefined();
  server.answers(routes.tryRack, tried);
  await user.click(screen.getByRole('button', { name: 'Try it' }));
  await write(user, await screen.findByLabelText('Name'), 'Srv');
  expect(add()).toHaveProperty('disabled', false);
  // What was tried is not what stands there now.
  await write(user, path, 'x');
  expect(add()).toHaveProperty('disabled', true);
});

test('a rack of another shop is named before it is taken up', async () => {
  overlay([{ path: '/media/lab', marked: 'a rack of another shop' }]);
  expect(await screen.findByText(/a rack of another shop lies there/)).toBeDefined();
});

test('a box is tried only after its host key was compared, and what one signs in with goes along', async () => {
  const { server, user } = overlay([]);
  server.answers(routes.hostKey, { hostKey: 'abc+123' });
  await user.click(await screen.findByRole('radio', { name: /A box on the network/ }));
  await write(user, screen.getByLabelText('Name or address of the box'), 'box.shop.lan');
  await write(user, screen.getByLabelText('Folder there'), '/volume/archives');
  await write(user, screen.getByLabelText('Signs in as'), 'cellar');
  await write(user, screen.getByLabelText('Password'), 'open up');
  const tryIt = () => screen.getByRole('button', { name: 'Try it' });
  expect(tryIt()).toHaveProperty('disabled', true);
  await user.click(screen.getByRole('button', { name: 'Ask the box who it is' }));
  expect(await screen.findByText('abc+123')).toBeDefined();
  await user.click(screen.getByRole('button', { name: 'It is the same' }));
  await user.click(tryIt());
  expect(await screen.findByText(/Good for copies/)).toBeDefined();
  const site = {
    ...{ kind: 'sftp', host: 'box.shop.lan', port: 22, user: 'cellar', path: '/volume/archives' },
    ...{ hostKey: 'abc+123', login: 'password' },
  };
  expect(server.sentTo(routes.tryRack)).toEqual([{ site, secret: 'open up' }]);
  // Another box has another key.
  await write(user, screen.getByLabelText('Name or address of the box'), '2');
  expect(add()).toHaveProperty('disabled', true);
  expect(screen.getByRole('button', { name: 'Ask the box who it is' })).toBeDefined();
});

test('a bucket wants to be told how much may lie there', async () => {
  const { server, user } = overlay([]);
  await user.click(await screen.findByRole('radio', { name: /Object storage/ }));
  await write(
    user,
    screen.getByLabelText('Address of the storage'),
    'https://storage.shop.lan:9000',
  );
  await write(user, screen.getByLabelText('Bucket'), 'cellar');
  await write(user, screen.getByLabelText('Region'), 'here');
  await write(user, screen.getByLabelText('Name of the key'), 'shop');
  await write(user, screen.getByLabelText('Key'), 'open up');
  await user.click(screen.getByRole('button', { name: 'Try it' }));
  await write(user, await screen.findByLabelText('Name'), 'Far');
  await user.click(add());
  expect(server.sentTo(routes.addRack)).toMatchObject([
    {
      site: { kind: 'objects', capacity: 1e12, bucket: 'cellar' },
      secret: 'open up',
      kind: 'objects',
    },
  ]);
});
