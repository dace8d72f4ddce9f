import { createHash } from 'node:crypto';
import { mkdir, rmdir, utimes } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { archiveIn, diskFailure, mkdirInside, piecesOf } from '@bright-cellar/archive';
import { Failure } from '@bright-cellar/core';
import type { Packed, TakenFiles } from '@bright-cellar/look';
import { writeOpenFile } from '../kernel/open-file.js';
import { packing } from './packing.js';

/**
 * Makes a folder that nothing lies in and that nobody else writes into: a second one of the same name gets a number.
 * @param root the rack's folder
 * @param wanted below it
 * @param begin what is to be done with it, by its name; where that throws, the folder goes again
 * @throws Failure `rack-full`, `rack-not-here`
 */
export async function inNewFolder<T>(
  root: string,
  wanted: string,
  begin: (folder: string) => T,
): Promise<T> {
  const folder = await newFolder(root, wanted);
  try {
    return begin(folder);
  } catch (error) {
    await rmdir(join(root, folder)).catch(() => undefined);
    throw error;
  }
}

async function newFolder(root: string, wanted: string): Promise<string> {
  try {
    await mkdirInside(root, dirname(join(root, wanted)));
    for (let n = 1; ; n++) {
      const folder = n === 1 ? wanted : `${wanted}-${n}`;
      if (await isMade(join(root, folder))) return folder;
    }
  } catch (error) {
    throw diskFailure(error);
  }
}

/** @returns false where it was there before */
async function isMade(folder: string): Promise<boolean> {
  try {
    await mkdir(folder);
    return true;
  } catch (error) {
    if (error instanceof Error && 'code' in error && error.code === 'EEXIST') return false;
    throw error;
  }
}

/**
 * Writes what is taken out into a folder: each file by itself, or all of it as one sealed file. Each is there whole or not at all, and
 * was read back from the medium.
 * @param root the rack's folder
 * @param folder below it, new
 * @throws Failure `rack-full`, `rack-not-here`, `archive-damaged` where the medium gives back something else
 */
export async function writeOntoRack(
  { root, folder }: { root: string; folder: string },
  { name, files, password }: TakenFiles,
  onPiece: () => void,
): Promise<void> {
  if (password !== null) {
    const open = () => packing.seal(packing.zip(files), password);
    await put(root, join(folder, `${name}.zip.age`), { modified: null, open }, onPiece);
    return;
  }
  for (const { path, ...file } of files) await put(root, join(folder, path), file, onPiece);
}

async function put(
  root: string,
  path: string,
  { modified, open }: Pick<Packed, 'modified' | 'open'>,
  onPiece: () => void,
): Promise<void> {
  await mkdirInside(root, dirname(join(root, path)));
  const hash = createHash('sha256');
  await writeOpenFile(
    join(root, path),
    (async function* () {
      for await (const piece of open()) {
        onPiece();
        hash.update(piece);
        yield piece;
      }
    })(),
  );
  // Some media keep no times.
  if (modified) await utimes(join(root, path), modified, modified).catch(() => undefined);
  const read = createHash('sha256');
  for await (const piece of piecesOf(archiveIn(root), path, { from: 'medium' })) {
    onPiece();
    read.update(piece);
  }
  if (read.digest('hex') !== hash.digest('hex'))
    throw new Failure('archive-damaged', {
      what: 'What was written is not what the medium gives back.',
      safe: 'The archive is as it was.',
      next: 'Take it out onto another rack or stick.',
    });
}
