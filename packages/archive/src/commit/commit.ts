import type { Lease } from '../disk/lock.js';
import { randomBytes } from 'node:crypto';
import { lstat } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { Failure, type ArchiveState } from '@bright-cellar/core';
import { z } from 'zod';
import {
  BAG_INFO,
  BAGIT,
  MANIFEST,
  readManifest,
  sha512Of,
  TAG_MANIFEST,
  tagFilesOf,
  type Manifest,
} from '../format/bag.js';
import { jsonOrNull } from '../tools/json.js';
import { idOf, payloadFolders, PENDING, rosterName } from '../format/layout.js';
import { isPayloadName, writeRoster, type Roster, type RosterBackup } from '../format/roster.js';
import type { FileFacts } from '../format/sealed-file.js';
import type { ArchiveKey } from '../keys/archive-key.js';
import { diskFailure, syncFile, syncFolder, writeFileDurably } from '../disk/durable.js';
import { mustBeFolders, readPlain } from '../disk/hostile.js';
import { rename, rm, rmdir, mkdirInside } from '../disk/medium.js';

/**
 * How an archive changes from one whole state to the next. All new files are written and synced below
 * `pending/` first; then one folder there, `pending/commit`, appears by a rename: from that moment the
 * change is decided, and whoever opens the archive next completes it if this process does not.
 */
const COMMIT = `${PENDING}/commit`;
const PLAN = 'plan.json';
/** In this order: the manifest decides which payload the bag has. */
const tagOrder = [MANIFEST, TAG_MANIFEST, BAG_INFO, BAGIT];

/** A payload file to add: where it lies below `pending/`, and its name in the bag. */
export interface NewFile {
  from: string;
  to: string;
  facts: FileFacts;
}

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
  folder: string;
  id: string;
  /** Seals the roster after the change. */
  key: ArchiveKey;
  /** What it holds before it; null for an archive that begins. */
  roster: Roster | null;
  /** Names in its payload now. */
  names: readonly string[];
  /** How it is held; where not said, by whoever changes it. */
  lease?: Lease;
}

const payloadNameSchema = z
  .string()
  .refine((name) => isPayloadName(name) || idOf('roster', name) !== null);
const planSchema = z.object({
  add: z.array(
    z.object({
      from: z.string().regex(/^pending\/[0-9a-z-]+(?:\/[0-9a-z-]+)*(?:\.[a-z]+)?$/),
      to: payloadNameSchema,
    }),
  ),
  remove: z.array(payloadNameSchema),
  work: z.array(z.string().regex(/^[0-9a-z-]+$/)),
});
type Plan = z.infer<typeof planSchema>;

const ROSTER_DRAFT = 'next.roster';
/** A plan names each file that comes or goes: an archive of a hundred terabytes stays below this. */
const PLAN_MAX_BYTES = 512 * 2 ** 20;

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
  if (archive.lease === 'shared') throw new Error('others read this archive: it is not changed');
  const { folder, key, names } = archive;
  const roster = rosterAfter(archive, change);
  const draft = await emptyDraft(folder);
  const rosterFacts = writeRoster(join(draft, ROSTER_DRAFT), key, roster);
  await syncFile(join(draft, ROSTER_DRAFT));
  const rosterFile = rosterName(roster.generation, randomBytes(4).toString('hex'));
  const payload = new Map([...roster.files, [rosterFile, rosterFacts]]);
  const payloadBytes = [...payload.values()].reduce((sum, { size }) => sum + size, 0);
  const manifest = new Map([...payload].map(([name, { sha512 }]) => [name, sha512]));
  for (const parent of new Set(change.add.map(({ from }) => dirname(from)))) {
    await syncFolder(join(folder, parent));
  }
  const plan: Plan = {
    add: [
      ...change.add.map(({ from, to }) => ({ from, to })),
      { from: `${COMMIT}/${ROSTER_DRAFT}`, to: rosterFile },
    ],
    remove: [...change.remove, ...names.filter((name) => idOf('roster', name) !== null)],
    work: change.work,
  };
  const manifestDigest = await writeDecision(draft, roster.archive, manifest, payloadBytes, plan);
  const state = { manifestDigest, payloadBytes, generation: roster.generation };
  await beforeDeciding(state);
  await decide(folder, draft);
  return state;
}

/**
 * Takes key files of the shop's escrow away, which needs no key: the roster allows for it.
 * @returns the archive's new state; null when there is no such file
 */
