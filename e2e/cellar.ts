import { spawn, spawnSync, type SpawnSyncReturns } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { fileURLToPath } from 'node:url';
import { LIGHT_WORK } from './product.js';

export const CELLAR = fileURLToPath(new URL('../packages/cli/bin/cellar.mjs', import.meta.url));

/** Keys take little work: whoever types `cellar` hundreds of times waits for nothing else. */
export const LIGHT = ['--import', new URL(LIGHT_WORK, import.meta.url).href];

/** A scratch folder with a password, an escrow identity, and `cellar` to be called in it. */
export class Scratch {
  readonly folder = mkdtempSync(join(tmpdir(), 'cellar-scratch-'));
  readonly password = this.path('password.txt');
  readonly identity = this.path('identity.txt');
  readonly recipient: string;

  constructor() {
    writeFileSync(this.password, 'brass kettle seven moths\n');
    const made = spawnSync('age-keygen', ['-o', this.identity], { encoding: 'utf8' });
    this.recipient = /age1[0-9a-z]+/.exec(made.stderr)?.[0] ?? '';
  }

  path(...parts: string[]): string {
    return join(this.folder, ...parts);
  }

  cellar(...args: string[]): SpawnSyncReturns<string> {
    return spawnSync('node', [...LIGHT, CELLAR, ...args], { encoding: 'utf8', cwd: this.folder });
  }

  /** An ordinary command line. @throws Error when it fails. */
  shell(line: string): string {
    const { status, stdout, stderr } = spawnSync('bash', ['-c', `set -o pipefail; ${line}`], {
      encoding: 'utf8',
      cwd: this.folder,
    });
    if (status !== 0) throw new Error(`${line}: ${stderr}`);
    return stdout;
  }

  /** Begins a command and kills it with -9 after some milliseconds. @returns whether it had ended by itself. */
  async killedAfter(ms: number, ...args: string[]): Promise<boolean> {
    const child = spawn('node', [...LIGHT, CELLAR, ...args], {
      ...{ cwd: this.folder, stdio: 'ignore' },
    });
    const gone = new Promise<boolean>((resolve) =>
      child.once('exit', (_code, signal) => resolve(signal === null)),
    );
    await Promise.race([sleep(ms), gone]);
    child.kill('SIGKILL');
    return gone;
  }

  remove(): void {
    rmSync(this.folder, { recursive: true, force: true });
  }
}
