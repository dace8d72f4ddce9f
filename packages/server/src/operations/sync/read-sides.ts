import {
  syncedClasses,
  takesNothing,
  type LinkDeviceId,
  type SyncedKind,
} from '@bright-cellar/core';
import { CrossingTarget } from '@bright-cellar/core/crossing';
import { kindOf, mediaTypes } from '@bright-cellar/core/formats';
import { bookFormats } from '@bright-cellar/core/merge';
import { readAhead, type Entry } from '@bright-cellar/device-link';
import type { Job } from '../../engine/job.js';
import type { Partner, PartnerCollection, PartnerResource } from '../../partners/index.js';
import { inOne } from '../../kernel/in-one.js';
import { RECORDS_AT_MOST } from '../cross/look-at-device.js';
import { keepsAll, SideBook, type SideFile } from './side-book.js';

/** Reads what a device holds of some kinds. */
export async function readDevice(
  job: Job<'sync'>,
  deviceId: LinkDeviceId,
  kinds: readonly SyncedKind[],
): Promise<Map<SyncedKind, SideBook>> {
  const { link, progress, signal } = job;
  const listed = new Map<SyncedKind, Entry[]>();
  for (const kind of kinds) {
    const entries: Entry[] = [];
    for await (const entry of link.entries(deviceId, syncedClasses[kind], signal)) {
      if (entry.kind === 'file' && kindOf(entry.format) === kind) entries.push(entry);
    }
    listed.set(kind, entries);
  }
  const all = [...listed.values()].flat();
  const bytes = all.reduce((sum, entry) => sum + entry.bytes, 0);
  await progress.phase('looking', { bytes, items: all.length });
  const { takes } = (await link.facts(deviceId)).capabilities;
  const target = new CrossingTarget(takes ?? takesNothing, false);
  const books = new Map<SyncedKind, SideBook>();
  for (const [kind, entries] of listed) {
    const taking = target.takingOfKind(syncedClasses[kind], kind);
    const book = new SideBook(kind, {
      letters: taking?.letters ?? {},
      keepsApart: taking?.format === mediaTypes.oldCalendar,
    });
    const isRead = ({ bytes }: Entry) => bytes <= RECORDS_AT_MOST;
    const wanted = (entry: Entry) => (isRead(entry) ? entry : null);
    const read = readAhead(link, deviceId, entries, wanted, signal);
    for await (const { one: entry, contents } of read) {
      if (isRead(entry)) book.add(await deviceFile(job, deviceId, entry, contents));
      else book.unreadable.add(entry.path);
      progress.add(entry.bytes, 1);
    }
    book.isAll();
    books.set(kind, book);
  }
  return books;
}

export async function deviceFile(
  { link, signal }: Job<'sync'>,
  deviceId: LinkDeviceId,
  entry: Entry,
  contents: Buffer | null = null,
): Promise<SideFile> {
  return {
    ...{ id: entry.path, tag: entry.revision, format: entry.format ?? '' },
    contents: contents ?? (await inOne(link.read(deviceId, entry, signal))),
    changedAt: Date.parse(entry.modified),
  };
}

/** Reads the chosen books of the customer's server. */
export async function readPartner(
  { progress, signal }: Job<'sync'>,
  partner: Partner,
  books: readonly PartnerCollection[],
  kinds: readonly SyncedKind[],
): Promise<Map<SyncedKind, SideBook>> {
  await progress.phase('asking', { bytes: 0, items: 0 });
  const found = new Map(kinds.map((kind) => [kind, new SideBook(kind, keepsAll)]));
  for (const book of books) {
    for (const resource of await partner.resources(book)) {
      signal.throwIfAborted();
      found.get(book.kind)?.add(partnerFile(book.kind, resource));
      progress.add(resource.contents.length, 1);
    }
  }
  return found;
}

export const partnerFile = (
  kind: SyncedKind,
  { id, tag, contents }: PartnerResource,
): SideFile => ({
  ...{ id, tag, contents, changedAt: changedAtIn(contents) },
  format: bookFormats[kind].mediaType,
});

/** When a file says that it was changed (RFC 6350, REV; RFC 5545, LAST-MODIFIED). */
function changedAtIn(contents: Uint8Array): number | null {
  const text = new TextDecoder().decode(contents);
  const [, said = ''] = /^(?:REV|LAST-MODIFIED)[^:\n]*:(\S+)/m.exec(text) ?? [];
  const [, date, time] = /^(\d{4}-?\d\d-?\d\d)T(\d\d:?\d\d:?\d\d)/.exec(said) ?? [];
  if (date === undefined || time === undefined) return null;
  const plain = (text_: string) => text_.replaceAll(/[-:]/g, '');
  const iso = `${plain(date)}${plain(time)}`.replace(
    /(....)(..)(..)(..)(..)(..)/,
    '$1-$2-$3T$4:$5:$6Z',
  );
  const at = Date.parse(iso);
  return Number.isNaN(at) ? null : at;
}
