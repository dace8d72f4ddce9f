import { randomUUID } from 'node:crypto';
import { openPartnerSchema, type MergeLines, type PartnerTold } from '@bright-cellar/contract';
import {
  Failure,
  syncSetupSchema,
  type Decision,
  type LinkDeviceId,
  type PartnerSite,
  type SyncedKind,
  type SyncSetup,
} from '@bright-cellar/core';
import {
  mergeRules,
  saidOf,
  type MergedRecords,
  type MergeRules,
  type SideName,
} from '@bright-cellar/core/merge';
import {
  davPartner,
  filesPartner,
  type FilesPartner,
  type PartnerCollection,
} from '../../partners/index.js';
import type { AnyLine, AnyRemembered, Merged } from '@bright-cellar/core/merge';
import { mergedBeside } from './merging.js';
import { openSecret, sealSecret } from '../../kernel/installation.js';
import { isWritable, type DeviceEnd, type OtherSide } from './other-side.js';
import { fileIn, type SideBook } from './side-book.js';

/** One kind as it was read on both sides, and what becomes of it. */
export interface KindInStep {
  kind: SyncedKind;
  device: SideBook;
  partner: SideBook;
  remembered: AnyRemembered[];
  decisions: Map<string, Decision>;
  /** Lines of contacts that are one person, by their keys: the one that stays first. */
  joins: [stays: string, goes: string][];
  /** What becomes of everything before any are joined, and with that; who may be one person. */
  apart: AnyLine[];
  lines: AnyLine[];
  persons: Merged['persons'];
  /** Ends when it is worked out with all that was said so far. */
  planning: Promise<void>;
}

/** A customer's server that somebody opened, and what was read of it. */
export interface HeldSync {
  technicianId: string;
  deviceId: LinkDeviceId;
  other: OtherSide;
  books: PartnerCollection[];
  setup: SyncSetup | null;
  kinds: KindInStep[];
  usedAt: number;
}

const HELD_MAX = 6;
/** The password is forgotten with it. */
const HELD_MS = 30 * 60_000;
/** Nobody waits longer for a server to say what it has. */
const OPENS_WITHIN_MS = 90_000;
const PAGE = 100;
const WORDS_MAX = 400;

/** In the memory of the work process and nowhere else. */
const held = new Map<string, HeldSync>();

function forgetOld(): void {
  for (const [id, { usedAt }] of held) {
    if (performance.now() - usedAt > HELD_MS) held.delete(id);
  }
  for (const id of [...held.keys()].slice(0, -HELD_MAX)) held.delete(id);
}
setInterval(forgetOld, 60_000).unref();

/** @throws Failure `partner-not-here`, `partner-refused` */
export async function openPartner(asked: {
  technicianId: string;
  deviceId: LinkDeviceId;
  site: PartnerSite;
  password: string;
}): Promise<PartnerTold> {
  const { technicianId, deviceId, site, password } = asked;
  const reach = (signal: AbortSignal) => davPartner(site, password, signal);
  const books = await reach(AbortSignal.timeout(OPENS_WITHIN_MS)).collections();
  const other: OtherSide = { kind: 'server', site, reach, password };
  return hold({ technicianId, deviceId, other, books });
}

/** The same of files that the customer brought. @throws Failure `input-not-valid` */
export async function openFiles(asked: {
  technicianId: string;
  deviceId: LinkDeviceId;
  text: string;
}): Promise<PartnerTold> {
  const { technicianId, deviceId, text } = asked;
  const partner = filesPartner(text);
  const books = await partner.collections();
  return hold({ technicianId, deviceId, other: { kind: 'files', partner }, books });
}

/** A file as it is now, to be taken along. @throws Failure `not-found` */
export function fileOf(
  id: string,
  technicianId: string,
  kind: SyncedKind,
): { name: string; text: string } {
  const { other } = heldSync(id, technicianId);
  const file = other.kind === 'files' ? other.partner.file(kind) : null;
  if (!file) throw new Failure('not-found');
  return { name: file.name, text: Buffer.from(file.contents).toString('utf8') };
}

