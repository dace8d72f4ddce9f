import { randomBytes, randomUUID } from 'node:crypto';
import { readdir } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { Failure } from '@bright-cellar/core';
import { isFinding } from '../disk/errors.js';
import type { NewFile } from '../commit/commit.js';
import { begunArchive, FOUNDATION, pendingBackups, pendingFolder } from '../commit/pending.js';
import { syncFolder, writeFileDurably } from '../disk/durable.js';
import { factsOf } from '../format/bag.js';
import { entriesOf } from '../format/chunk-index.js';
import { ARCHIVE_FILE, archiveFileOf, isPayloadName, keyName } from '../format/layout.js';
import type { Roster } from '../format/roster.js';
import { SealedReader } from '../format/sealed-file.js';
import { ArchiveKey } from '../keys/archive-key.js';
import { unwrap, wrapForEscrow, wrapForPassword, type Secret } from '../keys/holders.js';
import {
  namesOf,
  openKey,
  openRoster,
  readArchiveId,
  readKeyFile,
  readPayload,
  type Payload,
} from '../open/archive-contents.js';
import { inOrder } from '../open/backup-list.js';
import { ChunkSet } from '../tools/chunk-set.js';
import { EarlierItems } from './earlier-items.js';
import { learnAndHeal, type Healing } from './heal.js';
import { byNumber, PendingPacks } from './pending-packs.js';
import { rm, mkdirInside } from '../disk/medium.js';
import type { ArchiveFiles } from '../store/archive-files.js';
import { FolderFiles } from '../store/folder-files.js';
import type { Lease, Work } from '../store/store.js';

/** Where a backup is taken: an archive, made ready, leased and open. */
export interface Workspace {
  files: ArchiveFiles;
  /** Takes what is made. */
  work: Work;
  archive: string;
  backup: string;
  /** Whether an earlier run of this backup was cut off and goes on. */
  resumed: boolean;
  key: ArchiveKey;
  lease: Lease;
  /** Path of the folder that takes this run's files. */
  pending: string;
  packs: PendingPacks;
  known: ChunkSet;
  /** The newest committed backup's items; null when there is none. */
  latest: EarlierItems | null;
  /** Items of this backup's earlier runs, newest first. */
  begun: EarlierItems[];
  /** Key files and the like that a new archive begins with. */
  foundation: NewFile[];
  /** What this backup mends of the archive; null where nothing is damaged. */
  healing: Healing | null;
  /** What the archive holds before this backup; null for a new one. */
  roster: Roster | null;
  payload: Payload;
}

export interface GroundOptions {
  /** Where the archive is, or will be. */
  files: ArchiveFiles;
  secret: Secret;
  /** Ids that a new archive and a new backup get; made up when not given. */
  archive?: string;
  backup?: string;
  /** `age1…`; only where the customer agreed. */
  escrow?: string;
}

const nothing: Payload = { names: [], digest: null };

/**
 * Others may read the archive meanwhile, unless it has to be mended: then what is damaged goes.
 * @throws Failure `archive-in-use`, `wrong-password`, `archive-of-another`, `archive-damaged`,
 * `rack-full`, `rack-not-here`. Nothing is changed then.
 */
export async function prepareGround(options: GroundOptions): Promise<Workspace> {
  const { files } = options;
  const lease = await files.lease('update');
  try {
    const work = await files.work();
    const { root, isNew } = work;
    if (isNew) mustBeOurs(root, options);
    const payload = isNew ? nothing : await readPayload(files);
    const opened = isNew
      ? await openStaging(root, options)
      : await openExisting(root, payload, options);
    const { key, archive } = opened;
    if (options.archive !== undefined && options.archive !== archive && !isNew) {
      throw new Failure('archive-of-another');
    }
    const begunBefore = await pendingBackups(root);
    const backup = options.backup ?? begunBefore[0] ?? randomUUID();
    const pending = pendingFolder(root, backup);
    await mkdirInside(root, pending, { mode: 0o700 });
    const known = new ChunkSet();
    known.grow();
    const packs = await PendingPacks.takeUp(pending, key, (block) => {
      for (const { id } of entriesOf(block)) known.add(id);
      known.grow();
    });
    const roster = isNew ? null : await openRoster(files, payload.names, key, archive);
    if (roster?.backups.has(backup)) {
      throw new Failure('already-exists', { what: 'That backup is in the archive already.' });
    }
    const healing = roster ? await learnAndHeal({ files, roster, key, known, packs }) : null;
    if (healing) lease.upgrade();
    const latest = roster ? await latestItems(files, roster, key) : null;
    const begun = await openBegun(pending, key);
    const resumed = begunBefore.includes(backup);
    return {
      ...{ files, work, lease, archive, backup, resumed, key, pending, packs, known },
      ...{ latest, begun, roster, payload, healing, foundation: opened.foundation },
    };
  } catch (error) {
    await lease.release();
    throw error;
  }
}

/** Items of the newest backup; null where there is none, or its list cannot be read: then all of it is read anew. */
async function latestItems(
  files: ArchiveFiles,
  roster: Roster,
  key: ArchiveKey,
): Promise<EarlierItems | null> {
  const latest = inOrder(roster).at(-1);
  if (!latest) return null;
  try {
    const reader = await SealedReader.open(files, latest.list, 'backup', key);
    return await EarlierItems.read(reader, false);
  } catch (error) {
    if (!isFinding(error)) throw error;
    return null;
  }
}

