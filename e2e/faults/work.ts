import { cpSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import type { Archive, Operation, PartnerTold, Rack, Stranger } from '@bright-cellar/contract';
import { planMoves } from '@bright-cellar/core/placement';
import { RADICALE_PASSWORD, RADICALE_USER, type Radicale } from '@bright-cellar/rack-stand-ins';
import { OWNED, PASSWORD, WIPED } from '../product.js';
import { SECOND_PASSWORD, type Shop } from './shop.js';

/** A new archive now and then only: they pile up. */
const ARCHIVES_AT_MOST = 4;

/** Messages of an open file. */
const SAID = Array.from({ length: 40 }, (_, n) =>
  JSON.stringify({
    ...{ at: new Date(Date.UTC(2026, 0, 1 + n)).toISOString(), from: '+44 7700 900123' },
    ...{ thread: '+44 7700 900123', text: `Said on day ${n}` },
  }),
).join('\n');

/** What an erase rests on, and what was on the device before it. */
export interface Erased {
  archiveId: string;
  backupId: string;
  contents: string;
}

/**
 * Everything that a shop does, asked for as any browser would: each kind of operation, a password's change, and what may be
 * done with work that was cut off.
 */
export class Work {
  readonly #shop: Shop;
  /** Where a customer keeps their contacts. */
  readonly #server: Radicale;
  /** The password of each package, by its name. */
  readonly #packages = new Map<string, string>();
  /** What was foreseen of a crossing. */
  #foreseen: { id: string; archiveId: string; backupId: string } | null = null;
  /** Where packages of applications lie. */
  #packagesOf: { ticket: string; packages: { rackId: string; name: string }[] } | null = null;
  /** The folder that somebody put onto a rack last. */
  #carried = '';
  /** What was to be erased in this step. */
  erased: Erased | null = null;

  constructor(shop: Shop, server: Radicale) {
    this.#shop = shop;
    this.#server = server;
  }

  /** What must be done before, with nothing going wrong; by the name of what it is for. */
  readonly preparations: Record<string, () => Promise<unknown>> = {
    restore: () => this.#shop.readyEmpty(WIPED),
    foresee: () => this.#shop.readyEmpty(WIPED),
    bringBack: () => this.#shop.readyEmpty(WIPED),
    bringApplications: async () => {
      await this.#shop.readyEmpty(WIPED);
      this.#packagesOf = await this.#applicationsTaken();
    },
    cross: async () => {
      await this.#shop.readyEmpty(WIPED);
      const told = await this.#ended(this.actions.foresee());
      this.#foreseen =
        told?.state === 'done'
          ? { id: told.id, archiveId: told.archiveId ?? '', backupId: told.backupId ?? '' }
          : null;
    },
    erase: async () => {
      await this.#ended(this.actions.further());
      const archive = await this.#newestArchive();
      if (!archive) return;
      const { backups, id } = await this.#shop.archive(archive.id);
      const proof = await this.#ended(this.#prove(id, backups[0]?.id, 'full'));
      if (proof?.state !== 'done') return;
      const contents = this.#shop.ownedContents();
      this.erased = { archiveId: id, backupId: backups[0]?.id ?? '', contents };
    },
    import: async () => {
      const archive = await this.#shop.anyArchive();
      if (archive) await this.#ended(this.#export(archive));
    },
    // One that may be destroyed, and one that stays.
    dispose: async () => {
      if ((await this.#shop.archives()).length < 2) await this.#ended(this.#newBackup());
    },
    move: () => this.#hasOtherRackToGoTo(),
    copy: () => this.#hasOtherRackToGoTo(),
    // With one backup there is nothing to take out.
    prune: async () => {
      const archive = await this.#newestArchive();
      if (archive && archive.items > 0) await this.#ended(this.actions.further());
    },
    // Somebody puts a folder onto the other rack, whatever it is called.
    bringIn: async () => {
      await this.#hasOtherRackToGoTo();
      const [copy] = await this.#onOneRack();
      if (!copy) return;
      const { copies } = await this.#shop.archive(copy.archiveId);
      const [lying] = copies;
      if (!lying) return;
      const to = lying.rackName === 'Alder' ? this.#shop.otherRack : this.#shop.rack;
      const name = `f3a9c1${this.#shop.random(1e6)}`;
      this.#carried = name;
      try {
        cpSync(this.#shop.folderOf(lying), join(to, name), { recursive: true });
      } catch {
        rmSync(join(to, name), { recursive: true, force: true });
      }
    },
    // Without another copy there is nothing to repair from.
    repair: async () => {
      const archive = await this.#shop.anyArchive();
      for (const { id: rackId } of await this.#racks()) {
        if (!archive || archive.copies.some((copy) => copy.rackId === rackId)) continue;
        await this.#ended(this.#shop.ask('copy', `/api/archives/${archive.id}/copies`, { rackId }));
      }
    },
  };

  readonly actions = {
    backup: async () =>
      (await this.#shop.archives()).length > ARCHIVES_AT_MOST ? this.#further() : this.#newBackup(),
    further: async (): Promise<Operation | null> =>
      (await this.#newestArchive()) ? this.#further() : this.#newBackup(),
    prove: async (): Promise<Operation | null> => {
      const archive = await this.#shop.anyArchive();
      const level = this.#shop.random(4) === 0 ? 'sample' : 'full';
      return archive && this.#prove(archive.id, archive.backups[0]?.id, level);
    },
    password: async () => {
      const archive = this.#shop.pick(await this.#shop.archives());
      if (!archive) return;
      const [password, newPassword] = this.#shop.passwords(archive.id);
      const given = { password, newPassword, passwordHolder: 'shop', reminder: '' };
      if (await this.#shop.ask('password', `/api/archives/${archive.id}/holder`, given))
        this.#shop.opensWith(archive.id, newPassword);
    },
    export: async () => {
      const archive = await this.#shop.anyArchive();
      return archive && this.#export(archive);
    },
    copy: async () => {
      const racks = await this.#racks();
      // Where all lie everywhere, it is refused.
      const copy = this.#shop.pick(await this.#onOneRack());
      const archiveId = copy?.archiveId ?? (await this.#shop.anyArchive())?.id;
      const rackId = this.#shop.pick(racks.filter(({ id }) => id !== copy?.rackId))?.id;
      return archiveId && this.#shop.ask('copy', `/api/archives/${archiveId}/copies`, { rackId });
    },
    check: async () => {
      const archive = await this.#shop.anyArchive();
      const copy = archive && this.#shop.pick(archive.copies);
      return copy ? this.#shop.ask('check', `/api/copies/${copy.id}/checks`, {}) : null;
    },
    repair: async () => {
      const rows = await this.#shop.archives();
      const all = await Promise.all(rows.map(({ id }) => this.#shop.archive(id)));
      const copies = all.filter((archive) => archive.copies.length > 1).flatMap((a) => a.copies);
      const copy = this.#shop.pick(copies);
      return copy ? this.#shop.ask('repair', `/api/copies/${copy.id}/repairs`, {}) : null;
    },
    move: async () => {
      const stock = await this.#shop.api.stock();
      const copy = this.#shop.pick(await this.#onOneRack());
      const rack = this.#shop.pick(stock.racks.filter(({ id }) => id !== copy?.rackId));
      if (!copy || !rack) return null;
      const plan = planMoves(stock, { kind: 'by-hand' }, [{ copyId: copy.id, rackId: rack.id }]);
      if ('why' in plan) return null;
      return this.#shop.ask('move', '/api/moves', { moves: plan.moves });
    },
    prune: async (): Promise<Operation | null> => {
      const rows = await this.#shop.archives();
      const all = await Promise.all(rows.map(({ id }) => this.#shop.archive(id)));
      const archive = this.#shop.pick(all.filter(({ backups }) => backups.length > 1));
      if (!archive) return this.actions.further();
      const keep = archive.backups.slice(0, 1).map(({ id }) => id);
      return this.#shop.askWith(archive.id, (password) =>
        this.#shop.ask('prune', `/api/archives/${archive.id}/prunings`, { keep, password }),
      );
    },
    // The oldest, and never the last: the rest of the walk needs one.
    dispose: async () => {
      const rows = await this.#shop.archives();
      const oldest = rows.at(-1);
      if (!oldest || rows.length < 2) return null;
      return this.#shop.ask('dispose', `/api/archives/${oldest.id}/disposals`, {
        ...{ typedTicket: oldest.ticketNumber, typedWord: 'destroy', reason: 'a walk' },
      });
    },
    import: async () => {
      const { body: packages } =
        await this.#shop.api.get<{ rackId: string; name: string }[]>('/api/packages');
      const found = this.#shop.pick(packages);
      const archive = await this.#shop.anyArchive();
      if (!found || !archive) return;
      const packagePassword = this.#packages.get(found.name) ?? '';
      return this.#shop.askWith(archive.id, (password) =>
        this.#shop.ask('import', `/api/archives/${archive.id}/imports`, {
          ...{ rackId: found.rackId, name: found.name },
          ...{ password, packagePassword },
        }),
      );
    },
    bringIn: async () => {
      const { body: found } = await this.#shop.api.get<Stranger[]>('/api/bring-ins');
      const stranger =
        found.find(({ folder }) => folder === this.#carried) ?? this.#shop.pick(found);
      if (!stranger) return null;
      const { rackId, folder } = stranger;
      for (const password of ['', PASSWORD, SECOND_PASSWORD]) {
        const asked = { rackId, folder, path: null, password };
        const started = await this.#shop.ask('bring in', '/api/bring-ins', asked);
        if (started) return started;
      }
      return null;
    },
    extract: async () => {
      const ticket = await this.#shop.api.openTicket(OWNED);
      await this.#shop.api.agree(ticket, 'look-in');
      const style = { format: 'csv', dates: 'iso', named: true, media: true, append: false };
      return this.#shop.ask('extract', `/api/tickets/${ticket}/extracts`, {
        rackId: (await this.#racks())[0]?.id,
        what: { kind: 'records', set: 'messages', ...style },
      });
    },
    restore: async () => {
      const archive = await this.#shop.anyArchive();
      return archive && this.restore(archive.id, archive.backups[0]?.id, WIPED);
    },
    foresee: async () => {
      const archive = await this.#shop.anyArchive();
      if (!archive) return null;
      const choice = { contacts: true, messages: true, photographs: true };
      return this.#shop.askWith(archive.id, (password) =>
        this.#shop.ask('foresee', `/api/backups/${archive.backups[0]?.id}/foresights`, {
          ...{ deviceId: WIPED, choice, password },
        }),
      );
    },
    cross: async () => {
      const foreseen = this.#foreseen;
      if (!foreseen) return null;
      return this.#shop.askWith(foreseen.archiveId, (password) =>
        this.#shop.ask('cross', `/api/backups/${foreseen.backupId}/crossings`, {
          ...{ deviceId: WIPED, serialTail: '0T57', foreseen: foreseen.id, customerKnows: true },
          password,
        }),
      );
    },
    bringBack: async () => {
      const ticket = await this.#shop.api.openTicket(OWNED);
      const { body } = await this.#shop.api.sendText<{ id: string }>(
        `/api/tickets/${ticket}/message-files/${WIPED}`,
        SAID,
      );
      return this.#shop.ask('bring back', `/api/tickets/${ticket}/messages-back`, {
        ...{ deviceId: WIPED, file: body.id, serialTail: '0T57' },
      });
    },
    bringApplications: async () => {
      const of = this.#packagesOf;
      if (!of) return null;
      return this.#shop.ask('bring applications', `/api/tickets/${of.ticket}/applications-back`, {
        ...{ deviceId: WIPED, serialTail: '0T57', packages: of.packages },
      });
    },
    // Off a device that takes nothing beside what is on it.
    sync: async () => {
      const ticket = await this.#shop.api.openTicket(OWNED);
      await this.#shop.api.agree(ticket, 'look-in');
      const { body: partner } = await this.#shop.api.post<PartnerTold>(
        `/api/tickets/${ticket}/partners/${OWNED}`,
        {
          site: { address: this.#server.address, user: RADICALE_USER },
          password: RADICALE_PASSWORD,
        },
      );
      const way = { direction: 'off-device', rule: 'device' };
      const asked = {
        ...{ deviceId: OWNED, partner: partner.id, removesMeant: true },
        setup: {
          books: partner.books.map(({ id, kind }) => ({ id, kind })),
          ways: { contacts: way, events: way, tasks: way, notes: way },
        },
      };
      const path = `/api/tickets/${ticket}/syncs`;
      const looked = await this.#ended(
        this.#shop.ask('weigh', path, { ...asked, serialTail: null }),
      );
      if (looked?.state !== 'done') return looked;
      return this.#shop.ask('sync', path, { ...asked, serialTail: '4Q81' });
    },
    erase: () => this.#shop.ask('erase', `/api/devices/${OWNED}/erase`, { serialTail: '4Q81' }),
    goOn: async (): Promise<Operation | null> => {
      const cut = await this.#cut();
      if (!cut) return this.actions.further();
      return this.#shop.askWith(cut.archiveId ?? '', (password) =>
        this.#shop.ask('go on', `/api/operations/${cut.id}/continue`, { password }),
      );
    },
    giveUp: async (): Promise<Operation | null> => {
      const cut = await this.#cut();
      if (!cut) return this.actions.prove();
      return this.#shop.ask('give up', `/api/operations/${cut.id}/discard`);
    },
  };

  async #applicationsTaken() {
    const ticket = await this.#shop.api.openTicket(OWNED);
    await this.#shop.api.agree(ticket, 'look-in');
    const [rack] = await this.#racks();
    const taken = await this.#ended(
      this.#shop.ask('extract', `/api/tickets/${ticket}/extracts`, {
        rackId: rack?.id,
        what: { kind: 'applications', applications: ['crossword'] },
      }),
    );
    const packages = [{ rackId: rack?.id ?? '', name: 'crossword.application.zip' }];
    return taken?.state === 'done' ? { ticket, packages } : null;
  }

  restore(archiveId: string, backupId = '', deviceId: typeof OWNED | typeof WIPED) {
    const serialTail = deviceId === OWNED ? '4Q81' : '0T57';
    return this.#shop.askWith(archiveId, (password) =>
      this.#shop.ask('restore', `/api/backups/${backupId}/restores`, {
        ...{ deviceId, serialTail, password },
      }),
    );
  }

  async #newBackup() {
    const ticket = await this.#shop.api.openTicket(OWNED);
    return this.#shop.answered('backup', await this.#shop.api.startBackup(ticket));
  }

  async #further() {
    const archive = await this.#newestArchive();
    if (!archive) return null;
    const ticket = await this.#shop.api.openTicket(OWNED);
    const into = { archiveId: archive.id, rackId: null };
    return this.#shop.askWith(archive.id, async (password) =>
      this.#shop.answered(
        'further',
        await this.#shop.api.startBackup(ticket, { ...into, password }),
      ),
    );
  }

  #prove(archiveId: string, backupId = '', level: string) {
    return this.#shop.askWith(archiveId, (password) =>
      this.#shop.ask('prove', `/api/backups/${backupId}/proofs`, { level, password }),
    );
  }

  async #export(archive: Archive) {
    const [backup] = archive.backups;
    const rackId = (await this.#racks())[1]?.id;
    const name = `${archive.copies[0]?.folder}_${backup?.id.slice(0, 8)}.tar.age`;
    // Somebody carried the one before away.
    rmSync(join(this.#shop.otherRack, 'packages', name), { force: true });
    return this.#shop.askWith(archive.id, async (password) => {
      this.#packages.set(name, password);
      return this.#shop.ask('export', `/api/backups/${backup?.id}/exports`, { rackId, password });
    });
  }

  async #hasOtherRackToGoTo() {
    if ((await this.#onOneRack()).length === 0) await this.#ended(this.#newBackup());
  }

  /** Copies of archives that lie on one rack only. */
  async #onOneRack() {
    const { copies } = await this.#shop.api.stock();
    return copies.filter(
      ({ archiveId, damaged }) =>
        !damaged && copies.filter((other) => other.archiveId === archiveId).length === 1,
    );
  }

  async #newestArchive() {
    return (await this.#shop.archives())[0] ?? null;
  }

  async #cut(): Promise<Operation | undefined> {
    for (const { id, kind, problem } of await this.#shop.operations()) {
      if (kind !== 'backup' || problem === null) continue;
      const { body } = await this.#shop.api.get<Operation>(`/api/operations/${id}`);
      if (body.keptBytes != null) return body;
    }
    const { id } = (await this.#shop.api.get<{ id: string | null }>('/api/moves/last')).body;
    if (id === null) return undefined;
    const { body } = await this.#shop.api.get<Operation>(`/api/operations/${id}`);
    return body.problem !== null && body.keptBytes != null ? body : undefined;
  }

  async #racks(): Promise<Rack[]> {
    return (await this.#shop.api.get<Rack[]>('/api/racks')).body;
  }

  async #ended(started: Promise<Operation | null>): Promise<Operation | null> {
    const operation = await started;
    return operation && this.#shop.api.ended(operation.id);
  }
}
