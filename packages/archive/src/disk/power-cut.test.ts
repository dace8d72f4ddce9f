import {
  cpSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { createHash, randomBytes } from 'node:crypto';
import { dirname, join } from 'node:path';
import type { ProofLevel } from '@bright-cellar/core';
import { describe, expect, test } from 'vitest';
import { copyArchive } from '../care/copy.js';
import { changePassword } from '../care/holders.js';
import { pruneArchive } from '../care/prune.js';
import { removeCopy } from '../care/remove-copy.js';
import { OpenArchive } from '../open/open-archive.js';
import { archiveIn } from '../store/archive-files.js';
import {
  ESCROW,
  opened,
  pack,
  quickly,
  treeOf,
  withFolder,
  withIt,
  writeTree,
} from '../test-archives.js';
import { unpackBackup } from '../unpack/unpack.js';
import { verifyOpen } from '../verify/verify.js';
import { watchMedium, type Step } from './medium.js';

/**
 * What a power cut leaves: files with what was synced of them, folders with the names that were synced. Anything else may
 * be lost, may have arrived, or may be torn; each of these is tried after every step of a recorded sequence.
 */
interface File {
  durable: Buffer;
  written: Buffer;
}
type Names = Map<string, File | 'folder'>;
/** What happens to what nobody had synced. */
const fates = [
  'lost',
  'names arrived, contents did not',
  'torn',
  'only the last write arrived',
  'arrived',
] as const;
type Fate = (typeof fates)[number];

/** `npm run faults` looks after every step in every way; every test run looks after each step, in every third way in turn. */
const ALL_FATES = process.env.POWER_CUTS === 'all';

class Medium {
  /** As programs see it. */
  readonly #now: Names = new Map();
  /** What was written to last. */
  #last: File | null = null;
  /** As it is after a power cut that loses all that may be lost. */
  readonly #safe: Names = new Map();
  /** Changes of names that were not synced yet, in order. */
  #pending: { folders: string[]; of: string[]; apply: (names: Names) => void }[] = [];

  /** @param before what was there and safe. @param root where that is in the recorded paths */
  constructor(before: string | null, root: string) {
    if (before === null) return;
    for (const name of readdirSync(before, { recursive: true }).map(String)) {
      const path = join(before, name);
      const contents = statSync(path).isFile() ? readFileSync(path) : null;
      const what = contents ? { durable: contents, written: contents } : ('folder' as const);
      this.#now.set(join(root, name), what);
      this.#safe.set(join(root, name), what);
    }
  }

  apply(step: Step): void {
    const { path } = step;
    const parent = dirname(path);
    switch (step.do) {
      case 'create': {
        const file: File = { durable: Buffer.alloc(0), written: Buffer.alloc(0) };
        return this.#change([parent], [path], (names) => void names.set(path, file));
      }
      case 'folder':
        return this.#change([parent], [path], (names) => {
          if (!names.has(path)) names.set(path, 'folder');
        });
      case 'write': {
        const file = this.#fileAt(path);
        const end = step.at + step.bytes.length;
        const written = Buffer.alloc(Math.max(file.written.length, end));
        file.written.copy(written);
        step.bytes.copy(written, step.at);
        file.written = written;
        this.#last = file;
        return;
      }
      case 'sync': {
        const file = this.#fileAt(path);
        file.durable = file.written;
        return;
      }
      case 'rename':
        return this.#change([parent, dirname(step.to)], [path, step.to], (names) =>
          moveNames(names, path, step.to),
        );
      case 'remove':
        return this.#change([parent], [path], (names) => removeNames(names, path));
      case 'sync-folder':
        // With a folder's names come those that led to it: its own, and its parents'.
        this.#pending = this.#pending.filter(({ folders, of, apply }) => {
          if (!folders.includes(path) && !of.some((name) => below(path, name))) return true;
          apply(this.#safe);
          return false;
        });
    }
  }

  /** @param of what was made, moved or removed. */
  #change(folders: string[], of: string[], apply: (names: Names) => void): void {
    apply(this.#now);
    this.#pending.push({ folders, of, apply });
  }

  #fileAt(path: string): File {
    const file = this.#now.get(path);
    if (!file || file === 'folder') throw new Error(`no file to write: ${path}`);
    return file;
  }

  /** What is left, by path; null for a folder. */
  left(fate: Fate): Map<string, Buffer | null> {
    const names = fate === 'lost' ? this.#safe : this.#now;
    return new Map(
      [...names].map(([path, what]) => [
        path,
        what === 'folder' ? null : contentsAfter(what, fate, what === this.#last),
      ]),
    );
  }
}

