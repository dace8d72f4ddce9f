import { Failure, type DataClass, type ProofLevel } from '@bright-cellar/core';
import { isFinding, mustBeAsked, orNull } from '../disk/errors.js';
import { ChunkSet } from '../tools/chunk-set.js';
import {
  BAG_INFO,
  checkTags,
  MANIFEST,
  manifestDigest,
  readManifest,
  sha512Of,
  type Manifest,
} from '../format/bag.js';
import type { PackBlock } from '../format/chunk-index.js';
import { idOf, packName } from '../format/layout.js';
import type { Roster } from '../format/roster.js';
import { listPayload, namesOf, readPayload } from '../open/archive-contents.js';
import { blocksIn, readBlocks } from '../open/blocks.js';
import { backupIds, listOf } from '../open/backup-list.js';
import type { OpenArchive } from '../open/open-archive.js';
import type { ArchiveFiles } from '../store/archive-files.js';
import { threadsFor } from '../tools/threads-for.js';
import { checkAll } from './checking.js';
import type { CheckTask } from './check-file.js';

/**
 * How closely an archive is looked at:
 * - `structure`: every file is there with its length; with the password, lists and indexes open and agree.
 * - `sample`: that, and some hundred items of every backup are read and compared. Seconds to a minute.
 * - `bytes`: `structure`, and every stored byte is what the manifest says; no item is read. As fast as SHA-512.
 * - `full`: `bytes`, and everything is decrypted and each chunk of each item compared with its id.
 */

/** Paths of damaged items that a report names; it counts all of them. */
const NAMED_MAX = 1000;
const SAMPLE_ITEMS = 200;
const BAG_INFO_MAX_BYTES = 64 * 2 ** 10;

export interface VerifyReport {
  level: ProofLevel;
  /** Nothing at all is wrong, as far as this level looks. */
  whole: boolean;
  /** Payload files looked at, and their bytes. */
  files: number;
  storedBytes: number;
  /** Names inside the bag, ours. */
  damagedFiles: string[];
  /** Null without the password. */
  contents: ContentsReport | null;
  /** SHA-512 of the manifest. */
  manifestDigest: string;
}

export interface BackupReport {
  backup: string;
  /** Read from its own list. */
  items: number;
  bytes: number;
  damagedItems: number;
  /** How many of them by class: whoever is told what is lost need not be told names. */
  damagedClasses: Partial<Record<DataClass, number>>;
  /** SHA-512 of its list's file, as the roster states it; empty without a roster. */
  listDigest: string;
  /**
   * Its own list was opened to its end, it is the one of which the roster speaks, its counts are those that list and
   * roster state, and no item was found damaged, as far as this level looks.
   */
  whole: boolean;
}

export interface ContentsReport {
  archive: string;
  /** Which state of the archive was looked at; null when its roster cannot be read. */
  generation: number | null;
  /** Every backup that there should be, and any other that is there. */
  backups: BackupReport[];
  /** The first of them. Names of customers' files: not for logs. */
  damaged: { backup: string; path: string }[];
  /** Backups whose list cannot be read. */
  damagedBackups: string[];
  /** Items read and compared in a sample. */
  sampled: number;
}

export interface VerifyOptions {
  level: ProofLevel;
  /** 0: in this thread. */
  threads?: number;
  /** `total` bytes are to come in this phase. */
  onPhase?: (phase: 'checking' | 'reading', total: number) => void;
  onProgress?: (bytes: number, items: number) => void;
  /** Waited for before each file: others may need the disk. */
  pace?: (() => Promise<void>) | undefined;
  signal?: AbortSignal;
}

/**
 * Checks an archive without its password.
 * @throws Failure `input-not-valid` for the level `full` or `sample`, `archive-not-here`, `archive-in-use`.
 */
export async function verifySealed(
  files: ArchiveFiles,
  options: VerifyOptions,
): Promise<VerifyReport> {
  if (options.level === 'full' || options.level === 'sample') {
    throw new Failure('input-not-valid', { what: 'That level of proof needs the password.' });
  }
  const lease = await files.lease('shared');
  try {
    return await new Verification(files, null, options).run();
  } finally {
    await lease.release();
  }
}

