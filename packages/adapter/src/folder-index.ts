import { createHash } from 'node:crypto';
import { lstat, readdir, readlink, stat } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import {
  classOfMediaType,
  classOfPath,
  dataClassIds,
  groupOfPath,
  isDataClass,
  type ClassAmount,
  type DataClass,
} from '@bright-cellar/core';
import { mediaTypes } from '@bright-cellar/core/formats';
import { LinkError, type Entry, type Group } from '@bright-cellar/device-link';
import { lookup } from 'mime-types';
import { safeParts } from './folder-writer.js';

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
  await walk(folder, '', (await stat(folder)).dev, entries);
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

/** One entry as it is now. @throws LinkError `no-such-entry` */
export async function entryAt(folder: string, path: string): Promise<Entry> {
  try {
    return await entryOf(folder, safeParts(path).join('/'));
  } catch (error) {
    if (codeOf(error) !== 'ENOENT') throw error;
    throw new LinkError('no-such-entry', { cause: error });
  }
}

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

const groupKinds: Partial<Record<DataClass, Group['kind']>> = {
  applications: 'application',
  messages: 'thread',
};

function newGroup(dataClass: DataClass, id: string): Group {
  const words = id.replace(/^thread-0*/, 'Thread ').replaceAll('-', ' ');
  return {
    class: dataClass,
    id,
    name: words.charAt(0).toUpperCase() + words.slice(1),
    kind: groupKinds[dataClass] ?? 'album',
    items: 0,
    bytes: 0,
    sealed: false,
    offered: null,
    version: null,
  };
}

/** Where a restore gathers what it receives, beside what lies there already: no part of the contents. */
export const INCOMING = '.incoming-restore';

/** Stands for contents that nobody could look at: they are listed, so that it is told that they were not taken. */
export const UNREADABLE = 'unreadable';

async function walk(root: string, inside: string, medium: number, into: Entry[]): Promise<void> {
  const found = await readdir(join(root, inside), { withFileTypes: true });
  if (found.length === 0 && inside !== '') into.push(await entryOf(root, inside));
  for (const one of found) {
    const path = inside === '' ? one.name : `${inside}/${one.name}`;
    if (path === INCOMING) continue;
    try {
      // What is mounted below it is another medium, and not this device's.
      if (one.isDirectory() && (await lstat(join(root, path))).dev === medium)
        await walk(root, path, medium, into);
      else if (one.isFile() || one.isSymbolicLink()) into.push(await entryOf(root, path));
    } catch (error) {
      // Gone meanwhile; a name that cannot be written as text is there, and is asked for under another.
      if (codeOf(error) === 'ENOENT' && !path.includes('\uFFFD')) continue;
      into.push(unreadable(path));
    }
  }
}

const codeOf = (error: unknown): unknown => (error as NodeJS.ErrnoException).code;

const unreadable = (path: string): Entry => ({
  id: idOf(path),
  class: classOfPath(path),
  group: '',
  format: null,
  kind: 'file',
  path,
  bytes: 0,
  modified: new Date(0).toISOString(),
  mode: null,
  revision: UNREADABLE,
});

/** What files in the folders of a class are: docs/record-formats.md. */
const ownFormats: readonly [RegExp, string][] = [
  [/^(?:messages|applications\/[^/]+\/chats)\/.*\.jsonl$/, mediaTypes.thread],
  [/^(?:messages|applications\/[^/]+\/chats)\/.*\/thread\.json$/, mediaTypes.threadPeople],
  [/^messages\/.*\.txt$/, mediaTypes.shortMessages],
  [/^calls\/.*\.csv$/, mediaTypes.callLog],
  [/\.vcf$/i, mediaTypes.vcard],
  [/^tasks\/.*\.(?:ics|vcs)$/i, mediaTypes.taskList],
  [/\.(?:ics|vcs)$/i, mediaTypes.icalendar],
  [/^notes\/.*\.txt$/, mediaTypes.memo],
  [/^web-history\/(?:.*\/)?bookmarks\.json$/, mediaTypes.bookmarks],
  [/^web-history\/.*\.json$/, mediaTypes.visits],
  [/^alarms\/.*\.json$/, mediaTypes.alarms],
  [/^health\/.*\.csv$/, mediaTypes.health],
  [/^settings\/(?:.*\/)?home-screen\.json$/, mediaTypes.homeScreen],
];
/** What the name of a file says that is in it; null where it says nothing. */
const formatOf = (path: string): string | null =>
  ownFormats.find(([own]) => own.test(path))?.[1] ?? (lookup(path) || null);

/** The folders of a device's own say what is in them; in others each file does. */
function placeOf(path: string, type: string | null): Pick<Entry, 'class' | 'group'> {
  const [first = ''] = path.split('/');
  if (isDataClass(first)) return { class: classOfPath(path), group: groupOfPath(path) };
  const folder = dirname(path);
  const isAlbum = /^(?:image|video|audio)\//.test(type ?? '') && folder !== '.';
  return {
    class: classOfMediaType(type),
    group: isAlbum && folder.length <= GROUP_SIGNS ? folder : '',
  };
}
const GROUP_SIGNS = 120;

/** An entry as it is now. Folders stand in a listing only when empty: others follow from what is in them. */
export async function entryOf(root: string, path: string): Promise<Entry> {
  const full = join(root, path);
  const info = await lstat(full);
  const kind = info.isDirectory() ? 'folder' : info.isSymbolicLink() ? 'link' : 'file';
  const bytes =
    kind === 'file' ? info.size : kind === 'link' ? Buffer.byteLength(await readlink(full)) : 0;
  const format = kind === 'file' ? formatOf(path) : null;
  return {
    id: idOf(path),
    ...placeOf(path, format),
    format,
    kind,
    path,
    bytes,
    // Never later than it was: rounded up, the last of a second would be in the next one.
    modified: new Date(Math.floor(info.mtimeMs)).toISOString(),
    mode: info.mode & 0o7777,
    // A folder's time changes with its neighbours' coming and going; only its being there counts.
    revision: kind === 'folder' ? 'folder' : `${bytes}-${Math.round(info.mtimeMs)}`,
  };
}
