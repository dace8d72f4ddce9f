import { routes, type RestoreChoices } from '@bright-cellar/contract';
import { screen } from '@testing-library/react';
import { expect, test } from 'vitest';
import { FakeServer } from '../testing/fake-server.js';
import { aTicket } from '../testing/made-up.js';
import { show } from '../testing/show.js';
import { RestoreStep } from './restore-step.js';

const id = (n: number) => `00000000-0000-4000-8000-00000000000${n}`;
const one = (n: number, more: Partial<RestoreChoices['backups'][number]> = {}) => ({
  ...{ id: id(n), archiveId: id(7), takenAt: `2026-11-0${n}T10:00:00.000Z`, troubles: [] },
  ...{ items: 100, bytes: 1000, ticketNumber: '26090012' },
  ...{ provenAt: '2026-11-20T10:00:00.000Z' },
  places: [{ rackName: 'Alder', isHere: true, readMs: { low: 60_000, high: 120_000 } }],
  ...more,
});
const shown = (
  state: 'ready' | 'waiting' | 'done',
  choices: RestoreChoices,
  archiveIds: string[] = [],
) => {
  new FakeServer().answers(routes.ticketRestoreChoices, choices);
  show(
    <RestoreStep
      step={{
        ...{
          id: 'restore',
          title: 'Restore',
          state,
          sentence: null,
          evidence: [],
          skippable: true,
        },
      }}
      ticket={aTicket({ archiveIds })}
    />,
  );
};

test('the newest of all archives is proposed, with its ticket, its place and its reason', async () => {
  shown('ready', {
    ...{ proposed: id(3), passedOver: [{ id: id(4), trouble: 'unproven' }] },
    backups: [one(4, { provenAt: null, troubles: ['unproven'] }), one(3)],
  });
  const said = await screen.findByText(/^What goes back/);
  expect(said.textContent).toContain('of ticket 26090012, on Alder, read in 1–2 min.');
  expect(said.textContent).toContain('That of 4 Nov 2026 is not proven.');
  const link = screen.getByRole('link', { name: 'Open the restore' });
  expect(link.getAttribute('href')).toBe(`/restore/${id(7)}/${id(3)}`);
});

test('one of an earlier visit is offered where this one has none; not while something speaks against each', async () => {
  shown('waiting', { proposed: id(3), passedOver: [], backups: [one(3)] });
  expect(await screen.findByText(/^There is one from before/)).toBeDefined();
  expect(screen.getByRole('link', { name: 'Open the restore with it' })).toBeDefined();
});

test('while something speaks against each, the ticket’s own is opened, which says so', async () => {
  const damaged = one(3, { troubles: ['damaged'] });
  shown('ready', { proposed: null, passedOver: [], backups: [damaged] }, [id(7)]);
  expect(await screen.findByText(/says what speaks against it/)).toBeDefined();
  expect(screen.getByRole('link', { name: 'Open the restore' })).toBeDefined();
});
