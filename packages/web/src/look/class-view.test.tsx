import { routes, type ShelfId } from '@bright-cellar/contract';
import { screen } from '@testing-library/react';
import { useState } from 'react';
import { expect, test } from 'vitest';
import { FakeServer } from '../testing/fake-server.js';
import { show } from '../testing/show.js';
import { ClassView } from './class-view.js';

const ID = '00000000-0000-4000-8000-000000000001';

function Opening() {
  const [filled, setFilled] = useState<ReadonlySet<ShelfId>>(new Set());
  return (
    <>
      <button type="button" onClick={() => setFilled(new Set(['documents']))}>
        all was read
      </button>
      <ClassView {...{ id: ID, dataClass: 'documents', shelf: null, text: '', filled }} />
    </>
  );
}

test('what is asked for before all was read is there as people read it once it was, unless somebody wants the files', async () => {
  const part = { shelf: 'documents' as const, rows: [], total: 0, months: [] };
  new FakeServer()
    .answers(routes.lookFiles, { rows: [], total: 0 })
    .answers(routes.lookShelf, part)
    .answers(routes.lookBasket, { picks: [] });
  const user = show(<Opening />);
  expect(await screen.findByRole('button', { name: 'Take all files in hand' })).toBeDefined();
  await user.click(screen.getByRole('button', { name: 'all was read' }));
  expect(await screen.findByRole('searchbox', { name: 'Find in documents' })).toBeDefined();
  await user.click(screen.getByRole('button', { name: 'As files' }));
  expect(await screen.findByRole('button', { name: 'As people read it' })).toBeDefined();
});
