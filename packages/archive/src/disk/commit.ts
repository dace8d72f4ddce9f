import { mkdir, open, readFile, rename, rm, rmdir, stat } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { Failure } from '@bright-cellar/core';
import { z } from 'zod';
import {
  BAG_INFO,
  BAGIT,
  MANIFEST,
  readManifest,
  sha512Of,
  TAG_MANIFEST,
  tagFilesOf,
} from '../format/bag.js';
import { ARCHIVE_FILE, idOf, jsonOrNull, payloadFolders, PENDING } from '../format/layout.js';
import type { FileFacts } from '../format/sealed-file.js';
import { diskFailure, syncFolder, writeFileDurably } from './durable.js';

/**
 * How an archive changes from one whole state to the next. All new files are written and synced below
 * `pending/` first; then one folder there, `pending/commit`, appears by a rename: from that moment the
 * change is decided, and whoever opens the archive next completes it if this process does not.
 */
const COMMIT = `${PENDING}/commit`;
const PLAN = 'plan.json';
/** In this order: the manifest decides which payload the bag has. */
const tagOrder = [MANIFEST, TAG_MANIFEST, BAG_INFO, BAGIT];

/** What a bag is after a change. */
export interface BagState {
  /** SHA-512 of the manifest. */
  manifestDigest: string;
  /** Bytes of all payload files. */
  payloadBytes: number;
}

export interface Change {
  /** New payload files: where each lies below `pending/`, and its name in the bag. */
  add: { from: string; to: string; facts: FileFacts }[];
  /** Payload files that go. */
  remove: string[];
  /** Folders below `pending/` that this work used: they go too. Other work in progress stays. */
  work: string[];
}

const isPayload = (name: string) =>
  name === ARCHIVE_FILE ||
  (['pack', 'index', 'backup', 'password', 'escrow'] as const).some((kind) => idOf(kind, name));
const payloadNameSchema = z.string().refine(isPayload);
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

/** Makes a file durable that another thread wrote. */
export async function syncFile(path: string): Promise<void> {
  const handle = await open(path, 'r');
  try {
    await handle.datasync();
  } finally {
    await handle.close();
  }
}

/**
 * Decides a change and carries it out. The files to add must have been synced.
 * @param beforeDeciding runs when all is on the medium; the change does not happen if it throws.
 */
export async function commitChange(
  folder: string,
  archive: string,
  change: Change,
  beforeDeciding: (state: BagState) => Promise<void> = async () => undefined,
): Promise<BagState> {
  const manifest = await readManifest(folder).catch(() => new Map<string, string>());
  const gone = new Set(change.remove);
  let bytes = 0;
  for (const name of manifest.keys()) {
    if (gone.has(name)) manifest.delete(name);
    else bytes += (await stat(join(folder, name))).size;
  }
  for (const { to, facts } of change.add) {
    manifest.set(to, facts.sha512);
    bytes += facts.size;
  }
  const tags = tagFilesOf(archive, manifest, bytes, new Date().toISOString().slice(0, 10));
  const plan: Plan = {
    add: change.add.map(({ from, to }) => ({ from, to })),
    remove: change.remove,
    work: change.work,
  };
  const draft = join(folder, `${COMMIT}-draft`);
  await rm(draft, { recursive: true, force: true });
  await mkdir(draft, { recursive: true });
  for (const [name, text] of tags) await writeFileDurably(join(draft, name), text);
  await writeFileDurably(join(draft, PLAN), JSON.stringify(plan));
  await syncFolder(draft);
  for (const parent of new Set(plan.add.map(({ from }) => dirname(from)))) {
    await syncFolder(join(folder, parent));
  }
  const manifestDigest = sha512Of(tags.get(MANIFEST) ?? '');
  const state = { manifestDigest, payloadBytes: bytes };
  await beforeDeciding(state);
  await rename(draft, join(folder, COMMIT));
  await syncFolder(join(folder, PENDING));
  await completeCommit(folder);
  return state;
}

/**
 * Completes a change that was decided. Can be cut off and repeated at any point.
 * @returns whether there was one.
 * @throws Failure `rack-not-here` where the folder cannot be written: the archive is whole as it is.
 */
export async function completeCommit(folder: string): Promise<boolean> {
  const text = await readFile(join(folder, COMMIT, PLAN), 'utf8').catch(() => null);
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

async function carryOut(folder: string, { add, remove, work }: Plan): Promise<void> {
  const touched = new Set([...add.map(({ to }) => to), ...remove].map((name) => dirname(name)));
  for (const parent of payloadFolders) await mkdir(join(folder, parent), { recursive: true });
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
