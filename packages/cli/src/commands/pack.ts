import { mkdirSync, statSync } from 'node:fs';
import { dirname, resolve } from 'node:path';
import { archiveIn, measureFolder, packFolder } from '@bright-cellar/archive';
import { countOf, formatBytes } from '@bright-cellar/core';
import type { Output } from '../output.js';
import { requireSecret, type SecretOptions } from '../secrets.js';
import { UsageError } from '../usage.js';

export interface PackOptions extends SecretOptions {
  archive: string;
  label?: string;
  escrow?: string;
}

/** `cellar pack`: takes a backup of a folder into an archive. */
export async function pack(
  folder: string,
  options: PackOptions,
  output: Output,
  signal: AbortSignal,
): Promise<boolean> {
  if (!statSync(folder, { throwIfNoEntry: false })?.isDirectory()) {
    throw new UsageError(`${folder} is not a folder.`);
  }
  const secret = await requireSecret(options);
  // Only a person at a terminal wants to know how long it will take.
  const total = process.stderr.isTTY && !output.json ? measureFolder(folder) : undefined;
  output.phase('Packing', total);
  mkdirSync(dirname(resolve(options.archive)), { recursive: true, mode: 0o700 });
  const failed: { path: string; reason: string }[] = [];
  const committed = await packFolder({
    source: resolve(folder),
    files: archiveIn(options.archive),
    secret,
    label: options.label ?? '',
    ...(options.escrow === undefined ? {} : { escrow: options.escrow }),
    signal,
    events: {
      bytes: (count) => output.progress(count, 0),
      reused: ({ bytes: count }) => output.progress(count, 0),
      taken: () => output.progress(0, 1),
      failed: ({ path, reason }) => failed.push({ path, reason }),
    },
  });
  const { items, bytes, newItems, newBytes, storedBytes, backup } = committed;
  for (const { path, reason } of failed) {
    output.say(`Not taken: ${path} (${reason})`, { type: 'failed', path, reason });
  }
  output.say(
    `Backup ${backup}: ${countOf(items, 'item')}, ${formatBytes(bytes)}; new: ${countOf(newItems, 'item')}, ${formatBytes(newBytes)}, ${formatBytes(storedBytes)} stored; ${failed.length} not taken.`,
    { ...committed, type: 'packed' },
  );
  return failed.length === 0;
}
