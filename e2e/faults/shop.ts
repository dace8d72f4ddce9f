import { createHash } from 'node:crypto';
import { once } from 'node:events';
import { existsSync, readdirSync, readFileSync, statSync } from 'node:fs';
import { connect } from 'node:net';
import { join } from 'node:path';
import { archiveIn, ArchiveFiles, openStore, type StoreAddress } from '@bright-cellar/archive';
import type { Archive, ArchiveRow, BenchView, Berth, Operation } from '@bright-cellar/contract';
import { randomFrom } from '@bright-cellar/core/testing';
import type { Box } from '@bright-cellar/rack-stand-ins';
import type { Api } from '../api.js';
import { eventually, openOwned, OWNED, PASSWORD, WIPED, type Product } from '../product.js';

export const SECOND_PASSWORD = 'another four words here';

type Copy = Archive['copies'][number];

/** Where a walk goes through. */
export interface Place {
  product: Product;
  api: Api;
  /** A box on the shop's network, {@link FAR} by its name as a rack. */
  box: Box;
  seed: number;
}

export const FAR = 'Yew';

/** The shop that a walk goes through: what is asked of it, what it answers, and what its devices hold. */
export class Shop {
  readonly product: Product;
  readonly api: Api;
  readonly random: (below: number) => number;
  /** The drive that things happen to. */
  readonly rack: string;
  readonly otherRack: string;
  readonly box: Box;
  /** How often each thing was asked for, and what was answered: a walk that is always refused shows nothing. */
  readonly answers: Record<string, number> = {};
  /** The password that an archive was last opened with. */
  readonly #opens = new Map<string, string>();

  constructor({ product, api, box, seed }: Place) {
    this.product = product;
    this.api = api;
    this.box = box;
    this.random = randomFrom(seed);
    this.rack = join(product.data, 'racks/alder');
    this.otherRack = join(product.data, 'racks/birch');
  }

  /** The box becomes a rack. */
  async addFar(): Promise<void> {
    const { host, port, user, hostKey, privateKey, folder: path } = this.box;
    const added = await this.api.post('/api/racks', {
      ...{ name: FAR, note: '', reserve: 0, offPremises: true, kind: 'box' },
      site: { kind: 'sftp', host, port, user, hostKey, login: 'key', path },
      secret: privateKey,
    });
    if (added.status !== 200) throw new Error(JSON.stringify(added.body));
  }

  /** The folder of this computer in which a copy lies. */
  folderOf({ rackName, folder }: Pick<Copy, 'rackName' | 'folder'>): string {
    if (rackName === FAR) return join(this.box.folder, folder);
    return join(rackName === 'Alder' ? this.rack : this.otherRack, folder);
  }

  /** A copy as whoever knows nothing of the product reads it; what was cut off on the box is completed only over the network. */
  filesOf(copy: Copy): ArchiveFiles {
    if (copy.rackName !== FAR) return archiveIn(this.folderOf(copy));
    const { host, port, user, hostKey, privateKey, folder: path } = this.box;
    const address: StoreAddress = {
      ...{ kind: 'sftp', host, port, user, hostKey, path },
      login: { kind: 'key', privateKey },
      workRoot: join(this.product.data, 'walk'),
    };
    return new ArchiveFiles(openStore(address), copy.folder);
  }

  pick<T>(all: readonly T[]): T | undefined {
    return all[this.random(all.length)];
  }

  /** Asks for something; what the answer was is counted. @returns what was started, null where it was refused */
  async ask(what: string, path: string, body?: object): Promise<Operation | null> {
    return this.answered(what, await this.api.post(path, body));
  }

  answered(what: string, { status, body }: Awaited<ReturnType<Api['startBackup']>>) {
    const said = `${what} ${status === 200 ? 'taken' : (body.code ?? status)}`;
    this.answers[said] = (this.answers[said] ?? 0) + 1;
    return status === 200 ? body : null;
  }

  /** The passwords that may open an archive, the likelier first: whoever guesses is slowed down. */
  passwords(archiveId: string): [string, string] {
    const last = this.#opens.get(archiveId) ?? PASSWORD;
    return [last, last === PASSWORD ? SECOND_PASSWORD : PASSWORD];
  }

  opensWith(archiveId: string, password: string): void {
    this.#opens.set(archiveId, password);
  }

