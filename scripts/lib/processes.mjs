// @ts-check
import { fork } from 'node:child_process';
import { createWriteStream } from 'node:fs';
import { Sentence } from './say.mjs';

/** @param {number} pid */
export function isAlive(pid) {
  try {
    process.kill(pid, 0);
    return true;
  } catch {
    return false;
  }
}

const STOP_MS = 20_000;
const AGAIN_MS = 500;

/**
 * One of the product's processes: started, awaited until ready, started again when it dies, stopped.
 * Its log goes to a file.
 */
export class Keeper {
  /** @type {import('node:child_process').ChildProcess | null} */
  #child = null;
  #stopping = false;
  #name;
  #script;
  #args;
  #env;
  #log;

  /**
   * @param {{ name: string, script: string, args?: string[], env: Record<string, string>, log: string }} what
   */
  constructor({ name, script, args = [], env, log }) {
    this.#name = name;
    this.#script = script;
    this.#args = args;
    this.#env = env;
    this.#log = log;
  }

  get pid() {
    return this.#child?.pid ?? null;
  }

  /** @returns {Promise<{ port?: number }>} what the process says when it is ready */
  async start() {
    const log = createWriteStream(this.#log, { flags: 'a' });
    const child = fork(this.#script, this.#args, {
      env: { ...process.env, ...this.#env },
      stdio: ['ignore', 'pipe', 'pipe', 'ipc'],
      // Flags of whoever starts this, a test runner's for one, are not for the product.
      execArgv: [],
      // Its own group: Ctrl-C is for the start command, which stops everything in order.
      detached: true,
    });
    this.#child = child;
    child.stdout?.pipe(log);
    child.stderr?.pipe(log);
    /** @type {{ port?: number }} */
    const ready = await new Promise((resolve, reject) => {
      child.once('message', (message) => resolve(/** @type {{ port?: number }} */ (message)));
      child.once('exit', () =>
        reject(new Sentence(`The ${this.#name} process did not start. See ${this.#log}`)),
      );
    });
    child.once('exit', () => {
      if (this.#stopping) return;
      process.stderr.write(`The ${this.#name} process ended; starting it again.\n`);
      setTimeout(() => {
        if (!this.#stopping)
          this.start().catch((error) => process.stderr.write(`${error.message}\n`));
      }, AGAIN_MS);
    });
    return ready;
  }

  async stop() {
    this.#stopping = true;
    const child = this.#child;
    if (!child || child.exitCode !== null || child.signalCode !== null) return;
    const ended = new Promise((resolve) => child.once('exit', resolve));
    child.kill('SIGTERM');
    const late = setTimeout(() => child.kill('SIGKILL'), STOP_MS);
    await ended;
    clearTimeout(late);
  }
}
