import { randomBytes } from 'node:crypto';
import { join } from 'node:path';
import { type ArchiveState } from '@bright-cellar/core';
import { syncFile } from '../disk/durable.js';
import { mkdirInside, rm } from '../disk/medium.js';
import { manifestDigest, readManifest, sha512Of, tagFilesOf, MANIFEST } from '../format/bag.js';
import { idOf, PENDING, rosterName } from '../format/layout.js';
import { writeRoster, type Roster, type RosterBackup } from '../format/roster.js';
import type { FileFacts } from '../format/sealed-file.js';
import type { ArchiveKey } from '../keys/archive-key.js';
import { listPayload } from '../open/archive-contents.js';
import type { ArchiveFiles } from '../store/archive-files.js';
import type { Lease, NextState } from '../store/store.js';

/** A payload file to add: where it lies below the work's folder, and its name in the bag. */
export interface NewFile {
  from: string;
  to: string;
  facts: FileFacts;
}

/** How an archive becomes another. What is added must have been synced. */
export interface Change {
  add: NewFile[];
  /** Payload files that go. A backup goes with its list. */
  remove: string[];
  /** Backups whose lists are among what is added. */
  backups: RosterBackup[];
  /** Folders below `pending/` that this work used: they go too. Other work in progress stays. */
  work: string[];
}

/** Nothing changes, and some work is cleared away. A change is made from this. */
export const noChange = (work: string[]): Change => ({ add: [], remove: [], backups: [], work });

/** An archive that is open and can be changed. */
export interface Changeable {
  files: ArchiveFiles;
  id: string;
  /** Seals the roster after the change. */
  key: ArchiveKey;
  /** What it holds before it; null for an archive that begins. */
  roster: Roster | null;
  /** Names in its payload now. */
  names: readonly string[];
  /** SHA-512 of its manifest now; null for an archive that begins. */
  digest: string | null;
  lease: Lease;
}

/** Where the next roster is made. */
const ROSTER_WORK = 'roster';

/** The roster after a change. */
function rosterAfter({ id, roster, names }: Changeable, change: Change): Roster {
  const gone = new Set(change.remove);
  // The shop's key file can have been taken away without the password: it does not come back by itself.
  const there = new Set(names);
  const stays = (name: string) =>
    !gone.has(name) && (idOf('escrow', name) === null || there.has(name));
  const files = new Map([...(roster?.files ?? [])].filter(([name]) => stays(name)));
  for (const { to, facts } of change.add) files.set(to, facts);
  const backups = new Map([...(roster?.backups ?? [])].filter(([, { list }]) => !gone.has(list)));
  for (const backup of change.backups) backups.set(backup.backup, backup);
  return { archive: id, generation: (roster?.generation ?? 0) + 1, files, backups };
}

/**
 * Decides a change and carries it out. The files to add must have been synced.
 * @param beforeDeciding runs when all is on the medium; the change does not happen if it throws.
 */
export async function commitChange(
  archive: Changeable,
  change: Change,
  beforeDeciding: (state: ArchiveState) => Promise<void> = async () => undefined,
): Promise<ArchiveState> {
  const { files, key, names, digest, lease } = archive;
  const needed = change.remove.length > 0 ? 'exclusive' : 'update';
  if (lease.kind !== needed && lease.kind !== 'exclusive') {
    throw new Error(`an archive that is held ${lease.kind} is not changed so`);
  }
  const roster = rosterAfter(archive, change);
  const rosterFile = rosterName(roster.generation, randomBytes(4).toString('hex'));
  const draft = `${PENDING}/${ROSTER_WORK}/next.roster`;
  const { root } = await files.work();
  const work = join(root, PENDING, ROSTER_WORK);
  await rm(work, { recursive: true, force: true });
  await mkdirInside(root, work, { mode: 0o700 });
  const rosterFacts = writeRoster(join(root, draft), key, roster);
  await syncFile(join(root, draft));
  const payload = new Map([...roster.files, [rosterFile, rosterFacts]]);
  const manifest = new Map([...payload].map(([name, { sha512 }]) => [name, sha512]));
  const payloadBytes = [...payload.values()].reduce((sum, { size }) => sum + size, 0);
  const next: NextState = {
    from: digest,
    add: [...change.add.map(({ from, to }) => ({ from, to })), { from: draft, to: rosterFile }],
    remove: [...change.remove, ...names.filter((name) => idOf('roster', name) !== null)],
    tags: tagFilesOf(roster.archive, manifest, payloadBytes, today()),
    work: [...change.work, ROSTER_WORK],
  };
  const state = { ...stateOf(next, payloadBytes), generation: roster.generation };
  await files.swap(next, () => beforeDeciding(state));
  return state;
}

/**
 * Takes key files of the shop's escrow away, which needs no key: the roster allows for it.
 * @returns the archive's new state; null when there is no such file
 */
export async function removeEscrowFiles(
  files: ArchiveFiles,
  archive: string,
): Promise<Omit<ArchiveState, 'generation'> | null> {
  const from = await manifestDigest(files);
  const manifest = await readManifest(files);
  const remove = [...manifest.keys()].filter((name) => idOf('escrow', name) !== null);
  if (remove.length === 0) return null;
  for (const name of remove) manifest.delete(name);
  let payloadBytes = 0;
  for (const { name, bytes } of await listPayload(files)) {
    if (manifest.has(name)) payloadBytes += bytes ?? 0;
  }
  const tags = tagFilesOf(archive, manifest, payloadBytes, today());
  const next: NextState = { from, add: [], remove, tags, work: [] };
  await files.swap(next, async () => undefined);
  return stateOf(next, payloadBytes);
}

const today = () => new Date().toISOString().slice(0, 10);

const stateOf = ({ tags }: NextState, payloadBytes: number) => ({
  manifestDigest: sha512Of(tags.get(MANIFEST) ?? ''),
  payloadBytes,
});
