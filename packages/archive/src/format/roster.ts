import { Failure } from '@bright-cellar/core';
import { mustBeAsked } from '../disk/errors.js';
import { z } from 'zod';
import type { ArchiveKey } from '../keys/archive-key.js';
import { jsonOrNull } from '../tools/json.js';
import { idOf, isPayloadName } from './layout.js';
import { FRAME_MAX_PLAIN } from './sealed.js';
import { SealedReader, SealedWriter, type FileFacts } from './sealed-file.js';
import type { Files } from '../store/store.js';

/**
 * What an archive holds, under its key: which state of it this is, every payload file and every backup. The
 * manifest can be computed anew by anybody; this cannot. It is JSON Lines in a sealed file, as a backup's list is.
 */
export interface Roster {
  archive: string;
  /** 1 for an archive's first state; one more with each change of it. */
  generation: number;
  /** Every payload file but the roster itself, by its name in the bag. */
  files: Map<string, FileFacts>;
  /** By id. */
  backups: Map<string, RosterBackup>;
}

/** One backup, as its own list says it too. */
export interface RosterBackup {
  backup: string;
  takenAt: string;
  items: number;
  /** Of contents. */
  bytes: number;
  failed: number;
  /** Its list's name in the bag. */
  list: string;
}

/** A roster speaks of every payload file but itself. */
const isListed = (name: string) => isPayloadName(name) && idOf('roster', name) === null;

const lineSchema = z.discriminatedUnion('type', [
  z.object({
    type: z.literal('roster'),
    format: z.literal(1),
    archive: z.uuid(),
    generation: z.int().min(1),
  }),
  z.object({
    type: z.literal('file'),
    name: z.string().refine(isListed),
    bytes: z.int().min(0),
    sha512: z.string().regex(/^[0-9a-f]{128}$/),
  }),
  z.object({
    type: z.literal('backup'),
    backup: z.uuid(),
    takenAt: z.iso.datetime(),
    items: z.int().min(0),
    bytes: z.int().min(0),
    failed: z.int().min(0),
    list: z.string(),
  }),
  z.object({ type: z.literal('end'), files: z.int().min(0), backups: z.int().min(0) }),
]);
type Line = z.infer<typeof lineSchema>;

function* linesOf({ archive, generation, files, backups }: Roster): Generator<Line> {
  yield { type: 'roster', format: 1, archive, generation };
  for (const [name, { size, sha512 }] of files) yield { type: 'file', name, bytes: size, sha512 };
  for (const backup of backups.values()) yield { type: 'backup', ...backup };
  yield { type: 'end', files: files.size, backups: backups.size };
}

/** Writes a roster into a new file, which is not synced yet. */
export function writeRoster(path: string, key: ArchiveKey, roster: Roster): FileFacts {
  const file = new SealedWriter(path, 'roster', key);
  try {
    let lines: Buffer[] = [];
    let bytes = 0;
    for (const line of linesOf(roster)) {
      const encoded = Buffer.from(`${JSON.stringify(line)}\n`);
      if (bytes + encoded.length > FRAME_MAX_PLAIN) {
        file.append(Buffer.concat(lines));
        lines = [];
        bytes = 0;
      }
      lines.push(encoded);
      bytes += encoded.length;
    }
    file.append(Buffer.concat(lines));
    return file.finish();
  } finally {
    file.close();
  }
}

export function rosterDamaged(cause?: unknown): Failure {
  return new Failure(
    'archive-damaged',
    {
      what: 'The roster of this archive, which says what belongs into it, is missing or damaged.',
      next: 'Mend it from another copy, or take a new backup into an archive of its own.',
    },
    { cause },
  );
}

/**
 * @param archive the id that the archive's own file states
 * @param generation as in the roster's name
 * @throws Failure `archive-damaged` when a bit of it differs, it is another archive's, or it contradicts itself
 */
export async function readRoster(
  files: Files,
  name: string,
  key: ArchiveKey,
  archive: string,
  generation: number,
): Promise<Roster> {
  const roster: Roster = { archive: '', generation: 0, files: new Map(), backups: new Map() };
  let end: Extract<Line, { type: 'end' }> | null = null;
  try {
    const reader = await SealedReader.open(files, name, 'roster', key);
    try {
      for await (const { plain } of reader.frames()) {
        for (const text of plain.toString('utf8').trimEnd().split('\n')) {
          if (end) throw rosterDamaged();
          end = takeLine(roster, lineSchema.parse(jsonOrNull(text)));
        }
      }
    } finally {
      reader.close();
    }
  } catch (error) {
    mustBeAsked(error);
    throw rosterDamaged(error);
  }
  const agrees =
    roster.archive === archive &&
    roster.generation === generation &&
    end?.files === roster.files.size &&
    end.backups === roster.backups.size &&
    [...roster.backups.values()].every(
      ({ backup, list }) => roster.files.has(list) && idOf('backup', list) === backup,
    );
  if (!agrees) throw rosterDamaged();
  return roster;
}

function takeLine(roster: Roster, line: Line): Extract<Line, { type: 'end' }> | null {
  if (line.type === 'end') return line;
  const isFirst = roster.generation === 0;
  if ((line.type === 'roster') !== isFirst) throw rosterDamaged();
  if (line.type === 'roster') {
    roster.archive = line.archive;
    roster.generation = line.generation;
  } else if (line.type === 'file') {
    roster.files.set(line.name, { size: line.bytes, sha512: line.sha512 });
  } else {
    const { type: _, ...backup } = line;
    roster.backups.set(backup.backup, backup);
  }
  return null;
}
