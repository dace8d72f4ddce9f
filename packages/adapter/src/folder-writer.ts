import { randomUUID } from 'node:crypto';
import { constants } from 'node:fs';
import {
  chmod,
  link,
  lstat,
  mkdir,
  open,
  rename,
  readdir,
  rm,
  stat,
  symlink,
  utimes,
} from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { LinkError, type NewEntry } from '@bright-cellar/device-link';

/** Checks a path from outside: it must stay inside the folder it is written to, whatever it says. */
export function safeParts(path: string): string[] {
  const parts = path.split('/');
  if (path.includes('\0') || parts.some((p) => p === '' || p === '.' || p === '..')) {
    throw new LinkError('not-valid');
  }
  return parts;
}

/** Makes the folders above an entry, and refuses to go through anything that is not a folder. */
async function makeParents(root: string, parts: readonly string[]): Promise<void> {
  let at = root;
  for (const part of parts.slice(0, -1)) {
    at = join(at, part);
    try {
      await mkdir(at);
    } catch (error) {
      if (!(await lstat(at)).isDirectory()) throw new LinkError('not-valid', { cause: error });
    }
  }
}

/** Where an entry lies in a folder, with the folders above it made. @throws LinkError `not-valid` where that would lead elsewhere */
export async function placeOf(root: string, path: string): Promise<string> {
  const parts = safeParts(path);
  await makeParents(root, parts);
  return join(root, ...parts);
}

/** Writes one entry's bytes from the start. @returns how many were written. */
export async function writeEntry(
  root: string,
  entry: NewEntry,
  contents: AsyncIterable<Uint8Array>,
): Promise<number> {
  const full = await placeOf(root, entry.path);
  if (entry.kind === 'folder') {
    await mkdir(full, { recursive: true });
    return 0;
  }
  let received = 0;
  if (entry.kind === 'link') {
    const target: Uint8Array[] = [];
    for await (const piece of contents) {
      target.push(piece);
      received += piece.length;
      if (received > 4096) throw new LinkError('not-valid');
    }
    await rm(full, { force: true });
    await symlink(Buffer.concat(target).toString('utf8'), full);
    return received;
  }
  const flags = constants.O_WRONLY | constants.O_CREAT | constants.O_TRUNC | constants.O_NOFOLLOW;
  const file = await open(full, flags, 0o600);
  try {
    for await (const piece of contents) {
      await file.appendFile(piece);
      received += piece.length;
    }
  } catch (error) {
    // What broke off is not there.
    await rm(full, { force: true });
    throw error;
  } finally {
    await file.close();
  }
  if (entry.mode !== null) await chmod(full, entry.mode & 0o777).catch(unlessUnknownThere);
  const modified = new Date(entry.modified);
  await utimes(full, modified, modified).catch(unlessUnknownThere);
  return received;
}

/**
 * Puts one entry beside what lies in a folder: under another name first, on the medium, then in its place, where nothing is.
 * @param staging a folder of the same medium, for nothing else
 * @returns how many bytes were written
 * @throws LinkError `exists` where something is there; `not-valid` where it is not as long as it should be
 */
export async function addEntry(
  root: string,
  staging: string,
  entry: NewEntry,
  contents: AsyncIterable<Uint8Array>,
): Promise<number> {
  const parts = safeParts(entry.path);
  const full = join(root, ...parts);
  return staged(staging, entry, contents, async (written) => {
    await makeParents(root, parts);
    try {
      if (entry.kind === 'folder') await mkdir(full);
      else await link(written, full);
    } catch (error) {
      const isThere = (error as NodeJS.ErrnoException).code === 'EEXIST';
      throw isThere ? new LinkError('exists', { cause: error }) : error;
    }
    await syncFolder(dirname(full));
  });
}

/** Writes an entry under a name of its own, on the medium, and has it put in its place from there. */
async function staged(
  staging: string,
  entry: NewEntry,
  contents: AsyncIterable<Uint8Array>,
  place: (written: string) => Promise<void>,
): Promise<number> {
  await mkdir(staging, { recursive: true });
  const name = randomUUID();
  const written = join(staging, name);
  try {
    const received = await writeEntry(staging, { ...entry, path: name }, contents);
    // What a cut cable left of it is not the entry.
    if (received !== entry.bytes) throw new LinkError('not-valid');
    if (entry.kind === 'file') await syncOne(written);
    await place(written);
    return received;
  } finally {
    await rm(written, { recursive: true, force: true });
  }
}

/**
 * Puts one file in the place of another, all of it or nothing: under another name first, on the medium, then over it.
 * @param staging a folder of the same medium, for nothing else
 * @returns how many bytes were written. @throws LinkError `not-valid` where it is not as long as it should be
 */
export async function replaceEntry(
  root: string,
  staging: string,
  entry: NewEntry,
  contents: AsyncIterable<Uint8Array>,
): Promise<number> {
  const full = join(root, ...safeParts(entry.path));
  if (entry.kind !== 'file') throw new LinkError('not-valid');
  return staged(staging, entry, contents, async (written) => {
    await rename(written, full);
    await syncFolder(dirname(full));
  });
}

/** Takes one file away; the folder that it lay in stays. */
export async function removeEntry(root: string, path: string): Promise<void> {
  const full = join(root, ...safeParts(path));
  await rm(full);
  await syncFolder(dirname(full));
}

/** Some file systems know no permissions or times: contents count. */
function unlessUnknownThere(error: unknown): void {
  const { code } = error as NodeJS.ErrnoException;
  if (!['EPERM', 'ENOTSUP', 'EOPNOTSUPP', 'ENOSYS'].includes(String(code))) throw error;
}

/** All that lies in a folder, and the folder, is on the medium when this returns. */
export async function syncTree(folder: string): Promise<void> {
  for (const entry of await readdir(folder, { withFileTypes: true })) {
    const path = join(folder, entry.name);
    if (entry.isDirectory()) await syncTree(path);
    else if (entry.isFile()) await syncOne(path);
  }
  await syncFolder(folder);
}

/** Some file systems cannot sync a folder, and need not. */
export async function syncFolder(folder: string): Promise<void> {
  await syncOne(folder).catch((error: unknown) => {
    if ((error as NodeJS.ErrnoException).code !== 'EINVAL') unlessUnknownThere(error);
  });
}

async function syncOne(path: string): Promise<void> {
  const file = await open(path, constants.O_RDONLY | constants.O_NOFOLLOW);
  try {
    await file.sync();
  } finally {
    await file.close();
  }
}

/** The second pass: what was received takes its place on the device. */
export async function install(from: string, to: string): Promise<void> {
  await mkdir(to, { recursive: true });
  for (const name of await readdir(from)) await rename(join(from, name), join(to, name));
  await rm(from, { recursive: true, force: true });
}

export async function isEmptyFolder(folder: string): Promise<boolean> {
  try {
    await stat(dirname(folder));
    return (await readdir(folder)).length === 0;
  } catch {
    return true;
  }
}
