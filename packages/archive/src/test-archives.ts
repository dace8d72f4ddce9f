import { createHash } from 'node:crypto';
import { execFileSync } from 'node:child_process';
import { lstatSync, mkdirSync, readdirSync, readFileSync, readlinkSync } from 'node:fs';
import { mkdir, mkdtemp, rm, utimes, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { Failure, type CommittedBackup } from '@bright-cellar/core';
import type { Box } from '@bright-cellar/rack-stand-ins';
import type { Secret } from './keys/holders.js';
import { OpenArchive } from './open/open-archive.js';
import { listPayload } from './open/archive-contents.js';
import { packFolder, type PackFolderOptions } from './pack/pack-folder.js';
import { archiveIn } from './store/archive-files.js';
import type { StoreAddress } from './store/kinds.js';

/** Helpers for this package's tests: folders in a temporary place, and archives of them. */
export const PASSWORD = 'brass kettle seven moths';
export const withIt: Secret = { kind: 'password', password: PASSWORD };
/** Opens what was made with `ESCROW` without the half second that a password takes. Made for tests. */
export const IDENTITY =
  'AGE-SECRET-KEY-15NQQ5Z5WK08LEEFDCNSHWWLTDVZSTDVY08ZNTW7ZRSFKWZZ4MDUQCSQ89V';
export const quickly: Secret = { kind: 'escrow', identity: IDENTITY };
export const ESCROW = 'age1snjqt4fvsey9c5smlyp7wm68u624e55wjdnta5cdxqlrzzcmj9kq7ry8hl';

export async function withFolder<T>(use: (folder: string) => Promise<T>): Promise<T> {
  const folder = await mkdtemp(join(tmpdir(), 'cellar-archive-'));
  try {
    return await use(folder);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

export async function writeTree(
  folder: string,
  files: Record<string, string | Uint8Array>,
): Promise<void> {
  for (const [path, contents] of Object.entries(files)) {
    await mkdir(dirname(join(folder, path)), { recursive: true });
    await writeFile(join(folder, path), contents);
    // Whole seconds: Node sets times as floating numbers, exact to a microsecond or so.
    const seconds = 1_700_000_000 + (path.length % 1000);
    await utimes(join(folder, path), seconds, seconds);
  }
}

/** Packs in this thread, so that the tests need no build. */
export function pack(
  source: string,
  folder: string,
  more: Partial<PackFolderOptions> = {},
): Promise<CommittedBackup> {
  return packFolder({
    ...{ source, files: archiveIn(folder), secret: withIt, escrow: ESCROW, label: '', threads: 0 },
    ...more,
  });
}

export async function opened<T>(
  folder: string,
  use: (archive: OpenArchive) => Promise<T>,
  secret: Secret = quickly,
): Promise<T> {
  const archive = await OpenArchive.open(archiveIn(folder), secret, { threads: 0 });
  try {
    return await use(archive);
  } finally {
    await archive.close();
  }
}

/** Names of all that lies in an archive's payload. */
export async function payloadOf(folder: string): Promise<string[]> {
  return (await listPayload(archiveIn(folder))).map(({ name }) => name);
}

/** Everything that matters of a tree, in a form that can be compared: names as bytes in hexadecimal. */
export function treeOf(root: string): Record<string, string> {
  const tree: Record<string, string> = {};
  const visit = (folder: Buffer, relative: string) => {
    for (const name of readdirSync(folder, { encoding: 'buffer' })) {
      const path = Buffer.concat([folder, Buffer.from('/'), name]);
      const below = `${relative}/${name.toString('hex')}`;
      const stat = lstatSync(path, { bigint: true });
      const facts = `${(stat.mode & 0o7777n).toString(8)} ${stat.mtimeNs / 1_000_000_000n}`;
      if (stat.isDirectory()) {
        tree[below] = `folder ${facts}`;
        visit(path, below);
      } else if (stat.isSymbolicLink()) {
        tree[below] = `link ${readlinkSync(path, { encoding: 'buffer' }).toString('hex')}`;
      } else {
        const digest = createHash('sha256').update(readFileSync(path)).digest('hex');
        tree[below] = `file ${facts} ${stat.size} ${digest}`;
      }
    }
  };
  visit(Buffer.from(root), '');
  return tree;
}

/** What anybody can do without the password and without this program. */
export function sha512sumPasses(folder: string): boolean {
  try {
    execFileSync('sha512sum', ['-c', '--quiet', 'manifest-sha512.txt'], {
      cwd: folder,
      stdio: 'ignore',
    });
    return true;
  } catch {
    return false;
  }
}

/** The code of the problem that work ends with. */
export async function refusal(work: Promise<unknown>): Promise<string> {
  return work.then(
    () => 'none',
    (error: unknown) => (error instanceof Failure ? error.problem.code : String(error)),
  );
}

/** A rack in a folder of a box, with what its user signs in with. */
export function rackOn(box: Box, path: string, workRoot: string): StoreAddress {
  const { host, port, user, hostKey, privateKey } = box;
  mkdirSync(join(box.folder, path), { recursive: true });
  return {
    ...{ kind: 'sftp', host, port, user, hostKey, path: join(box.folder, path), workRoot },
    login: { kind: 'key', privateKey },
  };
}