/** With another device, nobody signs in anywhere. */
const keptSchema = openPartnerSchema.partial().extend({ setup: syncSetupSchema });

/**
 * What is needed to open it again, and how it is kept in step, sealed under the installation's key.
 * @returns with it the serial of the other device, where it is one
 * @throws Failure `not-found` where it is not there again by itself, or nobody said how
 */
export function keptOf(
  id: string,
  technicianId: string,
): { sealed: string; serial: string | null } {
  const { other, setup } = heldSync(id, technicianId);
  if ((other.kind !== 'server' && other.kind !== 'device') || !setup) throw notOpen();
  const isServer = other.kind === 'server';
  const kept = isServer ? { site: other.site, password: other.password, setup } : { setup };
  return {
    sealed: sealSecret(JSON.stringify(kept)),
    serial: isServer ? null : other.end.serial,
  };
}

/**
 * Signs in there again.
 * @returns no id where it is another device: only the bench knows whether that is there
 * @throws Failure `partner-not-here`, `partner-refused`
 */
export async function openKept(asked: {
  technicianId: string;
  deviceId: LinkDeviceId;
  sealed: string;
}): Promise<{ id: string | null; setup: SyncSetup }> {
  const { technicianId, deviceId } = asked;
  const kept = keptSchema.parse(JSON.parse(openSecret(asked.sealed)));
  const { setup, site, password } = kept;
  if (!site || password === undefined) return { id: null, setup };
  const { id } = await openPartner({ technicianId, deviceId, site, password });
  return { id, setup };
}

/** Another device of the customer's. */
export function openDevice(asked: {
  technicianId: string;
  deviceId: LinkDeviceId;
  other: { deviceId: LinkDeviceId; serial: string; changes: boolean };
  books: PartnerCollection[];
}): PartnerTold {
  const { technicianId, deviceId, books } = asked;
  const { changes, ...end } = asked.other;
  const other: OtherSide = { kind: 'device', end: { ...end, side: 'partner' }, changes };
  return hold({ technicianId, deviceId, other, books });
}

/** What a backup holds, as it was read. */
export async function openBackup(asked: {
  technicianId: string;
  deviceId: LinkDeviceId;
  files: FilesPartner;
}): Promise<PartnerTold> {
  const { technicianId, deviceId, files: partner } = asked;
  const books = await partner.collections();
  return hold({ technicianId, deviceId, other: { kind: 'backup', partner }, books });
}

function hold(
  opened: Pick<HeldSync, 'technicianId' | 'deviceId' | 'other' | 'books'>,
): PartnerTold {
  const id = randomUUID();
  held.set(id, { ...opened, setup: null, kinds: [], usedAt: performance.now() });
  forgetOld();
  const { other, books } = opened;
  return { id, books, kind: other.kind, mayWrite: isWritable(other) };
}

/** @throws Failure `not-found` where it is another's, or was forgotten */
export function heldSync(id: string, technicianId: string): HeldSync {
  const one = held.get(id);
  if (one?.technicianId !== technicianId) throw notOpen();
  one.usedAt = performance.now();
  return one;
}

const notOpen = () =>
  new Failure('not-found', {
    what: 'The customer’s own books are not open here for this device.',
    next: 'Open them again.',
  });

/** Forgets it, and its password. */
export function closePartner(id: string, technicianId: string): void {
  if (held.get(id)?.technicianId === technicianId) held.delete(id);
}

/**
 * Says which of its books are kept in step with the device it was opened for, and how.
 * @returns the other device, where it is one; and whether the other side may be written
 * @throws Failure `not-found` for any other device: what was read may be somebody else's; `input-not-valid` where it has no such book
 */
export function setUpSync(
  id: string,
  technicianId: string,
  { deviceId, setup }: { deviceId: LinkDeviceId; setup: SyncSetup },
): { other: Omit<DeviceEnd, 'side'> | null; mayWrite: boolean } {
  const one = heldSync(id, technicianId);
  if (one.deviceId !== deviceId) throw notOpen();
  const isThere = setup.books.every((book) =>
    one.books.some((there) => there.id === book.id && there.kind === book.kind),
  );
  if (!isThere) throw new Failure('input-not-valid', { what: 'The server has no such book.' });
  if (JSON.stringify(one.setup) !== JSON.stringify(setup)) {
    one.setup = setup;
    one.kinds = [];
  }
  const { other } = one;
  return { other: other.kind === 'device' ? other.end : null, mayWrite: isWritable(other) };
}

