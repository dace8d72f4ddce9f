import { randomBytes } from 'node:crypto';
import { cpSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { mkdir, readdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import fc from 'fast-check';
import { Decrypter, Encrypter } from 'age-encryption';
import { describe, expect, test } from 'vitest';
import { changePassword, removeEscrow, setEscrow } from './care/holders.js';
import { importBag } from './care/import-bag.js';
import { pruneArchive } from './care/prune.js';
import { rekeyArchive } from './care/rekey.js';
import { ArchiveKey } from './keys/archive-key.js';
import { unwrap, wrapForPassword } from './keys/holders.js';
import { PasswordRecipient } from './keys/passphrase.js';
import { namesOf } from './open/archive-contents.js';
import {
  ESCROW,
  opened,
  pack,
  PASSWORD,
  quickly,
  refusal,
  sha512sumPasses,
  treeOf,
  withFolder,
  withIt,
  writeTree,
  payloadOf,
} from './test-archives.js';
import { unpackBackup } from './unpack/unpack.js';
import { verifyOpen } from './verify/verify.js';
import { completeSwap } from './store/folder-swap.js';
import { archiveIn } from './store/archive-files.js';

const storedBytes = async (archive: string) =>
  (await payloadOf(archive)).reduce((sum, name) => sum + statSync(join(archive, name)).size, 0);

const whole = (archive: string, secret = quickly) =>
  opened(
    archive,
    async (open) => (await verifyOpen(open, { level: 'full', threads: 0 })).whole,
    secret,
  );

async function restoredTree(archive: string, backup: string, to: string, secret = quickly) {
  await rm(to, { recursive: true, force: true });
  await opened(archive, (open) => unpackBackup({ archive: open, backup, to }), secret);
  return treeOf(to);
}

describe('removing a backup', () => {
  test('gives its space back, and touches no other', async () => {
    await withFolder(async (folder) => {
      const [source, archive] = [join(folder, 'source'), join(folder, 'archive')];
      const shared = randomBytes(1_000_000);
      await writeTree(source, {
        'photographs/shared.jpg': shared,
        'videos/old.mp4': randomBytes(5e6),
      });
      await pack(source, archive);
      await rm(join(source, 'videos'), { recursive: true });
      await writeTree(source, { 'notes/new.txt': 'new' });
      const second = await pack(source, archive, { secret: quickly });
      const tree = treeOf(source);
      const before = await storedBytes(archive);
      const result = await opened(archive, (open) => pruneArchive(open, [second.backup]));
      expect(result.removedBackups).toHaveLength(1);
      expect(before - (await storedBytes(archive))).toBeGreaterThan(4.9e6);
      expect(await whole(archive)).toBe(true);
      expect(sha512sumPasses(archive)).toBe(true);
      expect(await restoredTree(archive, second.backup, join(folder, 'out'))).toEqual(tree);
      expect(await refusal(opened(archive, (open) => pruneArchive(open, [])))).toBe('not-found');
    });
  });
});

describe('holders', () => {
  test('another password rewrites kilobytes: no pack is touched, and the old one opens nothing', async () => {
    await withFolder(async (folder) => {
      const [source, archive] = [join(folder, 'source'), join(folder, 'archive')];
      await writeTree(source, { 'photographs/1.jpg': randomBytes(2e6) });
      await pack(source, archive);
      const packs = namesOf('pack', await payloadOf(archive));
      const before = packs.map((name) => statSync(join(archive, name)).mtimeMs);
      await opened(archive, (open) => changePassword(open, 'another four words here'));
      expect(packs.map((name) => statSync(join(archive, name)).mtimeMs)).toEqual(before);
      const open = async () => undefined;
      expect(await refusal(opened(archive, open, withIt))).toBe('wrong-password');
      const changed = { kind: 'password', password: 'another four words here' } as const;
      expect(await refusal(opened(archive, open, changed))).toBe('none');
      expect(sha512sumPasses(archive)).toBe(true);
      await opened(archive, (a) => removeEscrow(a));
      expect(await refusal(opened(archive, open))).toBe('wrong-password');
      await opened(archive, (a) => setEscrow(a, ESCROW), changed);
      expect(await refusal(opened(archive, open))).toBe('none');
    });
  });

  test('a new data key seals everything anew: an old key file opens nothing of it', async () => {
    await withFolder(async (folder) => {
      const [source, archive] = [join(folder, 'source'), join(folder, 'archive')];
      await writeTree(source, { 'photographs/1.jpg': randomBytes(2e6), 'notes/a.txt': 'x' });
      const { backup } = await pack(source, archive);
      const kept = join(folder, 'kept');
      cpSync(join(archive, 'data/keys'), kept, { recursive: true });
      await opened(archive, (open) => rekeyArchive(open, 'a wholly new password'));
      const changed = { kind: 'password', password: 'a wholly new password' } as const;
      expect(await whole(archive, changed)).toBe(true);
      expect(await restoredTree(archive, backup, join(folder, 'out'), changed)).toEqual(
        treeOf(source),
      );
      const [file = ''] = (await readdir(kept)).filter((name) => name.startsWith('password'));
      const old = await unwrap(readFileSync(join(kept, file)), withIt);
      const now = await opened(archive, async ({ key }) => key.bytes(), changed);
      expect(old.bytes().equals(now)).toBe(false);
    });
  });

  const LIGHT = 12;
  test('a key file that is damaged, greedy, or holds something else is not blamed on the password', async () => {
    const file = Buffer.from(await wrapForPassword(ArchiveKey.random(), PASSWORD));
    expect(await refusal(unwrap(file, { kind: 'password', password: `${PASSWORD}x` }))).toBe(
      'wrong-password',
    );
    expect(await refusal(unwrap(file.subarray(0, 40), withIt))).toBe('archive-damaged');
    expect(await refusal(unwrap(Buffer.from('rubbish'), withIt))).toBe('archive-damaged');
    const flipped = Buffer.from(file);
    flipped.writeUInt8(flipped.readUInt8(flipped.length - 1) ^ 1, flipped.length - 1);
    expect(await refusal(unwrap(flipped, withIt))).toBe('archive-damaged');
    const encrypter = new Encrypter();
    encrypter.addRecipient(new PasswordRecipient(PASSWORD, LIGHT));
    const short = await encrypter.encrypt('not thirty-two bytes');
    expect(await refusal(unwrap(short, withIt))).toBe('archive-damaged');
    const greedy = Buffer.from(
      Buffer.from(short).toString('latin1').replace(` ${LIGHT}\n`, ' 40\n'),
      'latin1',
    );
    expect(await refusal(unwrap(greedy, withIt))).toBe('archive-damaged');
  });

  test('a password typed with the same letters in another form opens', async () => {
    const file = await wrapForPassword(ArchiveKey.random(), 'café in four words');
    const other = { kind: 'password', password: 'café in four words' } as const;
    expect(await refusal(unwrap(file, other))).toBe('none');
    const decrypter = new Decrypter();
    decrypter.addPassphrase('café in four words');
    expect(await decrypter.decrypt(file)).toHaveLength(32);
  });
});

describe('any sequence', () => {
  /** Stops the carrying out of a commit at a random step: what a power cut would leave. */
  const steps = fc.array(fc.constantFrom('pack', 'prune', 'password', 'escrow', 'crash'), {
    minLength: 3,
    maxLength: 7,
  });

  test('of packs, prunes, key changes and crashes leaves an archive that verifies', async () => {
    await fc.assert(
      fc.asyncProperty(
        steps,
        fc.infiniteStream(fc.integer({ min: 0, max: 1e6 })),
        async (sequence, numbers) => {
          await withFolder(async (folder) => {
            const [source, archive] = [join(folder, 'source'), join(folder, 'archive')];
            const next = () => Number(numbers.next().value);
            const trees = new Map<string, Record<string, string>>();
            const packNext = async () => {
              await writeTree(source, {
                [`notes/${next() % 5}.txt`]: `${next()}`,
                [`photographs/${next() % 3}.jpg`]: randomBytes(50_000 + (next() % 400_000)),
              });
              const { backup } = await pack(source, archive, {
                secret: trees.size > 0 ? quickly : withIt,
              });
              trees.set(backup, treeOf(source));
            };
            await packNext();
            for (const step of sequence) {
              if (step === 'pack') await packNext();
              else if (step === 'prune') {
                const ids = [...trees.keys()];
                const keep = ids[next() % ids.length] ?? '';
                await opened(archive, (open) => pruneArchive(open, [keep]));
                for (const id of ids) if (id !== keep) trees.delete(id);
              } else if (step === 'password') {
                await opened(archive, (open) => changePassword(open, `password number ${next()}`));
              } else if (step === 'escrow')
                await opened(archive, (open) => setEscrow(open, ESCROW));
              else {
                // Something half-written in the work in progress, and a commit that was never decided.
                await mkdir(join(archive, 'pending/commit-draft'), { recursive: true });
                writeFileSync(join(archive, 'pending/commit-draft/plan.json'), '{"add":[');
              }
              expect(sha512sumPasses(archive)).toBe(true);
            }
            expect(await whole(archive)).toBe(true);
            for (const [backup, tree] of trees) {
              const restored = await restoredTree(archive, backup, join(folder, 'out'));
              const files = (t: Record<string, string>) =>
                Object.fromEntries(
                  Object.entries(t).filter(([, facts]) => facts.startsWith('file')),
                );
              expect(files(restored)).toEqual(files(tree));
            }
          });
        },
      ),
      { numRuns: 8, endOnFailure: true },
    );
  });

  test('a commit that was decided and cut off at any step is completed by whoever comes next', async () => {
    await withFolder(async (folder) => {
      const [source, archive] = [join(folder, 'source'), join(folder, 'archive')];
      await writeTree(source, { 'photographs/1.jpg': randomBytes(1e6) });
      await pack(source, archive);
      const before = join(folder, 'before');
      cpSync(archive, before, { recursive: true });
      await writeTree(source, { 'photographs/2.jpg': randomBytes(1e6) });
      const second = await pack(source, archive, { secret: quickly });
      const added = (await payloadOf(archive)).filter((name) => !namesIn(before).includes(name));
      // The same change as it lies when it is decided, with its first so many renames done.
      for (let done = 0; done <= added.length; done++) {
        const cut = join(folder, `cut-${done}`);
        cpSync(before, cut, { recursive: true });
        await mkdir(join(cut, 'pending/commit'), { recursive: true });
        await mkdir(join(cut, 'pending/x'), { recursive: true });
        const plan = added.map((to, number) => ({ from: `pending/x/f${number}`, to }));
        for (const [number, { from, to }] of plan.entries()) {
          cpSync(join(archive, to), join(cut, number < done ? to : from));
        }
        for (const tag of [
          'manifest-sha512.txt',
          'tagmanifest-sha512.txt',
          'bag-info.txt',
          'bagit.txt',
        ]) {
          cpSync(join(archive, tag), join(cut, 'pending/commit', tag));
        }
        writeFileSync(
          join(cut, 'pending/commit/plan.json'),
          JSON.stringify({ add: plan, remove: namesOf('roster', namesIn(before)), work: ['x'] }),
        );
        expect(sha512sumPasses(cut)).toBe(true);
        expect(await completeSwap(cut)).toBe(true);
        expect(sha512sumPasses(cut)).toBe(true);
        expect(await whole(cut)).toBe(true);
        const ids = await opened(cut, async (open) =>
          (await open.backups()).summaries.map(({ header }) => header.backup),
        );
        expect(ids).toContain(second.backup);
        expect(await completeSwap(cut)).toBe(false);
      }
    });
  });

  test('a plan that names places outside the archive is not carried out', async () => {
    await withFolder(async (folder) => {
      const [source, archive] = [join(folder, 'source'), join(folder, 'archive')];
      await writeTree(source, { a: 'x' });
      await pack(source, archive);
      for (const evil of [
        { add: [{ from: 'pending/../../x', to: 'data/archive.json' }], remove: [], work: [] },
        { add: [], remove: ['../precious'], work: [] },
        { add: [], remove: [], work: ['../../precious'] },
      ]) {
        await mkdir(join(archive, 'pending/commit'), { recursive: true });
        writeFileSync(join(archive, 'pending/commit/plan.json'), JSON.stringify(evil));
        expect(await refusal(completeSwap(archive))).toBe('archive-damaged');
      }
    });
  });
});

const namesIn = (folder: string) =>
  readFileSync(join(folder, 'manifest-sha512.txt'), 'utf8')
    .split('\n')
    .map((line) => line.slice(130));

test('an archive’s folder is taken in under another name, checked before and after', async () => {
  await withFolder(async (folder) => {
    const [source, archive] = [join(folder, 'source'), join(folder, 'x9f2-4e6d-long-meaningless')];
    await writeTree(source, { 'photographs/1.jpg': randomBytes(600_000) });
    await pack(source, archive);
    await mkdir(join(folder, 'rack'));
    await importBag(archiveIn(archive), archiveIn(join(folder, 'rack/good name')));
    expect(await whole(join(folder, 'rack/good name'))).toBe(true);
    expect(
      await refusal(importBag(archiveIn(archive), archiveIn(join(folder, 'rack/good name')))),
    ).toBe('already-exists');
    const [packFile = ''] = namesOf('pack', await payloadOf(archive));
    const bytes = readFileSync(join(archive, packFile));
    bytes.writeUInt8(bytes.readUInt8(77) ^ 1, 77);
    writeFileSync(join(archive, packFile), bytes);
    expect(await refusal(importBag(archiveIn(archive), archiveIn(join(folder, 'rack/bad'))))).toBe(
      'archive-damaged',
    );
    expect(await readdir(join(folder, 'rack'))).toEqual(['.bright-cellar-lock', 'good name']);
  });
});
