import { createHash } from 'node:crypto';
import { Failure } from '@bright-cellar/core';
import { mustBeAsked, orNull } from '../disk/errors.js';
import { readWhole } from '../store/read.js';
import type { Files } from '../store/store.js';
import type { FileFacts } from './sealed-file.js';

/** The files that make a folder a BagIt bag (RFC 8493, sha512). */
export const MANIFEST = 'manifest-sha512.txt';
export const TAG_MANIFEST = 'tagmanifest-sha512.txt';
export const BAG_INFO = 'bag-info.txt';
export const BAGIT = 'bagit.txt';

/** Payload files by their name inside the bag (`data/…`), with their SHA-512. */
export type Manifest = Map<string, string>;

export const sha512Of = (contents: string | Uint8Array) =>
  createHash('sha512').update(contents).digest('hex');

export function factsOf(contents: string | Uint8Array): FileFacts {
  return { size: Buffer.byteLength(contents), sha512: sha512Of(contents) };
}

const manifestText = (files: Iterable<[name: string, sha512: string]>) =>
  [...files]
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .map(([name, sha512]) => `${sha512}  ${name}\n`)
    .join('');

const fields = (labels: Record<string, string>) =>
  Object.entries(labels)
    .map(([label, value]) => `${label}: ${value}\n`)
    .join('');

/**
 * The tag files of a bag with that payload, by name.
 * @param payloadBytes of all payload files together.
 * @param date `YYYY-MM-DD` of the newest change.
 */
export function tagFilesOf(
  archive: string,
  manifest: Manifest,
  payloadBytes: number,
  date: string,
): Map<string, string> {
  const tags = new Map([
    [
      BAG_INFO,
      fields({
        'Bag-Software-Agent': 'Bright Cellar',
        'Bagging-Date': date,
        'External-Identifier': archive,
        'Payload-Oxum': `${payloadBytes}.${manifest.size}`,
      }),
    ],
    [BAGIT, fields({ 'BagIt-Version': '1.0', 'Tag-File-Character-Encoding': 'UTF-8' })],
    [MANIFEST, manifestText(manifest)],
  ]);
  tags.set(
    TAG_MANIFEST,
    manifestText([...tags].map(([name, text]) => [name, sha512Of(text)] as [string, string])),
  );
  return tags;
}

export function damagedFile(name: string, cause?: unknown): Failure {
  return new Failure(
    'archive-damaged',
    { what: `“${name}” is missing or is not what was written.` },
    { cause },
  );
}

/** A tag file may be long, but not so long that reading it is a way to exhaust memory. */
export const TAG_MAX_BYTES = 512 * 2 ** 20;

async function readTag(files: Files, name: string): Promise<string> {
  try {
    return (await readWhole(files, name, TAG_MAX_BYTES)).toString('utf8');
  } catch (error) {
    mustBeAsked(error);
    throw damagedFile(name, error);
  }
}

export type TagFiles = ReadonlyMap<string, string>;

/** The bag's tag files as they are. @throws Failure `archive-damaged` that names one that is not there */
export async function readTags(files: Files): Promise<TagFiles> {
  const tags = new Map<string, string>();
  for (const name of [BAG_INFO, BAGIT, MANIFEST, TAG_MANIFEST]) {
    tags.set(name, await readTag(files, name));
  }
  return tags;
}

/** SHA-512 of the manifest as it is, whole or not; null where there is none. */
export async function manifestDigest(files: Files): Promise<string | null> {
  const bytes = await orNull(readWhole(files, MANIFEST, TAG_MAX_BYTES));
  return bytes && sha512Of(bytes);
}

/** @throws Failure `archive-damaged` that names the file. */
export async function readManifest(files: Files, name = MANIFEST): Promise<Manifest> {
  return parseManifest(await readTag(files, name), name);
}

export function parseManifest(text: string, name: string): Manifest {
  const entries: Manifest = new Map();
  for (const line of text.split('\n')) {
    if (line === '') continue;
    const match = /^([0-9a-f]{128}) {2}([^\0]+)$/.exec(line);
    const [, sha512, file] = match ?? [];
    const outside = !file || file.startsWith('/') || file.split('/').includes('..');
    if (!sha512 || outside || entries.has(file)) throw damagedFile(name);
    entries.set(file, sha512);
  }
  return entries;
}

/**
 * The tag files agree with each other: the manifest is the one that was written.
 * @returns the SHA-512 of the manifest, which stands for the whole payload.
 * @throws Failure `archive-damaged` that names the file.
 */
export async function checkTags(files: Files): Promise<string> {
  const tags = await readManifest(files, TAG_MANIFEST);
  for (const required of [BAGIT, MANIFEST]) {
    if (!tags.has(required)) throw damagedFile(TAG_MANIFEST);
  }
  for (const [name, expected] of tags) {
    if (sha512Of(await readTag(files, name)) !== expected) throw damagedFile(name);
  }
  return tags.get(MANIFEST) ?? '';
}