export async function removeEscrowFiles(
  folder: string,
  archive: string,
): Promise<Omit<ArchiveState, 'generation'> | null> {
  const manifest = await readManifest(folder);
  const gone = [...manifest.keys()].filter((name) => idOf('escrow', name) !== null);
  if (gone.length === 0) return null;
  for (const name of gone) manifest.delete(name);
  let payloadBytes = 0;
  for (const name of manifest.keys()) payloadBytes += (await lstat(join(folder, name))).size;
  const draft = await emptyDraft(folder);
  const plan: Plan = { add: [], remove: gone, work: [] };
  const manifestDigest = await writeDecision(draft, archive, manifest, payloadBytes, plan);
  await decide(folder, draft);
  return { manifestDigest, payloadBytes };
}

async function emptyDraft(folder: string): Promise<string> {
  const draft = join(folder, `${COMMIT}-draft`);
  await rm(draft, { recursive: true, force: true });
  await mkdirInside(folder, draft, { mode: 0o700 });
  // `pending` itself may be new: what is decided in it must not be lost with its name.
  await syncFolder(folder);
  return draft;
}

/** Writes the tag files as they will be, and the plan. @returns the manifest's SHA-512 */
async function writeDecision(
  draft: string,
  archive: string,
  manifest: Manifest,
  payloadBytes: number,
  plan: Plan,
): Promise<string> {
  const today = new Date().toISOString().slice(0, 10);
  const tags = tagFilesOf(archive, manifest, payloadBytes, today);
  for (const [name, text] of tags) await writeFileDurably(join(draft, name), text);
  await writeFileDurably(join(draft, PLAN), JSON.stringify(plan));
  await syncFolder(draft);
  return sha512Of(tags.get(MANIFEST) ?? '');
}

async function decide(folder: string, draft: string): Promise<void> {
  await rename(draft, join(folder, COMMIT));
  await syncFolder(join(folder, PENDING));
  await completeCommit(folder);
}

/**
 * Completes a change that was decided. Can be cut off and repeated at any point.
 * @returns whether there was one.
 * @throws Failure `rack-not-here` where the folder cannot be written: the archive is whole as it is.
 */
export async function completeCommit(folder: string): Promise<boolean> {
  mustBeFolders(folder, [PENDING, COMMIT, 'data', ...payloadFolders]);
  const text = planText(folder);
  if (text === null) {
    // The folder outlives its plan only while it is being removed.
    await rm(join(folder, COMMIT), { recursive: true, force: true }).catch(() => undefined);
    return false;
  }
  const parsed = planSchema.safeParse(jsonOrNull(text));
  if (!parsed.success) throw new Failure('archive-damaged', {}, { cause: parsed.error });
  try {
    await carryOut(folder, parsed.data);
  } catch (error) {
    throw diskFailure(error);
  }
  return true;
}

/** Null where nothing was decided. */
function planText(folder: string): string | null {
  try {
    return readPlain(join(folder, COMMIT, PLAN), PLAN_MAX_BYTES).toString('utf8');
  } catch (error) {
    if (error instanceof Error && 'code' in error && error.code === 'ENOENT') return null;
    // Decided, and unreadable: nobody may take it for undecided and clear it away.
    throw diskFailure(error);
  }
}

async function carryOut(folder: string, { add, remove, work }: Plan): Promise<void> {
  const touched = new Set([...add.map(({ to }) => to), ...remove].map((name) => dirname(name)));
  for (const parent of payloadFolders)
    await mkdirInside(folder, join(folder, parent), { mode: 0o700 });
  for (const { from, to } of add) await renameIfThere(join(folder, from), join(folder, to));
  for (const parent of [...touched, 'data']) await syncFolder(join(folder, parent));
  for (const name of tagOrder) await renameIfThere(join(folder, COMMIT, name), join(folder, name));
  await syncFolder(folder);
  for (const name of remove) await rm(join(folder, name), { force: true });
  if (remove.length > 0) for (const parent of touched) await syncFolder(join(folder, parent));
  for (const name of work) await rm(join(folder, PENDING, name), { recursive: true, force: true });
  await rm(join(folder, COMMIT, PLAN), { force: true });
  await rm(join(folder, COMMIT), { recursive: true, force: true });
  // Stays where other work is in progress.
  await rmdir(join(folder, PENDING)).catch(() => undefined);
  await syncFolder(folder);
}

/** What is not there was renamed before the interruption. */
async function renameIfThere(from: string, to: string): Promise<void> {
  await rename(from, to).catch((error: unknown) => {
    if (!(error instanceof Error && 'code' in error && error.code === 'ENOENT')) throw error;
  });
}
