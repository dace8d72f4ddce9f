import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { isPlaced, shortened, type Takes } from '@bright-cellar/core';
import { listOf, recordsOf } from '@bright-cellar/core/crossing';
import { parseRecords, writeRecords } from '@bright-cellar/core/formats';

/** A database keeps only so many letters of a field: of a file that came into it, what is longer is shortened. */
export async function keepOwnLetters(root: string, path: string, takes: Takes): Promise<void> {
  const taking = takes.items.find((one) => one.format !== null && isPlaced(one.place, path));
  if (!taking?.format || Object.keys(taking.letters).length === 0) return;
  const full = join(root, path);
  const records = parseRecords(taking.format, await readFile(full), path);
  const all = listOf(records);
  const kept = all.map((record) => shortened(records.kind, record, taking.letters));
  if (kept.every((record, at) => record === all[at])) return;
  await writeFile(full, writeRecords(taking.format, recordsOf(records.kind, kept), path));
}
