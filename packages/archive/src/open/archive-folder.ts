import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Failure } from '@bright-cellar/core';
import { readManifest } from '../format/bag.js';
import { ARCHIVE_FILE, idOf, parseArchiveFile, type PayloadKind } from '../format/layout.js';
import { unwrap, type HolderKind, type Secret } from '../keys/holders.js';
import type { ArchiveKey } from '../keys/archive-key.js';

/** @throws Failure `archive-not-here`, `archive-format-unknown`. */
export async function readArchiveId(folder: string): Promise<string> {
  const text = await readFile(join(folder, ARCHIVE_FILE), 'utf8').catch((error: unknown) => {
    throw new Failure('archive-not-here', {}, { cause: error });
  });
  return parseArchiveFile(text);
}

/**
 * Names of the payload: what the manifest says or, where that is damaged, what is there. An archive with
 * a damaged manifest still opens; only the check finds fault with it.
 */
export async function payloadNames(folder: string): Promise<string[]> {
  try {
    return [...(await readManifest(folder)).keys()];
  } catch {
    return listPayload(folder);
  }
}

/** Every file below `data/`, as it is on the medium. */
export async function listPayload(folder: string): Promise<string[]> {
  const entries = await readdir(join(folder, 'data'), { recursive: true, withFileTypes: true });
  return entries
    .filter((entry) => !entry.isDirectory())
    .map((entry) => join(entry.parentPath, entry.name).slice(folder.length + 1))
    .sort();
}

export function namesOf(kind: PayloadKind, names: readonly string[]): string[] {
  return names.filter((name) => idOf(kind, name) !== null);
}

/** Key files of a kind among these names. @throws Failure `wrong-password` when the archive has no such holder. */
export async function openKey(
  folder: string,
  names: readonly string[],
  secret: Secret,
): Promise<ArchiveKey> {
  const files = namesOf(secret.kind satisfies HolderKind, names);
  if (files.length === 0) throw new Failure('wrong-password');
  let refusal: unknown = null;
  for (const name of files) {
    const file = await readFile(join(folder, name)).catch((error: unknown) => {
      throw new Failure('archive-damaged', { what: `“${name}” is missing.` }, { cause: error });
    });
    try {
      return await unwrap(file, secret);
    } catch (error) {
      refusal = error;
    }
  }
  throw refusal;
}
