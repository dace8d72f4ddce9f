import { dirname, join } from 'node:path';
import { Failure } from '@bright-cellar/core';
import { z } from 'zod';
import { diskFailure, syncFolder, writeFileDurably } from '../disk/durable.js';
import { mustBeFolders, readPlain } from '../disk/hostile.js';
import { mkdirInside, rename, rm, rmdir } from '../disk/medium.js';
import { BAG_INFO, BAGIT, MANIFEST, TAG_MANIFEST } from '../format/bag.js';
import { payloadFolders, PENDING, isPayloadName } from '../format/layout.js';
import { jsonOrNull } from '../tools/json.js';
import type { NextState } from './store.js';

/**
 * How an archive in a folder changes from one whole state to the next. All new files are written and synced below
 * `pending/` first; then one folder there, `pending/commit`, appears by a rename: from that moment the
 * change is decided, and whoever opens the archive next completes it if this process does not.
 */
const COMMIT = `${PENDING}/commit`;
const PLAN = 'plan.json';
/** In this order: the manifest decides which payload the bag has. */
const tagOrder = [MANIFEST, TAG_MANIFEST, BAG_INFO, BAGIT];
/** A plan names each file that comes or goes: an archive of a hundred terabytes stays below this. */
const PLAN_MAX_BYTES = 512 * 2 ** 20;

const payloadNameSchema = z.string().refine(isPayloadName);
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

/** Decides a change of the archive in a folder, and carries it out. The files that come must have been synced. */
export async function decideSwap(
  folder: string,
  { add, remove, work, tags }: NextState,
  beforeDeciding: () => Promise<void>,
): Promise<void> {
  for (const parent of new Set(add.map(({ from }) => dirname(from)))) {
    await syncFolder(join(folder, parent));
  }
  const draft = join(folder, `${COMMIT}-draft`);
  await rm(draft, { recursive: true, force: true });
  await mkdirInside(folder, draft, { mode: 0o700 });
  // `pending` itself may be new: what is decided in it must not be lost with its name.
  await syncFolder(folder);
  for (const [name, text] of tags) await writeFileDurably(join(draft, name), text);
  // What nobody could carry out is never decided.
  const plan: Plan = planSchema.parse({ add, remove, work });
  await writeFileDurably(join(draft, PLAN), JSON.stringify(plan));
  await syncFolder(draft);
  try {
    await beforeDeciding();
  } catch (error) {
    await rm(draft, { recursive: true, force: true }).catch(() => undefined);
    throw error;
  }
  await rename(draft, join(folder, COMMIT));
  await syncFolder(join(folder, PENDING));
  await completeSwap(folder);
}

/**
 * Completes a change that was decided. Can be cut off and repeated at any point.
 * @returns whether there was one.
 * @throws Failure `rack-not-here` where the folder cannot be written: the archive is whole as it is.
 */
export async function completeSwap(folder: string): Promise<boolean> {
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
