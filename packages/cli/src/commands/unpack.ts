import { archiveIn, OpenArchive, unpackBackup } from '@bright-cellar/archive';
import { countOf, formatBytes, readableName } from '@bright-cellar/core';
import picomatch from 'picomatch';
import type { Output } from '../output.js';
import { requireSecret, type SecretOptions } from '../secrets.js';
import { chooseBackup } from './choose-backup.js';

export interface UnpackCommandOptions extends SecretOptions {
  backup: string;
  to: string;
  only?: string;
  specialModes?: boolean;
}

/** `cellar unpack`: writes a backup's items into an empty folder. */
export async function unpack(
  folder: string,
  options: UnpackCommandOptions,
  output: Output,
  signal: AbortSignal,
): Promise<boolean> {
  const archive = await OpenArchive.open(archiveIn(folder), await requireSecret(options), {
    lease: 'shared',
  });
  try {
    const { header, end } = await chooseBackup(archive, options.backup);
    const only = options.only === undefined ? undefined : picomatch(options.only, { dot: true });
    output.phase('Unpacking', only ? undefined : end);
    const result = await unpackBackup({
      archive,
      backup: header.backup,
      to: options.to,
      ...(only ? { only } : {}),
      special: options.specialModes ?? false,
      onProgress: output.progress,
      signal,
    });
    for (const path of result.damaged) {
      output.say(`Left out, damaged: ${readableName(path)}`, { type: 'damaged', path });
    }
    output.say(
      `Unpacked ${countOf(result.items, 'item')}, ${formatBytes(result.bytes)}, each compared; ${result.damaged.length} left out.`,
      {
        type: 'unpacked',
        items: result.items,
        bytes: result.bytes,
        damaged: result.damaged.length,
      },
    );
    return result.damaged.length === 0;
  } finally {
    await archive.close();
  }
}
