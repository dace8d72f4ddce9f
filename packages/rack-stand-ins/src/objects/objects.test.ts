import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, expect, test } from 'vitest';
import { startObjects } from './server.js';
import { Shelf } from './shelf.js';

const folder = mkdtempSync(join(tmpdir(), 'cellar-storage-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

test('what was put is there after another start, under its own key, and what was removed is not', () => {
  const key = `archives/${'long '.repeat(60)}/ü`;
  const first = new Shelf(folder);
  const { etag } = first.put(key, Buffer.from('one\ntwo'), 5);
  first.put('gone', Buffer.alloc(3), 6);
  first.remove('gone');
  const again = new Shelf(folder);
  expect(again.get(key)).toEqual({ bytes: Buffer.from('one\ntwo'), etag, at: 5 });
  expect(again.amount).toEqual({ objects: 1, bytes: 7 });
});

test('its page says what to type, and what goes wrong is set there', async () => {
  const login = { accessKey: 'counter', secretKey: '<&"' };
  const objects = await startObjects({ bucket: 'one', login, page: true });
  try {
    const page = await (await fetch(objects.address)).text();
    expect(page).toContain('<dd>&lt;&amp;"</dd>');
    await fetch(objects.address, {
      method: 'POST',
      body: new URLSearchParams({ slow: '20', fail: 'three', cut: '4', skew: '2' }),
    });
    expect(objects.faults).toEqual({ slowMs: 20, failEvery: 0, cutEvery: 4, skewMs: 120_000 });
    // The bucket itself is for whoever has the key, as before.
    expect((await fetch(`${objects.address}/one/`)).status).not.toBe(200);
  } finally {
    await objects.stop();
  }
});
