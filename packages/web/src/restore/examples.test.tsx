import { routes } from '@bright-cellar/contract';
import { screen } from '@testing-library/react';
import { expect, test } from 'vitest';
import { FakeServer, Refusal } from '../testing/fake-server.js';
import { BACKUP } from '../testing/made-up.js';
import { show } from '../testing/show.js';
import { Examples } from './examples.js';

const open = { name: 'See single items, as they will arrive' };

test('single items stand field by field as they were and as they will be, once somebody asks', async () => {
  const server = new FakeServer().answers(routes.crossingExamples, [
    {
      class: 'contacts',
      examples: [
        {
          title: 'Ana Reed',
          fields: [
            { field: 'birthday', was: '1990-02-01', becomes: '' },
            { field: 'note', was: 'Ünder the lamp', becomes: 'Under the lamp' },
          ],
        },
      ],
    },
  ]);
  const user = show(<Examples id={BACKUP} />);
  expect(server.sentTo(routes.crossingExamples)).toHaveLength(0);
  await user.click(screen.getByRole('button', open));
  const rows = await screen.findAllByRole('row');
  expect(rows.map(({ textContent }) => textContent).slice(1)).toEqual([
    'Ana ReedBirthday1990-02-01nothing',
    'NoteÜnder the lampUnder the lamp',
  ]);
});

test('without the customer’s agreement nothing is shown, and why', async () => {
  new FakeServer().answers(routes.crossingExamples, new Refusal('not-agreed'));
  const user = show(<Examples id={BACKUP} />);
  await user.click(screen.getByRole('button', open));
  expect(await screen.findByText(/has not agreed/)).toBeDefined();
});