function contentsAfter({ durable, written }: File, fate: Fate, isLast: boolean): Buffer {
  if (fate === 'arrived' || (isLast && fate === 'only the last write arrived')) return written;
  if (fate !== 'torn' || written.length <= durable.length) return durable;
  // Half of what came later is there, and its last part is not what was written.
  const half = durable.length + Math.ceil((written.length - durable.length) / 2);
  const torn = Buffer.from(written.subarray(0, half));
  torn.fill(0, Math.max(durable.length, half - 64));
  return torn;
}

const below = (path: string, folder: string) => path === folder || path.startsWith(`${folder}/`);

function moveNames(names: Names, from: string, to: string): void {
  // Where the source never arrived there is nothing to move.
  const moved = [...names].filter(([path]) => below(path, from));
  for (const [path] of moved) names.delete(path);
  for (const [path, what] of moved) names.set(to + path.slice(from.length), what);
}

function removeNames(names: Names, path: string): void {
  for (const other of [...names.keys()]) if (below(other, path)) names.delete(other);
}

async function record(work: () => Promise<unknown>): Promise<Step[]> {
  const steps: Step[] = [];
  watchMedium((step) => steps.push(step));
  try {
    await work();
  } finally {
    watchMedium(null);
  }
  return steps;
}

/** Leaves the medium as it is after each step, in each way, on top of what was there before. */
async function afterEachCut(
  { steps, root, before }: { steps: Step[]; root: string; before: string | null },
  look: (rack: string, cut: string, isOver: boolean) => Promise<void>,
): Promise<void> {
  const medium = new Medium(before, root);
  const looked = new Set<string>();
  for (let done = 0; done <= steps.length; done++) {
    const step = steps[done - 1];
    if (step) medium.apply(step);
    for (const [number, fate] of fates.entries()) {
      if (!ALL_FATES && (number + done) % 3 > 0 && done < steps.length) continue;
      const left = medium.left(fate);
      // The same as after another step: it was looked at.
      const state = createHash('sha256');
      for (const [path, bytes] of [...left].sort(([a], [b]) => (a < b ? -1 : 1)))
        state.update(`${path}\n`).update(bytes ?? 'folder');
      const digest = state.digest('hex');
      if (looked.has(digest) && done < steps.length) continue;
      looked.add(digest);
      const rack = `${root}-cut`;
      rmSync(rack, { recursive: true, force: true });
      mkdirSync(rack);
      for (const [path, bytes] of left) {
        const target = rack + path.slice(root.length);
        mkdirSync(bytes ? dirname(target) : target, { recursive: true });
        if (bytes) writeFileSync(target, bytes);
      }
      const at = steps[done - 1];
      const name = at ? `${at.do} ${at.path.slice(root.length)}` : 'nothing yet';
      await look(rack, `${done} of ${steps.length} (${name}), ${fate}`, done === steps.length);
    }
  }
}

async function restoredTree(archive: OpenArchive, backup: string, to: string) {
  rmSync(to, { recursive: true, force: true });
  const { damaged } = await unpackBackup({ archive, backup, to });
  expect(damaged).toEqual([]);
  return treeOf(to);
}

