import { mkdtempSync, readdirSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, expect, test } from 'vitest';
import { openInstallation, openSecret, sealSecret } from './installation.js';

const folder = mkdtempSync(join(tmpdir(), 'cellar-installation-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

test('a secret opens with the key of its installation, and with no other, and not when it was changed', () => {
  openInstallation(join(folder, 'one'));
  const sealed = sealSecret('what the box wants to hear');
  expect(sealed).not.toContain('box');
  expect(sealSecret('what the box wants to hear')).not.toBe(sealed);
  // As the next start finds it.
  openInstallation(join(folder, 'one'));
  expect(openSecret(sealed)).toBe('what the box wants to hear');
  const changed = Buffer.from(sealed, 'base64');
  changed.writeUInt8(changed.readUInt8(20) ^ 1, 20);
  expect(() => openSecret(changed.toString('base64'))).toThrow();
  openInstallation(join(folder, 'other'));
  expect(() => openSecret(sealed)).toThrow();
});

test('the key is for its owner alone, and nothing else is left', () => {
  openInstallation(join(folder, 'one'));
  expect(readdirSync(join(folder, 'one'))).toEqual(['installation.key']);
  expect(statSync(join(folder, 'one/installation.key')).mode & 0o777).toBe(0o600);
});
