import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { freePort } from './free-port.js';

export const RADICALE_USER = 'ana';
export const RADICALE_PASSWORD = 'gull tide';

/** Address books and calendars of a made-up customer, by folder. */
const collections = {
  people: { tag: 'VADDRESSBOOK', 'D:displayname': 'People' },
  dates: {
    ...{ tag: 'VCALENDAR', 'D:displayname': 'Dates' },
    'C:supported-calendar-component-set': 'VEVENT',
  },
  jobs: {
    ...{ tag: 'VCALENDAR', 'D:displayname': 'Jobs' },
    'C:supported-calendar-component-set': 'VTODO',
  },
  memos: {
    ...{ tag: 'VCALENDAR', 'D:displayname': 'Memos' },
    'C:supported-calendar-component-set': 'VJOURNAL',
  },
};

export interface Radicale {
  address: string;
  /** Where one of its collections lies. */
  folderOf(name: keyof typeof collections): string;
  stop(): Promise<void>;
}

/** Radicale, Debian's CardDAV and CalDAV server, with a made-up customer: it judges what is asked of it. */
export async function startRadicale(): Promise<Radicale> {
  const folder = mkdtempSync(join(tmpdir(), 'cellar-radicale-'));
  const root = join(folder, 'collections/collection-root', RADICALE_USER);
  for (const [name, props] of Object.entries(collections)) {
    mkdirSync(join(root, name), { recursive: true });
    writeFileSync(join(root, name, '.Radicale.props'), JSON.stringify(props));
  }
  writeFileSync(join(folder, 'users'), `${RADICALE_USER}:${RADICALE_PASSWORD}\n`);
  const port = await freePort();
  const config = {
    server: { hosts: `127.0.0.1:${port}` },
    auth: {
      ...{ type: 'htpasswd', htpasswd_filename: join(folder, 'users') },
      ...{ htpasswd_encryption: 'plain', delay: 0 },
    },
    storage: { filesystem_folder: join(folder, 'collections') },
  };
  const lines = Object.entries(config).flatMap(([section, values]) => [
    `[${section}]`,
    ...Object.entries(values).map(([name, value]) => `${name} = ${value}`),
  ]);
  writeFileSync(join(folder, 'config'), `${lines.join('\n')}\n`);
  const radicale = spawn('radicale', ['--config', join(folder, 'config')], { stdio: 'ignore' });
  const address = `http://127.0.0.1:${port}/`;
  const answers = () =>
    fetch(address).then(
      () => true,
      () => false,
    );
  for (let tries = 0; !(await answers()); tries += 1) {
    if (tries > 300) throw new Error('Radicale does not answer');
    await sleep(100);
  }
  return {
    address,
    folderOf: (name) => join(root, name),
    async stop() {
      radicale.kill();
      if (radicale.exitCode === null && radicale.signalCode === null) await once(radicale, 'exit');
      rmSync(folder, { recursive: true, force: true });
    },
  };
}
