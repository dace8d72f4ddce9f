import { createHash } from 'node:crypto';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Failure } from '@bright-cellar/core';
import { afterAll, describe, expect, test } from 'vitest';
import { zipStream } from '../../kernel/zip-stream.js';
import { OpenPackage } from './open-package.js';

const folder = await mkdtemp(join(tmpdir(), 'cellar-package-'));
afterAll(() => rm(folder, { recursive: true }));

const sha512 = (text: string) => createHash('sha512').update(text).digest('hex');
const device = { family: 'marl', model: 'Fell 3', serial: 'MF3-70214-KX', osVersion: '9.1' };
const described = (path: string, text: string) => ({
  ...{ path, bytes: Buffer.byteLength(text), sha512: sha512(text) },
  modified: '2026-11-20T10:00:00.000Z',
});
const manifestOf = (files: object[], more: object = {}) => ({
  ...{ format: 'application-package', version: 1, id: 'crossword', name: 'Crossword', device },
  ...{ files, ...more },
});

/** A package with those files in it, whatever its manifest says of them. */
async function packed(files: Record<string, string>, manifest: unknown): Promise<string> {
  const path = join(folder, `${Math.random()}.application.zip`);
  await writeFile(
    path,
    zipStream((put) => {
      const all = { ...files, 'manifest.json': JSON.stringify(manifest) };
      for (const [name, text] of Object.entries(all)) {
        put(name, {}, async function* () {
          yield Buffer.from(text);
        });
      }
    }),
  );
  return path;
}
const never = new AbortController().signal;
const refused = async (path: string) =>
  OpenPackage.open(path).then(
    async (one) => {
      const outcome = await one.check(() => undefined, never).catch((error: unknown) => error);
      one.close();
      return outcome instanceof Failure ? outcome.problem.code : 'whole';
    },
    (error: unknown) => (error instanceof Failure ? error.problem.code : String(error)),
  );

describe('a package of an application', () => {
  test('gives its files, each as it was', async () => {
    const path = await packed(
      { 'data/scores.json': '{"best":7}', 'data/levels/1.json': '{}' },
      manifestOf([described('scores.json', '{"best":7}'), described('levels/1.json', '{}')]),
    );
    const one = await OpenPackage.open(path);
    const pieces: Uint8Array[] = [];
    for await (const piece of one.contents('scores.json')) pieces.push(piece);
    expect(Buffer.concat(pieces).toString()).toBe('{"best":7}');
    expect(one.manifest.applicationVersion).toBeNull();
    expect(one.bytes).toBe(12);
    one.close();
    expect(await refused(path)).toBe('whole');
  });

  test.each([
    ['a file that is not what its digest says', { 'data/a': 'other' }, [described('a', 'thing')]],
    ['a file that is longer than it said', { 'data/a': 'longer' }, [described('a', 'long')]],
    ['a file that is missing', {}, [described('a', 'thing')]],
    ['the same file twice', { 'data/a': 'x' }, [described('a', 'x'), described('a', 'x')]],
    ['a way out of its folder', { 'data/b': 'x' }, [described('../b', 'x')]],
    ['an absolute path', { 'data/etc/b': 'x' }, [described('/etc/b', 'x')]],
    ['a path with nothing between', { 'data/a//b': 'x' }, [described('a//b', 'x')]],
  ] as const)('with %s is refused', async (_, files, list) => {
    expect(await refused(await packed(files, manifestOf([...list])))).toBe('package-damaged');
  });

  test.each([
    ['of another format', { format: 'something' }],
    ['of a later version', { version: 2 }],
    ['whose application is a path', { id: '../../etc' }],
  ])('%s is refused', async (_, more) => {
    const path = await packed({ 'data/a': 'x' }, manifestOf([described('a', 'x')], more));
    expect(await refused(path)).toBe('package-damaged');
  });

  test('that is cut short, or nothing of the kind, is refused', async () => {
    const path = join(folder, 'cut.application.zip');
    await writeFile(path, 'PK\u0003\u0004 and nothing more');
    expect(await refused(path)).toBe('package-damaged');
    await writeFile(path, '');
    expect(await refused(path)).toBe('package-damaged');
  });
});