/** A new archive that somebody else began under the same name is theirs. */
function mustBeOurs(root: string, { archive }: GroundOptions): void {
  const begun = begunArchive(root);
  if (archive !== undefined && begun !== null && begun !== archive) {
    throw new Failure('archive-of-another', {
      what: 'Another archive was begun under this name and is not whole yet.',
      next: 'Let that backup go on or give it up, or choose another name.',
    });
  }
}

const FOUNDATION_FILES_MAX = 3;

interface Opened {
  key: ArchiveKey;
  archive: string;
  foundation: NewFile[];
}

async function openExisting(
  root: string,
  { names }: Payload,
  { files, secret, escrow }: GroundOptions,
): Promise<Opened> {
  const key = await openKey(files, names, secret);
  const foundation: NewFile[] = [];
  if (escrow !== undefined && namesOf('escrow', names).length === 0) {
    await rm(join(root, FOUNDATION), { recursive: true, force: true });
    await mkdirInside(root, join(root, FOUNDATION), { mode: 0o700 });
    foundation.push(await addEscrow(root, key, escrow));
  }
  return { key, archive: await readArchiveId(files), foundation };
}

/** The key of an archive, or of one that was begun; null when there is neither. */
export async function openWorkspaceKey(
  files: ArchiveFiles,
  secret: Secret,
): Promise<ArchiveKey | null> {
  const { root, isNew } = await files.work();
  if (isNew) return (await openBegunFoundation(root, secret))?.key ?? null;
  await readArchiveId(files);
  return openKey(files, (await readPayload(files)).names, secret);
}

/** Opens what was begun of a new archive, or begins it. */
async function openStaging(root: string, options: GroundOptions): Promise<Opened> {
  return (await openBegunFoundation(root, options.secret)) ?? beginStaging(root, options);
}

async function openBegunFoundation(root: string, secret: Secret): Promise<Opened | null> {
  const archive = begunArchive(root);
  if (archive === null) return null;
  const names = (await readdir(join(root, FOUNDATION))).filter((name) =>
    isPayloadName(payloadNameOf(name)),
  );
  const foundation: NewFile[] = [];
  let key: ArchiveKey | null = null;
  // One password, one escrow, and the archive's own file.
  if (names.length > FOUNDATION_FILES_MAX) throw new Failure('archive-damaged');
  for (const name of names.sort()) {
    const bytes = await readKeyFile(new FolderFiles(root), `${FOUNDATION}/${name}`);
    foundation.push({
      from: `${FOUNDATION}/${name}`,
      to: payloadNameOf(name),
      facts: factsOf(bytes),
    });
    if (name.startsWith(secret.kind)) key = await unwrap(bytes, secret);
  }
  if (!key) throw new Failure('wrong-password');
  return { key, archive, foundation };
}

async function beginStaging(root: string, options: GroundOptions): Promise<Opened> {
  const { secret, escrow } = options;
  if (secret.kind !== 'password') {
    throw new Failure('input-not-valid', { what: 'A new archive needs a password.' });
  }
  // What was cut off before it had a key holds nothing that could be read.
  await rm(root, { recursive: true, force: true });
  await mkdirInside(dirname(root), join(root, FOUNDATION), { mode: 0o700 });
  const archive = options.archive ?? randomUUID();
  const key = ArchiveKey.random();
  const foundation: NewFile[] = [];
  const add = async (name: string, bytes: Uint8Array) => {
    foundation.push(await addFoundation(root, name, bytes));
  };
  await add(
    `password-${randomBytes(4).toString('hex')}.age`,
    await wrapForPassword(key, secret.password),
  );
  if (escrow !== undefined) foundation.push(await addEscrow(root, key, escrow));
  // Last: its presence says that the keys are there.
  await add(basename(ARCHIVE_FILE), Buffer.from(archiveFileOf(archive)));
  await syncFolder(join(root, FOUNDATION));
  return { key, archive, foundation };
}

const payloadNameOf = (name: string) =>
  name === basename(ARCHIVE_FILE) ? ARCHIVE_FILE : `data/keys/${name}`;

async function addFoundation(root: string, name: string, bytes: Uint8Array) {
  await writeFileDurably(join(root, FOUNDATION, name), bytes);
  return { from: `${FOUNDATION}/${name}`, to: payloadNameOf(name), facts: factsOf(bytes) };
}

async function addEscrow(root: string, key: ArchiveKey, recipient: string) {
  const name = basename(keyName('escrow', randomBytes(4).toString('hex')));
  return addFoundation(root, name, await wrapForEscrow(key, recipient));
}

async function openBegun(pending: string, key: ArchiveKey): Promise<EarlierItems[]> {
  const lists = (await readdir(pending)).filter((name) => /^list-\d+\.backup$/.test(name));
  const begun: EarlierItems[] = [];
  for (const name of lists.sort(byNumber).reverse()) {
    try {
      const reader = await SealedReader.open(new FolderFiles(pending), name, 'backup', key);
      begun.push(await EarlierItems.read(reader, true));
    } catch (error) {
      // Cut off before its header was on the medium.
      if (!isFinding(error)) throw error;
    }
  }
  return begun;
}

/** What `latest` and its like hold open. */
export function closeGround({ latest, begun, key }: Workspace): void {
  latest?.close();
  for (const items of begun) items.close();
  key.forget();
}
