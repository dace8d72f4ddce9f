import { randomUUID } from 'node:crypto';
import {
  OpenArchive,
  recordProof,
  verifyOpen,
  verifySealed,
  withPassword,
  type VerifyReport,
} from '@bright-cellar/archive';
import { countOf, Failure, formatBytes, formatCount } from '@bright-cellar/core';
import { eq } from 'drizzle-orm';
import { backups, proofs } from '../database/schema.js';
import type { ProveInput } from './inputs.js';
import type { Ending, Job } from './job.js';

/**
 * Looks at a whole archive as closely as was asked, and records what was found: with the archive, and in
 * the catalogue for each of its backups. Damage is recorded too: it is the news that matters most.
 */
export async function proveBackup(job: Job<ProveInput>): Promise<Ending> {
  const { input } = job;
  const began = Date.now();
  const report = await look(job);
  // A rack that can be read only still gives a proof; it is in the catalogue then.
  await recordProof(input.archiveFolder, report, new Date()).catch(() => undefined);
  const rows = await proofRows(job, report);
  if (!report.whole) {
    await job.db.insert(proofs).values(rows);
    throw new Failure('archive-damaged', { what: damageOf(report) });
  }
  const own = report.contents?.backups.find(({ backup }) => backup === job.backupId);
  return {
    what: `${report.level === 'full' ? 'Archive proven' : 'Archive looked at'}: ${wordsOf(report)}`,
    result: {
      items: own?.items ?? 0,
      bytes: own?.bytes ?? 0,
      failed: [],
      storedBytes: report.storedBytes,
      newItems: null,
      newBytes: null,
      durationMs: Date.now() - began,
      workedMs: null,
      digest: report.manifestDigest,
      compared: null,
      wrote: null,
    },
    async record(tx) {
      await tx.insert(proofs).values(rows);
    },
  };
}

async function look(job: Job<ProveInput>): Promise<VerifyReport> {
  const { input, progress, signal } = job;
  const { level } = input;
  const options = {
    level,
    signal,
    onPhase: (phase: 'checking' | 'reading', bytes: number) =>
      void progress.phase(phase, {
        bytes,
        items: phase === 'reading' ? input.expected.items : 0,
      }),
    onProgress: (bytes: number, items: number) => progress.add(bytes, items),
  };
  await progress.phase('opening', { bytes: 0, items: 0 });
  if (job.password === '') return verifySealed(input.archiveFolder, options);
  const archive = await OpenArchive.open(input.archiveFolder, withPassword(job.password));
  try {
    return await verifyOpen(archive, options);
  } finally {
    await archive.close();
  }
}

async function proofRows(job: Job<ProveInput>, report: VerifyReport) {
  const known = await job.db
    .select({ id: backups.id })
    .from(backups)
    .where(eq(backups.archiveId, job.archiveId ?? ''));
  const at = new Date();
  return known.map(({ id }) => {
    const seen = report.contents?.backups.find(({ backup }) => backup === id);
    return {
      id: randomUUID(),
      backupId: id,
      operationId: job.operationId,
      at,
      by: job.startedBy,
      level: report.level,
      outcome: report.whole ? ('whole' as const) : ('damaged' as const),
      items: seen?.items ?? 0,
      bytes: seen?.bytes ?? 0,
      storedBytes: report.storedBytes,
      what: report.whole ? wordsOf(report, seen?.items) : damageOf(report),
    };
  });
}

/** What was looked at, as a sentence. */
function wordsOf(report: VerifyReport, items = allItems(report)): string {
  const stored = formatBytes(report.storedBytes);
  const { contents } = report;
  const words = {
    full: `Opened with its password, ${stored} checked byte by byte, ${countOf(items, 'item')} read back and compared.`,
    bytes: `${stored} checked byte by byte${contents ? ', lists and indexes opened' : ', without the password'}.`,
    sample: `Opened with its password, a sample of ${countOf(contents?.sampled ?? 0, 'item')} read back and compared.`,
    structure:
      'Opened with its password; every file is there with its length, lists and indexes agree.',
  };
  return words[report.level];
}

const allItems = ({ contents }: VerifyReport) =>
  contents?.backups.reduce((sum, { items }) => sum + items, 0) ?? 0;

/** The damaged files, by our own names, and how many items they touch. */
function damageOf({ damagedFiles, contents }: VerifyReport): string {
  const [first = 'data', ...more] = damagedFiles;
  const others = more.length > 0 ? ` and ${formatCount(more.length)} more` : '';
  const touched = contents?.backups.reduce((sum, { damagedItems }) => sum + damagedItems, 0);
  const items = touched === undefined ? '' : ` ${countOf(touched, 'item')} cannot be restored.`;
  return `“${first}”${others} is missing or is not what was written.${items}`;
}
