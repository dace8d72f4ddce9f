import { mkdirSync, statSync } from 'node:fs';
import { dirname, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import {
  archiveIn,
  exportPackage,
  importBag,
  importPackage,
  OpenArchive,
  writeStick,
} from '@bright-cellar/archive';
import { countOf, formatBytes } from '@bright-cellar/core';
import type { Output } from '../output.js';
import { readIdentity, readPassword, requireSecret, type SecretOptions } from '../secrets.js';
import { UsageError } from '../usage.js';
import { chooseBackup } from './choose-backup.js';

export interface ExportCommandOptions extends SecretOptions {
  backup: string;
  to: string;
  recipient?: string;
  stick?: boolean;
}

/** The page that opens a stick, as it was built; from where the program runs as one file. */
const STICK_PAGE_BUILT = fileURLToPath(
  new URL('../../../../web/dist/stick/stick.html', import.meta.url),
);

/** `cellar export`: writes a backup so that it opens without this program, as one file or as a stick. */
export async function exportCommand(
  folder: string,
  options: ExportCommandOptions,
  output: Output,
  signal: AbortSignal,
): Promise<boolean> {
  const secret = await requireSecret(options);
  if (secret.kind !== 'password' && options.recipient === undefined) {
    throw new UsageError('Give --recipient: the package needs somebody who can open it.');
  }
  if (options.stick && (secret.kind !== 'password' || options.recipient !== undefined)) {
    throw new UsageError(
      'A stick is opened with the archive’s password: give --password-file alone.',
    );
  }
  const recipient =
    options.recipient !== undefined
      ? { recipient: options.recipient }
      : { password: secret.kind === 'password' ? secret.password : '' };
  const archive = await OpenArchive.open(archiveIn(folder), secret, { lease: 'shared' });
  try {
    const { header, end } = await chooseBackup(archive, options.backup);
    if (options.stick) {
      const password = secret.kind === 'password' ? secret.password : '';
      const { items, bytes, stickBytes } = await writeStick({
        ...{ archive, backup: header.backup, password, page: STICK_PAGE_BUILT, signal },
        to: resolve(options.to),
        onPhase: (phase, total) =>
          phase === 'exporting'
            ? output.phase('Writing the stick', end)
            : output.phase('Reading it back', { bytes: total, items: 0 }),
        onProgress: output.progress,
      });
      output.say(
        `Written and read back: ${countOf(items, 'item')}, ${formatBytes(bytes)}, as ${formatBytes(stickBytes)}.`,
        { type: 'exported', items, bytes, packageBytes: stickBytes },
      );
      return true;
    }
    output.phase('Exporting', end);
    const result = await exportPackage({
      archive,
      backup: header.backup,
      to: resolve(options.to),
      recipient,
      onProgress: output.progress,
      signal,
    });
    output.say(
      `Exported ${countOf(result.items, 'item')}, ${formatBytes(result.bytes)}, as ${formatBytes(result.packageBytes)}.`,
      { ...result, type: 'exported' },
    );
    return true;
  } finally {
    await archive.close();
  }
}

export interface ImportCommandOptions extends SecretOptions {
  archive: string;
  packagePasswordFile?: string;
  packageIdentityFile?: string;
}

/** `cellar import`: takes in a package, or an archive's folder, after checking it. */
export async function importCommand(
  from: string,
  options: ImportCommandOptions,
  output: Output,
  signal: AbortSignal,
): Promise<boolean> {
  const info = statSync(from, { throwIfNoEntry: false });
  if (!info) throw new UsageError(`${from} is not there.`);
  const folder = resolve(options.archive);
  mkdirSync(dirname(folder), { recursive: true });
  if (info.isDirectory()) {
    const onPhase = (phase: string, bytes: number) => output.phase(phase, { bytes, items: 0 });
    const onProgress = (bytes: number) => output.progress(bytes, 0);
    const result = await importBag(archiveIn(from), archiveIn(folder), {
      onPhase,
      onProgress,
      signal,
    });
    output.say(
      `Taken in and compared: archive ${result.archive}, ${formatBytes(result.payloadBytes)}.`,
      {
        ...result,
        type: 'imported',
      },
    );
    return true;
  }
  const secret = await requireSecret(options);
  output.phase('Importing', { bytes: info.size, items: 0 });
  const committed = await importPackage({
    from: resolve(from),
    packageSecret: await packageSecretOf(options),
    files: archiveIn(folder),
    secret,
    onProgress: output.progress,
    signal,
  });
  output.say(
    `Taken in as backup ${committed.backup}: ${countOf(committed.items, 'item')}, ${formatBytes(committed.bytes)}, each compared.`,
    { ...committed, type: 'imported' },
  );
  return true;
}

/** What opens the package: its own secret or, when none is given, the archive's password. */
async function packageSecretOf(options: ImportCommandOptions) {
  if (options.packageIdentityFile !== undefined) {
    return { identity: await readIdentity(options.packageIdentityFile) };
  }
  const file = options.packagePasswordFile ?? options.passwordFile;
  if (file === undefined) throw new UsageError('Give --package-password-file.');
  return { password: await readPassword(file) };
}
