import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { mediaTypes, parseRecords } from '@bright-cellar/core/formats';
import { afterAll, expect, test } from 'vitest';
import { quillonTakes } from './family-takes.js';
import { keepOwnLetters } from './own-letters.js';

const root = mkdtempSync(join(tmpdir(), 'cellar-letters-'));
afterAll(() => rmSync(root, { recursive: true, force: true }));

test('a handset shortens what its database has no room for, and nothing else', async () => {
  mkdirSync(join(root, 'contacts/NamesDB'), { recursive: true });
  const card = (name: string) =>
    `BEGIN:VCARD\r\nVERSION:2.1\r\nN:${name};Ana\r\nX-OWN:1\r\nEND:VCARD\r\n`;
  const path = 'contacts/NamesDB/0001.vcf';
  writeFileSync(join(root, path), card('Fernhill'));
  await keepOwnLetters(root, path, quillonTakes);
  expect(readFileSync(join(root, path), 'latin1')).toBe(card('Fernhill'));
  writeFileSync(join(root, path), card('Fernhill-Quayle of Upper Fernhill'));
  await keepOwnLetters(root, path, quillonTakes);
  const kept = parseRecords(mediaTypes.oldVcard, readFileSync(join(root, path)), path);
  expect(kept).toMatchObject({ contacts: [{ name: 'Ana Fernhill-Quayle of Upper Fer' }] });
});
