import { execFileSync } from 'node:child_process';
import { once } from 'node:events';
import {
  existsSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statfsSync,
  statSync,
  truncateSync,
  writeFileSync,
} from 'node:fs';
import { connect } from 'node:net';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { OpenArchive, verifyOpen, withPassword } from '@bright-cellar/archive';
import type { Archive, ArchiveRow, BenchView, Operation, Rack } from '@bright-cellar/contract';
import { Api } from './api.js';
import { eventually, openOwned, OWNED, PASSWORD, WIPED, type Product } from './product.js';

/** A random number out of a seed (mulberry32), so that a walk that found something can be walked again. */
export function randomFrom(seed: number): (below: number) => number {
  let state = seed >>> 0;
  return (below) => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = state;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return Math.floor((((t ^ (t >>> 14)) >>> 0) / 2 ** 32) * below);
  };
}

const SECOND_PASSWORD = 'another four words here';
/** Nothing may run longer than this once what was wrong is right again. */
const END_AT_MOST_MS = 90_000;

/** Everything a shop does, with everything that can go wrong in the middle of it, at random. */
export class FaultWalk {
  readonly #product: Product;
  readonly #api: Api;
  readonly #random: (below: number) => number;
  readonly #rack: string;
  /** Undoes damage, once what it led to was looked at. */
  #heal: (() => void) | null = null;
  /** The password that an archive was last opened with. */
  readonly #opens = new Map<string, string>();
  /** Undoes what is wrong now. */
  #mend: (() => Promise<void> | void) | null = null;
  readonly log: string[] = [];
  /** How often each thing was asked for, and what was answered: a walk that is always refused shows nothing. */
  readonly answers: Record<string, number> = {};

  constructor(product: Product, api: Api, seed: number) {
    this.#product = product;
    this.#api = api;
    this.#random = randomFrom(seed);
    this.#rack = join(product.data, 'racks/alder');
  }

  #pick<T>(all: readonly T[]): T | undefined {
    return all[this.#random(all.length)];
  }

