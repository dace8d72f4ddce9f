import { routes, type CustomerData } from '@bright-cellar/contract';
import { screen } from '@testing-library/react';
import { Navigate, Route, Routes } from 'react-router';
import { expect, test } from 'vitest';
import { FakeServer } from '../testing/fake-server.js';
import { aSession } from '../testing/made-up.js';
import { show, write } from '../testing/show.js';
import { CustomerPage } from './customer-page.js';

const data: CustomerData = {
  customer: {
    ...{ id: '00000000-0000-4000-8000-000000000004', name: 'Ada Fennick' },
    ...{ phone: '+44 7700 900100', email: '' },
  },
  since: '2026-03-01T09:00:00.000Z',
  visits: [
    {
      ...{ number: '26030001', reason: 'Repair', notes: 'Screen', closedAt: null },
      openedAt: '2026-03-01T09:00:00.000Z',
      device: { family: 'Vireo', model: 'Arc 7', name: 'Ada’s phone', serial: 'V1', imei: '' },
      agreed: [{ what: 'Backup', given: true, at: '2026-03-01T09:00:00.000Z' }],
    },
  ],
  backups: [],
  destroyed: [],
  record: [{ at: '2026-03-01T09:00:00.000Z', what: 'Ticket opened.', by: 'Wren' }],
  inTheWay: [],
};

const page = (
  <Routes>
    <Route path="/" element={<Navigate to={`/customers/${data.customer.id}`} />} />
    <Route path="/customers/:id" element={<CustomerPage />} />
  </Routes>
);

test('of whom nothing is kept can be forgotten, when the word is typed', async () => {
  const server = new FakeServer()
    .answers(routes.session, aSession())
    .answers(routes.customerData, data)
    .answers(routes.forgetCustomer, {
      ...data,
      customer: { ...data.customer, name: 'Name let go' },
    });
  const user = show(page);
  await user.click(await screen.findByRole('button', { name: 'Forget them' }));
  await write(user, await screen.findByLabelText('Type “forget”'), 'forge{Enter}');
  expect(server.sentTo(routes.forgetCustomer)).toEqual([]);
  await user.keyboard('t{Enter}');
  expect(await screen.findByRole('heading', { name: 'Name let go' })).toBeDefined();
});

test('what is in the way is said, and nothing can be pressed', async () => {
  new FakeServer()
    .answers(routes.session, aSession())
    .answers(routes.customerData, { ...data, inTheWay: ['Ticket 26030001 is open.'] });
  show(page);
  expect(await screen.findByText(/Ticket 26030001 is open\./)).toBeDefined();
  expect(screen.getByRole('button', { name: 'Forget them' })).toHaveProperty('disabled', true);
});
