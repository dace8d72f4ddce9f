import { execFileSync } from 'node:child_process';
import {
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statfsSync,
  statSync,
  truncateSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { OpenArchive, verifyOpen, withPassword } from '@bright-cellar/archive';
import type { Archive, ArchiveRow, BenchView, Operation, Rack } from '@bright-cellar/contract';
import { Api } from './api.js';
import {
  eventually,
  openOwned,
  OWNED,
  PASSCODE,
  PASSWORD,
  WIPED,
  type Product,
} from './product.js';

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
  /** Undoes what is wrong now. */
  #mend: (() => Promise<void> | void) | null = null;
  readonly log: string[] = [];

  constructor(product: Product, api: Api, seed: number) {
    this.#product = product;
    this.#api = api;
    this.#random = randomFrom(seed);
    this.#rack = join(product.data, 'racks/alder');
  }

  #pick<T>(all: readonly T[]): T | undefined {
    return all[this.#random(all.length)];
  }

  /** One thing is done, something goes wrong in the middle of it, it is put right, and everything must be as it is said to be. */
  async step(): Promise<void> {
    const action = this.#pick(Object.keys(this.#actions)) ?? 'further';
    const fault = this.#pick(Object.keys(this.#faults)) ?? 'none';
    this.log.push(`${action}, ${fault}`);
    await this.#ready();
    // Whatever is asked while something is gone may be refused.
    const started = this.#actions[action]?.().catch(() => undefined);
    await sleep(this.#random(1200));
    await this.#faults[fault]?.().catch(() => undefined);
    await sleep(this.#random(800));
    await this.#mend?.();
    this.#mend = null;
    await started;
    await this.#settle();
    await this.#check();
  }

  /** The devices as somebody would leave them: on their cables, open, with something new on the customer's. */
  async #ready(): Promise<void> {
    await eventually('the bench', async () => {
      try {
        await this.#product.press(OWNED, { do: 'plug', berth: 1 }).catch(() => undefined);
        await openOwned(this.#product);
        await this.#product.press(OWNED, { do: 'write-note', text: `step ${this.log.length}` });
        const { body } = await this.#api.get<BenchView>('/api/bench');
        return body.berths.some(({ device }) => device?.id === OWNED && device.lock === 'unlocked');
      } catch {
        return false;
      }
    });
  }

  readonly #actions: Record<string, () => Promise<void>> = {
    backup: async () => {
      // A new archive now and then only: they pile up.
      const rows = await this.#archives();
      if (rows.length > 4) return this.#actions.further?.();
      await this.#api.startBackup(await this.#api.openTicket(OWNED));
    },
    further: async () => {
      const [archive] = await this.#archives();
      if (!archive) return this.#actions.backup?.();
      const ticket = await this.#api.openTicket(OWNED);
      for (const password of [PASSWORD, SECOND_PASSWORD]) {
        const wanted = { archiveId: archive.id, rackId: null, password };
        if ((await this.#api.startBackup(ticket, wanted)).status === 200) return;
      }
    },
    prove: async () => {
      const archive = this.#pick(await this.#archives());
      if (!archive) return;
      const { body } = await this.#api.get<Archive>(`/api/archives/${archive.id}`);
      for (const password of [PASSWORD, SECOND_PASSWORD]) {
        const asked = { level: this.#random(4) === 0 ? 'sample' : 'full', password };
        const path = `/api/backups/${body.backups[0]?.id}/proofs`;
        if ((await this.#api.post(path, asked)).status === 200) return;
      }
    },
    password: async () => {
      const archive = this.#pick(await this.#archives());
      if (!archive) return;
      const [from, to] = this.#random(2)
        ? [PASSWORD, SECOND_PASSWORD]
        : [SECOND_PASSWORD, PASSWORD];
      await this.#api.post(`/api/archives/${archive.id}/holder`, {
        ...{ password: from, newPassword: to, passwordHolder: 'shop', reminder: '' },
      });
    },
    package: async () => {
      const archive = this.#pick(await this.#archives());
      if (!archive) return;
      const { body } = await this.#api.get<Archive>(`/api/archives/${archive.id}`);
      const { body: racks } = await this.#api.get<Rack[]>('/api/racks');
      for (const password of [PASSWORD, SECOND_PASSWORD]) {
        const wanted = { rackId: racks[1]?.id, password };
        const path = `/api/backups/${body.backups[0]?.id}/exports`;
        if ((await this.#api.post(path, wanted)).status === 200) return;
      }
    },
    restore: async () => {
      const archive = this.#pick(await this.#archives());
      if (!archive) return;
      await this.#product.press(WIPED, { do: 'erase' });
      await this.#product
        .press(WIPED, { do: 'approve', passcode: PASSCODE })
        .catch(() => undefined);
      const { body } = await this.#api.get<Archive>(`/api/archives/${archive.id}`);
      for (const password of [PASSWORD, SECOND_PASSWORD]) {
        const wanted = { deviceId: WIPED, serialTail: '0T57', password };
        const path = `/api/backups/${body.backups[0]?.id}/restores`;
        if ((await this.#api.post(path, wanted)).status === 200) return;
      }
    },
    goOn: async () => {
      const cut = (await this.#operations()).find((o) => o.keptBytes !== null);
      if (!cut) return this.#actions.further?.();
      for (const password of [PASSWORD, SECOND_PASSWORD]) {
        const path = `/api/operations/${cut.id}/continue`;
        if ((await this.#api.post(path, { password })).status === 200) return;
      }
    },
    giveUp: async () => {
      const cut = (await this.#operations()).find((o) => o.keptBytes !== null);
      if (!cut) return this.#actions.prove?.();
      await this.#api.post(`/api/operations/${cut.id}/discard`);
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
      writeFileSync(filler, Buffer.alloc(Math.max(0, bavail * bsize)));
      this.#mend = () => rmSync(filler, { force: true });
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
        const bytes = readFileSync(path);
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
    if (file) how(file);
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
    for (const password of [PASSWORD, SECOND_PASSWORD]) {
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
    return this.log.some((line) => /flip|truncate/.test(line));
  }
}

/** A rack that is a drive of its own: it can fill up, turn read-only and leave. Only root may make one. */
export function mountRack(rack: string, aside: string): () => void {
  const kept = readFileSync(join(rack, '.bright-cellar-rack'));
  execFileSync('mkdir', ['-p', aside]);
  execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=120m,mode=0700', 'tmpfs', rack]);
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
