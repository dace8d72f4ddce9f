import { routes, type ShopSettings } from '@bright-cellar/contract';
import type { DeviceFacts } from '@bright-cellar/core';
import { deviceFacts } from '@bright-cellar/core/testing';
import { screen } from '@testing-library/react';
import { expect, test } from 'vitest';
import { FakeServer } from '../testing/fake-server.js';
import { houseRules } from '../testing/made-up.js';
import { show, write } from '../testing/show.js';
import { OsUpdate } from './os-update.js';

const osUpdate = { version: '17.4', bytes: 2_000_000_000 };
function offered(
  updatePolicy: ShopSettings['updatePolicy'],
  device: Partial<DeviceFacts> = {},
  proven = false,
) {
  const server = new FakeServer()
    .answers(routes.settings, { ...houseRules, updatePolicy })
    .answers(routes.updateDevice, {});
  return {
    server,
    user: show(<OsUpdate device={deviceFacts({ osUpdate, ...device })} proven={proven} />),
  };
}

test.each([
  ['never', {}, /does not update customers’ devices/],
  ['only-for-a-restore', {}, /a device in use is not updated here/],
  ['ask', {}, /Not before its backup is proven/],
] as const)('where the policy is “%s” it is told and not offered', async (policy, device, why) => {
  offered(policy, device);
  expect(await screen.findByText(why)).toBeDefined();
  expect(screen.queryByRole('button')).toBeNull();
});

test('an empty target is updated for a restore, once its serial was typed', async () => {
  const { server, user } = offered('only-for-a-restore', { empty: true });
  await user.click(await screen.findByRole('button', { name: 'Update it …' }));
  const update = screen.getByRole('button', { name: 'Update the device' });
  await write(user, screen.getByLabelText('Serial, last 4'), '4Q81');
  expect(update).toHaveProperty('disabled', true);
  await user.clear(screen.getByLabelText('Serial, last 4'));
  await write(user, screen.getByLabelText('Serial, last 4'), 'test{Enter}');
  await screen.findByText(/it can be updated/);
  expect(server.sentTo(routes.updateDevice)).toEqual([{ serialTail: 'test' }]);
});

test('after the proof it says what a restore then needs', async () => {
  offered('ask', {}, true);
  expect(await screen.findByText(/restores only onto 17.4 or newer/)).toBeDefined();
});
