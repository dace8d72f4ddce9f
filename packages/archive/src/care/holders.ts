import { randomBytes } from 'node:crypto';
import { basename, join } from 'node:path';
import { Failure, type ArchiveState } from '@bright-cellar/core';
import { commitChange, noChange, removeEscrowFiles } from '../commit/commit.js';
import { diskFailure, writeFileDurably } from '../disk/durable.js';
import { factsOf } from '../format/bag.js';
import { keyName, PENDING } from '../format/layout.js';
import { wrapForEscrow, wrapForPassword, type HolderKind } from '../keys/holders.js';
import { namesOf, readArchiveId } from '../open/archive-contents.js';
import type { OpenArchive } from '../open/open-archive.js';
import { rm, mkdirInside } from '../disk/medium.js';
import type { ArchiveFiles } from '../store/archive-files.js';

const WORK = 'holders';

/**
 * Gives the archive's key to another password instead of the present one. Rewrites one small file. Whoever
 * kept a copy of the old key file and its password can still open what the archive holds: see `rekey.ts`.
 */
export function changePassword(
  archive: OpenArchive,
  password: string,
  beforeDeciding?: (state: ArchiveState) => Promise<void>,
): Promise<ArchiveState> {
  const wrap = async () => wrapForPassword(archive.key, password);
  return exchange(archive, 'password', wrap, beforeDeciding);
}

/** Gives the archive's key to the shop's escrow recipient, instead of any before. Only where the customer agreed. */
export function setEscrow(archive: OpenArchive, recipient: string): Promise<ArchiveState> {
  return exchange(archive, 'escrow', async () => wrapForEscrow(archive.key, recipient));
}

/** Takes the key from the escrow recipient: the same limits as for {@link changePassword}. */
export async function removeEscrow(archive: OpenArchive): Promise<void> {
  const remove = namesOf('escrow', archive.names);
  if (remove.length === 0) {
    throw new Failure('not-found', { what: 'The archive has no escrow holder.' });
  }
  await commitChange(archive, { ...noChange([]), remove });
}

/**
 * Takes the key from the escrow recipient without the password, as the customer may ask at any time.
 * @returns the archive's state then; null when it had no such holder
 * @throws Failure `archive-in-use`, `archive-not-here`, `archive-damaged`, `rack-not-here`.
 */
export async function withdrawEscrow(
  files: ArchiveFiles,
): Promise<Pick<ArchiveState, 'manifestDigest' | 'payloadBytes'> | null> {
  const archive = await readArchiveId(files);
  const lease = await files.lease('exclusive');
  try {
    return await removeEscrowFiles(files, archive);
  } catch (error) {
    throw diskFailure(error);
  } finally {
    await lease.release();
  }
}

async function exchange(
  archive: OpenArchive,
  kind: HolderKind,
  wrap: () => Promise<Uint8Array>,
  beforeDeciding?: (state: ArchiveState) => Promise<void>,
): Promise<ArchiveState> {
  try {
    const { root } = await archive.files.work();
    const file = await wrap();
    const to = keyName(kind, randomBytes(4).toString('hex'));
    const work = join(root, PENDING, WORK);
    await rm(work, { recursive: true, force: true });
    await mkdirInside(root, work);
    await writeFileDurably(join(work, basename(to)), file);
    const change = {
      ...noChange([WORK]),
      add: [{ from: `${PENDING}/${WORK}/${basename(to)}`, to, facts: factsOf(file) }],
      remove: namesOf(kind, archive.names),
    };
    return await commitChange(archive, change, beforeDeciding);
  } catch (error) {
    throw diskFailure(error);
  }
}
