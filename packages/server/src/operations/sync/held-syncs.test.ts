import { linkDeviceSchema, problemOf, type SyncSetup } from '@bright-cellar/core';
import { expect, test } from 'vitest';
import { closePartner, fileOf, openFiles, setUpSync } from './held-syncs.js';

const [mine, other] = ['device-1', 'device-2'].map((id) => linkDeviceSchema.parse(id));
const way = { direction: 'both' as const, rule: 'ask' as const, without: [] };
const setup: SyncSetup = {
  books: [{ id: 'contacts', kind: 'contacts' }],
  ways: { contacts: way, events: way, tasks: way, notes: way },
};
const codeOf = (work: () => unknown): string => {
  try {
    work();
    return 'nothing';
  } catch (error) {
    return problemOf(error).code;
  }
};

test('books that were opened are for one device and one person, until they are closed', async () => {
  if (!mine || !other) throw new Error('none');
  const text = 'BEGIN:VCARD\r\nVERSION:3.0\r\nN:Ana;;;;\r\nFN:Ana\r\nEND:VCARD\r\n';
  const { id } = await openFiles({ technicianId: 'wren', deviceId: mine, text });
  expect(codeOf(() => setUpSync(id, 'wren', { deviceId: mine, setup }))).toBe('nothing');
  expect(codeOf(() => setUpSync(id, 'wren', { deviceId: other, setup }))).toBe('not-found');
  expect(codeOf(() => setUpSync(id, 'joss', { deviceId: mine, setup }))).toBe('not-found');
  expect(fileOf(id, 'wren', 'contacts').text).toContain('FN:Ana');
  expect(codeOf(() => fileOf(id, 'joss', 'contacts'))).toBe('not-found');
  closePartner(id, 'wren');
  expect(codeOf(() => fileOf(id, 'wren', 'contacts'))).toBe('not-found');
});
