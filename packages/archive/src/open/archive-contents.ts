import { Failure } from '@bright-cellar/core';
import { mustBeAsked, orNull } from '../disk/errors.js';
import { MANIFEST, parseManifest, sha512Of, TAG_MAX_BYTES } from '../format/bag.js';
import { ARCHIVE_FILE, idOf, parseArchiveFile, type PayloadKind } from '../format/layout.js';
import { readRoster, rosterDamaged, type Roster } from '../format/roster.js';
import { unwrap, type HolderKind, type Secret } from '../keys/holders.js';
import type { ArchiveFiles } from '../store/archive-files.js';
import { readWhole } from '../store/read.js';
import type { Files, Stored } from '../store/store.js';
import type { ArchiveKey } from '../keys/archive-key.js';
import { orFailure } from '../tools/or-failure.js';

/** The archive's own file and its key files are a few hundred bytes. */
const SMALL_BYTES = 64 * 2 ** 10;
/** An archive has one key file of a kind; another can be there for as long as one takes the place of the other. */
const KEY_FILES_MAX = 2;

/** @throws Failure `archive-not-here`, `archive-format-unknown`. */
export async function readArchiveId(files: Files): Promise<string> {
  let text: string;
  try {
    text = (await readWhole(files, ARCHIVE_FILE, SMALL_BYTES)).toString('utf8');
  } catch (error) {
    mustBeAsked(error);
    throw new Failure('archive-not-here', {}, { cause: error });
  }
  return parseArchiveFile(text);
}

/** Which files an archive consists of. */
export interface Payload {
  names: readonly string[];
  /** SHA-512 of its manifest; null where there is none. */
  digest: string | null;
}

/**
 * The payload now: what the manifest says or, where that is damaged, what is there. An archive with
 * a damaged manifest still opens; only the check finds fault with it.
 */
export async function readPayload(files: ArchiveFiles): Promise<Payload> {
  const bytes = await orNull(files.read(MANIFEST, TAG_MAX_BYTES));
  const digest = bytes && sha512Of(bytes);
  try {
    if (bytes) return { digest, names: [...parseManifest(String(bytes), MANIFEST).keys()] };
  } catch {
    // What is there counts.
  }
  return { digest, names: (await listPayload(files)).map(({ name }) => name) };
}

/** Every file below `data/`, as it is on the medium. */
export function listPayload(files: ArchiveFiles): Promise<Stored[]> {
  return files.list('data/');
}

export function namesOf(kind: PayloadKind, names: readonly string[]): string[] {
  return names.filter((name) => idOf(kind, name) !== null);
}

/** Key files of a kind among these names. @throws Failure `wrong-password` when the archive has no such holder. */
export async function openKey(
  where: Files,
  names: readonly string[],
  secret: Secret,
): Promise<ArchiveKey> {
  const files = namesOf(secret.kind satisfies HolderKind, names);
  if (files.length === 0) throw new Failure('wrong-password');
  // Each is made to be slow to open: who puts many there would have us busy for minutes.
  if (files.length > KEY_FILES_MAX) {
    throw new Failure('archive-damaged', { what: 'There are more key files than belong here.' });
  }
  let refusal: unknown = null;
  for (const name of files) {
    const file = await readKeyFile(where, name);
    try {
      return await unwrap(file, secret);
    } catch (error) {
      refusal = error;
    }
  }
  throw refusal;
}

/** @throws Failure `archive-damaged` */
export async function readKeyFile(files: Files, name: string): Promise<Buffer> {
  try {
    return await readWhole(files, name, SMALL_BYTES);
  } catch (error) {
    mustBeAsked(error);
    throw new Failure(
      'archive-damaged',
      { what: `“${name}” is missing or is no key file.` },
      { cause: error },
    );
  }
}

/**
 * What an archive holds, as its key says.
 * @param names of its payload; of more than one roster the newest counts, and the check finds fault with the others
 * @throws Failure `archive-damaged`
 */
export async function openRoster(
  files: Files,
  names: readonly string[],
  key: ArchiveKey,
  archive: string,
): Promise<Roster> {
  const newest = namesOf('roster', names).sort().at(-1);
  if (newest === undefined) throw rosterDamaged();
  return readRoster(files, newest, key, archive, Number(idOf('roster', newest)));
}

/** One state of an archive that is open: what it consists of, and what should be in it. */
export interface OpenState extends Payload {
  roster: Roster | Failure;
}

/** An archive's key and its state now. @throws Failure `wrong-password`, `archive-damaged` */
export function openState(
  files: ArchiveFiles,
  archive: string,
  secret: Secret,
): Promise<OpenState & { key: ArchiveKey }> {
  return files.steady(async () => {
    const payload = await readPayload(files);
    const key = await openKey(files, payload.names, secret);
    return { key, ...(await stateOf(files, payload, key, archive)) };
  });
}

/** What an archive is now that was opened before. Asked while it is steady: a roster goes with its state. */
export async function readState(
  files: ArchiveFiles,
  key: ArchiveKey,
  archive: string,
): Promise<OpenState> {
  return stateOf(files, await readPayload(files), key, archive);
}

async function stateOf(
  files: ArchiveFiles,
  payload: Payload,
  key: ArchiveKey,
  archive: string,
): Promise<OpenState> {
  const roster = await orFailure(() => openRoster(files, payload.names, key, archive));
  return { ...payload, roster };
}
