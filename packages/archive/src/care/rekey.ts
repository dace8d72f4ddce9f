import { randomBytes } from 'node:crypto';
import { basename, join } from 'node:path';
import { Failure } from '@bright-cellar/core';
import { commitChange, noChange, type Change } from '../commit/commit.js';
import { diskFailure, syncFile, writeFileDurably } from '../disk/durable.js';
import { factsOf } from '../format/bag.js';
import type { BackupLine } from '../format/backup-lines.js';
import { decodeLines } from '../format/backup-lines.js';
import { CHUNK_ID_BYTES, encodeBlock, entriesOf, type PackBlock } from '../format/chunk-index.js';
import {
  backupName,
  indexName,
  keyName,
  packName,
  PENDING,
  ARCHIVE_FILE,
} from '../format/layout.js';
import { ListWriter } from '../format/list-writer.js';
import { SealedReader, SealedWriter } from '../format/sealed-file.js';
import { ArchiveKey } from '../keys/archive-key.js';
import { wrapForPassword } from '../keys/holders.js';
import { readBlocks } from '../open/blocks.js';
import { listOf } from '../open/backup-list.js';
import type { OpenArchive } from '../open/open-archive.js';
import { ChunkSealer } from '../pack/chunk-sealer.js';
import { ChunkSet } from '../tools/chunk-set.js';
import { collectGarbage } from '../tools/collect.js';
import { resealChunks } from './reseal.js';
import { rm, mkdirInside } from '../disk/medium.js';

const WORK = 'rekey';

/**
 * Seals everything in an archive anew under a new key, for one password; every other holder is left out.
 * Old key files open nothing of it any more. Reads and writes the whole archive, and needs room for a
 * second one until it is done.
 * @throws Failure `archive-damaged` when something in it cannot be read, `rack-full`. The archive is as it
 * was then.
 */
export async function rekeyArchive(
  archive: OpenArchive,
  password: string,
  options: { onProgress?: (bytes: number) => void; signal?: AbortSignal } = {},
): Promise<void> {
  const key = ArchiveKey.random();
  const { root } = await archive.files.work();
  const work = join(root, PENDING, WORK);
  try {
    await rm(work, { recursive: true, force: true });
    await mkdirInside(root, work);
    const { backups } = archive.roster;
    const change: Change = {
      ...noChange([WORK]),
      remove: [...archive.roster.files.keys()].filter((name) => name !== ARCHIVE_FILE),
    };
    const add = (name: string, to: string, facts: Change['add'][number]['facts']) =>
      change.add.push({ from: `${PENDING}/${WORK}/${name}`, to, facts });

    const { blocks, renamed } = await resealPacks(archive, key, work, options);
    for (const { pack, size, sha512 } of blocks) {
      await syncFile(join(work, `${pack}.pack`));
      add(`${pack}.pack`, packName(pack), { size, sha512 });
    }
    const index = new SealedWriter(join(work, 'chunks.index'), 'index', key);
    for (const block of blocks) index.append(encodeBlock(block));
    const indexFacts = index.finish();
    await syncFile(index.path);
    add('chunks.index', indexName(index.id.toString('hex')), indexFacts);
    for (const known of backups.values()) {
      const { backup } = known;
      const name = `${backup}.backup`;
      const writer = new ListWriter(join(work, name), key);
      for await (const line of linesOf(archive, backup)) writer.add(withNewIds(line, renamed));
      const facts = writer.finish();
      await syncFile(writer.path);
      const list = backupName(backup, randomBytes(4).toString('hex'));
      add(name, list, facts);
      change.backups.push({ ...known, list });
      await collectGarbage();
    }
    const wrapped = await wrapForPassword(key, password);
    const keyFile = keyName('password', randomBytes(4).toString('hex'));
    await writeFileDurably(join(work, basename(keyFile)), wrapped);
    add(basename(keyFile), keyFile, factsOf(wrapped));
    options.signal?.throwIfAborted();
    // What is kept is sealed under the new key; so is the roster.
    const { files, id, roster, names, digest, lease } = archive;
    await commitChange({ files, id, roster, names, digest, lease, key }, change);
  } catch (error) {
    throw diskFailure(error);
  } finally {
    key.forget();
  }
}

/** Seals every chunk under the new key. @returns the new packs, and old ids with their new ones. */
async function resealPacks(
  archive: OpenArchive,
  key: ArchiveKey,
  work: string,
  { onProgress, signal }: { onProgress?: (bytes: number) => void; signal?: AbortSignal },
): Promise<{ blocks: PackBlock[]; renamed: Map<string, string> }> {
  const blocks: PackBlock[] = [];
  const renamed = new Map<string, string>();
  const written = new ChunkSet();
  written.grow();
  const sealer = new ChunkSealer(work, key, written, (block) => blocks.push(block));
  try {
    const known = await readBlocks(archive.files, archive.roster, archive.key, signal);
    for (const block of known.blocks) {
      await resealChunks(archive, block, entriesOf(block), sealer, {
        signal,
        onSealed: (id, now) => renamed.set(id.toString('hex'), now.toString('hex')),
      });
      written.grow();
      onProgress?.(block.size);
    }
    sealer.closePack();
  } finally {
    sealer.giveUp();
  }
  return { blocks, renamed };
}

async function* linesOf(archive: OpenArchive, backup: string): AsyncGenerator<BackupLine> {
  const { files, names, key } = archive;
  const reader = await SealedReader.open(files, listOf(names, backup), 'backup', key);
  try {
    for await (const frame of reader.frames()) yield* decodeLines(frame.plain);
  } finally {
    reader.close();
  }
}

function withNewIds(line: BackupLine, renamed: Map<string, string>): BackupLine {
  if (line.type !== 'item' && line.type !== 'part') return line;
  const digits = CHUNK_ID_BYTES * 2;
  let chunks = '';
  for (let at = 0; at < line.chunks.length; at += digits) {
    const now = renamed.get(line.chunks.slice(at, at + digits));
    // A chunk that no index has: what it was would be lost without a word.
    if (now === undefined) throw new Failure('archive-damaged');
    chunks += now;
  }
  return { ...line, chunks };
}