describe('a power cut at any moment', () => {
  test('of a first backup leaves a whole archive or none, and the next run makes it', async () => {
    await withFolder(async (folder) => {
      const [source, root] = [join(folder, 'source'), join(folder, 'rack')];
      mkdirSync(root);
      await writeTree(source, { 'notes/1.txt': 'one', 'photographs/a.jpg': randomBytes(60_000) });
      const steps = await record(() => pack(source, join(root, 'archive')));
      expect(steps.length).toBeGreaterThan(30);
      await afterEachCut({ steps, root, before: null }, async (rack, cut, isOver) => {
        const archive = join(rack, 'archive');
        // What was said to be done is there.
        if (isOver) expect(existsSync(archive), cut).toBe(true);
        if (existsSync(archive)) {
          await opened(archive, async (open) => {
            const report = await verifyOpen(open, { level: 'full', threads: 0 });
            expect(report.whole, cut).toBe(true);
            const tree = await restoredTree(
              open,
              (await open.latest()).header.backup,
              join(folder, 'out'),
            );
            expect(tree, cut).toEqual(treeOf(source));
          });
        }
        await pack(source, archive);
        const again = await opened(archive, (open) =>
          verifyOpen(open, { level: 'full', threads: 0 }),
        );
        expect(again.whole, `${cut}, and again`).toBe(true);
      });
    });
  });

  test('of a further backup leaves the earlier one whole, with the new one or without', async () => {
    await withFolder(async (folder) => {
      const [source, root] = [join(folder, 'source'), join(folder, 'rack')];
      mkdirSync(root);
      await writeTree(source, { 'notes/1.txt': 'one', 'photographs/a.jpg': randomBytes(60_000) });
      const { backup: first } = await pack(source, join(root, 'archive'));
      const firstTree = treeOf(source);
      const before = join(folder, 'before');
      cpSync(root, before, { recursive: true });
      await writeTree(source, { 'notes/2.txt': 'two', 'photographs/b.jpg': randomBytes(40_000) });
      let second = '';
      const steps = await record(async () => {
        second = (await pack(source, join(root, 'archive'))).backup;
      });
      const seen = new Set<number>();
      await afterEachCut({ steps, root, before }, async (rack, cut, isOver) => {
        await opened(join(rack, 'archive'), async (open) => {
          const report = await verifyOpen(open, { level: 'full', threads: 0 });
          expect(report, cut).toMatchObject({ whole: true, damagedFiles: [] });
          const ids = (await open.backups()).summaries.map(({ header }) => header.backup);
          if (isOver) expect(ids, cut).toContain(second);
          seen.add(ids.length);
          expect(ids, cut).toContain(first);
          expect(await restoredTree(open, first, join(folder, 'out')), cut).toEqual(firstTree);
          if (ids.length === 1) return;
          expect(await restoredTree(open, second, join(folder, 'out')), cut).toEqual(
            treeOf(source),
          );
        });
      });
      expect([...seen].sort()).toEqual([1, 2]);
    });
  });

  test('of a removal leaves the whole copy or none, and the next try ends it', async () => {
    await withFolder(async (folder) => {
      const source = join(folder, 'source');
      const root = join(folder, 'rack');
      mkdirSync(root);
      await writeTree(source, { 'notes/1.txt': randomBytes(20_000) });
      const packed = await pack(source, join(root, 'archive'));
      const expected = { archive: packed.archive, digest: packed.manifestDigest };
      const before = join(folder, 'before');
      cpSync(root, before, { recursive: true });
      const steps = await record(() => removeCopy(archiveIn(join(root, 'archive')), expected));
      const seen = new Set<boolean>();
      await afterEachCut({ steps, root, before }, async (rack, cut, isOver) => {
        const archive = join(rack, 'archive');
        seen.add(existsSync(archive));
        if (isOver) expect(existsSync(archive), cut).toBe(false);
        if (existsSync(archive)) {
          const report = await opened(archive, (open) =>
            verifyOpen(open, { level: 'full', threads: 0 }),
          );
          expect(report, cut).toMatchObject({ whole: true });
        }
        await removeCopy(archiveIn(archive), expected);
        expect(readdirSync(rack).filter((name) => name !== '.bright-cellar-lock')).toEqual([]);
      });
      expect(seen).toEqual(new Set([true, false]));
    });
  });

  test('of a copy, a first one or one that is brought up to date, leaves what was there or the whole, and the next try ends it', async () => {
    await withFolder(async (folder) => {
      const [source, from, root] = ['source', 'from', 'rack'].map((name) => join(folder, name));
      if (!source || !from || !root) throw new Error('no folder');
      mkdirSync(root);
      const copy = (rack: string) =>
        copyArchive({ from: archiveIn(from), to: archiveIn(join(rack, 'archive')) });
      const backupsIn = (archive: string, cut: string, level: ProofLevel = 'full') =>
        opened(archive, async (open) => {
          const report = await verifyOpen(open, { level, threads: 0 });
          expect(report, cut).toMatchObject({ whole: true, damagedFiles: [] });
          return open.roster.backups.size;
        });
      const before = join(folder, 'before');
      for (const count of [1, 2]) {
        await writeTree(source, { [`notes/${count}.txt`]: randomBytes(20_000) });
        await pack(source, from, count === 1 ? {} : { secret: quickly });
        if (count === 2) cpSync(root, before, { recursive: true });
        const steps = await record(() => copy(root));
        const seen = new Set<number>();
        await afterEachCut(
          { steps, root, before: count === 1 ? null : before },
          async (rack, cut, isOver) => {
            const archive = join(rack, 'archive');
            const isThere = existsSync(archive);
            if (isOver || count === 2) expect(isThere, cut).toBe(true);
            seen.add(isThere ? await backupsIn(archive, cut) : 0);
            await copy(rack);
            expect(await backupsIn(archive, `${cut}, and again`, 'structure')).toBe(count);
          },
        );
        expect([...seen].sort()).toEqual([count - 1, count]);
      }
    });
  });

  test.each<[string, (open: OpenArchive) => Promise<unknown>]>([
    [
      'a change of the password',
      (open: OpenArchive) => changePassword(open, 'another four words here'),
    ],
    [
      'a removal of a backup',
      async (open: OpenArchive) => pruneArchive(open, [(await open.latest()).header.backup]),
    ],
  ])(
    'of %s leaves an archive that opens, before it or after it',
    async (_, change) => {
      await withFolder(async (folder) => {
        const [source, root] = [join(folder, 'source'), join(folder, 'rack')];
        mkdirSync(root);
        await writeTree(source, { 'notes/1.txt': 'one', 'photographs/a.jpg': randomBytes(60_000) });
        await pack(source, join(root, 'archive'));
        rmSync(join(source, 'photographs'), { recursive: true });
        await writeTree(source, { 'notes/2.txt': 'two' });
        const { backup } = await pack(source, join(root, 'archive'), { secret: quickly });
        const before = join(folder, 'before');
        cpSync(root, before, { recursive: true });
        const steps = await record(() => opened(join(root, 'archive'), change));
        await afterEachCut({ steps, root, before }, async (rack, cut) => {
          await opened(join(rack, 'archive'), async (open) => {
            const report = await verifyOpen(open, { level: 'full', threads: 0 });
            expect(report, cut).toMatchObject({ whole: true, damagedFiles: [] });
            expect(await restoredTree(open, backup, join(folder, 'out')), cut).toEqual(
              treeOf(source),
            );
          });
        });
      });
    },
    300_000,
  );
});

