// @ts-check
import { execFileSync } from 'node:child_process';
import { chmodSync, chownSync, existsSync, mkdirSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { portFrom, typedOptions } from './lib/running.mjs';
import { runMain, say, Sentence } from './lib/say.mjs';
import { serviceUnit } from './lib/service-unit.mjs';
import { build, ensurePackages, ROOT } from './lib/setup.mjs';

const UNIT = '/etc/systemd/system/bright-cellar.service';
const USER = 'bright-cellar';

/** `npm run install-service`: the product starts with the computer, as a user of its own. As root; says what it did. */
await runMain(async () => {
  const { port, data, print } = readOptions();
  const unit = serviceUnit({ node: process.execPath, root: ROOT, data, port, user: USER });
  if (print) {
    process.stdout.write(unit);
    return;
  }
  if (process.getuid?.() !== 0) {
    throw new Sentence('A service is installed by root: run it with sudo, or see it with --print.');
  }
  await ensurePackages(['mariadb-server-core', 'mariadb-client-core', 'mariadb-client']);
  build();
  if (!userId()) {
    execFileSync('useradd', ['--system', '--home-dir', data, '--shell', '/usr/sbin/nologin', USER]);
    say(`Made the user ${USER}`);
  }
  const id = userId();
  if (!id) throw new Sentence(`The user ${USER} could not be made.`);
  mustBeReadable();
  mkdirSync(data, { recursive: true, mode: 0o700 });
  chownSync(data, id.user, id.group);
  chmodSync(data, 0o700);
  writeFileSync(UNIT, unit, { mode: 0o644 });
  say(`Wrote ${UNIT}`);
  if (existsSync('/run/systemd/system')) {
    execFileSync('systemctl', ['daemon-reload']);
    say('Start it with: systemctl enable --now bright-cellar');
  } else {
    say('systemd does not run here: it is started with the computer that it runs on.');
  }
  say('The code of the first visit stands in: journalctl -u bright-cellar');
});

/** The program lies where the service’s user can read it: not in somebody’s home. */
function mustBeReadable() {
  try {
    const start = join(ROOT, 'scripts/start.mjs');
    execFileSync('runuser', ['-u', USER, '--', 'test', '-r', start], { stdio: 'ignore' });
  } catch {
    throw new Sentence(
      `The user ${USER} cannot read ${ROOT}: put the program somewhere that everybody may read, such as /opt/bright-cellar, and install it from there.`,
    );
  }
}

/** @returns {{ user: number, group: number } | null} */
function userId() {
  try {
    const line = execFileSync('getent', ['passwd', USER], { encoding: 'utf8' });
    const [, , user, group] = line.split(':');
    return { user: Number(user), group: Number(group) };
  } catch {
    return null;
  }
}

function readOptions() {
  const values = typedOptions(
    {
      port: { type: 'string', default: '4680' },
      data: { type: 'string', default: '/var/lib/bright-cellar' },
      print: { type: 'boolean', default: false },
    },
    'npm run install-service -- [--port N] [--data DIR] [--print]',
  );
  return { port: portFrom(values.port, 4), data: resolve(values.data), print: values.print };
}
