import { lookPicturePath, routes, type LookIn } from '@bright-cellar/contract';
import { screen, waitFor, within } from '@testing-library/react';
import { expect, test } from 'vitest';
import { FakeServer, Refusal } from '../testing/fake-server.js';
import { aSession } from '../testing/made-up.js';
import { show, write } from '../testing/show.js';
import { FoundEverywhere } from './found-everywhere.js';
import { ConversationList } from './conversation-list.js';
import { LookSign } from './look-sign.js';

const ID = '11111111-1111-4111-8111-111111111111';
const at = '2026-11-28T10:00:00.000Z';
const look = (isOwn: boolean): LookIn => ({
  ...{ id: ID, isOwn, by: 'Joss Wickbank', since: at, closesAt: at },
  archiveId: ID as LookIn['archiveId'],
  backupId: ID as LookIn['backupId'],
  ...{ ticketNumber: '26110001', deviceName: 'Tamsin’s phone' },
});
const conversation = {
  ...{ id: 3, people: ['Ada Birch'], isGroup: false, sources: ['Messages', 'Tansy'] },
  ...{ messages: 1200, from: at, to: at, last: 'See you there' },
};

test('what is open is said on every screen; one key closes it, also while somebody types', async () => {
  const server = new FakeServer()
    .answers(routes.session, aSession('technician'))
    .answers(routes.lookIns, [look(true)])
    .answers(routes.endLookIn, {});
  const user = show(
    <>
      <LookSign />
      <input aria-label="Anything" />
    </>,
  );
  expect(await screen.findByText(/Tamsin’s phone is open to be read/)).toBeDefined();
  await write(user, screen.getByLabelText('Anything'), 'some words');
  server.answers(routes.lookIns, []);
  await user.keyboard('{F9}');
  await waitFor(() => expect(screen.queryByText(/is open to be read/)).toBeNull());
});

test('of somebody else’s it is said who looks, and nothing closes it', async () => {
  const server = new FakeServer()
    .answers(routes.lookIns, [look(false)])
    .answers(routes.endLookIn, new Refusal('look-in-over'));
  const user = show(<LookSign />);
  expect(await screen.findByText(/Joss Wickbank looks into Tamsin’s phone/)).toBeDefined();
  expect(screen.queryByRole('button')).toBeNull();
  await user.keyboard('{F9}');
  expect(screen.getByText(/Joss Wickbank looks into/)).toBeDefined();
  expect(server.sentTo(routes.endLookIn)).toEqual([]);
});

test('conversations are told by whom they are with, and from where they were joined; the arrow keys walk them', async () => {
  const server = new FakeServer().answers(routes.lookConversations, {
    rows: [conversation, { ...conversation, id: 4, people: ['Bo', 'Cy'], isGroup: true }],
    total: 2,
  });
  const chosen: number[] = [];
  const user = show(
    <ConversationList id={ID} isAll chosen={null} onChoose={(id) => chosen.push(id)} />,
  );
  const list = await screen.findByRole('region', { name: 'Conversations' });
  const first = await within(list).findByRole('button', { name: /Ada Birch Messages and Tansy/ });
  first.focus();
  await user.keyboard('{ArrowDown}{Enter}{ArrowUp}{Enter}');
  expect(chosen).toEqual([4, 3]);
  server.answers(routes.lookConversations, { rows: [], total: 0 });
  await write(user, screen.getByLabelText('With whom'), 'nobody');
  expect(await screen.findByText('With nobody of that name.')).toBeDefined();
});

test('what was found is told by what it is, leads to where it stands, and says when there is more', async () => {
  new FakeServer()
    .answers(routes.searchLookIn, {
      rows: [
        { conversation: 3, people: ['Ada Birch'], index: 17, at, from: '', text: 'on the quay' },
      ],
      total: 240,
    })
    .answers(routes.searchShelves, [
      {
        shelf: 'notes',
        rows: [
          { title: 'Quay, at five', text: 'Quay, at five', at, item: 4, row: 4, isMarkdown: false },
        ],
        ...{ total: 31, months: [] },
      },
    ]);
  const opened: unknown[][] = [];
  const user = show(
    <FoundEverywhere
      id={ID}
      text="quay"
      onMessage={(...place) => opened.push(place)}
      onShelf={(...place) => opened.push(place)}
    />,
  );
  expect(await screen.findByRole('heading', { name: '240 messages' })).toBeDefined();
  expect(screen.getByText(/One word more finds fewer/)).toBeDefined();
  await user.click(screen.getByRole('button', { name: /The owner.*on the quay/ }));
  expect(screen.getByRole('list', { name: 'Notes found' }).textContent).toContain('Quay, at five');
  await user.click(screen.getByRole('button', { name: 'Read all 31' }));
  expect(opened).toEqual([
    [3, 17],
    ['notes', 'quay'],
  ]);
});

test('no address says anything of whose it is', () => {
  expect(lookPicturePath(ID, { of: 'files', number: 12 }, 480)).toBe(
    `/api/look-ins/${ID}/pictures/files/12/480`,
  );
});
