import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { readIdentity, readPassword, readSecret, requireSecret } from './secrets.js';
import { UsageError } from './usage.js';

let folder: string;
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'cellar-secrets-'));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

function file(name: string, contents: string): string {
  const path = join(folder, name);
  writeFileSync(path, contents, { mode: 0o600 });
  return path;
}

describe('a password file', () => {
  test.each([
    ['with a line end', 'four words and more\n', 'four words and more'],
    ['without one', 'four words and more', 'four words and more'],
    ['from another system', 'four words\r\nsecond line\r\n', 'four words'],
    ['with spaces that belong to it', '  kept  \nrest', '  kept  '],
  ])('%s holds its first line', async (name, contents, password) => {
    await expect(readPassword(file(name, contents))).resolves.toBe(password);
  });

  test.each([
    ['empty', ''],
    ['with an empty first line', '\nsecond'],
  ])('%s is a mistake of the caller', async (name, contents) => {
    await expect(readPassword(file(name, contents))).rejects.toThrow(UsageError);
  });

  test('that is not there is named; what is in one never is', async () => {
    await expect(readPassword(join(folder, 'none.txt'))).rejects.toThrow(
      /none\.txt cannot be read/,
    );
    const path = file('empty-but-long', '\nthe second line is lantern');
    const error: unknown = await readPassword(path).catch((thrown: unknown) => thrown);
    expect(String(error)).not.toContain('lantern');
  });
});

describe('an identity file', () => {
  const identity = `AGE-SECRET-KEY-1${'Q'.repeat(58)}`;

  test('is what age-keygen writes, comments before it', async () => {
    const path = file('id', `# created: 2026-01-02\n# public key: age1x\n${identity}\n`);
    await expect(readIdentity(path)).resolves.toBe(identity);
  });

  test('without an identity is a mistake of the caller, and is not shown', async () => {
    const path = file('no-id', 'hello there\n');
    const error: unknown = await readIdentity(path).catch((thrown: unknown) => thrown);
    expect(error).toBeInstanceOf(UsageError);
    expect(String(error)).not.toContain('hello');
  });
});

describe('who opens', () => {
  test('the password file counts before the identity file', async () => {
    const options = { passwordFile: file('p', 'x y z\n'), identityFile: file('i', 'nothing') };
    await expect(readSecret(options)).resolves.toEqual({ kind: 'password', password: 'x y z' });
  });

  test('nobody, where neither was given; a command that needs one says so', async () => {
    await expect(readSecret({})).resolves.toBeNull();
    await expect(requireSecret({})).rejects.toThrow(UsageError);
  });
});
