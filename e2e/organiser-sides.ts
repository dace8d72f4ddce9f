import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, expect } from 'vitest';
import type { MergeLines, PartnerTold } from '@bright-cellar/contract';
import {
  syncedClasses,
  type ConflictRule,
  type Field,
  type SyncDirection,
  type SyncedKind,
} from '@bright-cellar/core';
import { listOf } from '@bright-cellar/core/crossing';
import { parseRecords } from '@bright-cellar/core/formats';
import {
  bookFormats,
  mergeRules,
  type MergedRecords,
  type MergeRules,
} from '@bright-cellar/core/merge';
import { RADICALE_PASSWORD, RADICALE_USER, startRadicale } from '@bright-cellar/rack-stand-ins';
import { resultOf, type Api } from './api.js';
import { openShop } from './open-shop.js';
import { eventually } from './product.js';

/** What a synchronisation is asked for: both ways, asking, of everything that was opened, and only looked at, where nothing is said. */
interface How {
  kinds?: readonly SyncedKind[];
  direction?: SyncDirection;
  rule?: ConflictRule;
  writes?: boolean;
  removesMeant?: boolean;
  undoes?: boolean;
  /** Parts that each side keeps to itself. */
  without?: Field[];
}

/** Where each kind lies on Radicale. */
const folders = { contacts: 'people', events: 'dates', tasks: 'jobs', notes: 'memos' } as const;

/** A shop with these devices, and Radicale, on which the customer has books of their own. */
export async function openOrganiserShop(...only: string[]) {
  const shop = await openShop({ waitForDeviceMs: 60_000, only });
  const radicale = await startRadicale();
  afterAll(() => radicale.stop());
  return { ...shop, radicale };
}
export type OrganiserShop = Awaited<ReturnType<typeof openOrganiserShop>>;

/** A device and the customer's own books, each read from where it lies; a ticket for the device. */
export function twoSides(
  { product, api, db, radicale }: OrganiserShop,
  device: string,
  tail: string,
  /** What the ticket says more. */
  more: object = {},
) {
  const contents = (of: string) => join(product.data, 'bench/devices', of, 'contents');
  /** The berth that a device is on; 0 while it is on none. */
  const berthOf = async (of = device) => {
    const { body } = await api.get<{ berths: { device: { id: string } | null }[] }>('/api/bench');
    return body.berths.findIndex((berth) => berth.device?.id === of) + 1;
  };
  const there = (of = device) => eventually('the device', async () => (await berthOf(of)) > 0);
  const sides = {
    there,
    product,
    api,
    db,
    radicale,
    ticket: '',
    /** Whoever was opened last. */
    partner: null as unknown as PartnerTold,
    onDevice: (kind: SyncedKind, of = device) =>
      filesBelow(join(contents(of), syncedClasses[kind])),
    onServer: (kind: SyncedKind) => filesBelow(radicale.folderOf(folders[kind])),
    opened: (password = RADICALE_PASSWORD, by: Api = api, address = radicale.address) =>
      by.post<PartnerTold>(`/api/tickets/${sides.ticket}/partners/${device}`, {
        site: { address, user: RADICALE_USER },
        password,
      }),
    asked: ({
      kinds = ['contacts', 'events'],
      direction = 'both',
      rule = 'ask',
      writes = false,
      removesMeant = false,
      undoes = false,
      without = [],
    }: How = {}) => {
      const books = sides.partner.books.filter(({ kind }) => kinds.includes(kind));
      const way = { direction, rule };
      const contacts = { ...way, without };
      return api.post(`/api/tickets/${sides.ticket}/syncs`, {
        ...{ deviceId: device, partner: sides.partner.id, removesMeant, undoes },
        setup: {
          books: books.map(({ id, kind }) => ({ id, kind })),
          ways: { contacts, events: way, tasks: way, notes: way },
        },
        serialTail: writes ? tail : null,
      });
    },
    synced: async (how: How = {}) => {
      const { body } = await sides.asked(how);
      expect(body.code, JSON.stringify(body)).toBeUndefined();
      return resultOf(await api.ended(body.id), 'sync');
    },
    /** Looked at, then written. */
    both: async (how: How = {}) => {
      const before = await sides.synced(how);
      return { before, after: await sides.synced({ ...how, writes: true }) };
    },
    lines: async (kind: SyncedKind, onlyOpen = false) =>
      (
        await api.post<MergeLines>(`/api/partners/${sides.partner.id}/lines`, {
          ...{ kind, onlyOpen, from: 0 },
        })
      ).body,
    /** What its owner wrote on it is seen once it is plugged again. */
    unplugged: async (): Promise<void> => {
      const berth = await berthOf();
      await product.press(device, { do: 'pull-cable' });
      await product.press(device, { do: 'plug', berth });
      await there();
    },
  };
  beforeAll(async () => {
    await there();
    sides.ticket = await api.openTicket(device, more);
  });
  return sides;
}

export type Synced = Awaited<ReturnType<ReturnType<typeof twoSides>['synced']>>;
/** How much would be written, on both. */
export const sums = ({ kinds }: Synced): number =>
  kinds.reduce(
    (all, { device, partner }) =>
      all +
      device.add +
      device.change +
      device.remove +
      partner.add +
      partner.change +
      partner.remove,
    0,
  );

const filesBelow = (folder: string): string[] =>
  readdirSync(folder, { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile() && !entry.name.startsWith('.'))
    .map((entry) => join(entry.parentPath, entry.name))
    .filter((path) => !path.includes('.Radicale'));

/** What is called what in a file of a kind. A handset keeps memos as plain text. */
const namesIn = (kind: SyncedKind, file: string): string[] => {
  const type = file.endsWith('.txt')
    ? 'text/vnd.bright-cellar.memo'
    : file.endsWith('.md')
      ? 'text/markdown'
      : bookFormats[kind].mediaType;
  const rules = mergeRules[kind] as unknown as MergeRules<MergedRecords[SyncedKind]>;
  const records = listOf(parseRecords(type, readFileSync(file), file));
  return (records as MergedRecords[SyncedKind][]).map((record) => rules.titleOf(record));
};
export const namesOf = (kind: SyncedKind, files: readonly string[]): string[] =>
  files.flatMap((file) => namesIn(kind, file)).toSorted();
export function fileCalled(kind: SyncedKind, files: readonly string[], name: string): string {
  const found = files.find((file) => namesIn(kind, file).includes(name));
  if (found === undefined) throw new Error(`nothing called ${name}`);
  return found;
}
