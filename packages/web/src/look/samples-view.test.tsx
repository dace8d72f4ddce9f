import { routes, type LookSamples } from '@bright-cellar/contract';
import { screen } from '@testing-library/react';
import { expect, test } from 'vitest';
import { FakeServer, Refusal } from '../testing/fake-server.js';
import { show } from '../testing/show.js';
import { SamplesView } from './samples-view.js';

const ID = '00000000-0000-4000-8000-000000000001';
const drawn = (name: string): LookSamples => ({
  photographs: [{ item: 4, at: '2026-10-13T12:04:00.000Z', album: 'Harbour', isPicture: false }],
  contacts: [{ name, numbers: ['+44 7700 900123'] }],
  said: [
    {
      ...{ people: ['Runa Ferndale'], source: 'Messages' },
      last: [{ at: '2026-11-26T08:00:00.000Z', isOwn: true, from: '', text: 'See you at six.' }],
    },
  ],
  notes: [{ title: 'Seeds', text: 'Seeds\nBeans and peas' }],
  screens: [{ pages: [['Clock', 'Notes']], dock: ['Calls'] }],
});

test('a few of each are shown; at a press others are drawn', async () => {
  let turn = 0;
  const server = new FakeServer().answers(routes.lookSamples, () =>
    drawn(['Ana Reed', 'Ben Sallow'][turn++] ?? ''),
  );
  const user = show(<SamplesView id={ID} />);
  expect(await screen.findByText('Ana Reed')).toBeDefined();
  for (const words of ['Harbour', 'See you at six.', /Beans and peas/, 'Clock, Notes', 'Calls'])
    expect(screen.getByText(words)).toBeDefined();
  await user.click(screen.getByRole('button', { name: 'Draw others' }));
  expect(await screen.findByText('Ben Sallow')).toBeDefined();
  await expect.poll(() => server.sentTo(routes.lookSamples)).toHaveLength(2);
});

test('what cannot be drawn says so', async () => {
  new FakeServer().answers(routes.lookSamples, new Refusal('look-in-over'));
  show(<SamplesView id={ID} />);
  expect(await screen.findByText(/This look-in is over/)).toBeDefined();
});
