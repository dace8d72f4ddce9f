import { createHash } from 'node:crypto';
import { lstat, readdir, readlink } from 'node:fs/promises';
import { join } from 'node:path';
import {
  classOfPath,
  dataClassIds,
  groupOfPath,
  type ClassAmount,
  type DataClass,
} from '@bright-cellar/core';
import { mediaTypes } from '@bright-cellar/core/formats';
import type { Entry, Group } from '@bright-cellar/device-link';

/** A folder read as a device's contents: entries in a fixed order, found by class or by id. */
export interface FolderIndex {
  byClass: Map<DataClass, Entry[]>;
  byId: Map<string, Entry>;
  groups: Group[];
  amounts: ClassAmount[];
  bytes: number;
  revision: string;
}

const idOf = (path: string) => createHash('sha256').update(path).digest('base64url').slice(0, 22);

export async function indexFolder(folder: string): Promise<FolderIndex> {
  const entries: Entry[] = [];
  await walk(folder, '', entries);
  entries.sort((a, b) => (a.path < b.path ? -1 : 1));
  const byClass = new Map<DataClass, Entry[]>();
  const revision = createHash('sha256');
  let bytes = 0;
  for (const entry of entries) {
    const list = byClass.get(entry.class) ?? [];
    list.push(entry);
    byClass.set(entry.class, list);
    revision.update(`${entry.path}\0${entry.revision}\n`);
    bytes += entry.bytes;
  }
  return {
    byClass,
    byId: new Map(entries.map((e) => [e.id, e])),
    groups: groupsOf(byClass),
    amounts: dataClassIds.flatMap((id) => {
      const list = byClass.get(id);
      return list
        ? [{ class: id, items: list.length, bytes: list.reduce((sum, e) => sum + e.bytes, 0) }]
        : [];
    }),
    bytes,
    revision: revision.digest('base64url').slice(0, 22),
  };
}

/** Not offered in the made-up application store any more. */
const WITHDRAWN = new Set(['tide-table']);

function groupsOf(byClass: ReadonlyMap<DataClass, Entry[]>): Group[] {
  const groups = new Map<string, Group>();
  for (const [dataClass, entries] of byClass) {
    for (const { group: id, bytes } of entries) {
      if (id === '') continue;
      const key = `${dataClass}/${id}`;
      const known = groups.get(key) ?? newGroup(dataClass, id);
      groups.set(key, { ...known, items: known.items + 1, bytes: known.bytes + bytes });
    }
  }
  return [...groups.values()];
}

function newGroup(dataClass: DataClass, id: string): Group {
  const isApplication = dataClass === 'applications';
  const words = id.replace(/^thread-0*/, 'Thread ').replaceAll('-', ' ');
  return {
    class: dataClass,
    id,
    name: words.charAt(0).toUpperCase() + words.slice(1),
    kind: isApplication ? 'application' : dataClass === 'messages' ? 'thread' : 'album',
    items: 0,
    bytes: 0,
    sealed: false,
    offered: isApplication ? !WITHDRAWN.has(id) : null,
  };
}

async function walk(root: string, inside: string, into: Entry[]): Promise<void> {
  const names = await readdir(join(root, inside));
  if (names.length === 0 && inside !== '') into.push(await entryOf(root, inside));
  for (const name of names) {
    const path = inside === '' ? name : `${inside}/${name}`;
    const info = await lstat(join(root, path));
    if (info.isDirectory()) await walk(root, path, into);
    else if (info.isFile() || info.isSymbolicLink()) into.push(await entryOf(root, path));
  }
}

/** What a stand-in's own files are: docs/record-formats.md. */
const ownFormats: readonly [RegExp, string][] = [
  [/^(?:messages|applications\/[^/]+\/chats)\/.*\.jsonl$/, mediaTypes.thread],
  [/^messages\/.*\.txt$/, mediaTypes.shortMessages],
  [/^calls\/.*\.csv$/, mediaTypes.callLog],
  [/^contacts\/.*\.vcf$/, mediaTypes.vcard],
];
const formatOf = (path: string): string | null =>
  ownFormats.find(([own]) => own.test(path))?.[1] ?? null;

/** An entry as it is now. Folders stand in a listing only when empty: others follow from what is in them. */
export async function entryOf(root: string, path: string): Promise<Entry> {
  const full = join(root, path);
  const info = await lstat(full);
  const kind = info.isDirectory() ? 'folder' : info.isSymbolicLink() ? 'link' : 'file';
  const bytes =
    kind === 'file' ? info.size : kind === 'link' ? Buffer.byteLength(await readlink(full)) : 0;
  return {
    id: idOf(path),
    class: classOfPath(path),
    group: groupOfPath(path),
    format: kind === 'file' ? formatOf(path) : null,
    kind,
    path,
    bytes,
    modified: info.mtime.toISOString(),
    mode: info.mode & 0o7777,
    // A folder's time changes with its neighbours' coming and going; only its being there counts.
    revision: kind === 'folder' ? 'folder' : `${bytes}-${Math.round(info.mtimeMs)}`,
  };
}