/** How a kind is kept in step. */
export const wayOf = ({ setup }: HeldSync, kind: SyncedKind): SyncSetup['ways'][SyncedKind] =>
  setup?.ways[kind] ?? { direction: 'both', rule: 'ask', without: [] };

/** Works out anew what becomes of everything, with what was decided. */
export function plan(one: HeldSync, of: KindInStep): Promise<void> {
  const { kind, device, partner, remembered, decisions } = of;
  // What lies in a file that cannot be read is not gone.
  const isReadable = ({ ids }: AnyRemembered) =>
    !device.unreadable.has(fileIn(ids.device)) && !partner.unreadable.has(fileIn(ids.partner));
  // One after the other: the last is of what was said last.
  const before = of.planning.catch(() => undefined);
  of.planning = before.then(async () => {
    Object.assign(
      of,
      await mergedBeside({
        ...{ kind, device: device.held, partner: partner.held },
        ...{ decisions, joins: of.joins, way: wayOf(one, kind) },
        remembered: remembered.filter(isReadable),
        letters: { device: device.letters, partner: partner.letters },
      }),
    );
  });
  return of.planning;
}

const isToldOf = ({ steps, conflict }: AnyLine): boolean =>
  conflict !== null || steps.device.do !== 'nothing' || steps.partner.do !== 'nothing';

/** What becomes of what, line by line: only what something becomes of. */
export function mergeLines(
  id: string,
  technicianId: string,
  { kind, onlyOpen, from }: { kind: SyncedKind; onlyOpen: boolean; from: number },
): MergeLines {
  const of = kindOf(heldSync(id, technicianId), kind);
  const told = [...of.lines.entries()].filter(([, line]) =>
    onlyOpen ? line.conflict !== null : isToldOf(line),
  );
  return {
    total: told.length,
    open: of.lines.filter(({ isOpen }) => isOpen).length,
    lines: told.slice(from, from + PAGE).map(([at, line]) => lineTold(kind, at, line)),
  };
}

function lineTold(kind: SyncedKind, at: number, line: AnyLine): MergeLines['lines'][number] {
  const rules = mergeRules[kind] as unknown as MergeRules<MergedRecords[SyncedKind]>;
  const side = (name: SideName) => {
    const step = line.steps[name];
    const record = line[name]?.record;
    const parts = record
      ? saidOf(kind, record).map(({ field, words }) => ({
          field,
          words: words.slice(0, WORDS_MAX),
        }))
      : null;
    return { parts, step: step.do, fields: step.do === 'change' ? step.fields : [] };
  };
  const { conflict } = line;
  const record = line.device?.record ?? line.partner?.record;
  return {
    ...{ at, title: (record ? rules.titleOf(record) : '').slice(0, WORDS_MAX) },
    ...{ device: side('device'), partner: side('partner'), isOpen: line.isOpen },
    conflict: conflict && {
      fields: conflict.about === 'fields' ? conflict.fields : [],
      removedOn: conflict.about === 'removed' ? conflict.on : null,
    },
  };
}

/** Decides one of them, or all that wait. */
export function decideMerge(
  id: string,
  technicianId: string,
  { kind, at, decision }: { kind: SyncedKind; at: number | null; decision: Decision },
): Promise<void> {
  const one = heldSync(id, technicianId);
  const of = kindOf(one, kind);
  const meant = at === null ? of.lines.filter(({ isOpen }) => isOpen) : [of.lines[at]];
  for (const line of meant) if (line?.conflict) of.decisions.set(line.key, decision);
  return plan(one, of);
}

export function kindOf(one: HeldSync, kind: SyncedKind): KindInStep {
  const found = one.kinds.find((of) => of.kind === kind);
  if (!found) throw new Failure('not-found', { what: 'That was not read yet.' });
  return found;
}
