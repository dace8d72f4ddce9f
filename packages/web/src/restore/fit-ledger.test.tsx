import { nothingLeftOut } from '@bright-cellar/core';
import { deviceFacts } from '@bright-cellar/core/testing';
import { screen } from '@testing-library/react';
import { expect, test, vi } from 'vitest';
import { show } from '../testing/show.js';
import { FitLedger } from './fit-ledger.js';

const amounts = [
  { class: 'photographs', items: 900, bytes: 9e9 },
  { class: 'music', items: 100, bytes: 3e9 },
] as const;
const without = nothingLeftOut;
const withFree = (free: number) => deviceFacts({ capacity: 64e9, used: 64e9 - free });

test('what fits says so, with its sums', () => {
  show(
    <FitLedger
      {...{ amounts, without, sparable: null, onLeaveOut: null }}
      device={withFree(30e9)}
    />,
  );
  expect(screen.getByRole('heading', { name: 'It fits' })).toBeDefined();
  expect(screen.getByRole('row', { name: 'What is chosen 12.0 GB' })).toBeDefined();
  expect(screen.getByRole('row', { name: 'Needed, of 30.0 GB free 13.8 GB' })).toBeDefined();
});

test('what does not fit says by how much, and what can be left out', async () => {
  const onLeaveOut = vi.fn();
  const user = show(
    <FitLedger {...{ amounts, without, sparable: null, onLeaveOut }} device={withFree(12e9)} />,
  );
  expect(screen.getByRole('heading', { name: '1.80 GB too much' })).toBeDefined();
  expect(screen.getByText(/It fits without music \(3\.00 GB\)/)).toBeDefined();
  await user.click(screen.getByRole('button', { name: 'Leave that out' }));
  expect(onLeaveOut).toHaveBeenCalledWith(expect.objectContaining({ classes: ['music'] }));
});

test('once it is known what is there twice, that is left out first', () => {
  const doubles = [{ class: 'photographs' as const, items: 40, bytes: 2e9 }];
  show(
    <FitLedger
      {...{ amounts, without, sparable: { doubles, videos: [] }, onLeaveOut: () => undefined }}
      device={withFree(12e9)}
    />,
  );
  expect(screen.getByText(/It fits without what is there twice \(2\.00 GB\)/)).toBeDefined();
  expect(screen.getByRole('heading', { name: '1.80 GB too much' })).toBeDefined();
});

test('what a rule leaves out is one of its sums', () => {
  const sparable = { doubles: [{ class: 'music' as const, items: 40, bytes: 2e9 }], videos: [] };
  show(
    <FitLedger
      {...{ amounts, sparable, without: { videosFrom: null, doubles: true }, onLeaveOut: null }}
      device={withFree(12e9)}
    />,
  );
  expect(screen.getByRole('heading', { name: 'It fits' })).toBeDefined();
  expect(screen.getByRole('row', { name: 'Left out: what is there twice −2.00 GB' })).toBeDefined();
});
