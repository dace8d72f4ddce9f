import {
  archiveIn,
  OpenArchive,
  recordProof,
  verifyOpen,
  verifySealed,
  type VerifyReport,
} from '@bright-cellar/archive';
import {
  countOf,
  formatBytes,
  proofLevels,
  readableName,
  type ProofLevel,
} from '@bright-cellar/core';
import type { Output } from '../output.js';
import { readSecret, type SecretOptions } from '../secrets.js';
import { UsageError } from '../usage.js';

export interface VerifyCommandOptions extends SecretOptions {
  level?: string;
}

const isLevel = (text: string): text is ProofLevel =>
  (proofLevels as readonly string[]).includes(text);

/** `cellar verify`: checks an archive, and keeps a dated record of it. */
export async function verify(
  folder: string,
  options: VerifyCommandOptions,
  output: Output,
  signal: AbortSignal,
): Promise<boolean> {
  const secret = await readSecret(options);
  const level = options.level ?? (secret ? 'full' : 'bytes');
  if (!isLevel(level)) throw new UsageError(`A level is one of: ${proofLevels.join(', ')}.`);
  if (!secret && (level === 'full' || level === 'sample')) {
    throw new UsageError(`The level “${level}” needs --password-file.`);
  }
  const verifyOptions = {
    level,
    signal,
    onPhase: (phase: string, bytes: number) => output.phase(phase, { bytes, items: 0 }),
    onProgress: output.progress,
  };
  let report: VerifyReport;
  if (secret) {
    const archive = await OpenArchive.open(archiveIn(folder), secret, { lease: 'shared' });
    try {
      report = await verifyOpen(archive, verifyOptions);
    } finally {
      await archive.close();
    }
  } else report = await verifySealed(archiveIn(folder), verifyOptions);
  await recordProof(archiveIn(folder), report, new Date()).catch(() => {
    output.say('The proof could not be written down: the medium cannot be written.');
  });
  sayReport(report, output);
  return report.whole;
}

function sayReport(report: VerifyReport, output: Output): void {
  const { contents, damagedFiles } = report;
  for (const name of damagedFiles) output.say(`Damaged: ${name}`);
  for (const { path, backup } of contents?.damaged ?? []) {
    output.say(`Touched: ${readableName(path)} in backup ${backup}`);
  }
  for (const backup of contents?.damagedBackups ?? []) output.say(`Unreadable: backup ${backup}`);
  const items = contents?.backups.reduce((sum, backup) => sum + backup.items, 0);
  const amount = `${countOf(report.files, 'file')}, ${formatBytes(report.storedBytes)}${items === undefined ? '' : `, ${countOf(items, 'item')}`}`;
  output.say(
    report.whole ? `Whole (${report.level}): ${amount}.` : `Damaged (${report.level}): ${amount}.`,
    { ...report, type: 'verified' },
  );
}
