import { Failure } from '@bright-cellar/core';
import { diskFailure } from '../disk/durable.js';
import {
  checkTags,
  damagedFile,
  readManifest,
  readTags,
  type Manifest,
  type TagFiles,
} from '../format/bag.js';
import { idOf, isPayloadName } from '../format/layout.js';
import { listPayload, readArchiveId, readPayload, type Payload } from '../open/archive-contents.js';
import type { ArchiveFiles } from '../store/archive-files.js';
import { piecesOf, piecesOfFile } from '../store/read.js';
import type { Incoming, Lease, StoredFile } from '../store/store.js';
import { FileChecker } from '../verify/check-file.js';
import { orFailure } from '../tools/or-failure.js';

export interface CopyOptions {
  from: ArchiveFiles;
  /** Another copy of the same archive, or a place where nothing is. */
  to: ArchiveFiles;
  /** `total` bytes are to come in this phase. */
  onPhase?: (phase: 'copying' | 'reading-back', total: number) => void;
  onProgress?: (bytes: number) => void;
  /** Waited for before each piece: others may need the disk. */
  pace?: (bytes: number) => Promise<void>;
  /** Runs when all is on the medium and was read back, and nothing has been decided yet. */
  beforeDeciding?: (copied: Copied) => Promise<void>;
  signal?: AbortSignal;
}

export interface CopiedState {
  archive: string;
  /** Which state of the archive it is. */
  generation: number;
  /** SHA-512 of its manifest. */
  manifestDigest: string;
  payloadBytes: number;
}

export interface Copied extends CopiedState {
  /** What was not there, or not whole, and was sent. */
  sent: { files: number; bytes: number };
  /** How long reading that back from the medium took. */
  readBackMs: number;
}

/** The archive of which a copy was begun in a place where nothing is yet; null where none was. */
export async function copyBegun(to: ArchiveFiles): Promise<string | null> {
  const id = await orFailure(async () => readArchiveId(await to.incoming()));
  return id instanceof Failure ? null : id;
}

/** A copy as it was when the lease began; what is added to it since is not copied. */
interface CopySource {
  manifest: Manifest;
  tags: TagFiles;
  state: CopiedState;
  sizes: Map<string, number>;
  /** Open: it goes with the next state. */
  roster: StoredFile;
  rosterName: string;
}

/**
 * Makes another copy of an archive, or brings one up to date: what is not there is sent, read back from the medium and
 * compared with the manifest; only then does it belong to the copy. Cut off at any moment, the next try goes on from what
 * was sent. Needs no password.
 * @throws Failure `archive-of-another`, `archive-not-here`, `archive-in-use`, `archive-changed` where the other is newer,
 * `archive-damaged` where the one that is copied is, `not-read-back`, `rack-full`, `rack-not-here`.
 */
export async function copyArchive(options: CopyOptions): Promise<Copied> {
  const { from, to } = options;
  const leases = [await from.lease('shared')];
  try {
    const archive = await readArchiveId(from);
    const source = await from.steady(() => sourceOf(from, archive));
    try {
      const lease = await to.lease('update');
      leases.push(lease);
      return await bringUpToDate(source, lease, options);
    } finally {
      source.roster.close();
    }
  } catch (error) {
    throw diskFailure(error);
  } finally {
    for (const lease of leases.reverse()) await lease.release();
  }
}

async function sourceOf(from: ArchiveFiles, archive: string): Promise<CopySource> {
  const manifestDigest = await checkTags(from);
  const tags = await readTags(from);
  const manifest = await readManifest(from);
  const odd = [...manifest.keys()].find((name) => !isPayloadName(name));
  if (odd !== undefined) throw damagedFile(odd);
  const rosterName = [...manifest.keys()].findLast((name) => idOf('roster', name) !== null);
  if (rosterName === undefined) throw damagedFile('data/rosters');
  const sizes = new Map<string, number>();
  for (const { name, bytes } of await listPayload(from)) {
    if (manifest.has(name)) sizes.set(name, bytes ?? 0);
  }
  const missing = [...manifest.keys()].find((name) => !sizes.has(name));
  if (missing !== undefined) throw damagedFile(missing);
  const payloadBytes = [...sizes.values()].reduce((sum, bytes) => sum + bytes, 0);
  const generation = Number(idOf('roster', rosterName));
  return {
    ...{ manifest, tags, sizes, rosterName },
    state: { archive, generation, manifestDigest, payloadBytes },
    roster: await from.open(rosterName),
  };
}