  /** Asks for something; what the answer was is counted. */
  async #ask(what: string, path: string, body?: object): Promise<boolean> {
    return this.#answered(what, await this.#api.post<{ code?: string }>(path, body));
  }

  #answered(what: string, { status, body }: { status: number; body: object }): boolean {
    const answer: { code?: string } = body;
    const said = `${what} ${status === 200 ? 'taken' : (answer.code ?? status)}`;
    this.answers[said] = (this.answers[said] ?? 0) + 1;
    return status === 200;
  }

  /** One thing is done, something goes wrong in the middle of it, it is put right, and everything must be as it is said to be. */
  async step(): Promise<void> {
    const action = this.#pick(Object.keys(this.#actions)) ?? 'further';
    const fault = this.#pick(Object.keys(this.#faults)) ?? 'none';
    this.log.push(`${action}, ${fault}`);
    await this.#ready();
    // Whatever is asked while something is gone may be refused.
    const started = this.#actions[action]?.().catch(() => undefined);
    await sleep(this.#random(900));
    await this.#faults[fault]?.().catch(() => undefined);
    await sleep(this.#random(500));
    await this.#mend?.();
    this.#mend = null;
    await started;
    await this.#settle();
    await this.#check();
    this.#heal?.();
    this.#heal = null;
  }

  /** The passwords that may open an archive, the likelier first: whoever guesses is slowed down. */
  #passwords(archive: { id: string }): string[] {
    const last = this.#opens.get(archive.id) ?? PASSWORD;
    return [last, last === PASSWORD ? SECOND_PASSWORD : PASSWORD];
  }

  /** Asks with one password after the other until one is taken. */
  async #askWith(archive: { id: string }, ask: (password: string) => Promise<boolean>) {
    for (const password of this.#passwords(archive)) {
      if (!(await ask(password))) continue;
      this.#opens.set(archive.id, password);
      return;
    }
  }

  /** The devices as somebody would leave them: on their cables, open, with something new on the customer's. */
  async #ready(): Promise<void> {
    await eventually('the bench', async () => {
      try {
        await this.#product.press(OWNED, { do: 'plug', berth: 1 }).catch(() => undefined);
        await openOwned(this.#product);
        await this.#product.press(OWNED, { do: 'write-note', text: `step ${this.log.length}` });
        if (!(await this.#workAnswers())) return false;
        const { body } = await this.#api.get<BenchView>('/api/bench');
        return body.berths.some(({ device }) => device?.id === OWNED && device.lock === 'unlocked');
      } catch {
        return false;
      }
    });
  }

  #workAnswers(): Promise<boolean> {
    const socket = connect(join(this.#product.data, 'run/work.sock'));
    return once(socket, 'connect')
      .then(() => true)
      .catch(() => false)
      .finally(() => socket.destroy());
  }

  /** An empty device, as somebody would make one ready for a restore. */
  async #readyTarget(): Promise<void> {
    const press = (what: Parameters<Product['press']>[1]) =>
      this.#product.press(WIPED, what).catch(() => undefined);
    await press({ do: 'plug', berth: 2 });
    await press({ do: 'erase' });
    await eventually('an empty target', async () => {
      await press({ do: 'approve', passcode: '' });
      await press({ do: 'owner-lock-off' });
      await press({ do: 'charge', percent: 77 });
      const { body } = await this.#api.get<BenchView>('/api/bench');
      const device = body.berths.find((berth) => berth.device?.id === WIPED)?.device;
      return device?.empty === true && device.approval === 'approved';
    }).catch(() => undefined);
  }

  readonly #actions: Record<string, () => Promise<void>> = {
    backup: async () => {
      // A new archive now and then only: they pile up.
      const rows = await this.#archives();
      if (rows.length > 4) return this.#actions.further?.();
      this.#answered('backup', await this.#api.startBackup(await this.#api.openTicket(OWNED)));
    },
    further: async () => {
      const [archive] = await this.#archives();
      if (!archive) return this.#actions.backup?.();
      const ticket = await this.#api.openTicket(OWNED);
      await this.#askWith(archive, async (password) => {
        const wanted = { archiveId: archive.id, rackId: null, password };
        return this.#answered('further', await this.#api.startBackup(ticket, wanted));
      });
    },
    prove: async () => {
      const archive = this.#pick(await this.#archives());
      if (!archive) return;
      const { body } = await this.#api.get<Archive>(`/api/archives/${archive.id}`);
      const level = this.#random(4) === 0 ? 'sample' : 'full';
      await this.#askWith(archive, (password) =>
        this.#ask('prove', `/api/backups/${body.backups[0]?.id}/proofs`, { level, password }),
      );
    },
    password: async () => {
      const archive = this.#pick(await this.#archives());
      if (!archive) return;
      const [from = '', to = ''] = this.#passwords(archive);
      const given = { password: from, newPassword: to, passwordHolder: 'shop', reminder: '' };
      if (await this.#ask('password', `/api/archives/${archive.id}/holder`, given))
        this.#opens.set(archive.id, to);
    },
    package: async () => {
      const archive = this.#pick(await this.#archives());
      if (!archive) return;
      const { body } = await this.#api.get<Archive>(`/api/archives/${archive.id}`);
      const { body: racks } = await this.#api.get<Rack[]>('/api/racks');
      const rackId = racks[1]?.id;
      await this.#askWith(archive, (password) =>
        this.#ask('export', `/api/backups/${body.backups[0]?.id}/exports`, { rackId, password }),
      );
    },
    restore: async () => {
      const archive = this.#pick(await this.#archives());
      if (!archive) return;
      await this.#readyTarget();
      const { body } = await this.#api.get<Archive>(`/api/archives/${archive.id}`);
      const to = { deviceId: WIPED, serialTail: '0T57' };
      await this.#askWith(archive, (password) =>
        this.#ask('restore', `/api/backups/${body.backups[0]?.id}/restores`, { ...to, password }),
      );
    },
    goOn: async () => {
      const cut = (await this.#operations()).find((o) => o.keptBytes !== null);
      if (!cut) return this.#actions.further?.();
      for (const password of [PASSWORD, SECOND_PASSWORD]) {
        const path = `/api/operations/${cut.id}/continue`;
        if (await this.#ask('go on', path, { password })) return;
      }
    },
    giveUp: async () => {
      const cut = (await this.#operations()).find((o) => o.keptBytes !== null);
      if (!cut) return this.#actions.prove?.();
      await this.#ask('give up', `/api/operations/${cut.id}/discard`);
    },
  };

  readonly #faults: Record<string, () => Promise<void>> = {
    none: async () => undefined,
    killWork: async () => this.#kill(this.#product.workPid(), 'SIGKILL'),
    killServer: async () => this.#kill(this.#product.serverPid(), 'SIGKILL'),
    killBench: async () => this.#kill(this.#product.benchPid(), 'SIGKILL'),
    killDatabase: async () => this.#kill(this.#product.databasePid(), 'SIGKILL'),
    pauseWork: async () => this.#pause(this.#product.workPid()),
    pauseDatabase: async () => this.#pause(this.#product.databasePid()),
    cable: async () => {
      await this.#product.press(OWNED, { do: 'pull-cable' }).catch(() => undefined);
    },
    lock: async () => {
      await this.#product.press(OWNED, { do: 'lock' }).catch(() => undefined);
    },
    stop: async () => {
      for (const { id, state } of await this.#operations()) {
        if (state === 'running') await this.#api.post(`/api/operations/${id}/stop`);
      }
    },
    fill: async () => {
      const filler = join(this.#rack, '.filler');
      const { bavail, bsize } = statfsSync(this.#rack);
      // First how it goes away again: whatever else is written now may be what does not fit any more.
      this.#mend = () => rmSync(filler, { force: true });
      writeFileSync(filler, Buffer.alloc(Math.max(0, bavail * bsize)));
    },
    readOnly: async () => {
      execFileSync('mount', ['-o', 'remount,ro', this.#rack]);
      this.#mend = () => void execFileSync('mount', ['-o', 'remount,rw', this.#rack]);
    },
    unmount: async () => {
      // The drive goes, and its folder stays.
      execFileSync('mount', ['--move', this.#rack, this.#aside]);
      this.#mend = () => void execFileSync('mount', ['--move', this.#aside, this.#rack]);
    },
    flip: async () =>
      this.#damage((path) => {
        const bytes = Buffer.from(readFileSync(path));
        const at = this.#random(bytes.length);
        bytes.writeUInt8(bytes.readUInt8(at) ^ (1 << this.#random(8)), at);
        writeFileSync(path, bytes);
      }),
    truncate: async () =>
      this.#damage((path) => truncateSync(path, this.#random(statSync(path).size))),
    swap: async () => {
      const [one, other] = this.#folders();
      if (!one || !other) return;
      const aside = `${one}.aside`;
      const swap = () => {
        renameSync(one, aside);
        renameSync(other, one);
        renameSync(aside, other);
      };
      swap();
      this.#mend = swap;
    },
  };

  get #aside(): string {
    return join(this.#product.data, 'aside');
  }

  #kill(pid: number | null, signal: NodeJS.Signals): void {
    try {
      if (pid) process.kill(pid, signal);
    } catch {
      // It was gone already.
    }
  }

  #pause(pid: number | null): void {
    this.#kill(pid, 'SIGSTOP');
    this.#mend = () => this.#kill(pid, 'SIGCONT');
  }

  #folders(): string[] {
    return readdirSync(this.#rack)
      .filter((name) => /^\d/.test(name))
      .map((name) => join(this.#rack, name));
  }

  #damage(how: (path: string) => void): void {
    const folder = this.#pick(this.#folders());
    if (!folder) return;
    const files = readdirSync(join(folder, 'data'), { recursive: true })
      .map((name) => join(folder, 'data', String(name)))
      .filter((path) => statSync(path).isFile() && statSync(path).size > 0);
    const file = this.#pick(files);
    if (!file) return;
    const good = readFileSync(file);
    how(file);
    const bad = readFileSync(file);
    // Put right before the next step, unless it was replaced meanwhile: otherwise all that follows is refused.
    this.#heal = () => {
      if (existsSync(file) && readFileSync(file).equals(bad)) writeFileSync(file, good);
    };
  }

  async #archives(): Promise<ArchiveRow[]> {
    return (await this.#api.get<ArchiveRow[]>('/api/archives')).body;
  }

  async #operations(): Promise<Operation[]> {
    const all: Operation[] = [];
    const { body: tickets } = await this.#api.get<{ number: string }[]>('/api/tickets');
    for (const { number } of tickets.slice(0, 6)) {
      const { body } = await this.#api.get<{ operations?: Operation[] }>(`/api/tickets/${number}`);
      all.push(...(body.operations ?? []));
    }
    return all;
  }

  /** Everything answers again, and nothing runs any more. */
  async #settle(): Promise<void> {
    const began = Date.now();
    await eventually(
      `the end of everything after ${this.log.at(-1)}`,
      async () => {
        const { status, body } = await this.#api
          .get<Operation[]>('/api/operations')
          .catch(() => ({ status: 0, body: [] as Operation[] }));
        if (status !== 200) return false;
        if (body.length === 0) return true;
        // What would go on for long is asked to stop: that works, whatever happened.
        if (Date.now() - began > 6_000) {
          for (const { id } of body)
            await this.#api.post(`/api/operations/${id}/stop`).catch(() => undefined);
        }
        return false;
      },
      END_AT_MOST_MS,
    );
  }

  /** What is said to be proven is whole on the medium; where an erase is allowed, what it rests on is. */
  async #check(): Promise<void> {
    for (const row of await this.#archives()) {
      const { body: archive } = await this.#api.get<Archive>(`/api/archives/${row.id}`);
      const proven = archive.backups.filter(
        (backup) =>
          backup.proofs[0]?.outcome === 'whole' &&
          backup.proofs[0].level === 'full' &&
          backup.proofs[0].current,
      );
      if (proven.length === 0 || /flip|truncate/.test(this.log.at(-1) ?? '')) continue;
      await this.#mustBeWhole(
        archive,
        proven.map(({ id }) => id),
      );
    }
    const { body } = await this.#api.get<{ allowed: boolean }>(`/api/devices/${OWNED}/erase`);
    if (body.allowed) this.log.push('an erase would be allowed');
  }

  async #mustBeWhole(archive: Archive, ids: string[]): Promise<void> {
    const folder = join(this.#rack, archive.copies[0]?.folder ?? '');
    for (const password of this.#passwords(archive)) {
      const open = await OpenArchive.open(folder, withPassword(password), { threads: 0 }).catch(
        () => null,
      );
      if (!open) continue;
      try {
        const { contents } = await verifyOpen(open, { level: 'full', threads: 0 });
        for (const id of ids) {
          const found = contents?.backups.find(({ backup }) => backup === id);
          // Damage that was done after the proof is not the program's word: it is told by the next proof.
          if (!found?.whole && !this.#wasDamaged)
            throw new Error(`said to be proven, and is not: ${id}`);
        }
        return;
      } finally {
        await open.close();
      }
    }
    if (!this.#wasDamaged) throw new Error(`no password opens ${archive.id}`);
  }

  get #wasDamaged(): boolean {
    return /flip|truncate/.test(this.log.at(-1) ?? '');
  }
}

/** A rack that is a drive of its own: it can fill up, turn read-only and leave. Only root may make one. */
export function mountRack(rack: string, aside: string): () => void {
  const kept = readFileSync(join(rack, '.bright-cellar-rack'));
  execFileSync('mkdir', ['-p', aside]);
  execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=240m,mode=0700', 'tmpfs', rack]);
  writeFileSync(join(rack, '.bright-cellar-rack'), kept, { mode: 0o600 });
  return () => {
    for (const folder of [rack, aside]) {
      try {
        execFileSync('umount', ['-l', folder], { stdio: 'ignore' });
      } catch {
        // Not mounted.
      }
    }
  };
}
