import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { proofLevels } from '@bright-cellar/core';
import { z } from 'zod';
import { syncFolder, writeFileDurably } from '../disk/durable.js';
import { jsonOrNull } from '../tools/json.js';
import { PROOFS } from '../format/layout.js';
import type { VerifyReport } from './verify.js';
import { rename, mkdirInside } from '../disk/medium.js';

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
export type ProofRecord = z.infer<typeof proofSchema>;

export async function recordProof(
  folder: string,
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
  const proofs = join(folder, PROOFS);
  await mkdirInside(folder, proofs);
  const name = `${record.at.replaceAll(/[:.]/g, '-')}-${record.level}.json`;
  const draft = join(proofs, `.${name}`);
  await writeFileDurably(draft, `${JSON.stringify(record, null, 2)}\n`);
  await rename(draft, join(proofs, name));
  await syncFolder(proofs);
  return record;
}

/** Oldest first. What is not one of ours is passed over. */
export async function readProofs(folder: string): Promise<ProofRecord[]> {
  const names = await readdir(join(folder, PROOFS)).catch(() => [] as string[]);
  const records: ProofRecord[] = [];
  for (const name of names.filter((n) => !n.startsWith('.')).sort()) {
    const text = await readFile(join(folder, PROOFS, name), 'utf8');
    const parsed = proofSchema.safeParse(jsonOrNull(text));
    if (parsed.success) records.push(parsed.data);
  }
  return records;
}