async function bringUpToDate(
  source: CopySource,
  lease: Lease,
  options: CopyOptions,
): Promise<Copied> {
  const { to, signal, beforeDeciding = async () => undefined } = options;
  const { manifest, tags, state } = source;
  const there = await payloadThere(to, state);
  const before = there ? await readManifest(to) : new Map<string, string>();
  const missing = [...manifest.keys()].filter((name) => before.get(name) !== manifest.get(name));
  const remove = [...before.keys()].filter((name) => !manifest.has(name));
  const sent = { files: missing.length, bytes: sizeOf(missing, source) };
  if (there?.digest === state.manifestDigest)
    return { ...state, sent: { files: 0, bytes: 0 }, readBackMs: 0 };
  // Whoever reads it needs nothing of what goes but the roster, which each has read.
  if (remove.some((name) => idOf('roster', name) === null)) lease.upgrade();
  const incoming = await to.incoming();
  await send(source, missing, incoming, options);
  const reading = performance.now();
  await readBack(source, missing, incoming, options);
  const readBackMs = Math.round(performance.now() - reading);
  signal?.throwIfAborted();
  await to.swap(
    { from: there?.digest ?? null, add: [], incoming: missing, remove, tags, work: [] },
    () => beforeDeciding({ ...state, sent, readBackMs }),
  );
  return { ...state, sent, readBackMs };
}

/** What is in the other's place; null where nothing is. @throws Failure `archive-of-another`, `archive-changed` */
async function payloadThere(to: ArchiveFiles, state: CopiedState): Promise<Payload | null> {
  if ((await to.work()).isNew) return null;
  if ((await readArchiveId(to)) !== state.archive) throw new Failure('archive-of-another');
  const payload = await readPayload(to);
  const newest = payload.names.map((name) => Number(idOf('roster', name) ?? -1));
  if (Math.max(...newest) > state.generation) {
    throw new Failure('archive-changed', {
      what: 'The other copy holds a newer state of this archive.',
      safe: 'It was not changed.',
      next: 'Copy that one instead.',
    });
  }
  return payload;
}

const sizeOf = (names: readonly string[], { sizes }: CopySource) =>
  names.reduce((sum, name) => sum + (sizes.get(name) ?? 0), 0);

/** Sends what an earlier try did not. Whether that is whole is read back with the rest. */
async function send(
  source: CopySource,
  names: readonly string[],
  incoming: Incoming,
  { from, onPhase, onProgress, pace, signal }: CopyOptions,
): Promise<void> {
  const begun = new Map((await incoming.list()).map(({ name, bytes }) => [name, bytes]));
  const toSend = names.filter((name) => begun.get(name) !== source.sizes.get(name));
  onPhase?.('copying', sizeOf(toSend, source));
  for (const name of toSend) {
    const pieces = name === source.rosterName ? piecesOfFile(source.roster) : piecesOf(from, name);
    await incoming.put(
      name,
      (async function* () {
        for await (const piece of pieces) {
          signal?.throwIfAborted();
          await pace?.(piece.length);
          yield piece;
          onProgress?.(piece.length);
        }
      })(),
    );
  }
}

async function readBack(
  source: CopySource,
  names: readonly string[],
  incoming: Incoming,
  { from, onPhase, onProgress, pace, signal }: CopyOptions,
): Promise<void> {
  const checker = new FileChecker(incoming, null);
  onPhase?.('reading-back', sizeOf(names, source));
  for (const name of names) {
    signal?.throwIfAborted();
    const { sha512, size } = await checker.check({ type: 'digest', name });
    await pace?.(size);
    if (sha512 !== source.manifest.get(name)) {
      await incoming.remove(name);
      // One of the two is not what was written: the source itself says which. Its roster may have gone since, as it should.
      const own = await new FileChecker(from, null).check({ type: 'digest', name });
      const hasGone = own.sha512 === null && name === source.rosterName;
      const isSound = own.sha512 === source.manifest.get(name);
      throw isSound || hasGone ? new Failure('not-read-back') : damagedFile(name);
    }
    onProgress?.(size);
  }
}

/** Gives up a copy that was cut off: nothing of it stays. @throws Failure `archive-in-use` */
export async function discardCopy(to: ArchiveFiles): Promise<void> {
  const lease = await to.lease('update');
  try {
    await (await to.incoming()).discard();
  } finally {
    await lease.release();
  }
}
