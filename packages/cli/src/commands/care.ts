import {
  archiveIn,
  changePassword,
  copyArchive,
  OpenArchive,
  pruneArchive,
  reindexArchive,
  rekeyArchive,
  removeEscrow,
  repairFrom,
  setEscrow,
} from '@bright-cellar/archive';
import { countOf, formatBytes } from '@bright-cellar/core';
import type { Output } from '../output.js';
import { readPassword, requireSecret, type SecretOptions } from '../secrets.js';
import { UsageError } from '../usage.js';
import { chooseBackup } from './choose-backup.js';

const copyPhases = { copying: 'Copying', 'reading-back': 'Reading back' };

/** `cellar copy`: makes another copy of an archive, or brings one up to date. */
export async function copy(
  folder: string,
  { to }: { to: string },
  output: Output,
  signal: AbortSignal,
): Promise<boolean> {
  const copied = await copyArchive({
    from: archiveIn(folder),
    to: archiveIn(to),
    onPhase: (phase, bytes) => output.phase(copyPhases[phase], { bytes, items: 0 }),
    onProgress: (bytes) => output.progress(bytes, 0),
    signal,
  });
  const { sent, payloadBytes } = copied;
  output.say(
    sent.files === 0
      ? `It was up to date: ${formatBytes(payloadBytes)}. Its bytes were not looked at.`
      : `Copied and read back: ${formatBytes(sent.bytes)} of ${formatBytes(payloadBytes)}.`,
    { type: 'copied', ...copied },
  );
  return true;
}

export interface RekeyOptions extends SecretOptions {
  newPasswordFile?: string;
  newDataKey?: boolean;
  escrow?: string;
  removeEscrow?: boolean;
}

const OLD_KEYS =
  'Whoever kept a copy of an old key file and its password can still open what the archive holds now; --new-data-key ends that.';

/** `cellar rekey`: changes who can open an archive. */
export async function rekey(
  folder: string,
  options: RekeyOptions,
  output: Output,
  signal: AbortSignal,
): Promise<boolean> {
  const { newPasswordFile, newDataKey, escrow } = options;
  if (newPasswordFile === undefined && escrow === undefined && !options.removeEscrow) {
    throw new UsageError('Give --new-password-file, --escrow or --remove-escrow.');
  }
  if (newDataKey && newPasswordFile === undefined) {
    throw new UsageError('A new data key needs --new-password-file.');
  }
  const secret = await requireSecret(options);
  const password = newPasswordFile === undefined ? null : await readPassword(newPasswordFile);
  const archive = await OpenArchive.open(archiveIn(folder), secret);
  try {
    if (options.removeEscrow) await removeEscrow(archive);
    else if (escrow !== undefined) await setEscrow(archive, escrow);
    if (password !== null && newDataKey) {
      output.phase('Sealing anew');
      await rekeyArchive(archive, password, {
        onProgress: (bytes) => output.progress(bytes, 0),
        signal,
      });
    } else if (password !== null) await changePassword(archive, password);
    output.say(
      newDataKey
        ? 'Everything was sealed anew: only the new password opens it.'
        : `Who can open the archive was changed. ${OLD_KEYS}`,
      { type: 'rekeyed', newDataKey: newDataKey ?? false },
    );
    return true;
  } finally {
    await archive.close();
  }
}

export interface PruneOptions extends SecretOptions {
  keep: string;
}

/** `cellar prune`: removes all backups but some, and gives their space back. */
export async function prune(
  folder: string,
  options: PruneOptions,
  output: Output,
  signal: AbortSignal,
): Promise<boolean> {
  const archive = await OpenArchive.open(archiveIn(folder), await requireSecret(options));
  try {
    const keep: string[] = [];
    for (const id of options.keep.split(',')) {
      keep.push((await chooseBackup(archive, id.trim())).header.backup);
    }
    output.phase('Pruning');
    const result = await pruneArchive(archive, keep, {
      onProgress: (bytes) => output.progress(bytes, 0),
      signal,
    });
    output.say(
      `Removed ${countOf(result.removedBackups.length, 'backup')}; ${formatBytes(result.freedBytes)} are free again.`,
      { ...result, type: 'pruned' },
    );
    return true;
  } finally {
    await archive.close();
  }
}

/** `cellar reindex`: makes lost or damaged indexes again from the packs. */
export async function reindex(
  folder: string,
  options: SecretOptions,
  output: Output,
  signal: AbortSignal,
): Promise<boolean> {
  const archive = await OpenArchive.open(archiveIn(folder), await requireSecret(options));
  try {
    const result = await reindexArchive(archive, signal);
    const { damagedIndexes, rebuilt } = result;
    output.say(
      damagedIndexes.length + rebuilt.length === 0
        ? 'Every index is whole: nothing was changed.'
        : `Made again: ${countOf(damagedIndexes.length, 'index', 'indexes')} lost, ${countOf(rebuilt.length, 'pack')} read through.`,
      { type: 'reindexed', ...result },
    );
    return true;
  } finally {
    await archive.close();
  }
}

/** `cellar repair`: replaces what is damaged from another copy. */
export async function repair(
  folder: string,
  options: { from: string },
  output: Output,
): Promise<boolean> {
  const { repaired, stillDamaged } = await repairFrom(archiveIn(folder), archiveIn(options.from));
  for (const name of repaired) output.say(`Repaired: ${name}`);
  for (const name of stillDamaged) output.say(`Damaged in both: ${name}`);
  output.say(
    stillDamaged.length > 0
      ? `${countOf(stillDamaged.length, 'file')} could not be repaired: the other copy is damaged there too.`
      : `Whole again: ${countOf(repaired.length, 'file')} replaced.`,
    { type: 'repaired', repaired, stillDamaged },
  );
  return stillDamaged.length === 0;
}
