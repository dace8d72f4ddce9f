import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { startObjects } from './objects/server.js';

/** The demo's rented storage: `node dist/main.js --port 4682 --data DIR`. Keeps its key and its objects there. */
const { values } = parseArgs({
  options: { port: { type: 'string', default: '4682' }, data: { type: 'string' } },
});
if (!values.data) throw new Error('the storage needs --data DIR');
mkdirSync(values.data, { recursive: true, mode: 0o700 });
const keyFile = join(values.data, 'key');
if (!existsSync(keyFile)) {
  writeFileSync(keyFile, randomBytes(16).toString('hex'), { mode: 0o600 });
}

// Whoever keeps this process running ends one that has nothing to say for a minute.
setInterval(() => {
  if (process.connected) process.send?.({ alive: true });
}, 5000).unref();

await startObjects({
  bucket: 'harrow-street',
  login: { accessKey: 'counter', secretKey: readFileSync(keyFile, 'utf8') },
  port: Number(values.port),
  folder: join(values.data, 'objects'),
  page: true,
});
process.send?.({ ready: true, port: Number(values.port) });
