import { routes, type DaySheet } from '@bright-cellar/contract';
import { screen } from '@testing-library/react';
import { expect, test } from 'vitest';
import { FakeServer } from '../testing/fake-server.js';
import { show } from '../testing/show.js';
import { DayPage } from './day-page.js';

const sheet: DaySheet = {
  ...{ which: 'opening', at: '2026-11-28T08:00:00.000Z', now: 'Begin with ticket 26110001.' },
  sections: [
    {
      title: 'Promised for today, or late',
      lines: [{ name: '26110001 Ada Fennick', text: 'Ada’s phone.', to: '/tickets/26110001' }],
      empty: 'Nothing is promised.',
    },
    { title: 'Failed in the night', lines: [], empty: 'Nothing failed.' },
  ],
};

test('what is promised leads to its ticket, what is empty says so, and it is printed', async () => {
  const server = new FakeServer().answers(routes.daySheet, sheet);
  const user = show(<DayPage />);
  expect(await screen.findByText('Begin with ticket 26110001.')).toBeDefined();
  const link = screen.getByRole('link', { name: '26110001 Ada Fennick' });
  expect(link.getAttribute('href')).toBe('/tickets/26110001');
  expect(screen.getByText('Nothing failed.')).toBeDefined();
  expect(screen.getByRole('link', { name: 'Print it' }).getAttribute('href')).toBe(
    '/api/day/opening.pdf',
  );
  await user.click(screen.getByRole('button', { name: 'Closing sheet' }));
  expect(await screen.findByRole('heading', { name: 'Closing' })).toBeDefined();
  expect(server.asked.map(({ path }) => path)).toContain('/api/day?which=closing');
});