test('a decision is taken only when all that it rests on is on the medium', async () => {
  await withFolder(async (folder) => {
    await writeTree(join(folder, 'source'), { 'photographs/a.jpg': randomBytes(60_000) });
    const steps = await record(() =>
      pack(join(folder, 'source'), join(folder, 'archive'), { secret: withIt, escrow: ESCROW }),
    );
    const decided = steps.findIndex((s) => s.do === 'rename' && s.to.endsWith('pending/commit'));
    expect(decided).toBeGreaterThan(0);
    const created = steps.flatMap((s, n) => (s.do === 'create' && n < decided ? [s.path] : []));
    for (const path of created) {
      const written = steps.findLastIndex(
        (s, n) => s.do === 'write' && s.path === path && n < decided,
      );
      const synced = steps.findLastIndex(
        (s, n) => s.do === 'sync' && s.path === path && n < decided,
      );
      const isScratch = /packs-\d+\.index$/.test(path);
      if (!isScratch) expect(synced, path).toBeGreaterThan(written);
    }
  });
});

test('whoever cannot finish a change reads what was there before, or all of it: files come before the manifest, and go after', async () => {
  await withFolder(async (folder) => {
    const [source, archive] = [join(folder, 'source'), join(folder, 'archive')];
    await writeTree(source, { 'notes/1.txt': 'one' });
    const { backup: first } = await pack(source, archive);
    await writeTree(source, { 'notes/2.txt': 'two' });
    const steps = await record(async () => {
      const { backup } = await pack(source, archive);
      await opened(archive, (open) => pruneArchive(open, [backup]));
      expect(backup).not.toBe(first);
    });
    const isDecision = (s: Step) => s.do === 'rename' && s.to.endsWith('pending/commit');
    const decisions = steps.flatMap((s, n) => (isDecision(s) ? [n] : []));
    expect(decisions).toHaveLength(2);
    for (const [n, from] of decisions.entries()) {
      const change = steps.slice(from + 1, decisions[n + 1]);
      const last = (is: (s: Step) => boolean) => change.findLastIndex(is);
      const first = (is: (s: Step) => boolean) => change.findIndex(is);
      const comes = (s: Step) => s.do === 'rename' && s.to.startsWith(join(archive, 'data/'));
      const named = (s: Step) => s.do === 'rename' && s.to === join(archive, 'manifest-sha512.txt');
      const goes = (s: Step) => s.do === 'remove' && s.path.startsWith(join(archive, 'data/'));
      const synced = (path: string) => (s: Step) => s.do === 'sync-folder' && s.path === path;
      expect(last(comes)).toBeGreaterThanOrEqual(0);
      expect(first(named)).toBeGreaterThan(last(comes));
      // Durably: the names of what came, then the manifest's, before anything that it named goes.
      for (const step of change.filter(comes)) {
        const into = step.do === 'rename' ? dirname(step.to) : '';
        expect(first(named)).toBeGreaterThan(change.findIndex(synced(into)));
        expect(change.findIndex(synced(into))).toBeGreaterThanOrEqual(0);
      }
      expect(first(goes)).toBeGreaterThan(0);
      const rootSynced = change.findIndex((s, at) => at > last(named) && synced(archive)(s));
      expect(rootSynced).toBeGreaterThan(0);
      expect(first(goes)).toBeGreaterThan(rootSynced);
    }
  });
});