  /** Asks with one password after the other until one is taken. */
  async askWith(archiveId: string, ask: (password: string) => Promise<Operation | null>) {
    for (const password of this.passwords(archiveId)) {
      const started = await ask(password);
      if (!started) continue;
      this.opensWith(archiveId, password);
      return started;
    }
    return null;
  }

  async archives(): Promise<ArchiveRow[]> {
    return this.api.all<ArchiveRow>('/api/archives');
  }

  async archive(id: string): Promise<Archive> {
    return (await this.api.get<Archive>(`/api/archives/${id}`)).body;
  }

  async anyArchive(): Promise<Archive | null> {
    const row = this.pick(await this.archives());
    return row ? this.archive(row.id) : null;
  }

  /** Those of the newest visits. */
  async operations(): Promise<Operation[]> {
    const all: Operation[] = [];
    const tickets = await this.api.all<{ number: string }>('/api/tickets');
    for (const { number } of tickets.slice(0, 6)) {
      const { body } = await this.api.get<{ operations?: Operation[] }>(`/api/tickets/${number}`);
      all.push(...(body.operations ?? []));
    }
    return all;
  }

  /** What a device is as the application sees it. */
  async device(id: string): Promise<Berth['device']> {
    const { body } = await this.api.get<BenchView>('/api/bench');
    return body.berths.find((berth) => berth.device?.id === id)?.device ?? null;
  }

  /** The customer's device as somebody would leave it: on its cable, open, with something new on it. */
  async readyOwned(note: string): Promise<void> {
    await eventually('the bench', async () => {
      try {
        await this.#press(OWNED, { do: 'plug', berth: 1 });
        await openOwned(this.product);
        await this.product.press(OWNED, { do: 'write-note', text: note });
        if (!(await this.#workAnswers())) return false;
        const device = await this.device(OWNED);
        return device !== null && device.lock !== 'locked' && device.approval === 'approved';
      } catch {
        return false;
      }
    });
  }

  /** An empty device, as somebody would make one ready for a restore. */
  async readyEmpty(id: typeof OWNED | typeof WIPED): Promise<void> {
    // What still waits for a process that died is given up with the cable.
    await this.#press(id, { do: 'pull-cable' });
    await this.#press(id, { do: 'plug', berth: id === OWNED ? 1 : 2 });
    await this.#press(id, { do: 'erase' });
    await eventually('an empty device', async () => {
      await this.#press(id, { do: 'approve', passcode: '' });
      await this.#press(id, { do: 'owner-lock-off' });
      await this.#press(id, { do: 'charge', percent: 77 });
      const device = await this.device(id).catch(() => null);
      const isReady = device?.empty === true && device.approval === 'approved';
      return isReady && (await this.#workAnswers());
    });
  }

  async #press(id: string, action: object): Promise<void> {
    await this.product.press(id, action).catch(() => undefined);
  }

  #workAnswers(): Promise<boolean> {
    const socket = connect(join(this.product.data, 'run/work.sock'));
    return once(socket, 'connect')
      .then(() => true)
      .catch(() => false)
      .finally(() => socket.destroy());
  }

  /** Stands for every file on the customer's device. */
  ownedContents(): string {
    return contentsOf(join(this.product.data, 'bench/devices', OWNED, 'contents'));
  }
}

/** Every file below a folder, one a line: what stands for its bytes, and its path. */
export function contentsOf(folder: string): string {
  if (!existsSync(folder)) return 'nothing';
  return readdirSync(folder, { recursive: true, encoding: 'utf8' })
    .sort()
    .filter((name) => statSync(join(folder, name)).isFile())
    .map((name) => {
      const bytes = readFileSync(join(folder, name));
      return `${createHash('sha256').update(bytes).digest('base64')} ${name}`;
    })
    .join('\n');
}

/** The lines that only one of two has. */
export function differenceOf(before: string, after: string): string {
  const [was, is] = [before, after].map((text) => new Set(text.split('\n')));
  const gone = [...(was ?? [])].filter((line) => !is?.has(line)).map((line) => `- ${line}`);
  const come = [...(is ?? [])].filter((line) => !was?.has(line)).map((line) => `+ ${line}`);
  return [...gone, ...come].join('\n');
}
