import { Failure } from '@bright-cellar/core';
import { z } from 'zod';
import { jsonOrNull } from '../tools/json.js';

/** Where everything lies in an archive's folder. */
export const ARCHIVE_FILE = 'data/archive.json';
export const PENDING = 'pending';
export const PROOFS = 'proofs';
export const payloadFolders = [
  'data/keys',
  'data/packs',
  'data/indexes',
  'data/backups',
  'data/rosters',
] as const;

export const packName = (id: string) => `data/packs/${id}.pack`;
export const indexName = (id: string) => `data/indexes/${id}.index`;
/** @param version 8 hexadecimal digits: a name once used is never used for other bytes. */
export const backupName = (id: string, version: string) => `data/backups/${id}-${version}.backup`;
export const rosterName = (generation: number, version: string) =>
  `data/rosters/${String(generation).padStart(8, '0')}-${version}.roster`;
export const keyName = (holder: string, id: string) => `data/keys/${holder}-${id}.age`;

const sealedId = '[0-9a-f]{32}';
const uuid = '[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}';
const patterns = {
  pack: new RegExp(`^data/packs/(${sealedId})\\.pack$`),
  index: new RegExp(`^data/indexes/(${sealedId})\\.index$`),
  backup: new RegExp(`^data/backups/(${uuid})-[0-9a-f]{8}\\.backup$`),
  /** Its generation. */
  roster: /^data\/rosters\/(\d{8})-[0-9a-f]{8}\.roster$/,
  password: /^data\/keys\/password-([0-9a-f]{8})\.age$/,
  escrow: /^data\/keys\/escrow-([0-9a-f]{8})\.age$/,
};
export type PayloadKind = keyof typeof patterns;

/** The id in a payload file's name, or null when it is not a file of that kind. */
export function idOf(kind: PayloadKind, name: string): string | null {
  return patterns[kind].exec(name)?.[1] ?? null;
}

const archiveFileSchema = z.object({
  format: z.literal('bright-cellar-archive'),
  version: z.literal(1),
  archive: z.uuid(),
  cipher: z.literal('AES-256-GCM'),
  chunkId: z.literal('BLAKE3-keyed'),
  compression: z.literal('zstd'),
});

export function archiveFileOf(archive: string): string {
  const contents: z.infer<typeof archiveFileSchema> = {
    format: 'bright-cellar-archive',
    version: 1,
    archive,
    cipher: 'AES-256-GCM',
    chunkId: 'BLAKE3-keyed',
    compression: 'zstd',
  };
  return `${JSON.stringify(contents, null, 2)}\n`;
}

/** The archive's id. @throws Failure `archive-format-unknown`. */
export function parseArchiveFile(text: string): string {
  const parsed = archiveFileSchema.safeParse(jsonOrNull(text));
  if (!parsed.success) throw new Failure('archive-format-unknown', {}, { cause: parsed.error });
  return parsed.data.archive;
}

/** Whether a file of that name may lie below `data/` at all. */
export const isPayloadName = (name: string): boolean =>
  name === ARCHIVE_FILE || Object.values(patterns).some((pattern) => pattern.test(name));
