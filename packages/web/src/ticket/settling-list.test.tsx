import { screen } from '@testing-library/react';
import { expect, test } from 'vitest';
import { show } from '../testing/show.js';
import { SettlingList } from './settling-list.js';

test('what the device asked, what it asks, and how far its applications are', () => {
  show(
    <SettlingList
      steps={[
        { id: 'passcode', done: 1, of: 1 },
        { id: 'applications', done: 3, of: 12 },
      ]}
    />,
  );
  expect(screen.getByLabelText('done').parentElement?.textContent).toBe('Passcode');
  expect(screen.getByLabelText('open').parentElement?.textContent).toBe('Applications3 of 12');
  expect(screen.getByText(/stands on their handover sheet/)).toBeDefined();
});

test('a device that asks for nothing more is ready', () => {
  show(<SettlingList steps={[{ id: 'wifi', done: 1, of: 1 }]} />);
  expect(screen.getByText('It is ready to be handed over.')).toBeDefined();
});
