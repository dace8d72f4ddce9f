import { proofLevels } from '@bright-cellar/core';
import { z } from 'zod';
import { orNull } from '../disk/errors.js';
import { jsonOrNull } from '../tools/json.js';
import { PROOFS } from '../format/layout.js';
import type { VerifyReport } from './verify.js';
import type { ArchiveFiles } from '../store/archive-files.js';

/**
 * A proof is a dated record kept with the archive, in the clear: what was looked at and whether it was
 * whole. Counts and our own file names only.
 */
const proofSchema = z.object({
  format: z.literal('bright-cellar-proof'),
  version: z.literal(1),
  at: z.iso.datetime(),
  level: z.enum(proofLevels),
  whole: z.boolean(),
  withPassword: z.boolean(),
  files: z.int().min(0),
  storedBytes: z.int().min(0),
  /** Over all backups; null without the password. */
  items: z.int().min(0).nullable(),
  damagedFiles: z.array(z.string()).max(10_000),
  damagedItems: z.int().min(0).nullable(),
  manifestDigest: z.string(),
});
/** A record names at most ten thousand files. */
const PROOF_MAX_BYTES = 4 * 2 ** 20;
export type ProofRecord = z.infer<typeof proofSchema>;

export async function recordProof(
  files: ArchiveFiles,
  report: VerifyReport,
  at: Date,
): Promise<ProofRecord> {
  const backups = report.contents?.backups;
  const record: ProofRecord = {
    format: 'bright-cellar-proof',
    version: 1,
    at: at.toISOString(),
    level: report.level,
    whole: report.whole,
    withPassword: report.contents !== null,
    files: report.files,
    storedBytes: report.storedBytes,
    items: backups?.reduce((sum, { items }) => sum + items, 0) ?? null,
    damagedFiles: report.damagedFiles.slice(0, 10_000),
    damagedItems: backups?.reduce((sum, { damagedItems }) => sum + damagedItems, 0) ?? null,
    manifestDigest: report.manifestDigest,
  };
  const name = `${PROOFS}/${record.at.replaceAll(/[:.]/g, '-')}-${record.level}.json`;
  await files.put(name, `${JSON.stringify(record, null, 2)}\n`, 'over');
  return record;
}

/** Oldest first. What is not one of ours is passed over. */
export async function readProofs(files: ArchiveFiles): Promise<ProofRecord[]> {
  const records: ProofRecord[] = [];
  for (const { name } of await files.list(`${PROOFS}/`)) {
    const text = await orNull(files.read(name, PROOF_MAX_BYTES));
    const parsed = proofSchema.safeParse(jsonOrNull(String(text)));
    if (parsed.success) records.push(parsed.data);
  }
  return records;
}
