import { routes } from '@bright-cellar/contract';
import { screen } from '@testing-library/react';
import { expect, test, vi } from 'vitest';
import { FakeServer } from '../testing/fake-server.js';
import { aSession } from '../testing/made-up.js';
import { show } from '../testing/show.js';
import { MoreMenu } from './more-menu.js';

test('what somebody may not do is there, cannot be chosen, and says who may', async () => {
  new FakeServer().answers(routes.session, aSession('technician'));
  const retire = vi.fn();
  const look = vi.fn();
  const user = show(
    <MoreMenu
      label="More"
      items={[
        { name: 'Put it out of use', permission: 'house-rules', onSelect: retire },
        { name: 'Look at it', permission: 'see', onSelect: look },
      ]}
    />,
  );
  await user.click(screen.getByRole('button', { name: 'More' }));
  const closed = await screen.findByRole('menuitem', { name: /Only keepers may/ });
  expect(closed.getAttribute('aria-disabled')).toBe('true');
  await user.keyboard('{ArrowDown}{Enter}');
  expect(look).toHaveBeenCalledOnce();
  expect(retire).not.toHaveBeenCalled();
});
