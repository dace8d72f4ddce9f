import type { CoverageLine } from '@bright-cellar/core';
import { screen } from '@testing-library/react';
import { expect, test } from 'vitest';
import { show } from '../testing/show.js';
import { CoverageList } from './coverage-list.js';

const line = (what: string, state: CoverageLine['state'], why: string, returns?: string) => ({
  id: what,
  what,
  state,
  why,
  returns: returns ?? null,
});

test('what is missing comes first, with why and how it returns; what is inside takes a line', () => {
  const cards = line(
    'Payment cards',
    'outside',
    'They are tied to the chip of this one device.',
    'The customer adds each card again, with their bank.',
  );
  show(
    <CoverageList
      lines={[
        line('Contacts', 'inside', '260 items, 60.5 kB'),
        cards,
        line('Photographs', 'partly', '3 of 150 items', 'Take another backup.'),
      ]}
    />,
  );
  expect(screen.getAllByRole('listitem').map((li) => li.textContent)).toEqual([
    'Photographs partly3 of 150 itemsTake another backup.',
    `Payment cards not inside${cards.why}${cards.returns ?? ''}`,
    'Contacts inside 260 items, 60.5 kB',
  ]);
});
