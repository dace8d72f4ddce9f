import { execFileSync, spawn, type ChildProcess } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { connect } from 'node:net';
import { tmpdir, userInfo } from 'node:os';
import { join } from 'node:path';
import { once } from 'node:events';
import { setTimeout as sleep } from 'node:timers/promises';
import { freePort } from './free-port.js';

/** Debian's OpenSSH server on loopback, as a box on the shop's network is. */
export interface Box {
  /** Folder of this computer that it shows. */
  folder: string;
  host: string;
  port: number;
  user: string;
  /** SHA-256, base64, as `ssh-keygen -l` prints it. */
  hostKey: string;
  /** What its user signs in with, as OpenSSH writes it; and the file that it is in. */
  privateKey: string;
  keyFile: string;
  /** Breaks every session, as a pulled cable does. */
  cut(): void;
  /** How many there are. */
  sessions(): number;
  stop(): void;
}

export async function startBox(): Promise<Box> {
  const folder = mkdtempSync(join(tmpdir(), 'cellar-box-'));
  const etc = join(folder, 'etc');
  mkdirSync(etc, { mode: 0o700 });
  mkdirSync(join(folder, 'shown'), { mode: 0o700 });
  // What OpenSSH wants where it parts with its rights.
  if (process.getuid?.() === 0) mkdirSync('/run/sshd', { recursive: true, mode: 0o755 });
  const newKey = (name: string) =>
    execFileSync('ssh-keygen', ['-q', '-t', 'ed25519', '-N', '', '-f', join(etc, name)]);
  newKey('host');
  newKey('user');
  writeFileSync(join(etc, 'authorized'), readFileSync(join(etc, 'user.pub')), { mode: 0o600 });
  const { server, port } = await serve(etc);
  const line = execFileSync('ssh-keygen', ['-l', '-f', join(etc, 'host.pub')], {
    encoding: 'utf8',
  });
  return {
    ...{ folder: join(folder, 'shown'), host: '127.0.0.1', port, user: userInfo().username },
    hostKey: /SHA256:(\S+)/.exec(line)?.[1] ?? '',
    privateKey: readFileSync(join(etc, 'user'), 'utf8'),
    keyFile: join(etc, 'user'),
    cut() {
      for (const pid of childrenOf(server.pid ?? 0)) killIfThere(pid);
    },
    sessions: () => childrenOf(server.pid ?? 0).length,
    stop() {
      server.kill();
      rmSync(folder, { recursive: true, force: true });
    },
  };
}

/** On a port that is free; where somebody else takes it meanwhile, on another. */
async function serve(etc: string): Promise<{ server: ChildProcess; port: number }> {
  for (let tries = 0; tries < TRIES; tries++) {
    const port = await freePort();
    const settings = {
      ...{ Port: port, ListenAddress: '127.0.0.1', HostKey: join(etc, 'host'), UsePAM: 'no' },
      ...{ AuthorizedKeysFile: join(etc, 'authorized'), PidFile: 'none', StrictModes: 'no' },
      ...{ PasswordAuthentication: 'no', Subsystem: 'sftp internal-sftp', MaxStartups: 100 },
    };
    const lines = Object.entries(settings).map(([name, value]) => `${name} ${value}\n`);
    writeFileSync(join(etc, 'config'), lines.join(''));
    const server = spawn('/usr/sbin/sshd', ['-D', '-e', '-f', join(etc, 'config')], {
      stdio: 'ignore',
    });
    for (let looks = 0; looks < LOOKS && server.exitCode === null; looks++) {
      if (await answers(port)) return { server, port };
      await sleep(50);
    }
    server.kill();
  }
  throw new Error('OpenSSH did not start');
}

const TRIES = 4;
const LOOKS = 200;

/** Each session of the server is a process of its own. */
const childrenOf = (pid: number): number[] =>
  readFileSync(`/proc/${pid}/task/${pid}/children`, 'utf8').split(' ').filter(Boolean).map(Number);

/** A session may end by itself meanwhile. */
function killIfThere(pid: number): void {
  try {
    process.kill(pid);
  } catch (error) {
    if (!(error instanceof Error && 'code' in error && error.code === 'ESRCH')) throw error;
  }
}

async function answers(port: number): Promise<boolean> {
  const socket = connect(port, '127.0.0.1');
  try {
    await once(socket, 'data');
    return true;
  } catch {
    return false;
  } finally {
    socket.destroy();
  }
}
