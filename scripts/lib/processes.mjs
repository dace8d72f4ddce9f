// @ts-check
import { fork } from 'node:child_process';
import { createWriteStream } from 'node:fs';
import { clearInterval, setInterval } from 'node:timers';
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
/**
 * A process that died is started again after the first, and after twice as long each time that it does not last; one that ran
 * for so long lasted, and what happens to it next is a new misfortune. Processes say every five seconds that they are alive; one
 * that says nothing for `silentMs` hangs. A test that kills on purpose waits less.
 */
export const patience = { firstMs: 500, mostMs: 30_000, lastedMs: 60_000, silentMs: 60_000 };

/**
 * How long nothing was heard of something by who was awake to hear it: while this process itself stands still, as in a computer
 * that sleeps, nobody is silent.
 */
export class Silence {
  #ms = 0;
  #asked = performance.now();
  #everyMs;

  /** @param {number} everyMs how often it is asked */
  constructor(everyMs) {
    this.#everyMs = everyMs;
  }

  ends() {
    this.#ms = 0;
  }

  /** @returns {number} how long it has lasted, in ms */
  lasted() {
    const now = performance.now();
    // Asked much later than it should be, this process did not hear either.
    this.#ms += Math.min(now - this.#asked, 2 * this.#everyMs);
    this.#asked = now;
    return this.#ms;
  }
}

/** Waits longer and longer between tries, and begins anew once something lasted. */
export class Backoff {
  #wait = patience.firstMs;
  #since = 0;

  began() {
    this.#since = Date.now();
  }

  /** @returns {number} how long to wait before the next try, in ms */
  next() {
    if (Date.now() - this.#since > patience.lastedMs) this.#wait = patience.firstMs;
    const wait = this.#wait;
    this.#wait = Math.min(wait * 2, patience.mostMs);
    return wait;
  }
}

/**
 * One of the product's processes: started, awaited until ready, started again when it dies or hangs, as often as that
 * happens; stopped. Its log goes to a file.
 */
export class Keeper {
  /** @type {import('node:child_process').ChildProcess | null} */
  #child = null;
  #stopping = false;
  /** @type {NodeJS.Timeout | null} */
  #again = null;
  #backoff = new Backoff();
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

  /**
   * The first start: what is wrong with it is for whoever typed the command.
   * @returns {Promise<{ port?: number, deskPort?: number }>} what the process says when it is ready
   */
  async start() {
    const ready = await this.#spawn();
    return ready;
  }

  /** @returns {Promise<{ port?: number, deskPort?: number }>} */
  #spawn() {
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
    this.#backoff.began();
    child.stdout?.pipe(log);
    child.stderr?.pipe(log);
    const everyMs = patience.silentMs / 60;
    const silence = new Silence(everyMs);
    const health = setInterval(() => {
      if (silence.lasted() < patience.silentMs) return;
      process.stderr.write(`The ${this.#name} process hangs; ending it.\n`);
      child.kill('SIGKILL');
    }, everyMs);
    health.unref();
    let isReady = false;
    return new Promise((resolve, reject) => {
      child.on('message', (message) => {
        silence.ends();
        const said = /** @type {{ ready?: boolean, port?: number, deskPort?: number }} */ (message);
        if (!said.ready) return;
        isReady = true;
        resolve(said);
      });
      child.once('exit', () => {
        clearInterval(health);
        reject(new Sentence(`The ${this.#name} process did not start. See ${this.#log}`));
        if (isReady || this.#again !== null) this.#startAgain();
      });
    });
  }

  #startAgain() {
    if (this.#stopping) return;
    const wait = this.#backoff.next();
    process.stderr.write(`The ${this.#name} process ended; starting it again in ${wait} ms.\n`);
    this.#again = setTimeout(() => {
      if (this.#stopping) return;
      // One that does not come up is tried again when it ends.
      this.#spawn().catch(() => undefined);
    }, wait);
  }

  async stop() {
    this.#stopping = true;
    if (this.#again) clearTimeout(this.#again);
    const child = this.#child;
    if (!child || child.exitCode !== null || child.signalCode !== null) return;
    const ended = new Promise((resolve) => child.once('exit', resolve));
    child.kill('SIGTERM');
    const late = setTimeout(() => child.kill('SIGKILL'), STOP_MS);
    await ended;
    clearTimeout(late);
  }
}
