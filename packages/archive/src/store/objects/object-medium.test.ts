import { randomBytes, randomUUID } from 'node:crypto';
import { startObjects } from '@bright-cellar/rack-stand-ins';
import { afterAll, expect, test } from 'vitest';
import { ObjectMedium } from './object-medium.js';

const login = { accessKey: 'shop', secretKey: 'a key of the storage' };
const storage = await startObjects({ bucket: 'cellar', login });
afterAll(() => storage.stop());

/** As long as a part of an upload. */
const PART = 8 * 2 ** 20;

test('an upload that was cut off goes on with the part that it was at, however many came before', async () => {
  const medium = new ObjectMedium({
    ...{ kind: 'objects', endpoint: storage.address, region: 'here', bucket: 'cellar', login },
    ...{ prefix: `${randomUUID()}/`, capacity: 2 ** 30, workRoot: '/nowhere' },
  });
  const parts = Array.from({ length: 5 }, () => randomBytes(PART));
  const end = randomBytes(10);
  /** Cut off after so many parts, unless that is all. */
  async function* sent(count: number) {
    for (const part of parts.slice(0, count)) yield part;
    if (count < parts.length) throw new Error('pulled');
    yield end;
  }
  await expect(medium.put('long', sent(4), 'if-absent')).rejects.toThrow('pulled');
  expect(await medium.list('')).toEqual([]);

  const before = storage.received;
  await medium.put('long', sent(parts.length), 'if-absent');
  expect(storage.received - before).toBeLessThan(2 * PART);
  const file = await medium.open('long');
  const whole = Buffer.concat([...parts, end]);
  const there = Buffer.alloc(whole.length + 1);
  let length = 0;
  for (let read; (read = await file.read(there.subarray(length), length)) > 0;) length += read;
  expect(there.subarray(0, length).equals(whole)).toBe(true);
  file.close();
});