/** Checks an archive with its password: lists and indexes are opened too, and what is damaged is named. */
export async function verifyOpen(
  archive: OpenArchive,
  options: VerifyOptions,
): Promise<VerifyReport> {
  return new Verification(archive.files, archive, options).run();
}

class Verification {
  readonly #files: ArchiveFiles;
  readonly #archive: OpenArchive | null;
  readonly #options: VerifyOptions;
  readonly #damagedFiles = new Set<string>();
  readonly #bad = new ChunkSet();
  #fileCount = 0;
  #storedBytes = 0;
  #addsUp = true;
  #roster: Roster | null = null;

  constructor(files: ArchiveFiles, archive: OpenArchive | null, options: VerifyOptions) {
    this.#files = files;
    this.#archive = archive;
    this.#options = options;
    this.#bad.grow();
  }

  async run(): Promise<VerifyReport> {
    const { level, signal } = this.#options;
    const { manifest, manifestDigest } = await this.#files.steady(() => this.#checkState());
    const blocks = this.#archive ? await this.#readIndexes(this.#archive) : [];
    if (level === 'bytes' || level === 'full') await this.#checkBytes(manifest, blocks);
    signal?.throwIfAborted();
    const contents = this.#archive ? await this.#checkContents(this.#archive) : null;
    await this.#excuseWhatWent(manifestDigest);
    // Something is longer or shorter than it was, and only its length tells.
    if (!this.#addsUp && this.#damagedFiles.size === 0) this.#damagedFiles.add('data');
    const named = contents !== null && !contents.backups.every((backup) => backup.whole);
    return {
      level,
      whole: this.#damagedFiles.size === 0 && !named,
      files: this.#fileCount,
      storedBytes: this.#storedBytes,
      damagedFiles: [...this.#damagedFiles].sort(),
      contents,
      manifestDigest,
    };
  }

  /** What belongs together in one state of the archive: its tags, its payload, its roster. */
  async #checkState(): Promise<{ manifest: Manifest; manifestDigest: string }> {
    const manifestDigest = await this.#checkTags();
    const manifest = await this.#manifest();
    await this.#checkPresence(manifest);
    if (this.#archive) {
      if (this.#archive.digest !== manifestDigest) await this.#archive.renew();
      this.#roster = this.#checkRoster(this.#archive, manifest);
    }
    return { manifest, manifestDigest };
  }

  /** Something was added beside the look: the roster of the state that was looked at has gone since, as it should. */
  async #excuseWhatWent(looked: string): Promise<void> {
    const { names, digest } = await this.#files.steady(() => readPayload(this.#files));
    if (digest === looked || namesOf('roster', names).length === 0) return;
    for (const name of namesOf('roster', [...this.#damagedFiles])) {
      if (!names.includes(name)) this.#damagedFiles.delete(name);
    }
  }

  async #checkTags(): Promise<string> {
    try {
      return await checkTags(this.#files);
    } catch (error) {
      this.#blame(error, MANIFEST);
      return (await manifestDigest(this.#files)) ?? sha512Of('');
    }
  }

  async #manifest(): Promise<Manifest> {
    try {
      return await readManifest(this.#files);
    } catch (error) {
      this.#blame(error, MANIFEST);
      return new Map();
    }
  }

  #blame(error: unknown, name: string): void {
    if (!isFinding(error)) throw error;
    this.#damagedFiles.add(/“([^”]+)”/.exec(error.problem.what)?.[1] ?? name);
  }

  /** Nothing missing, nothing added, and the lengths add up. */
  async #checkPresence(manifest: Manifest): Promise<void> {
    const present = await listPayload(this.#files).catch((error: unknown) => {
      mustBeAsked(error);
      return [];
    });
    for (const { name } of present) if (!manifest.has(name)) this.#damagedFiles.add(name);
    if (manifest.size === 0) this.#damagedFiles.add(MANIFEST);
    const sizes = new Map(present.map(({ name, bytes }) => [name, bytes]));
    let bytes = 0;
    for (const name of manifest.keys()) {
      const size = sizes.get(name) ?? null;
      if (size === null) this.#damagedFiles.add(name);
      else bytes += size;
    }
    this.#fileCount = manifest.size;
    this.#storedBytes = bytes;
    const info = await orNull(this.#files.read(BAG_INFO, BAG_INFO_MAX_BYTES));
    const oxum = /^Payload-Oxum: (\d+)\.(\d+)$/m.exec(String(info));
    this.#addsUp = Number(oxum?.[1]) === bytes && Number(oxum?.[2]) === manifest.size;
  }

  /**
   * The manifest is the one that belongs to this state of the archive: anybody can compute another, nobody without
   * the key another roster. @returns null when the roster itself is damaged
   */
  #checkRoster(archive: OpenArchive, manifest: Manifest): Roster | null {
    let roster: Roster;
    try {
      roster = archive.roster;
    } catch (error) {
      this.#blame(error, 'data/rosters');
      return null;
    }
    const own = namesOf('roster', [...manifest.keys()])
      .sort()
      .at(-1);
    for (const name of manifest.keys()) {
      if (name !== own && !roster.files.has(name)) this.#damagedFiles.add(name);
    }
    for (const [name, { sha512 }] of roster.files) {
      const stated = manifest.get(name);
      // The shop's key file can be taken away without the password, and nothing else can.
      const mayBeGone = stated === undefined && idOf('escrow', name) !== null;
      if (stated !== sha512 && !mayBeGone) this.#damagedFiles.add(name);
    }
    return roster;
  }

  /** Every pack that an index knows, with its length compared. */
  async #readIndexes(archive: OpenArchive): Promise<PackBlock[]> {
    await archive.prepare(this.#options.signal);
    if (this.#roster) {
      const { signal } = this.#options;
      const found = await readBlocks(this.#files, this.#roster, archive.key, signal);
      for (const name of found.damagedIndexes) this.#damagedFiles.add(name);
      return found.blocks;
    }
    const blocks: PackBlock[] = [];
    for (const name of namesOf('index', archive.names)) {
      try {
        for await (const block of blocksIn(this.#files, name, archive.key)) blocks.push(block);
      } catch (error) {
        if (!isFinding(error)) throw error;
        this.#damagedFiles.add(name);
      }
    }
    return blocks;
  }

  async #checkBytes(manifest: Manifest, blocks: PackBlock[]): Promise<void> {
    const { level, threads = 2, onPhase, onProgress, pace, signal } = this.#options;
    onPhase?.('checking', this.#storedBytes);
    const opened = new Map(
      level === 'full' ? blocks.map((block) => [packName(block.pack), block]) : [],
    );
    // What should be there is looked for too, and what an index speaks of: not only what the manifest owns up to.
    const names = new Set([...manifest.keys(), ...this.#expected(manifest), ...opened.keys()]);
    const tasks = [...names].map((name): CheckTask => {
      const block = opened.get(name);
      return block ? { type: 'pack', block } : { type: 'digest', name };
    });
    await checkAll({
      files: this.#files,
      key: level === 'full' ? (this.#archive?.key ?? null) : null,
      threads: threadsFor(this.#storedBytes, threads),
      tasks,
      pace,
      signal,
      onResult: (task, { sha512, size, badChunks }) => {
        const name = task.type === 'pack' ? packName(task.block.pack) : task.name;
        const expected = this.#roster?.files.get(name)?.sha512 ?? manifest.get(name);
        if (sha512 !== expected) this.#damagedFiles.add(name);
        for (let at = 0; badChunks && at < badChunks.length; at += 32) {
          this.#damagedFiles.add(name);
          this.#bad.add(Buffer.from(badChunks.subarray(at, at + 32)));
          this.#bad.grow();
        }
        onProgress?.(size, 0);
      },
    });
  }

  /** Files that should be there by the roster. The shop's key file may have been taken away. */
  #expected(manifest: Manifest): string[] {
    return [...(this.#roster?.files.keys() ?? [])].filter(
      (name) => manifest.has(name) || idOf('escrow', name) === null,
    );
  }

  /** Every item's chunks are where the indexes say, in packs that are there, and none was found damaged. */
  async #checkContents(archive: OpenArchive): Promise<ContentsReport> {
    const { level, onPhase, onProgress, signal } = this.#options;
    const report: ContentsReport = {
      archive: archive.id,
      generation: this.#roster?.generation ?? null,
      ...{ backups: [], damaged: [], damagedBackups: [], sampled: 0 },
    };
    const places = archive.places();
    const known = this.#roster?.files;
    const missing = places.packs.map(
      ({ id }) =>
        this.#damagedFiles.has(packName(id)) || (known !== undefined && !known.has(packName(id))),
    );
    // A pack with a flipped bit still gives its other chunks: only a full reading tells which.
    const lost = level === 'full' ? missing.map(() => false) : missing;
    onPhase?.('reading', 0);
    const ids = new Set([...(this.#roster?.backups.keys() ?? []), ...backupIds(archive.names)]);
    for (const backup of ids) {
      const stated = this.#roster?.backups.get(backup);
      const listDigest = this.#roster?.files.get(stated?.list ?? '')?.sha512 ?? '';
      const counts: BackupReport = {
        ...{ backup, items: 0, bytes: 0, damagedItems: 0, damagedClasses: {} },
        ...{ listDigest, whole: false },
      };
      try {
        const every = level === 'sample' ? await this.#sampleEvery(archive, backup) : 0;
        for await (const item of archive.items(backup)) {
          signal?.throwIfAborted();
          counts.items += 1;
          counts.bytes += item.bytes;
          let sound = this.#isSound(archive, item.chunks, lost);
          if (sound && every > 0 && counts.items % every === 0) {
            sound = await this.#isReadable(archive, item, onProgress);
            report.sampled += 1;
          }
          if (!sound) {
            counts.damagedItems += 1;
            const { class: dataClass } = item;
            counts.damagedClasses[dataClass] = (counts.damagedClasses[dataClass] ?? 0) + 1;
            if (report.damaged.length < NAMED_MAX) report.damaged.push({ backup, path: item.path });
          }
          onProgress?.(0, 1);
        }
        counts.whole =
          stated?.items === counts.items &&
          stated.bytes === counts.bytes &&
          listOf(archive.names, backup) === stated.list &&
          !this.#damagedFiles.has(stated.list) &&
          counts.damagedItems === 0;
        if (!counts.whole && counts.damagedItems === 0) report.damagedBackups.push(backup);
      } catch (error) {
        if (!isFinding(error)) throw error;
        report.damagedBackups.push(backup);
        const list = stated?.list ?? archive.names.find((name) => idOf('backup', name) === backup);
        if (list !== undefined) this.#damagedFiles.add(list);
      }
      report.backups.push(counts);
    }
    return report;
  }

  async #sampleEvery(archive: OpenArchive, backup: string): Promise<number> {
    const { end } = await archive.backup(backup);
    return Math.max(1, Math.floor(end.items / SAMPLE_ITEMS));
  }

  #isSound(archive: OpenArchive, chunks: Buffer, lost: boolean[]): boolean {
    for (let at = 0; at < chunks.length; at += 32) {
      const id = chunks.subarray(at, at + 32);
      const place = archive.places().find(id);
      if (!place || lost[place.pack] || this.#bad.has(id)) return false;
    }
    return true;
  }

  async #isReadable(
    archive: OpenArchive,
    item: Parameters<OpenArchive['contents']>[0],
    onProgress: VerifyOptions['onProgress'],
  ): Promise<boolean> {
    try {
      for await (const piece of archive.contents(item)) onProgress?.(piece.length, 0);
      return true;
    } catch (error) {
      if (!isFinding(error)) throw error;
      return false;
    }
  }
}
